<script lang="ts">
  import { page } from '$app/state';
  import { api, moneyKey, Refused, take, type Schemas } from '$lib/api/client';
  import BillForm from '$lib/paying/BillForm.svelte';
  import BillRow from '$lib/paying/BillRow.svelte';
  import BillSheet from '$lib/paying/BillSheet.svelte';
  import PayRun from '$lib/paying/PayRun.svelte';
  import AdvanceForm from '$lib/paying/AdvanceForm.svelte';
  import SettlementRow from '$lib/paying/SettlementRow.svelte';
  import SettlementSheet from '$lib/paying/SettlementSheet.svelte';
  import { approveAsAgreed, payByAch } from '$lib/paying/bills';
  import { cents, figure, sum, sums } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { setQuery } from '$lib/state/address';
  import { session } from '$lib/state/session.svelte';
  import { addDays, formatDay } from '$lib/time/when';
  import { doEach } from '$lib/lists/each';
  import List from '$lib/lists/List.svelte';
  import ExpenseSheet from '$lib/paying/ExpenseSheet.svelte';
  import ExpensesToApprove from '$lib/paying/ExpensesToApprove.svelte';
  import ToConfirm from '$lib/paying/ToConfirm.svelte';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Key from '$ui/Key.svelte';
  import { isPlain } from '$ui/keys';
  import Sheet from '$ui/Sheet.svelte';
  import Slate from '$ui/Slate.svelte';

  const tab = $derived(page.url.searchParams.get('tab') ?? (session.may('wages.see') ? 'people' : 'bills'));
  const monday = $derived(page.url.searchParams.get('monday'));
  const driver = $derived(Number(page.url.searchParams.get('driver')) || null);
  const billId = $derived(Number(page.url.searchParams.get('bill')) || null);
  const expense = $derived(Number(page.url.searchParams.get('expense')) || null);
  const leg = $derived(Number(page.url.searchParams.get('leg')) || null);
  const advancing = $derived(page.url.searchParams.has('advance'));
  const entering = $derived(page.url.searchParams.has('enter'));
  const paying = $derived(page.url.searchParams.has('paying'));
  /** Whether bills are in view. */
  const payable = $derived(tab === 'bills' || tab === 'all');
  let weeks = $state<Schemas['SettlementView'][] | null>(null);
  let bills = $state<Schemas['BillRow'][] | null>(null);
  let awaited = $state<Schemas['UnbilledLeg'][]>([]);
  let busy = $state(false);

  async function load() {
    try {
      if (tab === 'people')
        weeks = await take(api.GET('/api/settlements', { params: { query: { monday: monday ?? undefined } } }));
      else if (tab === 'bills')
        [bills, awaited] = await Promise.all([
          take(api.GET('/api/bills', { params: { query: { limit: 500 } } })).then((p) => p.rows),
          take(api.GET('/api/bills/expected')),
        ]);
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void tab;
    void monday;
    void load();
    return live.follow(load, ['pay', 'bills', 'loads']);
  });
  const to = (next: Record<string, string | null>) =>
    setQuery(next, ['driver', 'bill', 'expense', 'leg', 'advance', 'enter', 'paying']);
  const shown = $derived(weeks?.[0]?.monday ?? monday ?? addDays(mondayOf(session.today), -7));
  function mondayOf(day: string) {
    const d = new Date(`${day}T00:00:00Z`);
    return addDays(day, -((d.getUTCDay() + 6) % 7));
  }
  const ready = $derived(
    (weeks ?? [])
      .filter((w) => !w.settlement && w.ended)
      .sort((a, b) => Number(cents(b.earned) > 0) - Number(cents(a.earned) > 0)),
  );
  const approved = $derived((weeks ?? []).filter((w) => w.settlement && !w.settlement.paidOn));
  const weekGroups = $derived([
    { title: 'To approve', urgency: 'soon' as const, rows: ready },
    { title: 'Approved, to pay', urgency: 'soon' as const, rows: approved },
    { title: 'In progress', rows: (weeks ?? []).filter((w) => !w.settlement && !w.ended) },
    { title: 'Paid', rows: (weeks ?? []).filter((w) => w.settlement?.paidOn) },
  ]);
  type BillOrLeg = { id: string; bill?: Schemas['BillRow']; leg?: Schemas['UnbilledLeg'] };
  const asBill = (b: Schemas['BillRow']): BillOrLeg => ({ id: `bill-${b.id}`, bill: b });
  const billGroups = $derived<{ title: string; urgency?: 'soon' | 'now'; aside?: string; rows: BillOrLeg[] }[]>([
    {
      title: 'Over the agreed amount',
      urgency: 'now',
      rows: (bills ?? []).filter((b) => !b.approved && cents(b.difference) > 0).map(asBill),
    },
    {
      title: 'To approve',
      urgency: 'soon',
      rows: (bills ?? []).filter((b) => !b.approved && cents(b.difference) <= 0).map(asBill),
    },
    {
      title: 'Approved and due',
      urgency: 'soon',
      rows: (bills ?? []).filter((b) => b.approved && b.dueOn <= session.today).map(asBill),
    },
    {
      title: 'Approved, not due yet',
      aside: sums((bills ?? []).filter((b) => b.approved && b.dueOn > session.today).map((b) => b.approved)),
      rows: (bills ?? []).filter((b) => b.approved && b.dueOn > session.today).map(asBill),
    },
    { title: 'No bill yet', rows: awaited.map((l) => ({ id: `leg-${l.legId}`, leg: l })) },
  ]);

  async function approveAll() {
    busy = true;
    let done = 0;
    for (const w of ready) {
      try {
        await take(
          api.POST('/api/settlements/approve', {
            body: { driverId: w.driverId, monday: w.monday },
            headers: moneyKey(),
          }),
        );
        done++;
      } catch (e) {
        showError(e instanceof Refused ? new Refused(`${w.driver}: ${e.message}`, e.status, e.problems) : e);
      }
    }
    busy = false;
    if (done) showDone(`${done} settlements approved.`);
    await load();
  }
  function key(e: KeyboardEvent) {
    if (e.key !== 'p' || !isPlain(e) || !payable || !session.may('paying.pay')) return;
    e.preventDefault();
    to({ paying: '' });
  }
  const week = $derived(weeks?.find((w) => w.driverId === driver) ?? null);
