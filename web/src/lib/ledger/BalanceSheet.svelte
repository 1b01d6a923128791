<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { figure, sum } from '$lib/money';

  /** What the company owns, owes and is worth. */
  let { sheet }: { sheet: Schemas['BalanceSheet'] } = $props();
  const parts = $derived([
    { title: 'Assets', lines: sheet.assets, total: sheet.totalAssets },
    { title: 'Liabilities', lines: sheet.liabilities, total: sheet.totalLiabilities },
    { title: 'Equity', lines: sheet.equity, total: sheet.totalEquity },
  ]);
</script>

<table class="w-full max-w-2xl">
  {#each parts as part (part.title)}
    <thead>
      <tr><th class="pt-3 pb-1 text-left" colspan="3">{part.title}</th></tr>
    </thead>
    <tbody>
      {#each part.lines as line (line.name)}
        <tr class="border-line hover:bg-faint/60 h-[30px] border-b">
          <td class="fig w-16">{line.code ?? ''}</td>
          <td
            >{#if line.code}<a class="hover:underline" href="/ledger?tab=lines&account={line.code}">{line.name}</a
              >{:else}{line.name}{/if}</td
          >
          <td class="fig text-right">{figure(line.amount)}</td>
        </tr>
      {/each}
      <tr class="h-9 font-bold">
        <td></td><td>Total {part.title.toLowerCase()}</td><td class="fig text-right">{figure(part.total)}</td>
      </tr>
    </tbody>
  {/each}
  <tfoot>
    <tr class="border-line h-10 border-t-2 font-bold">
      <td></td><td>Liabilities and equity</td><td class="fig text-right"
        >{figure(sum([sheet.totalLiabilities, sheet.totalEquity]))}</td
      >
    </tr>
  </tfoot>
</table>
