<script lang="ts">
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { onChange } from '$lib/state/change.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import CoverPanel from '../CoverPanel.svelte';
  import CarrierLeg from './CarrierLeg.svelte';
  import HandoverForm from './HandoverForm.svelte';
  import LegShares from './LegShares.svelte';
  import SplitForm from './SplitForm.svelte';
  import { equipmentLabels } from '../labels';

  /** Assignments by leg, splits and handovers. */
  interface Props {
    view: Schemas['LoadSheetView'];
    takeBack: (leg: Schemas['LegView']) => Promise<void>;
    busy: boolean;
    onchanged: () => Promise<void>;
  }
  let { view, takeBack, busy, onchanged }: Props = $props();
  const l = $derived(view.sheet.load);
  const leg = $derived(view.sheet.legs.find((g) => !g.handedOverAt));
  const several = $derived(view.sheet.legs.length > 1);
  /** Our truck has started, or the carrier has freight: the load can change trucks. */
  const underWay = $derived(
    leg?.carrierId
      ? ['covered', 'rolling'].includes(l.state) && l.stops.some((s) => s.kind === 'pickup' && s.leftAt)
      : !!leg?.driverId &&
          (l.state === 'rolling' || (l.state === 'covered' && l.stops.some((s) => s.arrivedAt))) &&
          view.legs.some((v) => v.legId === leg.id && v.started),
  );
  let handing = $state(false);
  let splitting = $state<number | null>(null);
  /** The leg that is assigned or reassigned, with the effects shown. */
  let giving = $state<number | null>(null);
  onChange(
    () => l.id,
    () => {
      handing = false;
      splitting = giving = null;
    },
  );
  const attempt = new Attempt();
  const handBack = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/{id}/handover/undo', { params: { path: { id: l.id } }, headers: ifMatch(l.version) }),
      );
      showDone(`${done.summary}.`);
      await onchanged();
    });
  const unplanned = (g: Schemas['LegRow']) => l.transfers.find((t) => t.id === g.beginsAt)?.plannedAt === null;
  const changed = () => {
    handing = false;
    splitting = giving = null;
    void onchanged();
  };
</script>

{#snippet actions(v: Schemas['LegView'], g: Schemas['LegRow'])}
  {#if session.may('loads.cover')}
    {#if v.state === 'booked' && several && !g.driverId && !g.carrierId}<Button
        small
        look="quiet"
        onclick={() => (giving = giving === v.legId ? null : v.legId)}>Assign</Button
      >{:else if (v.state === 'tendered' || v.state === 'covered') && !v.started}<Button
        small
        look="quiet"
        {busy}
        onclick={() => void takeBack(v)}
        >{v.state === 'tendered' ? 'Withdraw tender' : `Unassign ${several ? '' : l.who}`}</Button
      ><Button small look="quiet" onclick={() => (giving = giving === v.legId ? null : v.legId)}
        >{v.state === 'tendered' ? 'Tender to another' : 'Reassign'}</Button
      >{:else if underWay && g === leg}<Button small look="quiet" onclick={() => (handing = !handing)}
        >{g.carrierId ? 'Replace carrier' : 'Change driver or truck'}</Button
      >{/if}
    {#if v.canSplit}<Button small look="quiet" onclick={() => (splitting = splitting === v.legId ? null : v.legId)}
        >Split</Button
      >{/if}
  {/if}
{/snippet}

{#if leg && (l.who || several || view.legs[0]?.canSplit)}
  <Part title="Assignment">
    {#snippet aside()}
      {#if !several}{@render actions(view.legs[0], leg)}{/if}
    {/snippet}
    {#each view.sheet.legs as g (g.id)}
      {@const v = view.legs.find((x) => x.legId === g.id)!}
      {#if several}
        <div
          class="border-line flex flex-wrap items-baseline justify-between gap-x-2 {g.seq > 1
            ? 'mt-2 border-t pt-2'
            : ''}"
        >
          <span class="text-sm font-bold"
            >{v.lane.replace(' to ', ' → ')} <span class="text-mute fig font-normal">{g.miles} mi</span></span
          >
          <span class="-my-1 -mr-2 flex flex-wrap">{@render actions(v, g)}</span>
        </div>
      {/if}
      {#if g.driverId}
        <p class="flex justify-between gap-2">
          <span
            ><b>{g.driver}{g.codriver ? ` / ${g.codriver}` : ''}</b>
            <span class="text-mute text-sm">truck {g.truck} · {equipmentLabels[l.equipment ?? '']} {g.trailer}</span
            ></span
          ><span class="text-mute shrink-0 text-sm"
            ><a class="text-lark underline" href="/trip/{g.tripId}">trip {g.trip}</a>{g.ridesWith.length
              ? ` with ${g.ridesWith.join(', ')}`
              : ''}</span
          >
        </p>
        <p class="text-mute text-sm">
          {[g.driverPhone, g.codriverPhone].filter(Boolean).join(' / ')}{g.acceptedAt && !g.handedOverAt
            ? ` · accepted the trip ${formatLocal(localAt(g.acceptedAt, session.zone))}`
            : ''}
        </p>
      {:else if g.carrierId}
        <CarrierLeg load={l} state={v.state} {g} {onchanged} />
      {:else}
        <p class="text-mute text-sm">Not covered</p>
      {/if}
      {#if g.handedOverAt}
        <p class="text-mute mb-2 text-sm">
          {l.transfers[g.seq - 1]?.plannedAt === null ? 'handed over' : 'left'} in {g.handoverTown}
          {formatLocal(localAt(g.handedOverAt, l.transfers[g.seq - 1]?.zone ?? session.zone))}, after {g.miles} mi{g.carrierId &&
          g.agreed
            ? `, paid ${figure(g.agreed)}`
            : ''}
          {#if leg.seq === g.seq + 1 && unplanned(leg) && session.may('loads.cover')}<button
              class="text-lark ml-1 hover:underline"
              onclick={() => void handBack()}>undo handover</button
            >{/if}
        </p>
      {/if}
      {#if splitting === g.id}
        <SplitForm {view} leg={v} ondone={changed} oncancel={() => (splitting = null)} />
      {/if}
      {#if giving === g.id}
        <div class="-mx-5"><CoverPanel {view} leg={g.id} oncovered={changed} /></div>
      {/if}
    {/each}
    {#if view.shares}<LegShares {view} {onchanged} />{/if}
    {#if !handing && attempt.refused}<p class="text-ember-word text-sm" role="alert">{attempt.refused.message}</p>{/if}
    {#if handing}
      <HandoverForm {view} {leg} ondone={changed} oncancel={() => (handing = false)} />
    {/if}
  </Part>
{/if}
