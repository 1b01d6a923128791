<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { figure, sum } from '$lib/money';
  import Statement from './Statement.svelte';

  /** What the company owns, owes and is worth. */
  let { sheet }: { sheet: Schemas['BalanceSheet'] } = $props();
  const parts = $derived([
    { title: 'Assets', lines: sheet.assets, totalName: 'Total assets', total: sheet.totalAssets },
    { title: 'Liabilities', lines: sheet.liabilities, totalName: 'Total liabilities', total: sheet.totalLiabilities },
    { title: 'Equity', lines: sheet.equity, totalName: 'Total equity', total: sheet.totalEquity },
  ]);
</script>

<Statement {parts}>
  {#snippet foot()}
    <tr class="border-line h-10 border-t-2 font-bold">
      <td></td><td>Liabilities and equity</td><td class="fig text-right"
        >{figure(sum([sheet.totalLiabilities, sheet.totalEquity]))}</td
      >
    </tr>
  {/snippet}
</Statement>
