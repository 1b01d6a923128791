<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import { cents, figure, fromCents, sum } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { formatDate, formatMonth } from '$lib/time/when';
  import { chart } from './accounts.svelte';
  import DateField from '$ui/DateField.svelte';
  import Exports from './Exports.svelte';

  /** Profit and loss: months and weeks as columns, other groups as rows; filtered to one customer, lane, driver … by clicking it. */
  type By = NonNullable<Schemas['ProfitView']['by']>;
  const groupings: { id: By; label: string }[] = [
    { id: 'month', label: 'Month' },
    { id: 'week', label: 'Week' },
    { id: 'customer', label: 'Customer' },
    { id: 'lane', label: 'Lane' },
    { id: 'driver', label: 'Driver' },
    { id: 'truck', label: 'Truck' },
    { id: 'carrier', label: 'Carrier' },
  ];
  const q = $derived(page.url.searchParams);
  const by = $derived((q.get('by') ?? 'month') as By);
  const narrow = ['customerId', 'carrierId', 'driverId', 'truckId', 'lane'] as const;
  const only = $derived(narrow.find((n) => q.has(n)) ?? null);
  const query = $derived({
    by,
    from: q.get('from') ?? undefined,
    until: q.get('until') ?? undefined,
    customerId: Number(q.get('customerId')) || undefined,
    carrierId: Number(q.get('carrierId')) || undefined,
    driverId: Number(q.get('driverId')) || undefined,
    truckId: Number(q.get('truckId')) || undefined,
    lane: q.get('lane') ?? undefined,
  });
  let view = $state.raw<Schemas['ProfitView'] | null>(null);
  const load = latest(
    () => take(api.GET('/api/ledger/profit', { params: { query } })),
    (answer) => (view = answer),
    showError,
  );
  $effect(() => {
    void query;
    void load();
    return live.follow(load, ['ledger']);
  });
  const to = (change: Record<string, string | null>) => {
    const url = new URL(page.url);
    for (const [k, v] of Object.entries(change)) v === null ? url.searchParams.delete(k) : url.searchParams.set(k, v);
    void goto(url, { keepFocus: true, noScroll: true });
  };
  const setDay = (end: 'from' | 'until', day: string) => {
    if (day && day !== view?.[end]) to({ [end]: day });
  };
  const isTime = $derived(by === 'month' || by === 'week');
  const accounts = $derived(
    [
      ...new Map(
        (view?.cells ?? []).map((c) => [c.code, { code: c.code, kind: c.kind, name: chart.name(c.code) }]),
      ).values(),
    ].sort((a, b) => a.code.localeCompare(b.code)),
  );
  $effect(() => void chart.read().catch(showError));
  const cell = (key: string, code: string) => view?.cells.find((c) => c.key === key && c.code === code)?.amount ?? null;
  const title = (g: Schemas['ProfitGroup']) =>
    by === 'month' ? formatMonth(g.key) : by === 'week' ? formatDate(g.key) : g.name;
  const total = $derived({
    income: sum((view?.groups ?? []).map((g) => g.income)),
    expense: sum((view?.groups ?? []).map((g) => g.expense)),
  });
  const left = $derived(fromCents(cents(total.income) - cents(total.expense)));
  const shade = (m: Schemas['Money']) => (cents(m) < 0 ? 'text-ember-word' : 'text-moss-word');
  /** Shows one group month by month. */
  function into(g: Schemas['ProfitGroup']) {
    const key = by === 'lane' ? 'lane' : `${by}Id`;
    to({
      ...Object.fromEntries(narrow.map((n) => [n, null])),
      [key]: g.key,
      by: 'month',
      from: null,
      until: null,
      called: g.name,
    });
  }
</script>

