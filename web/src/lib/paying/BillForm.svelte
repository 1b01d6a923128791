<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, moneyKey, sendBillDocument, take, type Money, type Schemas } from '$lib/api/client';
  import { findVendors } from '$lib/companies/find';
  import CompanyForm from '$lib/companies/CompanyForm.svelte';
  import { chart } from '$lib/ledger/accounts.svelte';
  import { methodLabels } from '$lib/loads/labels';
  import { cents, figure, fromCents, said, sum } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { options as optionsOf } from '$lib/words';
  import { inCurrency } from '$ui/currency';
  import { taxedLines } from './bills';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import DateField from '$ui/DateField.svelte';

  /** A carrier's bill for a leg, or any vendor's bill by line; payable, or an expense already paid. */
  let { leg = null, ondone }: { leg?: Schemas['UnbilledLeg'] | null; ondone: (id: number) => void } = $props();
  type Vendor = Pick<Schemas['CompanyRow'], 'id' | 'name' | 'town' | 'payDays' | 'currency'>;
  type Line = { id: number; account: string; description: string; amount: Money | null };
  let vendor = $state<Vendor | null>(null);
  inCurrency(() => leg?.agreed?.currency ?? vendor?.currency);
  let making = $state<string | null>(null);
  let number = $state('');
  let on = $state(session.today);
  let due = $state('');
  let amount = $state<Money | null>(null);
  let note = $state('');
  /** GST or HST within a carrier’s bill: owed on top of what was agreed. */
  let tax = $state<Money | null>(null);
  let spent = $state(false);
  let method = $state('card');
  let reference = $state('');
  let files = $state<File[]>([]);
  let count = 1;
  let lines = $state<Line[]>([{ id: 0, account: '', description: '', amount: null }]);
  const attempt = new Attempt();
  const draft = new Draft(
    () => (leg ? `bill ${leg.legId}` : 'bill'),
    () => ({ vendor, number, on, due, amount, tax, note, spent, method, reference, lines }),
    (v) => {
      ({ vendor, number, on, due, amount, tax = null, note, spent, method, reference, lines } = v);
      count = 1 + Math.max(count, ...lines.map((l) => l.id));
    },
  );
  const difference = $derived(leg && amount ? cents(amount) - cents(tax) - cents(leg.agreed) : 0);
  const rest = $derived(cents(amount) - cents(sum(lines.map((l) => l.amount))));
  $effect(() => {
    if (!leg) chart.read().catch(showError);
  });
  const options = $derived([{ value: '', label: 'Choose' }, ...chart.options(['expense', 'asset', 'liability'])]);

  async function send() {
    await attempt.run(async (money) => {
      const bill = await take(
        api.POST('/api/bills', {
          body: {
            legId: leg?.legId ?? null,
            vendorId: leg ? null : (vendor?.id ?? null),
            number,
            billedOn: on || null,
            dueOn: due || undefined,
            amount,
            // A single line takes the whole amount unless another is entered.
            lines: leg
              ? taxedLines(amount, tax, leg.loadId)
              : lines.map((l) => ({
                  account: l.account || null,
                  description: l.description || null,
                  amount: lines.length === 1 ? (l.amount ?? amount) : l.amount,
                  loadId: null,
                  truckId: null,
                  driverId: null,
                })),
            spent: spent ? { paidOn: on || null, method, reference: reference || null } : null,
            note: note || null,
          },
          headers: money,
        }),
      );
      for (const file of files) await sendBillDocument(bill.id, file).catch(showError);
      showDone(
        spent
          ? `Expense of ${said(bill.amount)} at ${bill.vendor} recorded.`
          : `Bill ${bill.number} from ${bill.vendor} entered.`,
        () => take(api.POST('/api/bills/{id}/void', { params: { path: { id: bill.id } }, headers: moneyKey() })),
      );
      draft.done();
      ondone(bill.id);
    });
  }
  const isReady = $derived(!!number.trim() && !!amount && (!!leg || (!!vendor && (lines.length === 1 || rest === 0))));
</script>

<form
  class="flex flex-col gap-3 p-5"
  onsubmit={(e) => {
    e.preventDefault();
    void send();
  }}
