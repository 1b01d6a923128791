<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, moneyKey, Refused, take, type Money, type Schemas } from '$lib/api/client';
  import List from '$lib/lists/List.svelte';
  import LoadSheet from '$lib/loads/LoadSheet.svelte';
  import { paperWords } from '$lib/loads/words';
  import { cents, figure, said, sum } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { told, wentWrong } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, saidDay } from '$lib/time/when';
  import DayLine from '$lib/billing/DayLine.svelte';
  import InvoiceSheet from '$lib/billing/InvoiceSheet.svelte';
  import PaymentForm from '$lib/billing/PaymentForm.svelte';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';
  import Word from '$ui/Word.svelte';
  import type { Axis } from '$ui/axis';

  type Row = { id: string; unbilled?: Schemas['UnbilledRow']; invoice?: Schemas['InvoiceRow'] };
  let unbilled = $state<Schemas['UnbilledRow'][] | null>(null);
  let invoices = $state<Schemas['InvoiceRow'][]>([]);
  let payments = $state<Schemas['PaymentRow'][]>([]);
  let width = $state(800);
  let busy = $state(false);
  let failed = $state<string[]>([]);
  const tab = $derived(page.url.searchParams.get('tab') ?? 'todo');
  const invoiceId = $derived(Number(page.url.searchParams.get('invoice')) || null);
  const loadId = $derived(Number(page.url.searchParams.get('load')) || null);
  const paying = $derived(page.url.searchParams.has('receive'));

  async function load() {
    try {
      const [u, i] = await Promise.all([
        take(api.GET('/api/unbilled')),
        take(api.GET('/api/invoices', { params: { query: { open: true, limit: 500 } } })),
      ]);
      unbilled = u;
      invoices = i.rows;
      if (tab === 'in') payments = (await take(api.GET('/api/payments'))).rows;
    } catch (e) {
      wentWrong(e);
    }
  }
  $effect(() => {
    void tab;
    void load();
    return live.follow(load, (e) => /invoice|payment|paper|stop|load/.test(e.kind));
  });

  const ready = $derived((unbilled ?? []).filter((u) => u.podAt));
  const waiting = $derived((unbilled ?? []).filter((u) => !u.podAt));
  const overdue = $derived(invoices.filter((i) => i.dueOn < session.today));
  const rest = $derived(invoices.filter((i) => i.dueOn >= session.today));
  const owed = $derived(sum(invoices.map((i) => i.open)));
  const rows = {
    load: (u: Schemas['UnbilledRow']): Row => ({ id: `load-${u.loadId}`, unbilled: u }),
    invoice: (i: Schemas['InvoiceRow']): Row => ({ id: `invoice-${i.id}`, invoice: i }),
  };
  const groups = $derived([
    { title: 'Ready to bill', rows: ready.map(rows.load) },
    { title: 'Waiting for paper', urgency: 'soon' as const, rows: waiting.map(rows.load) },
    {
      title: 'Overdue to us',
      urgency: 'now' as const,
      aside: figure(sum(overdue.map((i) => i.open))),
      rows: overdue.map(rows.invoice),
    },
    { title: 'Billed, not due yet', aside: figure(sum(rest.map((i) => i.open))), rows: rest.map(rows.invoice) },
  ]);
  const open = $derived(invoiceId ? `invoice-${invoiceId}` : loadId ? `load-${loadId}` : null);
  const DAY = 86_400_000;
  const axis = $derived<Axis>({
    from: session.now - 45 * DAY,
    until: session.now + 33 * DAY,
    width: Math.max(120, Math.round(width * (open || paying ? 0.26 : 0.34))),
  });
  const to = (q: Record<string, string | null>) => {
    const url = new URL(page.url);
    for (const k of ['invoice', 'load', 'receive', 'customer']) if (!(k in q)) url.searchParams.delete(k);
    for (const [k, v] of Object.entries(q)) v === null ? url.searchParams.delete(k) : url.searchParams.set(k, v);
    void goto(url, { keepFocus: true, noScroll: true, replaceState: true });
  };
  const days = (from: string, until: string) => Math.round((Date.parse(until) - Date.parse(from)) / DAY);
  const count = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`;

  /** Each load by itself; what fails is said, the others go. */
  async function billAll() {
    busy = true;
    failed = [];
    const issued: Schemas['InvoiceRow'][] = [];
    for (const u of ready) {
      try {
        issued.push(
          await take(
            api.POST('/api/invoices', {
              body: { loadIds: [u.loadId], termsDays: null, mailTo: null },
              headers: moneyKey(),
            }),
          ),
        );
      } catch (e) {
        failed.push(`${u.number}: ${e instanceof Refused ? e.message : 'it did not go through'}`);
      }
    }
    busy = false;
    if (issued.length)
      told(`${count(issued.length, 'invoice')} over ${said(sum(issued.map((i) => i.total)))}.`, () =>
        Promise.all(
          issued.map((i) =>
            take(api.POST('/api/invoices/{id}/void', { params: { path: { id: i.id } }, headers: moneyKey() })),
          ),
        ),
      );
    await load();
  }
  const readyTotal = $derived<Money>(sum(ready.map((u) => u.revenue)));
</script>

<svelte:head><title>Bill · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col" bind:clientWidth={width}>
    <Head
      title="Bill"
      tabs={[
        { id: 'todo', label: 'To do' },
        { id: 'in', label: 'Money in' },
        { id: 'all', label: 'All invoices' },
      ]}
      {tab}
      ontab={(t) => to({ tab: t === 'todo' ? null : t })}
    >
      <span class="text-mute text-sm whitespace-nowrap">owed to us <span class="fig">{figure(owed)}</span></span>
      {#if session.may('billing.receive')}<Button onclick={() => to({ receive: '' })}>Money came in</Button>{/if}
    </Head>
    {#if failed.length}<div class="px-5 pt-3">
        {#each failed as f (f)}<p class="text-ember-word text-sm" role="alert">{f}</p>{/each}
      </div>{/if}
    {#if tab === 'in'}
      <div class="min-h-0 flex-1 overflow-y-auto px-5 pt-3">
        {#if payments.length === 0}<p class="text-mute py-4">No money came in yet.</p>{:else}
          <table class="w-full">
            <thead
              ><tr class="text-mute border-line border-b text-left text-sm"
                ><th class="py-1.5 font-normal">Received</th><th class="font-normal">From</th><th class="font-normal"
                  >How</th
                ><th class="text-right font-normal">Amount</th><th class="text-right font-normal">Applied</th><th
                  class="text-right font-normal">Left over</th
                ></tr
              ></thead
            >
            <tbody>
              {#each payments as p (p.id)}
                <tr class="border-line h-[34px] border-b {p.reversedAt ? 'text-mute line-through' : ''}">
                  <td>{saidDay(p.receivedOn)}</td><td class="font-bold">{p.customer}</td><td class="text-sm"
                    >{p.method} {p.reference ?? ''}</td
                  ><td class="fig text-right">{figure(p.amount)}</td><td class="fig text-right">{figure(p.applied)}</td
                  ><td class="fig text-right">{cents(p.unapplied) ? figure(p.unapplied) : ''}</td>
                </tr>
              {/each}
            </tbody>
          </table>
        {/if}
      </div>
    {:else if tab === 'all'}
      <List list="invoices" open={invoiceId} onopen={(id) => to({ invoice: String(id) })} />
    {:else}
      <div class="flex justify-end pr-[248px]">
        <div style:width="{axis.width}px"><AxisHead {axis} word="today" /></div>
      </div>
      <div class="min-h-0 flex-1 overflow-y-auto">
        <div class="relative min-h-full">
          <div class="pointer-events-none absolute inset-y-0 right-[248px]" style:width="{axis.width}px">
            <AxisLines {axis} />
          </div>
          <Slate
            label="To bill and billed"
            {groups}
            key={(r) => r.id}
            {open}
            onopen={(r) => to(r.invoice ? { invoice: String(r.invoice.id) } : { load: String(r.unbilled!.loadId) })}
            loading={unbilled === null}
            empty="Nothing to bill. Delivered loads come here; with their POD they are ready."
          >
            {#snippet aside(group)}
              {#if group.title === 'Ready to bill' && session.may('billing.invoice')}
                <Button small look="main" {busy} onclick={billAll}>Bill {ready.length} for {said(readyTotal)}</Button>
              {:else if 'aside' in group}<span class="fig text-mute text-sm">{group.aside}</span>{/if}
            {/snippet}
            {#snippet row(r)}
              <span class="flex h-11 items-center pr-4 pl-5">
                {#if r.unbilled}
                  {@const u = r.unbilled}
                  <span class="fig w-[68px] shrink-0 font-bold">{u.number}</span>
                  <span class="min-w-0 flex-1 pr-2"
                    ><span class="block truncate leading-5 font-bold">{u.customer}</span><span
                      class="text-mute block truncate text-sm leading-4">{u.from} → {u.to}</span
                    ></span
                  >
                  <span class="shrink-0" style:width="{axis.width}px"
                    ><DayLine {axis} delivered={u.deliveredAt} papers={u.podAt} /></span
                  >
                  <span class="fig w-[100px] shrink-0 text-right">{figure(u.revenue)}</span>
                  <span class="w-[132px] shrink-0 pl-2 text-right text-sm leading-4"
                    >{#if u.podAt}<span class="block">ready</span>{:else}<Word urgency="soon">POD missing</Word><br
                      />{/if}<span class="text-mute block truncate"
                      >{u.papers
                        .filter((p) => p !== 'rate_confirmation')
                        .map((p) => paperWords[p])
                        .join(', ') || `since ${saidDay(localAt(u.deliveredAt, session.zone)).slice(4)}`}</span
                    ></span
                  >
                {:else if r.invoice}
                  {@const i = r.invoice}
                  {@const late = days(i.dueOn, session.today)}
                  <span class="fig w-[68px] shrink-0 font-bold">{i.number}</span>
                  <span class="min-w-0 flex-1 pr-2"
                    ><span class="block truncate leading-5 font-bold">{i.customer}</span><span
                      class="text-mute block truncate text-sm leading-4">{count(i.loads.length, 'load')}</span
                    ></span
                  >
                  <span class="shrink-0" style:width="{axis.width}px"
                    ><DayLine
                      {axis}
                      delivered={i.deliveredOn}
                      billed={i.issuedOn}
                      due={i.dueOn}
                      paid={i.lastPaidOn}
                      open={cents(i.open) > 0 && !i.voidedAt}
                    /></span
                  >
                  <span class="fig w-[100px] shrink-0 text-right">{figure(i.open)}</span>
                  <span class="w-[132px] shrink-0 pl-2 text-right text-sm leading-4">
                    {#if i.voidedAt}<span class="text-mute">void</span>
                    {:else if cents(i.open) === 0}<span class="text-moss-word">paid</span>
                    {:else if late > 0}<Word urgency="now">{count(late, 'day')} late</Word>{:else if late === 0}<Word
                        urgency="soon">due today</Word
                      >{:else}due in {count(-late, 'day')}{/if}
                    <span class="text-mute block truncate"
                      >{cents(i.paid) && cents(i.open)
                        ? `${figure(i.paid)} paid`
                        : `due ${saidDay(i.dueOn).slice(4)}`}</span
                    >
                  </span>
                {/if}
              </span>
            {/snippet}
          </Slate>
        </div>
      </div>
    {/if}
  </section>
  {#if paying}
    <Sheet label="money in" onclose={() => to({})}>
      <PaymentForm
        customerId={Number(page.url.searchParams.get('customer')) || null}
        ondone={() => {
          to({});
          void load();
        }}
      />
    </Sheet>
  {:else if invoiceId}
    <Sheet label="invoice" onclose={() => to({})}>
      <InvoiceSheet id={invoiceId} onreceive={(c) => to({ receive: '', customer: String(c) })} />
    </Sheet>
  {:else if loadId}
    <Sheet label="load" onclose={() => to({})}><LoadSheet id={loadId} onchanged={load} /></Sheet>
  {/if}
</div>
