<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { cents, figure, fromCents, sum } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { wentWrong } from '$lib/state/messages.svelte';
  import { saidDay } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';

  const q = $derived(page.url.searchParams);
  const tab = $derived(q.get('tab') ?? 'balance');
  let balance = $state<Schemas['TrialBalanceView'] | null>(null);
  let months = $state<Schemas['MonthFigure'][] | null>(null);
  let ages = $state<Schemas['AgesView'] | null>(null);
  let lines = $state<Schemas['LedgerLine'][] | null>(null);
  let next = $state<string | null>(null);

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
      else if (tab === 'months')
        months = await take(api.GET('/api/ledger/months', { params: { query: { months: 6 } } }));
      else if (tab === 'ages') ages = await take(api.GET('/api/ledger/ages'));
      else {
        const got = await take(api.GET('/api/ledger/lines', { params: { query: { ...filter, limit: 200 } } }));
        lines = got.rows;
        next = got.next;
      }
    } catch (e) {
      wentWrong(e);
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
    return live.follow(load, (e) => /invoice|payment|bill|week|draw/.test(e.kind));
  });
  const ways = [
    { id: 'balance', label: 'Trial balance' },
    { id: 'months', label: 'Profit and loss' },
    { id: 'ages', label: 'Who owes, by age' },
    { id: 'lines', label: 'Entries' },
  ];
  const columns = $derived([...new Set((months ?? []).map((m) => m.month))].sort());
  const accounts = $derived(
    [...new Map((months ?? []).map((m) => [m.code, m])).values()].sort((a, b) => a.code.localeCompare(b.code)),
  );
  const cell = (code: string, month: string) =>
    months?.find((m) => m.code === code && m.month === month)?.amount ?? null;
  const total = (kind: string, month?: string): Money =>
    sum((months ?? []).filter((m) => m.kind === kind && (!month || m.month === month)).map((m) => m.amount));
  const profit = (month?: string) => fromCents(cents(total('income', month)) - cents(total('expense', month)));
  const monthName = (m: string) => saidDay(`${m}-01`).slice(6) + ` ${m.slice(2, 4)}`;
  const entriesOf = (account: string, month?: string) =>
    `/ledger?tab=lines&account=${account}${month ? `&month=${month}` : ''}`;
  const sourceWords: Record<string, string> = {
    opening: 'Opening',
    invoice: 'Invoice',
    invoice_void: 'Invoice taken back',
    payment: 'Money in',
    payment_reversal: 'Money in, taken back',
    bill: 'Bill',
    bill_reduction: 'Bill reduced',
    bill_void: 'Bill taken back',
    bill_payment: 'Bill paid',
    draw: 'Drawn ahead',
    week: 'Week’s pay',
    week_payment: 'Pay paid',
  };
  const source = (l: Schemas['LedgerLine']) =>
    l.source === 'invoice' || l.source === 'invoice_void'
      ? `/bill?invoice=${l.sourceId}`
      : l.source.startsWith('bill')
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
    ['notDue', 'Not due'],
    ['days1To30', '1–30 days'],
    ['days31To60', '31–60'],
    ['days61To90', '61–90'],
    ['over90', 'over 90'],
    ['total', 'Total'],
  ] as const;
</script>

