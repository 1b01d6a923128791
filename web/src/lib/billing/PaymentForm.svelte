<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, moneyKey, take, type Money, type Schemas } from '$lib/api/client';
  import { findCustomers } from '$lib/companies/find';
  import { methodLabels } from '$lib/loads/labels';
  import { cents, figure, fromCents, said, sum } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { formatDate } from '$lib/time/when';
  import { options } from '$lib/words';
  import { inCurrency } from '$ui/currency';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Picker from '$ui/Picker.svelte';
  import Select from '$ui/Select.svelte';
  import TextField from '$ui/TextField.svelte';
  import DateField from '$ui/DateField.svelte';
  import { shortPayOptions } from './kinds';

  let { customerId = null, ondone }: { customerId?: number | null; ondone: () => void } = $props();
  type Company = Pick<Schemas['CompanyRow'], 'id' | 'name' | 'town' | 'currency'>;
  let customer = $state<Company | null>(null);
  inCurrency(() => customer?.currency);
  let invoices = $state<Schemas['InvoiceRow'][]>([]);
  let parts = $state<Record<number, Money | null>>({});
  /** A short pay: what becomes of the rest, and why. */
  let shorts = $state<Record<number, { reason: string; kind: string }>>({});
  const kinds = [{ value: 'open', label: 'leave open' }, ...shortPayOptions];
  let amount = $state<Money | null>(null);
  let method = $state('check');
  let reference = $state('');
  let on = $state(session.today);
  const attempt = new Attempt();
  const draft = new Draft(
    () => `payment ${customerId ?? ''}`,
    () => ({ customer, amount, method, reference, on }),
    (v) => {
      ({ customer, amount, method, reference, on } = v);
    },
  );

  $effect(() => {
    if (customerId)
      take(api.GET('/api/companies/{id}', { params: { path: { id: customerId } } }))
        .then((v) => choose(v.company))
        .catch(showError);
  });
  async function choose(c: Company | null) {
    customer = c;
    parts = {};
    shorts = {};
    invoices = c
      ? (await take(api.GET('/api/invoices', { params: { query: { open: true, customerId: c.id, limit: 200 } } }))).rows
      : [];
    spread();
  }
  /** Oldest due first, each up to its open amount; editable. */
  function spread() {
    let left = cents(amount);
    for (const i of invoices) {
      const part = Math.min(left, cents(i.open));
      parts[i.id] = part > 0 ? fromCents(part, i.open?.currency) : null;
      left -= part;
    }
  }
  let spreadFor = '';
  $effect(() => {
    const now = amount?.amount ?? '';
    if (now !== spreadFor) {
      spreadFor = now;
      spread();
    }
  });
  const shortOf = (i: Schemas['InvoiceRow']) => cents(i.open) - cents(parts[i.id]);
  const kindOf = (i: Schemas['InvoiceRow']) => {
    const kind = shorts[i.id]?.kind ?? 'open';
    return shortOf(i) > 0 && kind !== 'open' ? (kind as Schemas['ShortPayReason']) : null;
  };
  const applied = $derived(sum(Object.values(parts)));
  const left = $derived(fromCents(cents(amount) - cents(applied), amount?.currency));

  const wrongShort = (n: number) =>
    ['reason', 'kind', 'writeOff'].map((f) => attempt.at(`applications[${n}].${f}`)).find(Boolean);

  async function send() {
    await attempt.run(async (money) => {
      const done = await take(
        api.POST('/api/payments', {
          body: {
            customerId: customer?.id ?? null,
            receivedOn: on || null,
            method,
            reference: reference || null,
            amount,
            applications: invoices
              .filter((i) => parts[i.id] && cents(parts[i.id]) > 0)
              .map((i) => ({
                invoiceId: i.id,
                amount: parts[i.id],
                writeOff: kindOf(i) ? fromCents(shortOf(i), i.open?.currency) : undefined,
                kind: kindOf(i),
                reason: shorts[i.id]?.reason || null,
              })),
          },
          headers: money,
        }),
      );
      showDone(`Payment of ${said(done.amount)} from ${done.customer} recorded.`, () =>
        take(api.POST('/api/payments/{id}/reverse', { params: { path: { id: done.id } }, headers: moneyKey() })),
      );
      draft.done();
      ondone();
    });
  }
