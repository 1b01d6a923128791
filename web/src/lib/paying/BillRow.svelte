<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { cents, figure, fromCents } from '$lib/money';
  import { formatDate } from '$lib/time/when';
  import Status from '$ui/Status.svelte';

  /** A bill in the list of bills, or a leg whose carrier has not billed yet. */
  let { bill, leg }: { bill?: Schemas['BillRow']; leg?: Schemas['UnbilledLeg'] } = $props();
</script>

<span class="flex h-11 items-center gap-2 pr-4 pl-5">
  {#if bill}
    {@const b = bill}
    <span class="fig w-20 shrink-0 truncate text-sm font-bold">{b.number}</span>
    <span class="min-w-0 flex-1"
      ><span class="block truncate leading-5 font-bold">{b.vendor}</span><span
        class="text-mute block truncate text-sm leading-4"
        >{b.loadNumber ? `${b.loadNumber} ${b.lane}` : b.accounts}</span
      ></span
    >
    <span class="w-24 shrink-0 text-right text-sm"
      >{#if cents(b.paid) > 0 && !b.paidOn}<span class="text-mute">of {figure(b.approved)}</span
        >{:else if cents(b.quickPayDiscount) > 0}<span class="text-mute">quick pay</span
        >{:else if cents(b.difference) > 0 && !b.approved}<Status urgency="now">{figure(b.difference)} over</Status
        >{:else if cents(b.difference) < 0}<span class="text-mute">{figure(b.difference)}</span>{:else if b.agreed}<span
          class="text-mute">as agreed</span
        >{/if}</span
    >
    <span class="w-24 shrink-0 text-right text-sm"
      >{b.paidOn ? `paid ${formatDate(b.paidOn)}` : `due ${formatDate(b.dueOn)}`}</span
    >
    <span class="fig w-26 shrink-0 text-right"
      >{figure(
        b.paidOn
          ? (b.approved ?? b.amount)
          : fromCents(cents(b.approved ?? b.amount) - cents(b.paid), b.amount?.currency),
      )}</span
    >
  {:else if leg}
    <span class="fig w-20 shrink-0 text-sm font-bold">{leg.loadNumber}</span>
    <span class="min-w-0 flex-1"
      ><span class="block truncate leading-5 font-bold">{leg.carrier}</span><span
        class="text-mute block truncate text-sm leading-4">{leg.lane}</span
      ></span
    >
    <span class="text-mute w-40 shrink-0 text-right text-sm">agreed</span>
    <span class="fig text-mute w-26 shrink-0 text-right">{figure(leg.agreed)}</span>
  {/if}
</span>
