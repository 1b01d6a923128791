<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, moneyKey, take, type Money, type Schemas } from '$lib/api/client';
  import { doEach } from '$lib/lists/each';
  import List from '$lib/lists/List.svelte';
  import LoadSheet from '$lib/loads/LoadSheet.svelte';
  import { documentLabels } from '$lib/loads/labels';
  import { cents, figure, said, sum } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatDate } from '$lib/time/when';
  import DayLine from '$lib/billing/DayLine.svelte';
  import InvoiceSheet from '$lib/billing/InvoiceSheet.svelte';
  import ReturnToDispatch from '$lib/billing/ReturnToDispatch.svelte';
  import InvoiceForm from '$lib/billing/InvoiceForm.svelte';
  import PaymentSheet from '$lib/billing/PaymentSheet.svelte';
  import PaymentForm from '$lib/billing/PaymentForm.svelte';
  import RunSheet from '$lib/billing/RunSheet.svelte';
  import Tray from '$lib/documents/Tray.svelte';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Key from '$ui/Key.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';
  import Status from '$ui/Status.svelte';
  import type { Axis } from '$ui/axis';
  import { isPlain } from '$ui/keys';

  type Row = { id: string; unbilled?: Schemas['UnbilledRow']; invoice?: Schemas['InvoiceRow'] };
  let unbilled = $state<Schemas['UnbilledRow'][] | null>(null);
  let invoices = $state<Schemas['InvoiceRow'][]>([]);
  let width = $state(800);
  let busy = $state(false);
  /** Loads selected for billing; x or Space selects the open one. */
  let chosen = $state.raw(new Set<number>());
  let tray = $state(0);
  const tab = $derived(page.url.searchParams.get('tab') ?? 'todo');
  const invoiceId = $derived(Number(page.url.searchParams.get('invoice')) || null);
  const paymentId = $derived(Number(page.url.searchParams.get('payment')) || null);
  const loadId = $derived(Number(page.url.searchParams.get('load')) || null);
  const paying = $derived(page.url.searchParams.has('receive'));
  const runId = $derived(Number(page.url.searchParams.get('run')) || null);
  const billing = $derived(
    (page.url.searchParams.get('loads') ?? '')
      .split(',')
      .map(Number)
      .filter((n) => n > 0),
  );

  async function load() {
    try {
      const [u, i] = await Promise.all([
        take(api.GET('/api/unbilled')),
        take(api.GET('/api/invoices', { params: { query: { open: true, limit: 500 } } })),
      ]);
      unbilled = u;
      invoices = i.rows;
      tray = (await take(api.GET('/api/documents/tray'))).length;
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void tab;
    void load();
    return live.follow(load, ['loads', 'invoices', 'documents']);
  });

  const ready = $derived((unbilled ?? []).filter((u) => u.missing.length === 0 && !u.held));
  const waiting = $derived((unbilled ?? []).filter((u) => u.missing.length > 0 && !u.held));
  const held = $derived((unbilled ?? []).filter((u) => u.held));
  const picked = $derived(ready.filter((u) => chosen.has(u.loadId)));
  const billed = $derived((unbilled ?? []).filter((u) => billing.includes(u.loadId)));
  const overdue = $derived(invoices.filter((i) => i.dueOn < session.today));
  const rest = $derived(invoices.filter((i) => i.dueOn >= session.today));
  const owed = $derived(sum(invoices.map((i) => i.open)));
  const rows = {
    load: (u: Schemas['UnbilledRow']): Row => ({ id: `load-${u.loadId}`, unbilled: u }),
    invoice: (i: Schemas['InvoiceRow']): Row => ({ id: `invoice-${i.id}`, invoice: i }),
  };
  const groups = $derived([
    { title: 'Ready to bill', rows: ready.map(rows.load) },
    { title: 'Missing documents', urgency: 'soon' as const, rows: waiting.map(rows.load) },
    { title: 'On hold', urgency: 'soon' as const, rows: held.map(rows.load) },
    {
      title: 'Overdue',
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
    for (const k of ['invoice', 'payment', 'load', 'receive', 'customer', 'run', 'loads'])
      if (!(k in q)) url.searchParams.delete(k);
    for (const [k, v] of Object.entries(q)) v === null ? url.searchParams.delete(k) : url.searchParams.set(k, v);
    void goto(url, { keepFocus: true, noScroll: true, replaceState: true });
  };
  const days = (from: string, until: string) => Math.round((Date.parse(until) - Date.parse(from)) / DAY);
  const count = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`;

  /** Bills everything ready, or the selection, by each customer's settings; the server runs it and reports progress. */
  async function billAll(of: Schemas['UnbilledRow'][]) {
    busy = true;
    try {
      const run = await take(
        api.POST('/api/billing-runs', {
          body: { loadIds: of.map((u) => u.loadId), together: null },
          headers: moneyKey(),
        }),
      );
      chosen = new Set();
      to({ run: String(run.id) });
    } catch (e) {
      showError(e);
    } finally {
      busy = false;
    }
  }
  function choose(loadId: number) {
    const next = new Set(chosen);
    if (!next.delete(loadId)) next.add(loadId);
    chosen = next;
  }
  function key(e: KeyboardEvent) {
    if (!isPlain(e) || tab !== 'todo') return;
    if ((e.key === 'x' || e.key === ' ') && loadId && ready.some((u) => u.loadId === loadId)) {
      e.preventDefault();
      choose(loadId);
    } else if (e.key === 'b' && session.may('billing.invoice')) {
      e.preventDefault();
      const of = picked.length ? picked : ready.filter((u) => u.loadId === loadId);
      if (of.length && new Set(of.map((u) => u.customerId)).size === 1)
        to({ loads: of.map((u) => u.loadId).join(',') });
      else if (of.length) void billAll(of);
    } else if (e.key === 'B' && ready.length && session.may('billing.invoice')) void billAll(ready);
    else if (e.key === 'm' && session.may('billing.receive')) {
      e.preventDefault();
      to({ receive: '' });
    }
  }
  async function ask(u: Schemas['UnbilledRow']) {
    try {
      showDone(
        (await take(api.POST('/api/loads/{id}/request-documents', { params: { path: { id: u.loadId } } }))).summary +
          '.',
      );
      await load();
    } catch (e) {
      showError(e);
    }
  }
  const takePaymentBack = (id: number) =>
    take(api.POST('/api/payments/{id}/reverse', { params: { path: { id } }, headers: moneyKey() }));
  const sendAgain = (id: number) =>
    take(
      api.POST('/api/invoices/{id}/send', {
        params: { path: { id } },
        body: { to: null, message: null },
        headers: moneyKey(),
      }),
    );
  const readyTotal = $derived<Money>(sum(ready.map((u) => u.revenue)));
</script>

<svelte:head><title>Bill · Steady Lark</title></svelte:head>
<svelte:window onkeydown={key} />
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col" bind:clientWidth={width}>
    <Head
      title="Bill"
      tabs={[
        { id: 'todo', label: 'To do' },
        { id: 'documents', label: 'Documents to file', count: tray || undefined },
        { id: 'in', label: 'Payments' },
        { id: 'all', label: 'All invoices' },
      ]}
      {tab}
      ontab={(t) => to({ tab: t === 'todo' ? null : t })}
    >
      <span class="text-mute text-sm whitespace-nowrap">receivables <span class="fig">{figure(owed)}</span></span>
      {#if session.may('billing.receive')}<Button onclick={() => to({ receive: '' })}>Record payment</Button>{/if}
    </Head>
    {#if tab === 'documents'}
      <Tray />
    {:else if tab === 'in'}
      <List list="payments" open={paymentId} onopen={(id) => to({ payment: String(id) })}>
        {#snippet actions(keys, clear)}
          {#if session.may('billing.receive')}<Button
              small
              onclick={() => doEach(keys, takePaymentBack, (n) => `${count(n, 'payment')} reversed.`).then(clear)}
              >Take {keys.length} back</Button
            >{/if}
        {/snippet}
      </List>
    {:else if tab === 'all'}
      <List list="invoices" open={invoiceId} onopen={(id) => to({ invoice: String(id) })}>
        {#snippet actions(keys, clear)}
          {#if session.may('billing.invoice')}<Button
              small
              onclick={() => doEach(keys, sendAgain, (n) => `${count(n, 'invoice')} resent.`).then(clear)}
              >Resend {keys.length}</Button
            >{/if}
        {/snippet}
      </List>
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
            empty="Nothing to bill. Delivered loads appear here and are ready once their documents are in."
          >
            {#snippet aside(group)}
              {#if group.title === 'Ready to bill' && session.may('billing.invoice')}
                <span class="flex items-center gap-2">
                  {#if picked.length}
                    {#if new Set(picked.map((u) => u.customerId)).size === 1}<Button
                        small
                        onclick={() => to({ loads: picked.map((u) => u.loadId).join(',') })}
                        >Bill {picked.length} on one invoice <Key>b</Key></Button
                      >{/if}
                    <Button small look="main" {busy} onclick={() => billAll(picked)}
                      >Bill the {picked.length} for {said(sum(picked.map((u) => u.revenue)))}</Button
                    >
                  {:else}<Button small look="main" {busy} onclick={() => billAll(ready)}
                      >Bill {ready.length} for {said(readyTotal)} <Key>B</Key></Button
                    >{/if}
                </span>
              {:else if 'aside' in group}<span class="fig text-mute text-sm">{group.aside}</span>{/if}
            {/snippet}
            {#snippet row(r)}
              <span class="flex h-11 items-center pr-4 pl-5">
                {#if r.unbilled}
                  {@const u = r.unbilled}
                  <span class="fig w-[68px] shrink-0 font-bold"
                    >{#if chosen.has(u.loadId)}<span class="text-lark" aria-label="selected">✓</span
                      >{/if}{u.number}</span
                  >
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
                    >{#if u.held}<Status urgency="soon">on hold</Status><span
                        class="text-mute block truncate"
                        title={u.held}>{u.held}</span
                      >{:else if u.missing.length === 0}<span class="block">ready</span><span
                        class="text-mute block truncate">since {formatDate(localAt(u.deliveredAt, session.zone))}</span
                      >{:else}<Status urgency="soon"
                        >{u.missing.map((p) => documentLabels[p]).join(', ')} missing</Status
                      ><span class="text-mute block truncate"
                        >{u.requestedAt
                          ? `requested ${formatDate(localAt(u.requestedAt, session.zone))}`
                          : `since ${formatDate(localAt(u.deliveredAt, session.zone))}`}</span
                      >{/if}</span
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
                    {:else if late > 0}<Status urgency="now">{count(late, 'day')} past due</Status
                      >{:else if late === 0}<Status urgency="soon">due today</Status>{:else}due in {count(
                        -late,
                        'day',
                      )}{/if}
                    <span class="text-mute block truncate"
                      >{cents(i.paid) && cents(i.open) ? `${figure(i.paid)} paid` : `due ${formatDate(i.dueOn)}`}</span
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
    <Sheet label="payment" form onclose={() => to({})}>
      <PaymentForm
        customerId={Number(page.url.searchParams.get('customer')) || null}
        ondone={() => {
          to({});
          void load();
        }}
      />
    </Sheet>
  {:else if runId}
    <Sheet label="billing run" onclose={() => to({})}>
      <RunSheet id={runId} onload={(id) => to({ load: String(id) })} />
    </Sheet>
  {:else if billed.length}
    <Sheet label="new invoice" onclose={() => to({})}>
      <InvoiceForm
        loads={billed}
        ondone={(id) => {
          chosen = new Set();
          to({ invoice: String(id) });
          void load();
        }}
      />
    </Sheet>
  {:else if paymentId}
    <Sheet label="payment" onclose={() => to({})}>
      <PaymentSheet id={paymentId} oninvoice={(id) => to({ tab: 'all', invoice: String(id) })} />
    </Sheet>
  {:else if invoiceId}
    <Sheet label="invoice" onclose={() => to({})}>
      <InvoiceSheet
        id={invoiceId}
        onreceive={(c) => to({ receive: '', customer: String(c) })}
        onagain={(loads) => to({ tab: null, loads: loads.join(',') })}
      />
    </Sheet>
  {:else if loadId}
    {@const u = (unbilled ?? []).find((x) => x.loadId === loadId)}
    <Sheet label="load" onclose={() => to({})}>
      {#if u && session.may('billing.invoice')}
        <div class="border-line flex flex-wrap items-center gap-2 border-b py-2 pr-12 pl-5">
          {#if u.missing.length === 0 && !u.held}
            <Button small look="main" onclick={() => to({ loads: String(u.loadId) })}>Bill {said(u.revenue)}</Button>
            <Button small onclick={() => choose(u.loadId)}
              >{chosen.has(u.loadId) ? 'Deselect' : 'Select'} <Key>x</Key></Button
            >
          {:else if u.missing.length}<Button small look="main" onclick={() => ask(u)}
              >Request {u.missing.map((p) => documentLabels[p]).join(', ')}</Button
            >{/if}
          {#if !u.held}<ReturnToDispatch loadId={u.loadId} onchanged={load} />{/if}
        </div>
      {/if}
      <LoadSheet id={loadId} onchanged={load} />
    </Sheet>
  {/if}
</div>
