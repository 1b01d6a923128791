<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take, type Schemas } from '$lib/api/client';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import AccountList from '$lib/ledger/AccountList.svelte';
  import Aging from '$lib/ledger/Aging.svelte';
  import BalanceSheet from '$lib/ledger/BalanceSheet.svelte';
  import CashFlow from '$lib/ledger/CashFlow.svelte';
  import ExchangeRates from '$lib/ledger/ExchangeRates.svelte';
  import Equipment from '$lib/ledger/Equipment.svelte';
  import EntryForm from '$lib/ledger/EntryForm.svelte';
  import Exports from '$lib/ledger/Exports.svelte';
  import List from '$lib/lists/List.svelte';
  import LedgerLines from '$lib/ledger/LedgerLines.svelte';
  import Months from '$lib/ledger/Months.svelte';
  import Opening from '$lib/ledger/Opening.svelte';
  import ProfitView from '$lib/ledger/ProfitView.svelte';
  import TrialBalance from '$lib/ledger/TrialBalance.svelte';
  import { formatMonth } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import DateField from '$ui/DateField.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';

  const q = $derived(page.url.searchParams);
  const ways = [
    { id: 'balance', label: 'Trial balance' },
    { id: 'sheet', label: 'Balance sheet' },
    { id: 'months', label: 'Profit and loss' },
    { id: 'cash', label: 'Cash flow' },
    { id: 'aging', label: 'A/R and A/P aging' },
    { id: 'lines', label: 'Ledger lines' },
    { id: 'entries', label: 'Journal entries' },
    { id: 'equipment', label: 'Equipment' },
    { id: 'accounts', label: 'Accounts' },
    { id: 'periods', label: 'Months' },
  ];
  /** Opened from the accounts: opening balances are entered once, and exchange rates are not for everybody. */
  const within = $derived(['opening', 'rates'].find((t) => t === q.get('tab')));
  const tab = $derived(within ? 'accounts' : (ways.find((w) => w.id === q.get('tab'))?.id ?? 'balance'));
  let balance = $state<Schemas['TrialBalanceView'] | null>(null);
  let sheet = $state<Schemas['BalanceSheet'] | null>(null);
  let ages = $state<Schemas['AgingView'] | null>(null);
  let lines = $state<Schemas['LedgerLine'][] | null>(null);
  let next = $state<string | null>(null);
  let posting = $state(false);
  /** The last day that counts, for balances and aging. */
  let on = $state(session.today);

  const filter = $derived({
    account: q.get('account') ?? undefined,
    month: q.get('month') ?? undefined,
    entryId: q.get('entry') ? Number(q.get('entry')) : undefined,
    loadId: q.get('load') ? Number(q.get('load')) : undefined,
    companyId: q.get('company') ? Number(q.get('company')) : undefined,
  });
  async function load() {
    try {
      if (tab === 'balance')
        balance = await take(api.GET('/api/ledger/trial-balance', { params: { query: { upTo: on || undefined } } }));
      else if (tab === 'sheet')
        sheet = await take(api.GET('/api/ledger/balance-sheet', { params: { query: { on: on || undefined } } }));
      else if (tab === 'aging')
        ages = await take(api.GET('/api/ledger/aging', { params: { query: { on: on || undefined } } }));
      else if (tab === 'lines') {
        const got = await take(api.GET('/api/ledger/lines', { params: { query: { ...filter, limit: 200 } } }));
        lines = got.rows;
        next = got.next;
      }
    } catch (e) {
      showError(e);
    }
  }
  async function more() {
    const got = await take(
      api.GET('/api/ledger/lines', { params: { query: { ...filter, after: next!, limit: 200 } } }),
    );
    lines = [...(lines ?? []), ...got.rows];
    next = got.next;
  }
  $effect(() => {
    void filter;
    void tab;
    void on;
    lines = null;
    void load();
    return live.follow(load, ['ledger']);
  });
  const monthName = formatMonth;
  const filterWords = $derived(
    [
      filter.account && `account ${filter.account}`,
      filter.month && monthName(filter.month),
      filter.entryId && `entry ${filter.entryId}`,
      filter.loadId && `load ${lines?.find((l) => l.loadId === filter.loadId)?.loadNumber ?? ''}`,
      filter.companyId &&
        `${lines?.find((l) => l.customer || l.carrier)?.customer ?? lines?.find((l) => l.carrier)?.carrier ?? 'one company'}`,
    ]
      .filter(Boolean)
      .join(', '),
  );
</script>

<svelte:head><title>Ledger · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col">
    <Head
      title="Ledger"
      tabs={ways}
      {tab}
      ontab={(t) => void goto(t === 'balance' ? '/ledger' : `/ledger?tab=${t}`, { keepFocus: true })}
    >
      {#if tab === 'balance'}<Exports path="/api/ledger/trial-balance" query={{ upTo: on || undefined }} />
      {:else if tab === 'lines'}<Exports path="/api/ledger/lines" query={filter} />{/if}
      {#if session.may('ledger.post') && tab === 'lines'}<Button onclick={() => (posting = true)}>Journal entry</Button
        >{/if}
    </Head>
    {#if tab === 'entries'}
      <List list="entries" onopen={(id) => void goto(`/ledger?tab=lines&entry=${id}`)} />
    {/if}
    <div class="min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-8" hidden={tab === 'entries'}>
      {#if tab === 'balance' || tab === 'sheet' || tab === 'aging'}
        <DateField class="mb-3 w-44" label="As of the end of" bind:value={on} />
      {/if}
      {#if tab === 'balance'}
        {#if balance}
          <TrialBalance {balance} />
        {:else}<p class="text-mute" role="status">Loading …</p>{/if}
      {:else if tab === 'sheet'}
        {#if sheet}
          <BalanceSheet {sheet} />
        {:else}<p class="text-mute" role="status">Loading …</p>{/if}
      {:else if tab === 'months'}
        <ProfitView />
      {:else if tab === 'aging'}
        {#if ages}
          <Aging {ages} />
        {:else}<p class="text-mute" role="status">Loading …</p>{/if}
      {:else if tab === 'cash'}
        <CashFlow />
      {:else if tab === 'equipment'}
        <Equipment />
      {:else if within === 'opening'}
        <Opening />
      {:else if within === 'rates'}
        <ExchangeRates />
      {:else if tab === 'accounts'}
        <AccountList />
      {:else if tab === 'periods'}
        <Months />
      {:else}
        {#if filterWords}<p class="mb-2 text-sm">
            Only {filterWords} · <a class="text-lark hover:underline" href="/ledger?tab=lines">all entries</a>
          </p>{/if}
        {#if lines && lines.length === 0}<p class="text-mute">No ledger lines here.</p>
        {:else if lines}
          <LedgerLines {lines} onreversed={load} />
          {#if next}<Button class="mt-3" onclick={more}>Show more</Button>{/if}
        {:else}<p class="text-mute" role="status">Loading …</p>{/if}
      {/if}
    </div>
  </section>
  {#if posting}
    <Sheet label="entry" form onclose={() => (posting = false)}>
      <EntryForm
        ondone={(id) => {
          posting = false;
          void goto(`/ledger?tab=lines&entry=${id}`);
        }}
      />
    </Sheet>
  {/if}
</div>
