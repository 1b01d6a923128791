<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take, type Schemas } from '$lib/api/client';
  import { cents, figure, sum } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import AccountList from '$lib/ledger/AccountList.svelte';
  import EntryForm from '$lib/ledger/EntryForm.svelte';
  import Exports from '$lib/ledger/Exports.svelte';
  import List from '$lib/lists/List.svelte';
  import Months from '$lib/ledger/Months.svelte';
  import ProfitView from '$lib/ledger/ProfitView.svelte';
  import { formatDay, formatMonth } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import TextField from '$ui/TextField.svelte';

  const q = $derived(page.url.searchParams);
  const ways = [
    { id: 'balance', label: 'Trial balance' },
    { id: 'months', label: 'Profit and loss' },
    { id: 'aging', label: 'A/R and A/P aging' },
    { id: 'lines', label: 'Ledger lines' },
    { id: 'entries', label: 'Journal entries' },
    { id: 'accounts', label: 'Accounts' },
    { id: 'periods', label: 'Months' },
  ];
  const tab = $derived(ways.find((w) => w.id === q.get('tab'))?.id ?? 'balance');
  let balance = $state<Schemas['TrialBalanceView'] | null>(null);
  let ages = $state<Schemas['AgingView'] | null>(null);
  let lines = $state<Schemas['LedgerLine'][] | null>(null);
  let next = $state<string | null>(null);
  let posting = $state(false);
  let reversing = $state<{ id: number; why: string } | null>(null);
  const attempt = new Attempt();
  const reverse = () =>
    attempt.run(async (money) => {
      const made = await take(
        api.POST('/api/ledger/entries/{id}/reverse', {
          params: { path: { id: reversing!.id } },
          body: { on: null, why: reversing!.why },
          headers: money,
        }),
      );
      showDone(`Entry ${reversing!.id} reversed by entry ${made.id}.`);
      reversing = null;
      await load();
    });

  const filter = $derived({
    account: q.get('account') ?? undefined,
    month: q.get('month') ?? undefined,
    entryId: q.get('entry') ? Number(q.get('entry')) : undefined,
    loadId: q.get('load') ? Number(q.get('load')) : undefined,
    companyId: q.get('company') ? Number(q.get('company')) : undefined,
  });
  async function load() {
    try {
      if (tab === 'balance') balance = await take(api.GET('/api/ledger/trial-balance'));
      else if (tab === 'aging') ages = await take(api.GET('/api/ledger/aging'));
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
    lines = null;
    void load();
    return live.follow(load, ['ledger']);
  });
  const monthName = formatMonth;
  const entriesOf = (account: string) => `/ledger?tab=lines&account=${account}`;
  const sourceWords: Record<string, string> = {
    opening: 'Opening',
    invoice: 'Invoice',
    invoice_void: 'Invoice voided',
    payment: 'Payment',
    payment_reversal: 'Payment reversed',
    bill: 'Bill',
    bill_reduction: 'Bill reduced',
    bill_void: 'Bill voided',
    bill_payment: 'Bill paid',
    advance: 'Driver advance',
    settlement: 'Settlement',
    settlement_payment: 'Settlement paid',
    expense: 'Expense',
    expense_void: 'Expense voided',
    credit_use: 'Credit applied',
    journal: 'Journal entry',
    journal_reversal: 'Reversal',
  };
  const source = (l: Schemas['LedgerLine']) =>
    l.source === 'invoice' || l.source === 'invoice_void'
      ? `/bill?invoice=${l.sourceId}`
      : l.source.startsWith('bill') || l.source.startsWith('expense')
        ? `/pay?tab=bills&bill=${l.sourceId}`
        : l.source === 'payment' || l.source === 'payment_reversal'
          ? '/bill?tab=in'
          : null;
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
  const buckets = [
    ['notDue', 'Current'],
    ['days1To30', '1–30 days'],
    ['days31To60', '31–60'],
    ['days61To90', '61–90'],
    ['over90', 'over 90'],
    ['total', 'Total'],
  ] as const;
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
      {#if tab === 'balance'}<Exports path="/api/ledger/trial-balance" />
      {:else if tab === 'lines'}<Exports path="/api/ledger/lines" query={filter} />{/if}
      {#if session.may('ledger.post') && tab === 'lines'}<Button onclick={() => (posting = true)}>Journal entry</Button
        >{/if}
    </Head>
    {#if tab === 'entries'}
      <List list="entries" onopen={(id) => void goto(`/ledger?tab=lines&entry=${id}`)} />
    {/if}
    <div class="min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-8" hidden={tab === 'entries'}>
      {#if tab === 'balance'}
        {#if balance}
          <table class="w-full max-w-3xl">
            <thead
              ><tr class="text-mute border-line border-b text-left text-sm"
                ><th class="py-1.5 font-normal">Account</th><th></th><th class="text-right font-normal">Debit</th><th
                  class="text-right font-normal">Credit</th
                ><th class="text-right font-normal">Balance</th></tr
              ></thead
            >
            <tbody>
              {#each balance.accounts as a (a.code)}
                <tr class="border-line hover:bg-faint/60 h-[34px] border-b">
                  <td class="fig w-16">{a.code}</td>
                  <td><a class="font-bold hover:underline" href={entriesOf(a.code)}>{a.name}</a></td>
                  <td class="fig text-right">{figure(a.debit)}</td>
                  <td class="fig text-right">{figure(a.credit)}</td>
                  <td class="fig text-right font-bold">{figure(a.balance)}</td>
                </tr>
              {/each}
              <tr class="h-10">
                <td></td><td class="font-bold">Total through {formatDay(balance.upTo)}</td><td
                  class="fig text-right font-bold">{figure(balance.debit)}</td
                ><td class="fig text-right font-bold">{figure(balance.credit)}</td><td
                  class="fig text-right font-bold {cents(balance.zero) === 0 ? 'text-moss-word' : 'text-ember-word'}"
                  >{figure(balance.zero)}</td
                >
              </tr>
            </tbody>
          </table>
          <p class="text-mute mt-2 text-sm">
            Debit balances are positive. The books balance when the total is 0.00; the database rejects anything else.
          </p>
        {:else}<p class="text-mute" role="status">Loading …</p>{/if}
      {:else if tab === 'months'}
        <ProfitView />
      {:else if tab === 'aging'}
        {#if ages}
          {#each [{ title: 'Accounts receivable', rows: ages.receivables, us: true }, { title: 'Accounts payable', rows: ages.payables, us: false }] as part (part.title)}
            <h2 class="mt-2 mb-1 font-bold">{part.title}</h2>
            {#if part.rows.length === 0}<p class="text-mute mb-6 text-sm">None.</p>{:else}
              <table class="mb-8 w-full max-w-5xl">
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
                    <td>Together</td>
                    {#each buckets as [key] (key)}<td class="fig text-right"
                        >{figure(sum(part.rows.map((r) => r[key])))}</td
                      >{/each}
                  </tr>
                </tbody>
              </table>
            {/if}
          {/each}
        {:else}<p class="text-mute" role="status">Loading …</p>{/if}
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
          <table class="w-full">
            <thead
              ><tr class="text-mute border-line border-b text-left text-sm"
                ><th class="py-1.5 font-normal">Posted</th><th class="font-normal">Entry</th><th class="font-normal"
                  >What</th
                ><th class="font-normal">Account</th><th class="font-normal">Load, driver, truck</th><th
                  class="text-right font-normal">Debit</th
                ><th class="text-right font-normal">Credit</th></tr
              ></thead
            >
            <tbody>
              {#each lines as l (l.entryId + '-' + l.seq)}
                {@const link = source(l)}
                <tr class="border-line hover:bg-faint/60 h-[34px] border-b">
                  <td class="pr-3 text-sm whitespace-nowrap">{formatDay(l.postedOn)}</td>
                  <td class="fig pr-3 text-sm"
                    ><a class="text-lark hover:underline" href="/ledger?tab=lines&entry={l.entryId}">{l.entryId}</a></td
                  >
                  <td class="pr-3"
                    >{#if link}<a class="hover:underline" href={link}>{l.memo}</a>{:else}{l.memo}{/if}
                    <span class="text-mute text-sm">{sourceWords[l.source]}{l.reversed ? ', reversed' : ''}</span>
                    {#if l.source === 'journal' && !l.reversed && l.seq === 1 && session.may('ledger.post')}<button
                        class="text-lark text-sm hover:underline"
                        onclick={() => (reversing = { id: l.entryId, why: '' })}>Reverse</button
                      >{/if}
                    {#if reversing?.id === l.entryId && l.seq === 1}
                      <form
                        class="flex items-end gap-2 py-1"
                        onsubmit={(e) => {
                          e.preventDefault();
                          void reverse();
                        }}
                      >
                        <TextField
                          class="flex-1"
                          label="Reason"
                          required
                          bind:value={reversing.why}
                          maxlength={160}
                          problem={attempt.at('why')}
                        />
                        <Button small look="main" type="submit" busy={attempt.busy}>Reverse entry {l.entryId}</Button>
                      </form>
                      {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">
                          {attempt.refused.general}
                        </p>{/if}
                    {/if}</td
                  >
                  <td class="pr-3 text-sm"><span class="fig">{l.account}</span> {l.accountName}</td>
                  <td class="pr-3 text-sm"
                    >{#if l.loadId}<a class="text-lark fig hover:underline" href="/load/{l.loadId}">{l.loadNumber}</a
                      >{/if}
                    {[l.customer, l.carrier, l.driver, l.truck && `truck ${l.truck}`].filter(Boolean).join(', ')}</td
                  >
                  <td class="fig text-right">{cents(l.debit) ? figure(l.debit) : ''}</td>
                  <td class="fig text-right">{cents(l.credit) ? figure(l.credit) : ''}</td>
                </tr>
              {/each}
            </tbody>
          </table>
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