<svelte:head><title>Ledger · Steady Lark</title></svelte:head>
<div class="flex h-full flex-col">
  <Head
    title="Ledger"
    tabs={ways}
    {tab}
    ontab={(t) => void goto(t === 'balance' ? '/ledger' : `/ledger?tab=${t}`, { keepFocus: true })}
  />
  <div class="min-h-0 flex-1 overflow-y-auto px-5 pt-4 pb-8">
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
              <td></td><td class="font-bold">All, up to {saidDay(balance.upTo)}</td><td class="fig text-right font-bold"
                >{figure(balance.debit)}</td
              ><td class="fig text-right font-bold">{figure(balance.credit)}</td><td
                class="fig text-right font-bold {cents(balance.zero) === 0 ? 'text-moss-word' : 'text-ember-word'}"
                >{figure(balance.zero)}</td
              >
            </tr>
          </tbody>
        </table>
        <p class="text-mute mt-2 text-sm">
          A debit balance is positive. The books are balanced when the last figure is 0.00; the database refuses
          anything else.
        </p>
      {:else}<p class="text-mute" role="status">Loading …</p>{/if}
    {:else if tab === 'months'}
      {#if months && months.length === 0}<p class="text-mute">Nothing earned or spent yet.</p>
      {:else if months}
        <table class="w-full max-w-5xl">
          <thead
            ><tr class="text-mute border-line border-b text-sm"
              ><th class="py-1.5 text-left font-normal">Account</th>{#each columns as m (m)}<th
                  class="text-right font-normal">{monthName(m)}</th
                >{/each}<th class="text-right font-normal">Together</th></tr
            ></thead
          >
          <tbody>
            {#each ['income', 'expense'] as kind (kind)}
              {#each accounts.filter((a) => a.kind === kind) as a (a.code)}
                <tr class="border-line h-[34px] border-b">
                  <td><span class="fig text-mute pr-2 text-sm">{a.code}</span>{a.name}</td>
                  {#each columns as m (m)}<td class="fig text-right"
                      ><a class="hover:underline" href={entriesOf(a.code, m)}>{figure(cell(a.code, m))}</a></td
                    >{/each}
                  <td class="fig text-right"
                    ><a class="hover:underline" href={entriesOf(a.code)}
                      >{figure(sum(columns.map((m) => cell(a.code, m))))}</a
                    ></td
                  >
                </tr>
              {/each}
              <tr class="border-line h-[34px] border-b-2 font-bold">
                <td>{kind === 'income' ? 'Income' : 'Expenses'}</td>
                {#each columns as m (m)}<td class="fig text-right">{figure(total(kind, m))}</td>{/each}
                <td class="fig text-right">{figure(total(kind))}</td>
              </tr>
            {/each}
            <tr class="h-11 font-bold">
              <td>What is left</td>
              {#each columns as m (m)}<td
                  class="fig text-right {cents(profit(m)) < 0 ? 'text-ember-word' : 'text-moss-word'}"
                  >{figure(profit(m))}</td
                >{/each}
              <td class="fig text-right {cents(profit()) < 0 ? 'text-ember-word' : 'text-moss-word'}"
                >{figure(profit())}</td
              >
            </tr>
          </tbody>
        </table>
        <p class="text-mute mt-2 max-w-3xl text-sm">
          By the date of the invoice, the bill and the end of the week that was worked. Fuel and fixed costs are not
          entered yet, so what is left here is before them.
        </p>
      {:else}<p class="text-mute" role="status">Loading …</p>{/if}
    {:else if tab === 'ages'}
      {#if ages}
        {#each [{ title: 'Who owes us', rows: ages.owedToUs, us: true }, { title: 'Whom we owe', rows: ages.owedByUs, us: false }] as part (part.title)}
          <h2 class="mt-2 mb-1 font-bold">{part.title}</h2>
          {#if part.rows.length === 0}<p class="text-mute mb-6 text-sm">Nobody.</p>{:else}
            <table class="mb-8 w-full max-w-5xl">
              <thead
                ><tr class="text-mute border-line border-b text-sm"
                  ><th class="py-1 text-left font-normal">Company</th>{#each buckets as [, name] (name)}<th
                      class="text-right font-normal">{name}</th
                    >{/each}</tr
                ></thead
              >
              <tbody>
                {#each part.rows as row (row.companyId)}
                  <tr class="border-line hover:bg-faint/60 h-[30px] border-b">
                    <td><a class="hover:underline" href="/ledger?tab=lines&company={row.companyId}">{row.name}</a></td>
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
    {:else}
      {#if filterWords}<p class="mb-2 text-sm">
          Only {filterWords} · <a class="text-lark hover:underline" href="/ledger?tab=lines">all entries</a>
        </p>{/if}
      {#if lines && lines.length === 0}<p class="text-mute">No entries here.</p>
      {:else if lines}
        <table class="w-full">
          <thead
            ><tr class="text-mute border-line border-b text-left text-sm"
              ><th class="py-1.5 font-normal">Posted</th><th class="font-normal">Entry</th><th class="font-normal"
                >What</th
              ><th class="font-normal">Account</th><th class="font-normal">Belongs to</th><th
                class="text-right font-normal">Debit</th
              ><th class="text-right font-normal">Credit</th></tr
            ></thead
          >
          <tbody>
            {#each lines as l (l.entryId + '-' + l.seq)}
              {@const link = source(l)}
              <tr class="border-line hover:bg-faint/60 h-[34px] border-b">
                <td class="pr-3 text-sm whitespace-nowrap">{saidDay(l.postedOn)}</td>
                <td class="fig pr-3 text-sm"
                  ><a class="text-lark hover:underline" href="/ledger?tab=lines&entry={l.entryId}">{l.entryId}</a></td
                >
                <td class="pr-3"
                  >{#if link}<a class="hover:underline" href={link}>{l.memo}</a>{:else}{l.memo}{/if}
                  <span class="text-mute text-sm">{sourceWords[l.source]}</span></td
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
</div>
