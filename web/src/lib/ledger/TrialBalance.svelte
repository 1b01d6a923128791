<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { cents, figure } from '$lib/money';
  import { formatDay } from '$lib/time/when';

  /** Every account with its balance; the total is zero. */
  let { balance }: { balance: Schemas['TrialBalanceView'] } = $props();
</script>

<table class="w-full max-w-3xl">
  <thead
    ><tr class="text-mute border-line border-b text-left text-sm"
      ><th class="py-1.5 font-normal">Account</th><th></th><th class="pl-4 text-right font-normal">Debit</th><th
        class="pl-4 text-right font-normal">Credit</th
      ><th class="pl-4 text-right font-normal">Balance</th></tr
    ></thead
  >
  <tbody>
    {#each balance.accounts as a (a.code)}
      <tr class="border-line hover:bg-faint/60 h-[34px] border-b">
        <td class="fig w-16">{a.code}</td>
        <td><a class="font-bold hover:underline" href="/ledger?tab=lines&account={a.code}">{a.name}</a></td>
        <td class="fig pl-4 text-right">{figure(a.debit)}</td>
        <td class="fig pl-4 text-right">{figure(a.credit)}</td>
        <td class="fig pl-4 text-right font-bold">{figure(a.balance)}</td>
      </tr>
    {/each}
    <tr class="h-10">
      <td></td><td class="font-bold">Total through {formatDay(balance.upTo)}</td><td
        class="fig pl-4 text-right font-bold">{figure(balance.debit)}</td
      ><td class="fig pl-4 text-right font-bold">{figure(balance.credit)}</td><td
        class="fig pl-4 text-right font-bold {cents(balance.zero) === 0 ? 'text-moss-word' : 'text-ember-word'}"
        >{figure(balance.zero)}</td
      >
    </tr>
  </tbody>
</table>
<p class="text-mute mt-2 text-sm">
  Debit balances are positive. The books balance when the total is 0.00; the database rejects anything else.
</p>
