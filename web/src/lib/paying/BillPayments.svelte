<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { methodLabels, methodNames } from '$lib/loads/labels';
  import { cents, figure, fromCents, said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDay } from '$lib/time/when';
  import { options } from '$lib/words';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Notice from '$ui/Notice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import DebitMemoForm from './DebitMemoForm.svelte';

  /** What was paid of an approved bill, and paying the rest. */
  interface Props {
    view: Schemas['BillView'];
    onchanged: () => Promise<void>;
    onunapprove: () => void;
  }
  let { view, onchanged, onunapprove }: Props = $props();
  const bill = $derived(view.bill);
  const open = $derived(
    fromCents(cents(bill.approved) - cents(bill.paid) - cents(bill.quickPayDiscount), bill.amount?.currency),
  );
  let amount = $derived<Money | null>(open);
  // svelte-ignore state_referenced_locally
  let method = $state(view.bill.amount?.currency === 'CAD' ? 'wire' : 'ach');
  let reference = $state('');
  let deducting = $state(false);
  const attempt = new Attempt();
  const standing = $derived(view.payments.filter((p) => !p.reversedAt));

  const reverse = (id: number, key: Record<string, string>) =>
    take(api.POST('/api/vendor-payments/{id}/reverse', { params: { path: { id } }, headers: key as never }));
  const undo = (id: number) =>
    attempt.run(async (money) => {
      await reverse(id, money);
      showDone(`Payment to ${bill.vendor} reversed.`);
      await onchanged();
    });
  const pay = () =>
    attempt.run(async (money) => {
      const batch = await take(
        api.POST('/api/vendor-payments', {
          body: {
            bills: [{ billId: bill.id, amount: amount && cents(amount) !== cents(open) ? amount : null }],
            paidOn: null,
            method,
            reference: reference || null,
            advise: true,
          },
          headers: money,
        }),
      );
      const made = batch.payments[0];
      showDone(`${said(made.amount)} paid to ${made.payee} for bill ${bill.number}.`, () => undo(made.id));
      await onchanged();
    });
</script>

{#if view.payments.length}
  <Part title={bill.paidOn ? 'Paid' : 'Payments'}>
    <dl class="grid grid-cols-[1fr_auto] gap-y-1 text-sm">
      {#each view.payments as p (p.id)}
        {@const part = p.bills.find((b) => b.billId === bill.id)!}
        <dt class={p.reversedAt ? 'text-mute line-through' : bill.paidOn ? 'text-moss-word font-bold' : ''}>
          {formatDay(p.paidOn)} by {methodNames[p.method]}
          {p.reference ?? ''}{p.payee === bill.vendor ? '' : ` to ${p.payee}`}
          <span class="text-mute font-normal"
            >{[
              p.paidBy,
              p.bills.length > 1 && `with ${p.bills.length - 1} more`,
              p.adviceTo && `remittance advice to ${p.adviceTo}`,
            ]
              .filter(Boolean)
              .join(', ')}</span
          >
          {#if !p.reversedAt && session.may('paying.pay')}<button
              class="text-lark ml-1 font-normal hover:underline"
              onclick={() => undo(p.id)}>Reverse payment</button
            >{/if}
        </dt>
        <dd class="fig text-right {p.reversedAt ? 'text-mute line-through' : ''}">{figure(part.amount)}</dd>
        {#if cents(part.discount) > 0}
          <dt class="text-mute">Quick-pay discount</dt>
          <dd class="fig text-mute text-right">{figure(part.discount)}</dd>
        {/if}
      {/each}
    </dl>
    {#if bill.paidOn && attempt.refused}<Notice>{attempt.refused.message}</Notice>{/if}
  </Part>
{/if}
{#if !bill.paidOn}
  <Part title="Pay">
    {#if view.hold}<div class="mb-3"><Notice title="On hold">{view.hold}</Notice></div>{/if}
    {#if session.current?.twoPeople && session.current?.userId === bill.approvedById}<p class="text-mute text-sm">
        You approved this bill; another person must pay it by {formatDay(bill.dueOn)}.
      </p>
    {:else if session.may('paying.pay') && !view.hold}
      <div data-form class="flex flex-col gap-3">
        <div class="grid grid-cols-3 gap-3">
          <MoneyField
            label="Amount"
            bind:value={amount}
            problem={attempt.at('bills[0].amount')}
            hint={cents(bill.quickPayDiscount) > 0 ? `less ${said(bill.quickPayDiscount)} for quick pay` : undefined}
          />
          <Choice label="Method" bind:value={method} options={options(methodLabels)} />
          <TextField label="Reference" bind:value={reference} maxlength={80} />
        </div>
        {#if attempt.refused?.general}<Notice>{attempt.refused.general}</Notice>{/if}
        <div>
          <Button look="main" data-main busy={attempt.busy} onclick={pay}>Pay {bill.vendor} {figure(amount)}</Button>
        </div>
      </div>
    {:else if !view.hold}<p class="text-mute text-sm">Due {formatDay(bill.dueOn)}, not paid yet.</p>{/if}
    {#if deducting}
      <DebitMemoForm
        {bill}
        ondone={() => {
          deducting = false;
          void onchanged();
        }}
        oncancel={() => (deducting = false)}
      />
    {/if}
    {#if session.may('paying.approve')}
      <p class="mt-2 flex gap-4 text-sm">
        <button class="text-lark hover:underline" onclick={() => (deducting = true)}>Debit memo</button>
        {#if standing.length === 0}<button class="text-lark hover:underline" onclick={onunapprove}
            >Reverse approval</button
          >{/if}
      </p>
    {/if}
  </Part>
{/if}
