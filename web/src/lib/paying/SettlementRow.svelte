<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { cents, figure } from '$lib/money';

  /** A driver's week in the list of settlements. */
  let { w }: { w: Schemas['SettlementView'] } = $props();
</script>

<span class="flex h-11 items-center pr-4 pl-5">
  <span class="min-w-0 flex-1"
    ><span class="block truncate leading-5 font-bold">{w.driver}</span><span
      class="text-mute block truncate text-sm leading-4"
      >{w.legs}
      {w.legs === 1 ? 'leg' : 'legs'}, {w.miles} mi, {w.daysOut}
      {w.daysOut === 1 ? 'day' : 'days'} out{cents(w.reimbursed)
        ? `, ${figure(w.reimbursed)} reimbursed`
        : ''}{w.settlement && !w.settlement.paidOn
        ? w.settlement.acknowledgedAt
          ? ' · acknowledged'
          : ' · not acknowledged'
        : ''}</span
    ></span
  >
  <span class="fig w-24 text-right">{figure(w.earned)}</span>
  <span class="fig text-mute w-24 text-right">{cents(w.deducted) ? figure(w.deducted) : ''}</span>
  <span class="fig w-24 text-right font-bold">{figure(w.net)}</span>
</span>
