<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { documentLabels } from '$lib/loads/labels';
  import { cents, figure } from '$lib/money';
  import { session } from '$lib/state/session.svelte';
  import { counted } from '$lib/words';
  import { localAt, formatDate } from '$lib/time/when';
  import Status from '$ui/Status.svelte';
  import type { Axis } from '$ui/axis';
  import DayLine from './DayLine.svelte';

  /** A load to bill, or an open invoice, on the axis of days. */
  interface Props {
    unbilled?: Schemas['UnbilledRow'];
    invoice?: Schemas['InvoiceRow'];
    axis: Axis;
    chosen: boolean;
  }
  let { unbilled, invoice, axis, chosen }: Props = $props();
  const DAY = 86_400_000;
  const days = (from: string, until: string) => Math.round((Date.parse(until) - Date.parse(from)) / DAY);
</script>

<span class="flex h-11 items-center pr-4 pl-5">
  {#if unbilled}
    {@const u = unbilled}
    <span class="fig w-[68px] shrink-0 font-bold"
      >{#if chosen}<span class="text-lark" aria-label="selected">✓</span>{/if}{u.number}</span
    >
    <span class="min-w-0 flex-1 pr-2"
      ><span class="block truncate leading-5 font-bold">{u.customer}</span><span
        class="text-mute block truncate text-sm leading-4">{u.from} → {u.to}</span
      ></span
    >
    <span class="shrink-0" style:width="{axis.width}px"
      ><DayLine {axis} delivered={u.deliveredAt} papers={u.podAt} /></span
    >
    <span class="fig w-[100px] shrink-0 text-right">{figure(u.revenue)}</span>
    <span class="w-[132px] shrink-0 pl-2 text-right text-sm leading-4"
      >{#if u.held}<Status urgency="soon">on hold</Status><span class="text-mute block truncate" title={u.held}
          >{u.held}</span
        >{:else if u.missing.length === 0}<span class="block"
          >{u.late ? 'late charges' : u.canceled ? 'canceled' : 'ready'}</span
        ><span class="text-mute block truncate">since {formatDate(localAt(u.deliveredAt, session.zone))}</span
        >{:else}<Status urgency="soon">{u.missing.map((p) => documentLabels[p]).join(', ')} missing</Status><span
          class="text-mute block truncate"
          >{u.requestedAt
            ? `requested ${formatDate(localAt(u.requestedAt, session.zone))}`
            : `since ${formatDate(localAt(u.deliveredAt, session.zone))}`}</span
        >{/if}</span
    >
  {:else if invoice}
    {@const i = invoice}
    {@const late = days(i.dueOn, session.today)}
    <span class="fig w-[68px] shrink-0 font-bold">{i.number}</span>
    <span class="min-w-0 flex-1 pr-2"
      ><span class="block truncate leading-5 font-bold">{i.customer}</span><span
        class="text-mute block truncate text-sm leading-4">{counted(i.loads.length, 'load')}</span
      ></span
    >
    <span class="shrink-0" style:width="{axis.width}px"
      ><DayLine
        {axis}
        delivered={i.deliveredOn}
        billed={i.issuedOn}
        due={i.dueOn}
        paid={i.lastPaidOn}
        open={cents(i.open) > 0 && !i.voidedAt}
      /></span
    >
    <span class="fig w-[100px] shrink-0 text-right">{figure(i.open)}</span>
    <span class="w-[132px] shrink-0 pl-2 text-right text-sm leading-4">
      {#if i.voidedAt}<span class="text-mute">void</span>
      {:else if cents(i.open) === 0}<span class="text-moss-word">paid</span>
      {:else if late > 0}<Status urgency="now">{counted(late, 'day')} past due</Status>{:else if late === 0}<Status
          urgency="soon">due today</Status
        >{:else}due in {counted(-late, 'day')}{/if}
      <span class="text-mute block truncate"
        >{cents(i.paid) && cents(i.open) ? `${figure(i.paid)} paid` : `due ${formatDate(i.dueOn)}`}</span
      >
    </span>
  {/if}
</span>