>
  <DraftNotice {draft} />
  {#if leg}
    <div class="pr-8">
      <h2 class="text-lg font-bold">{leg.carrier}</h2>
      <p class="text-mute text-sm">
        load <a class="text-lark hover:underline" href="/load/{leg.loadId}">{leg.loadNumber}</a>, {leg.lane}, agreed {figure(
          leg.agreed,
        )}
      </p>
    </div>
  {:else}
    <h2 class="pr-8 text-lg font-bold">Bill</h2>
    {#if making !== null}
      <CompanyForm
        kind="vendor"
        name={making}
        oncancel={() => (making = null)}
        onmade={(c) => {
          vendor = c;
          making = null;
        }}
      />
    {:else}
      <Picker
        label="From"
        required
        bind:value={vendor}
        find={findVendors}
        name={(c) => c.name}
        detail={(c) => c.town ?? ''}
        key={(c) => c.id}
        problem={attempt.at('vendorId')}
        create={(typed) => (making = typed)}
        createLabel="New vendor"
      />
    {/if}
  {/if}
  {#if session.may('paying.enter')}
    <div class="grid grid-cols-2 gap-3">
      <TextField label="Bill number" required bind:value={number} maxlength={60} problem={attempt.at('number')} />
      <MoneyField label="Amount billed" required bind:value={amount} problem={attempt.at('amount')} />
      <DateField label="Bill date" bind:value={on} problem={attempt.at('billedOn')} />
      {#if !spent}<DateField
          label="Due"
          bind:value={due}
          problem={attempt.at('dueOn')}
          hint={vendor ? `Leave empty for net ${vendor.payDays}` : 'Leave empty to use the vendor terms'}
        />{/if}
    </div>
    {#if leg && (leg.agreed?.currency === 'CAD' || tax)}
      <MoneyField
        label="GST/HST in this amount"
        bind:value={tax}
        hint="Owed on top of the agreed amount"
        problem={attempt.at('lines') ?? attempt.at('lines[1].amount')}
      />
    {/if}
    {#if leg && amount && difference !== 0}
      <p class="text-sm {difference > 0 ? 'text-ember-word font-bold' : 'text-mute'}">
        {figure(fromCents(Math.abs(difference), amount?.currency))}
        {difference > 0 ? 'over' : 'under'} the agreed amount
      </p>
    {/if}
    {#if !leg}
      <fieldset class="flex flex-col gap-2">
        <legend class="text-mute mb-1 text-sm font-bold">Accounts</legend>
        {#each lines as line, n (line.id)}
          <div class="grid grid-cols-[1.3fr_1fr_110px_28px] items-end gap-2">
            <Choice
              label="Account"
              required
              bind:value={line.account}
              {options}
              problem={attempt.at(`lines[${n}].account`)}
            />
            <TextField
              label="Description"
              bind:value={line.description}
              maxlength={120}
              problem={attempt.at(`lines[${n}].description`)}
            />
            {#if lines.length > 1}
              <MoneyField label="Amount" bind:value={line.amount} problem={attempt.at(`lines[${n}].amount`)} />
              <button
                type="button"
                class="text-mute hover:text-ink h-9"
                aria-label="Remove line {n + 1}"
                onclick={() => (lines = lines.filter((l) => l !== line))}>×</button
              >
            {/if}
          </div>
        {/each}
        <div class="flex items-center justify-between">
          <Button
            small
            look="quiet"
            onclick={() => {
              if (lines.length === 1 && !lines[0].amount) lines[0].amount = amount;
              lines.push({ id: count++, account: '', description: '', amount: null });
            }}>Add line</Button
          >
          {#if lines.length > 1 && amount && rest !== 0}<span class="text-marigold-word text-sm"
              >{figure(fromCents(Math.abs(rest), amount?.currency))}
              {rest > 0 ? 'not allocated' : 'over-allocated'}</span
            >{/if}
        </div>
        {#if attempt.at('lines')}<p class="text-ember-word text-sm" role="alert">{attempt.at('lines')}</p>{/if}
      </fieldset>
      <TextField label="Note" bind:value={note} maxlength={400} problem={attempt.at('note')} />
    {/if}
    <label class="flex items-center gap-2 text-sm"
      ><input type="checkbox" bind:checked={spent} />Already paid: record as an expense</label
    >
    {#if spent}
      <div class="grid grid-cols-2 gap-3">
        <Choice
          label="Method"
          bind:value={method}
          problem={attempt.at('spent.method')}
          options={optionsOf(methodLabels)}
        />
        <TextField label="Reference" bind:value={reference} maxlength={80} problem={attempt.at('spent.reference')} />
      </div>
    {/if}
    <label class="text-sm"
      ><span class="text-mute">Bill image, PDF or photo</span>
      <input
        type="file"
        multiple
        class="mt-1 block w-full text-sm"
        accept="application/pdf,image/jpeg,image/png"
        onchange={(e) => (files = [...(e.currentTarget.files ?? [])])}
      /></label
    >
    {#if attempt.refused && (attempt.refused.general || attempt.at('legId') || attempt.at('spent.paidOn'))}<p
        class="text-ember-word text-sm"
        role="alert"
      >
        {attempt.refused.message}
      </p>{/if}
    <div>
      <Button look="main" type="submit" busy={attempt.busy} disabled={!isReady}
        >{spent ? 'Record expense of' : 'Enter bill for'} {said(amount) || '…'}</Button
      >
    </div>
  {:else}<p class="text-mute text-sm">Waiting for the carrier bill.</p>{/if}
</form>
