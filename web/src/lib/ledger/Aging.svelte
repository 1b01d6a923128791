<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { cents, figure, sum } from '$lib/money';

  /** Receivables and payables by how long they are past due. */
  let { ages }: { ages: Schemas['AgingView'] } = $props();
  const buckets = [
    ['notDue', 'Current'],
    ['days1To30', '1–30 days'],
    ['days31To60', '31–60'],
    ['days61To90', '61–90'],
    ['over90', 'over 90'],
    ['total', 'Total'],
  ] as const;
  const parts = $derived([
    { title: 'Accounts receivable', rows: ages.receivables, account: '1200', balance: ages.receivableBalance },
    { title: 'Accounts payable', rows: ages.payables, account: '2000', balance: ages.payableBalance },
  ]);
</script>

{#each parts as part (part.title)}
  <h2 class="mt-2 mb-1 font-bold">{part.title}</h2>
  {#if part.rows.length === 0}<p class="text-mute mb-6 text-sm">None.</p>{:else}
    <table class="w-full max-w-5xl">
      <thead
        ><tr class="text-mute border-line border-b text-sm"
          ><th class="py-1 text-left font-normal">Company</th>{#each buckets as [, name] (name)}<th
              class="min-w-24 text-right font-normal whitespace-nowrap">{name}</th
            >{/each}</tr
        ></thead
      >
      <tbody>
        {#each part.rows as row (row.companyId)}
          <tr class="border-line hover:bg-faint/60 h-[30px] border-b">
            <td class="w-full max-w-0 truncate pr-3" title={row.name}
              ><a class="hover:underline" href="/ledger?tab=lines&company={row.companyId}">{row.name}</a></td
            >
            {#each buckets as [key] (key)}<td
                class="fig text-right {key === 'total' ? 'font-bold' : ''} {key !== 'notDue' &&
                key !== 'total' &&
                cents(row[key]) > 0
                  ? 'text-ember-word'
                  : ''}">{cents(row[key]) ? figure(row[key]) : ''}</td
              >{/each}
          </tr>
        {/each}
        <tr class="h-9 font-bold">
          <td>Total</td>
          {#each buckets as [key] (key)}<td class="fig text-right">{figure(sum(part.rows.map((r) => r[key])))}</td
            >{/each}
        </tr>
      </tbody>
    </table>
    <p class="mb-8 text-sm">
      {#if cents(sum(part.rows.map((r) => r.total))) === cents(part.balance)}
        <span class="text-moss-word font-bold">Agrees</span> with the balance of account
        <a class="text-lark hover:underline" href="/ledger?tab=lines&account={part.account}">{part.account}</a>.
      {:else}
        <span class="text-ember-word font-bold">Does not agree</span> with the balance of account {part.account}: {figure(
          part.balance,
        )}.
      {/if}
    </p>
  {/if}
{/each}
