<script lang="ts">
  import { untrack } from 'svelte';
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { methodLabels } from '$lib/loads/labels';
  import { cents, figure, sum, sums } from '$lib/money';
  import { live } from '$lib/state/live.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import Notice from '$ui/Notice.svelte';
  import TextField from '$ui/TextField.svelte';
  import { takesFocus } from '$ui/forms';
  import PayRunBill from './PayRunBill.svelte';

  /** Pays several bills at once: one check or ACH credit for each payee. */
  let { onchanged }: { onchanged: () => void } = $props();
  type Bill = Schemas['PayableBill'];
  let bills = $state<Bill[] | null>(null);
  let chosen = $state<Record<number, boolean>>({});
  let amounts = $state<Record<number, Money | null>>({});
  let through = $state(session.today);
  let on = $state(session.today);
  let method = $state('ach');
  let reference = $state('');
  let advise = $state(true);
  let paid = $state<Schemas['PaymentBatchView'] | null>(null);
  const attempt = new Attempt();

  /** Why this user cannot pay it now. */
  const blocked = (b: Bill) =>
    b.hold ??
    (session.current?.twoPeople && b.approvedById === session.current.userId
      ? 'You approved it, so another person must pay it.'
      : null);
  function choose() {
    chosen = Object.fromEntries((bills ?? []).map((b) => [b.id, !blocked(b) && b.dueOn <= through]));
  }
  async function load(first = false) {
    try {
      bills = await take(api.GET('/api/bills/payable'));
      if (first) choose();
    } catch (e) {
      showError(e);
    }
  }
  $effect(() => {
    void load(true);
    return live.follow(() => load(), ['bills']);
  });
  $effect(() => {
    void through;
    untrack(choose);
  });
  const due = $derived((bills ?? []).filter((b) => b.dueOn <= through));
  const payees = $derived([...new Set(due.map((b) => b.payee))]);
  const picked = $derived(due.filter((b) => chosen[b.id]));
  const total = $derived(sum(picked.map((b) => amounts[b.id] ?? b.open)));
  const count = $derived(new Set(picked.map((b) => `${b.vendorId} ${b.payee}`)).size);
  const pay = () =>
    attempt.run(async (money) => {
      paid = await take(
        api.POST('/api/vendor-payments', {
          body: {
            bills: picked.map((b) => ({ billId: b.id, amount: amounts[b.id] ?? null })),
            paidOn: on || null,
            method,
            reference: reference || null,
            advise,
          },
          headers: money,
        }),
      );
      amounts = {};
      showDone(`${paid.payments.length} ${paid.payments.length === 1 ? 'payment' : 'payments'} recorded.`);
      await load(true);
      onchanged();
    });
</script>

<div class="px-5 pt-4 pb-8" data-form use:takesFocus>
  <h2 class="pr-8 text-lg font-bold">Pay bills</h2>
  {#if paid}
    <div class="mt-3">
      <Notice
        urgency="done"
        title="Paid {formatDay(paid.payments[0].paidOn)} by {methodLabels[paid.payments[0].method]}"
      >
        <ul>
          {#each paid.payments as p (p.id)}
            <li class="flex justify-between gap-3">
              <span class="truncate"
                >{p.payee}, {p.bills.map((b) => b.number).join(', ')}{p.reference
                  ? `, ${methodLabels[p.method]} ${p.reference}`
                  : ''}{p.adviceTo ? ` · remittance advice to ${p.adviceTo}` : ''}</span
              ><span class="fig">{figure(p.amount)}</span>
            </li>
          {/each}
        </ul>
        {#if paid.payments[0].method === 'ach'}<a
            class="text-lark font-bold hover:underline"
            href="/api/payment-batches/{paid.id}/ach">ACH file for the bank</a
          >{/if}
      </Notice>
    </div>
  {/if}
  <div class="mt-3 grid grid-cols-4 gap-3">
    <DateField label="Due through" bind:value={through} />
    <Choice label="Method" bind:value={method} options={options(methodLabels)} problem={attempt.at('method')} />
    <DateField label="Paid on" bind:value={on} problem={attempt.at('paidOn')} />
    <TextField
      label={method === 'check' ? 'First check number' : 'Reference'}
      bind:value={reference}
      maxlength={80}
      problem={attempt.at('reference')}
    />
  </div>
  {#if bills === null}<p class="text-mute mt-4" role="status">Loading …</p>
  {:else if due.length === 0}<p class="text-mute mt-4">
      {bills.length === 0
        ? 'No approved bills wait for payment.'
        : `Nothing is due through ${formatDay(through)}; ${bills.length} approved bills are due later.`}
    </p>
  {:else}
    <div class="mt-4" role="group" aria-label="Bills to pay">
      {#each payees as payee (payee)}
        {@const own = due.filter((b) => b.payee === payee)}
        {@const vendor = own[0].vendor}
        <h3 class="border-line flex justify-between border-b py-1 text-sm font-bold">
          <span>{payee}{vendor === payee ? '' : `, for ${vendor}`}</span>
          <span class="fig">{sums(own.filter((b) => chosen[b.id]).map((b) => amounts[b.id] ?? b.open))}</span>
        </h3>
        {#each own as b (b.id)}
          <PayRunBill
            bill={b}
            bind:chosen={chosen[b.id]}
            bind:amount={amounts[b.id]}
            blocked={blocked(b)}
            problem={attempt.at(`bills[${picked.indexOf(b)}].amount`)}
          />
        {/each}
      {/each}
    </div>
  {/if}
  {#if attempt.refused?.general}<div class="mt-3"><Notice>{attempt.refused.general}</Notice></div>{/if}
  {#if due.length}
    <div class="mt-4 flex items-center gap-3">
      <Button look="main" data-main busy={attempt.busy} disabled={cents(total) === 0} onclick={pay}
        >Pay {count} {count === 1 ? 'vendor' : 'vendors'} {sums(picked.map((b) => amounts[b.id] ?? b.open))}</Button
      >
      <span class="text-mute text-sm">{picked.length} {picked.length === 1 ? 'bill' : 'bills'}</span>
      <label class="ml-auto flex items-center gap-2 text-sm"
        ><input type="checkbox" bind:checked={advise} />Email remittance advice</label
      >
    </div>
  {/if}
</div>