<div class="mb-3 flex flex-wrap items-end gap-x-5 gap-y-2">
  <div class="flex gap-3" role="group" aria-label="Group by">
    {#each groupings as grouping (grouping.id)}
      <button
        class="border-b-2 {by === grouping.id
          ? 'border-lark font-bold'
          : 'text-mute hover:text-ink border-transparent'}"
        aria-pressed={by === grouping.id}
        onclick={() => to({ by: grouping.id, from: null, until: null })}>{grouping.label}</button
      >
    {/each}
  </div>
  {#if view}
    {@const period = view}
    <div class="flex gap-3">
      <DateField class="w-44" label="From" bind:value={() => period.from, (day) => setDay('from', day)} />
      <DateField class="w-44" label="To" bind:value={() => period.until, (day) => setDay('until', day)} />
    </div>
    <Exports path="/api/ledger/profit" {query} />
  {/if}
</div>
{#if only}<p class="mb-2 text-sm">
    Only <b>{q.get('called') ?? q.get(only)}</b> ·
    <button
      class="text-lark hover:underline"
      onclick={() => to({ ...Object.fromEntries(narrow.map((n) => [n, null])), called: null })}>show all</button
    >
  </p>{/if}
{#if !view}<p class="text-mute" role="status">Loading …</p>
{:else if view.groups.length === 0}<p class="text-mute">No income or expenses in this period.</p>
{:else if isTime}
  <div class="overflow-x-auto">
    <table class="w-full max-w-6xl">
      <thead
        ><tr class="text-mute border-line border-b text-sm"
          ><th class="py-1.5 text-left font-normal">Account</th>{#each view.groups as g (g.key)}<th
              class="pl-3 text-right font-normal whitespace-nowrap">{title(g)}</th
            >{/each}<th class="pl-3 text-right font-normal">Total</th></tr
        ></thead
      >
      <tbody>
        {#each ['income', 'expense'] as kind (kind)}
          {#each accounts.filter((a) => a.kind === kind) as a (a.code)}
            <tr class="border-line h-[34px] border-b">
              <td class="whitespace-nowrap"><span class="fig text-mute pr-2 text-sm">{a.code}</span>{a.name}</td>
              {#each view.groups as g (g.key)}<td class="fig pl-3 text-right"
                  >{#if by === 'month' && !only}<a
                      class="hover:underline"
                      href="/ledger?tab=lines&account={a.code}&month={g.key}">{figure(cell(g.key, a.code))}</a
                    >{:else}{figure(cell(g.key, a.code))}{/if}</td
                >{/each}
              <td class="fig pl-3 text-right">{figure(sum(view.groups.map((g) => cell(g.key, a.code))))}</td>
            </tr>
          {/each}
          <tr class="border-line h-[34px] border-b-2 font-bold">
            <td>{kind === 'income' ? 'Income' : 'Expenses'}</td>
            {#each view.groups as g (g.key)}<td class="fig pl-3 text-right"
                >{figure(kind === 'income' ? g.income : g.expense)}</td
              >{/each}
            <td class="fig pl-3 text-right">{figure(kind === 'income' ? total.income : total.expense)}</td>
          </tr>
        {/each}
        <tr class="h-10 font-bold">
          <td>Net profit</td>
          {#each view.groups as g (g.key)}<td class="fig pl-3 text-right {shade(g.left)}">{figure(g.left)}</td>{/each}
          <td class="fig pl-3 text-right {shade(left)}">{figure(left)}</td>
        </tr>
        <tr class="text-mute h-7 text-sm">
          <td>Loads, miles</td>
          {#each view.groups as g (g.key)}<td class="fig pl-3 text-right"
              >{g.loads}, {g.miles.toLocaleString('en-US')}</td
            >{/each}
          <td></td>
        </tr>
        <tr class="text-mute h-7 text-sm">
          <td>Net profit per mile</td>
          {#each view.groups as g (g.key)}<td class="fig pl-3 text-right">{g.leftPerMile?.toFixed(2) ?? ''}</td>{/each}
          <td></td>
        </tr>
      </tbody>
    </table>
  </div>
{:else}
  <table class="w-full max-w-5xl">
    <thead
      ><tr class="text-mute border-line border-b text-right text-sm"
        ><th class="py-1.5 text-left font-normal">{groupings.find((w) => w.id === by)?.label}</th><th
          class="font-normal">Loads</th
        ><th class="font-normal">Miles</th><th class="font-normal">Income</th><th class="font-normal">Expenses</th><th
          class="font-normal">Net profit</th
        ><th class="font-normal">% of income</th><th class="font-normal">Net per mile</th></tr
      ></thead
    >
    <tbody>
      {#each view.groups as g (g.key)}
        <tr class="border-line hover:bg-faint/60 h-[30px] border-b">
          <td
            >{#if g.key}<button class="font-bold hover:underline" onclick={() => into(g)}>{g.name}</button>{:else}<span
                class="text-mute">unassigned</span
              >{/if}</td
          >
          <td class="fig text-right">{g.loads || ''}</td>
          <td class="fig text-right">{g.miles ? g.miles.toLocaleString('en-US') : ''}</td>
          <td class="fig text-right">{figure(g.income)}</td>
          <td class="fig text-right">{figure(g.expense)}</td>
          <td class="fig text-right font-bold {cents(g.left) < 0 ? 'text-ember-word' : ''}">{figure(g.left)}</td>
          <td class="fig text-right">{cents(g.income) ? ((100 * cents(g.left)) / cents(g.income)).toFixed(1) : ''}</td>
          <td class="fig text-right">{g.leftPerMile?.toFixed(2) ?? ''}</td>
        </tr>
      {/each}
      <tr class="h-10 font-bold">
        <td>Total</td><td></td><td></td>
        <td class="fig text-right">{figure(total.income)}</td>
        <td class="fig text-right">{figure(total.expense)}</td>
        <td class="fig text-right {shade(left)}">{figure(left)}</td>
        <td></td><td></td>
      </tr>
    </tbody>
  </table>
{/if}
<p class="text-mute mt-2 max-w-3xl text-sm">
  Invoices and bills count on their date, driver settlements on the last day of their week. Expenses follow their load;
  those without a load are under “none”.
</p>
