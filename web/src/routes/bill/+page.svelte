<script lang="ts">
  import { page } from '$app/state';
  import { api, moneyKey, take, type Schemas } from '$lib/api/client';
  import { latest } from '$lib/api/latest';
  import LoadSheet from '$lib/loads/LoadSheet.svelte';
  import { sums } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { setQuery } from '$lib/state/address';
  import { session } from '$lib/state/session.svelte';
  import BillMany from '$lib/billing/BillMany.svelte';
  import InvoiceSheet from '$lib/billing/InvoiceSheet.svelte';
  import InvoiceList from '$lib/billing/InvoiceList.svelte';
  import PaymentList from '$lib/billing/PaymentList.svelte';
  import InvoiceForm from '$lib/billing/InvoiceForm.svelte';
  import LoadToBill from '$lib/billing/LoadToBill.svelte';
  import PaymentSheet from '$lib/billing/PaymentSheet.svelte';
  import PaymentForm from '$lib/billing/PaymentForm.svelte';
  import RunSheet from '$lib/billing/RunSheet.svelte';
  import ToBillRow from '$lib/billing/ToBillRow.svelte';
  import { toBill } from '$lib/billing/groups';
  import ClaimSheet from '$lib/claims/ClaimSheet.svelte';
  import List from '$lib/lists/List.svelte';
  import Tray from '$lib/documents/Tray.svelte';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';
  import type { Axis } from '$ui/axis';
  import { isPlain } from '$ui/keys';

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
  const claimId = $derived(Number(page.url.searchParams.get('claim')) || null);
  const loadId = $derived(Number(page.url.searchParams.get('load')) || null);
  const paying = $derived(page.url.searchParams.has('receive'));
  const runId = $derived(Number(page.url.searchParams.get('run')) || null);
  const billing = $derived(
    (page.url.searchParams.get('loads') ?? '')
      .split(',')
      .map(Number)
      .filter((n) => n > 0),
  );

  const load = latest(
    () =>
      Promise.all([
        take(api.GET('/api/unbilled')),
        take(api.GET('/api/invoices', { params: { query: { open: true, limit: 500 } } })),
        take(api.GET('/api/documents/tray')),
      ]),
    ([u, i, t]) => {
      unbilled = u;
      invoices = i.rows;
      tray = t.length;
    },
    showError,
  );
  $effect(() => {
    void tab;
    void load();
    return live.follow(load, ['loads', 'invoices', 'documents']);
  });

  const { ready, groups } = $derived(toBill(unbilled ?? [], invoices, session.today));
  const picked = $derived(ready.filter((u) => chosen.has(u.loadId)));
  const billed = $derived((unbilled ?? []).filter((u) => billing.includes(u.loadId)));
  const owed = $derived(sums(invoices.map((i) => i.open)));
  const open = $derived(invoiceId ? `invoice-${invoiceId}` : loadId ? `load-${loadId}` : null);
  const DAY = 86_400_000;
  const axis = $derived<Axis>({
    from: session.now - 45 * DAY,
    until: session.now + 33 * DAY,
    width: Math.max(120, Math.round(width * (open || paying ? 0.26 : 0.34))),
  });
  const to = (next: Record<string, string | null>) =>
    setQuery(next, ['invoice', 'payment', 'claim', 'load', 'receive', 'customer', 'run', 'loads']);

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
        { id: 'claims', label: 'Claims' },
      ]}
      {tab}
      ontab={(t) => to({ tab: t === 'todo' ? null : t })}
    >
      <span class="text-mute text-sm whitespace-nowrap">receivables <span class="fig">{owed}</span></span>
      {#if session.may('billing.receive')}<Button onclick={() => to({ receive: '' })}>Record payment</Button>{/if}
    </Head>
    {#if tab === 'documents'}
      <Tray />
    {:else if tab === 'in'}
      <PaymentList open={paymentId} onopen={(id) => to({ payment: String(id) })} />
    {:else if tab === 'claims'}
      <List list="claims" open={claimId} onopen={(id) => to({ claim: String(id) })} />
    {:else if tab === 'all'}
      <InvoiceList open={invoiceId} onopen={(id) => to({ invoice: String(id) })} />
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
                <BillMany
                  {ready}
                  {picked}
                  {busy}
                  onbill={billAll}
                  ontogether={(of) => to({ loads: of.map((u) => u.loadId).join(',') })}
                />
              {:else if 'aside' in group}<span class="fig text-mute text-sm">{group.aside}</span>{/if}
            {/snippet}
            {#snippet row(r)}
              <ToBillRow
                unbilled={r.unbilled}
                invoice={r.invoice}
                {axis}
                chosen={!!r.unbilled && chosen.has(r.unbilled.loadId)}
              />
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
  {:else if claimId}
    <Sheet label="claim" onclose={() => to({})}><ClaimSheet id={claimId} /></Sheet>
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
        <LoadToBill
          {u}
          chosen={chosen.has(u.loadId)}
          onbill={() => to({ loads: String(u.loadId) })}
          onchoose={() => choose(u.loadId)}
          onchanged={load}
        />
      {/if}
      <LoadSheet id={loadId} onchanged={load} />
    </Sheet>
  {/if}
</div>