</script>

<form
  class="flex flex-col gap-3 p-5"
  onsubmit={(e) => {
    e.preventDefault();
    void send();
  }}
>
  <DraftNotice {draft} />
  <h2 class="pr-8 text-lg font-bold">Record payment</h2>
  <Picker
    label="From"
    required
    bind:value={customer}
    find={findCustomers}
    name={(c) => c.name}
    detail={(c) => c.town ?? ''}
    key={(c) => c.id}
    problem={attempt.at('customerId')}
    onchosen={(c) => void choose(c)}
  />
  <div class="grid grid-cols-2 gap-3">
    <MoneyField label="Amount" required bind:value={amount} problem={attempt.at('amount')} />
    <DateField label="Received" bind:value={on} problem={attempt.at('receivedOn')} />
    <Choice label="Method" bind:value={method} problem={attempt.at('method')} options={options(methodLabels)} />
    <TextField
      label={method === 'check' ? 'Check number' : 'Reference'}
      bind:value={reference}
      maxlength={80}
      problem={attempt.at('reference')}
    />
  </div>
  {#if invoices.length > 0}
    <div>
      <h3 class="text-mute mb-1 text-sm font-bold">Apply to invoices</h3>
      {#each invoices as i, n (i.id)}
        <div class="border-line grid grid-cols-[1fr_130px] items-center gap-3 border-b py-1">
          <span class="min-w-0"
            ><span class="fig font-bold">{i.number}</span>
            <span class="text-mute text-sm">due {formatDate(i.dueOn)}, {figure(i.open)} open</span></span
          >
          <MoneyField
            label="Applied to {i.number}"
            bind:value={parts[i.id]}
            problem={attempt.at(`applications[${n}].amount`)}
          />
          {#if parts[i.id] && shortOf(i) > 0}
            <div class="col-span-2 flex items-center gap-2 pb-1 text-sm">
              <span class="text-marigold-word whitespace-nowrap"
                >{figure(fromCents(shortOf(i), i.open?.currency))} short</span
              >
              <input
                class="border-line bg-panel h-7 min-w-0 flex-1 rounded-md border px-2"
                placeholder="Reason"
                aria-label="Short pay reason for {i.number}"
                maxlength="200"
                value={shorts[i.id]?.reason ?? ''}
                oninput={(e) => (shorts[i.id] = { kind: shorts[i.id]?.kind ?? 'open', reason: e.currentTarget.value })}
              />
              <Select
                class="h-7 w-32"
                label="The rest of {i.number}"
                value={shorts[i.id]?.kind ?? 'open'}
                options={kinds}
                onchange={(kind: string) => (shorts[i.id] = { kind, reason: shorts[i.id]?.reason ?? '' })}
              />
            </div>
            {#if wrongShort(n)}<p class="text-ember-word col-span-2 text-sm" role="alert">{wrongShort(n)}</p>{/if}
          {/if}
        </div>
      {/each}
      <p class="mt-2 flex justify-between text-sm">
        <span class={cents(left) < 0 ? 'text-ember-word' : 'text-mute'}
          >{cents(left) < 0 ? 'Applied amounts exceed the payment' : cents(left) > 0 ? 'Unapplied credit' : ''}</span
        >
        <span class="fig">{cents(left) ? figure(left) : ''}</span>
      </p>
    </div>
  {:else if customer}
    <p class="text-mute text-sm">{customer.name} has no open invoices: the payment is kept as an unapplied credit.</p>
  {/if}
  {#if attempt.refused?.problems.some((p) => !p.field || p.field.startsWith('applications'))}<p
      class="text-ember-word text-sm"
      role="alert"
    >
      {attempt.refused.message}
    </p>{/if}
  <div>
    <Button look="main" type="submit" busy={attempt.busy} disabled={!customer || !amount || cents(left) < 0}
      >Record {said(amount) || 'payment'}{customer ? ` from ${customer.name}` : ''}</Button
    >
  </div>
</form>