</script>

<svelte:window onkeydown={key} />
<svelte:head><title>Pay · Steady Lark</title></svelte:head>
<div class="flex h-full">
  <section class="flex min-w-0 flex-1 flex-col">
    <Head
      title="Pay"
      tabs={[
        ...(session.may('wages.see') ? [{ id: 'people', label: 'Settlements' }] : []),
        { id: 'bills', label: 'Bills', count: bills?.length },
        { id: 'all', label: 'All bills' },
        { id: 'expenses', label: 'Trip expenses' },
      ]}
      {tab}
      ontab={(t) => to({ tab: t === 'people' ? null : t })}
    >
      {#if session.may('paying.enter')}
        {#if tab === 'people'}<Button onclick={() => to({ advance: '' })}>Issue an advance</Button>
        {:else if payable}<Button onclick={() => to({ enter: '' })}>Enter a bill</Button>{/if}
      {/if}
      {#if payable && session.may('paying.pay')}
        <Button look="main" onclick={() => to({ paying: '' })}><span>Pay bills</span> <Key>p</Key></Button>
      {/if}
    </Head>
    {#if tab === 'people'}
      <div class="flex items-center justify-between pt-3 pr-4 pl-5">
        <div class="flex items-center gap-1">
          <Button small look="quiet" aria-label="Previous week" onclick={() => to({ monday: addDays(shown, -7) })}
            >‹</Button
          >
          <span class="text-sm">{formatDay(shown)} – {formatDay(addDays(shown, 6))}</span>
          <Button small look="quiet" aria-label="Next week" onclick={() => to({ monday: addDays(shown, 7) })}>›</Button>
        </div>
        <div class="text-mute flex text-sm">
          <span class="w-24 text-right">earned</span><span class="w-24 text-right">deductions</span><span
            class="w-24 text-right">net pay</span
          >
        </div>
      </div>
      <div class="min-h-0 flex-1 overflow-y-auto">
        <Slate
          label="Driver settlements"
          groups={weekGroups}
          key={(w) => w.driverId}
          open={driver}
          onopen={(w) => to({ driver: String(w.driverId) })}
          loading={weeks === null}
          empty="No earnings or advances in this week. Settlements grow as legs are delivered."
        >
          {#snippet row(w)}
            <SettlementRow {w} />
          {/snippet}
        </Slate>
        {#if weeks && weeks.length}
          <div class="flex items-center justify-between px-5 py-4">
            <span class="text-mute text-sm"
              ><a class="text-lark hover:underline" href="/api/payroll?monday={shown}">Payroll (CSV)</a>, {weeks.length} people,
              <span class="fig">{figure(sum(weeks.map((w) => w.net)))}</span>, pay date {formatDay(
                weeks[0].payDay,
              )}</span
            >
            {#if ready.length && session.may('paying.approve')}<Button look="main" {busy} onclick={approveAll}
                >Approve {ready.length} settlements</Button
              >{/if}
          </div>
        {/if}
      </div>
    {:else if tab === 'expenses'}
      <ExpensesToApprove />
      <List list="expenses" open={expense} onopen={(id) => to({ expense: String(id) })} />
    {:else if tab === 'all'}
      <List list="bills" open={billId} onopen={(id) => to({ bill: String(id) })}>
        {#snippet actions(keys, clear)}
          {#if session.may('paying.approve')}<Button
              small
              onclick={() =>
                doEach(keys, approveAsAgreed, (n) => `${n} ${n === 1 ? 'bill' : 'bills'} approved.`).then(clear)}
              >Approve {keys.length} at the agreed amount</Button
            >{/if}
          {#if session.may('paying.pay')}<Button
              small
              onclick={() => doEach(keys, payByAch, (n) => `${n} ${n === 1 ? 'bill' : 'bills'} paid.`).then(clear)}
              >Pay {keys.length} by ACH</Button
            >{/if}
        {/snippet}
      </List>
    {:else}
      <div class="min-h-0 flex-1 overflow-y-auto">
        <ToConfirm />
        <Slate
          label="Bills"
          groups={billGroups}
          key={(r) => r.id}
          open={billId ? `bill-${billId}` : leg ? `leg-${leg}` : null}
          onopen={(r) => to(r.bill ? { bill: String(r.bill.id) } : { leg: String(r.leg!.legId) })}
          loading={tab === 'bills' && bills === null}
          empty="No bills. Loads delivered by a carrier wait here for the bill."
        >
          {#snippet row(r)}
            <BillRow bill={r.bill} leg={r.leg} />
          {/snippet}
        </Slate>
      </div>
    {/if}
  </section>
  {#if advancing}
    <Sheet label="advance" form onclose={() => to({})}><AdvanceForm ondone={() => to({})} /></Sheet>
  {:else if paying}
    <Sheet label="pay bills" wide form onclose={() => to({})}><PayRun onchanged={load} /></Sheet>
  {:else if entering}
    <Sheet label="new bill" form onclose={() => to({})}><BillForm ondone={(id) => to({ bill: String(id) })} /></Sheet>
  {:else if driver && week}
    <Sheet label="settlement" wide onclose={() => to({})}><SettlementSheet {week} onchanged={load} /></Sheet>
  {:else if billId}
    <Sheet label="bill" onclose={() => to({})}><BillSheet id={billId} onchanged={load} /></Sheet>
  {:else if expense}
    <Sheet label="trip expense" wide onclose={() => to({})}><ExpenseSheet id={expense} /></Sheet>
  {:else if leg}
    <Sheet label="new bill" onclose={() => to({})}>
      {@const found = awaited.find((l) => l.legId === leg)}
      {#if found}<BillForm leg={found} ondone={(id) => to({ bill: String(id) })} />{/if}
    </Sheet>
  {/if}
</div>
