<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { figure, said } from '$lib/money';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, formatLocal, hours, localAt, zoneName } from '$lib/time/when';
  import { equipmentLabels, isDone, windowOf } from '../labels';

  /** What one needs first: where it is, who has it, the next stop, the money. */
  let { view, whole }: { view: Schemas['LoadSheetView']; whole: boolean } = $props();
  const l = $derived(view.sheet.load);
  const leg = $derived(view.sheet.legs.find((g) => !g.handedOverAt));
  /** The transfer where the freight waits, and the one that comes before the next stop. */
  const waits = $derived(l.transfers.find((t) => t.leftAt && !t.takenAt));
  const ahead = $derived.by(() => {
    const index = l.stops.findIndex((s) => !isDone(s));
    return l.transfers.find((t) => !t.leftAt && t.afterStops <= index);
  });
  const next = $derived(l.stops.find((s) => !isDone(s)));
  const last = $derived(l.stops.findLast((s) => s.leftAt || s.deliveredAt));
  const visit = $derived(view.visits.find((v) => v.stopId === next?.id));
  const carried = $derived(l.state === 'covered' || l.state === 'rolling');

  const where = $derived(
    waits
      ? {
          main: `At ${waits.place}, ${waits.town} ${waits.region}`,
          detail: `waiting since ${formatLocal(localAt(waits.leftAt!, waits.zone))}`,
        }
      : view.seen
        ? { main: view.seen.where, detail: `truck's device, ${formatLocal(localAt(view.seen.at, session.zone))}` }
        : next?.arrivedAt
          ? {
              main: `At ${next.place}, ${next.town} ${next.region}`,
              detail: `since ${clockAt(next.arrivedAt, next.zone ?? session.zone)}`,
            }
          : last && !next
            ? {
                main: `Delivered in ${last.town} ${last.region}`,
                detail: formatLocal(localAt(last.deliveredAt ?? last.leftAt!, last.zone ?? session.zone)),
              }
            : last
              ? {
                  main: `Left ${last.town} ${last.region}`,
                  detail: `${formatLocal(localAt(last.leftAt ?? last.deliveredAt!, last.zone ?? session.zone))}, no position since`,
                }
              : { main: 'Not picked up yet', detail: '' },
  );
  const phone = $derived(leg?.driverPhone ?? leg?.carrierPhone);
  const outlook = $derived(
    visit && carried && next && !next.arrivedAt
      ? `ETA ${formatLocal(localAt(visit.arrives, next.zone ?? session.zone))}`
      : '',
  );
  const perMile = $derived(l.miles && l.revenue && !l.isMove ? (Number(l.revenue.amount) / l.miles).toFixed(2) : null);
</script>

<dl class="mt-3 grid gap-x-6 gap-y-2 {whole ? 'grid-cols-2 lg:grid-cols-4' : 'grid-cols-2'}">
  <div class="min-w-0">
    <dt class="text-mute text-sm font-bold">Where</dt>
    <dd class="font-bold">{where.main}</dd>
    <dd class="text-mute text-sm">{where.detail}</dd>
  </div>
  <div class="min-w-0">
    <dt class="text-mute text-sm font-bold">With</dt>
    {#if l.who && leg}
      <dd class="font-bold">
        {leg.codriver ? `${leg.driver} / ${leg.codriver}` : (leg.driver ?? leg.carrier)}{leg.truck
          ? ` · truck ${leg.truck} · ${equipmentLabels[l.equipment ?? ''] ?? 'trailer'} ${leg.trailer}`
          : ''}
      </dd>
      <dd class="text-mute text-sm">
        {#if phone}<a class="text-lark hover:underline" href="tel:{phone}">{phone}</a>{/if}
        {#if l.state === 'tendered'}<b class="text-marigold-word">{phone ? ' · ' : ''}tendered, {view.status}</b
          >{:else if !l.confirmed}<b class="text-marigold-word">{phone ? ' · ' : ''}not signed yet</b>{/if}
      </dd>
    {:else}
      <dd class="font-bold">{l.state === 'draft' || l.state === 'cancelled' ? '—' : 'Not covered'}</dd>
      <dd class="text-mute text-sm">{view.open ? view.open.status : ''}</dd>
    {/if}
  </div>
  <div class="min-w-0">
    <dt class="text-mute text-sm font-bold">{ahead ? 'Next transfer' : next ? 'Next stop' : 'Last stop'}</dt>
    {#if ahead}
      {@const v = view.transfers.find((t) => t.transferId === ahead.id)}
      <dd class="font-bold">{ahead.town} {ahead.region}, {formatLocal(localAt(ahead.plannedAt!, ahead.zone))}</dd>
      <dd class="text-mute text-sm">
        {ahead.nextWho ? `then ${ahead.nextWho}` : 'next leg not covered'}{v?.arrives && l.who
          ? `, ETA ${formatLocal(localAt(v.arrives, ahead.zone))}`
          : ''}
        {#if v?.late}<b class="text-ember-word">{hours(v.late)} late</b>{/if}
      </dd>
    {:else if next}
      <dd class="font-bold">{next.town ? `${next.town} ${next.region}` : 'No place yet'}, {windowOf(next)}</dd>
      <dd class="text-mute text-sm">
        {[next.zone && next.zone !== session.zone ? `${zoneName(next.zone)} time` : '', outlook]
          .filter(Boolean)
          .join(', ')}
        {#if visit && carried && visit.late}<b class="text-ember-word">{hours(visit.late)} late</b
          >{:else if visit?.slack && carried}<b
            class={visit.outlook === 'tight' ? 'text-marigold-word' : 'text-moss-word'}>{hours(visit.slack)} slack</b
          >{/if}
      </dd>
    {:else if last}
      <dd class="font-bold">{last.place}</dd>
      <dd class="text-mute text-sm">{last.receivedBy ? `signed ${last.receivedBy}` : `${last.town} ${last.region}`}</dd>
    {/if}
  </div>
  {#if session.may('rates.see')}
    <div class="min-w-0">
      <dt class="text-mute text-sm font-bold">{view.money.margin ? 'Margin' : 'Customer pays'}</dt>
      <dd class="fig font-bold">
        {#if view.money.margin}{said(view.money.margin.amount)}{view.money.margin.percent != null
            ? ` · ${view.money.margin.percent.toFixed(1)} %`
            : ''}{:else}{said(l.revenue)}{/if}
      </dd>
      <dd class="text-mute fig text-sm">
        {view.money.margin ? (l.isMove ? 'not billed' : `of ${figure(l.revenue)}`) : ''}{perMile
          ? `${view.money.margin ? ' · ' : ''}${perMile} per mile`
          : ''}
      </dd>
    </div>
  {/if}
</dl>
