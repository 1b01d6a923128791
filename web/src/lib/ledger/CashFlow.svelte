<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDate } from '$lib/time/when';
  import DateField from '$ui/DateField.svelte';
  import Statement from './Statement.svelte';

  /** Where cash came from and went, by the indirect method. */
  let from = $state(`${session.today.slice(0, 4)}-01-01`);
  let until = $state(session.today);
  let flow = $state<Schemas['CashFlow'] | null>(null);
  const load = async () => {
    flow = await take(
      api.GET('/api/ledger/cash-flow', { params: { query: { from: from || undefined, until: until || undefined } } }),
    ).catch((e) => {
      showError(e);
      return null;
    });
  };
  $effect(() => {
    void from;
    void until;
    void load();
    return live.follow(load, ['ledger']);
  });
  const parts = $derived(
    flow
      ? [
          { title: 'Operations', lines: flow.operating, totalName: 'Cash from operations', total: flow.totalOperating },
          {
            title: 'Investments',
            lines: flow.investing,
            totalName: 'Cash from investments',
            total: flow.totalInvesting,
          },
          { title: 'Financing', lines: flow.financing, totalName: 'Cash from financing', total: flow.totalFinancing },
        ]
      : [],
  );
</script>

<div class="mb-3 flex gap-3">
  <DateField class="w-44" label="From" bind:value={from} />
  <DateField class="w-44" label="Through" bind:value={until} />
</div>
{#if flow}
  {@const shown = flow}
  <Statement {parts}>
    {#snippet foot()}
      <tr class="border-line h-9 border-t-2">
        <td></td><td>Cash before {formatDate(shown.from)}</td><td class="fig text-right">{figure(shown.opening)}</td>
      </tr>
      <tr class="h-9 font-bold">
        <td></td><td>Cash at the end of {formatDate(shown.until)}</td><td class="fig text-right"
          >{figure(shown.closing)}</td
        >
      </tr>
    {/snippet}
  </Statement>
{:else}<p class="text-mute" role="status">Loading …</p>{/if}
