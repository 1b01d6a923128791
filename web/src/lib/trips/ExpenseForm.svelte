<script lang="ts">
  import { api, sendFile, take, type Money, type Schemas } from '$lib/api/client';
  import { findVendors } from '$lib/companies/find';
  import { chart } from '$lib/ledger/accounts.svelte';
  import { said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { options } from '$lib/words';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import { expenseLabels, isFuel, paidByLabels, soldIn, thirdFigure, typedNumber } from './expenses';

  /** Enters an expense on a trip. Of gallons, price and amount, two are enough. */
  interface Props {
    sheet: Schemas['TripSheet'];
    ondone: () => Promise<void>;
    oncancel: () => void;
  }
  let { sheet, ondone, oncancel }: Props = $props();
  type Vendor = Pick<Schemas['CompanyRow'], 'id' | 'name' | 'town'>;
  let kind = $state<Schemas['CostKind']>('fuel');
  let paidBy = $state<Schemas['PaidBy']>('company_card');
  let on = $state(session.today);
  let place = $state('');
  let region = $state('');
  let quantity = $state('');
  let price = $state('');
  let amount = $state<Money | null>(null);
  let driver = $state('');
  let vendor = $state<Vendor | null>(null);
  let reference = $state('');
  let load = $state('');
  let bears = $state('');
  let account = $state('');
  let note = $state('');
  let receipt = $state<File | null>(null);
  const attempt = new Attempt();
  const sold = $derived(soldIn(region));
  const fuel = $derived(isFuel(kind));
  const team = $derived(sheet.drivers.length > 1);
  const third = $derived(fuel ? thirdFigure(typedNumber(quantity), typedNumber(price), amount, sold.unit) : '');
  // The usual account of its kind is taken unless it cannot be.
  const asksAccount = $derived(!!account || !!attempt.at('account'));
  $effect(() => {
    if (asksAccount) chart.read().catch(showError);
  });
  const send = () =>
    attempt.run(async (money) => {
      const made = await take(
        api.POST('/api/trips/{id}/expenses', {
          params: { path: { id: sheet.trip.id } },
          body: {
            kind,
            on: on || null,
            amount,
            paidBy,
            place: place || null,
            region: region || null,
            quantity: fuel ? typedNumber(quantity) : null,
            unit: fuel ? sold.unit : null,
            price: fuel ? typedNumber(price) : null,
            driverId: Number(driver) || null,
            vendorId: paidBy === 'on_account' ? (vendor?.id ?? null) : null,
            reference: reference || null,
            loadId: Number(load) || null,
            chargeBack: bears ? bears === 'driver' : null,
            account: account || null,
            note: note || null,
          },
          headers: money,
        }),
      );
      if (receipt)
        await sendFile(`/api/expenses/${made.id}/receipt?name=${encodeURIComponent(receipt.name)}`, receipt).catch(
          showError,
        );
      showDone(
        `${expenseLabels[made.kind]}, ${said(made.amount)}, ${made.state === 'approved' ? 'entered' : 'reported'} on trip ${made.trip}.`,
        () => take(api.POST('/api/expenses/{id}/remove', { params: { path: { id: made.id } } })).then(ondone),
      );
      await ondone();
    });
</script>

<InnerForm {attempt} action="Enter expense" onact={send} {oncancel}>
  <div class="grid grid-cols-4 gap-x-3 gap-y-2" role="group" aria-label="Expense on trip {sheet.trip.number}">
    <Choice label="Expense" bind:value={kind} problem={attempt.at('kind')} options={options(expenseLabels)} />
    <DateField label="Date" bind:value={on} problem={attempt.at('on')} />
    <TextField label="Paid to" bind:value={place} maxlength={120} problem={attempt.at('place')} />
    <TextField
      label="State or province"
      required={fuel}
      bind:value={region}
      maxlength={2}
      placeholder="OR"
      problem={attempt.at('region')}
    />
    {#if fuel}
      <TextField
        label={sold.unit === 'liters' ? 'Liters' : 'Gallons'}
        required={!typedNumber(price) || !amount}
        inputmode="decimal"
        bind:value={quantity}
        problem={attempt.at('quantity')}
      />
      <TextField
        label="Price per {sold.unit.slice(0, -1)}"
        inputmode="decimal"
        bind:value={price}
        problem={attempt.at('price')}
      />
    {/if}
    <MoneyField
      label="Amount"
      required={!fuel || !typedNumber(quantity) || !typedNumber(price)}
      currency={sold.currency}
      bind:value={amount}
      hint={third}
      problem={attempt.at('amount')}
    />
    <Choice label="Paid by" bind:value={paidBy} problem={attempt.at('paidBy')} options={options(paidByLabels)} />
    {#if paidBy === 'on_account'}
      <Picker
        label="Vendor"
        required
        bind:value={vendor}
        find={findVendors}
        name={(c) => c.name}
        detail={(c) => c.town ?? ''}
        key={(c) => c.id}
        problem={attempt.at('vendorId')}
      />
    {/if}
    <TextField
      label={paidBy === 'on_account' ? 'Invoice number' : 'Receipt number'}
      required={paidBy === 'on_account'}
      bind:value={reference}
      maxlength={60}
      problem={attempt.at('reference')}
    />
    {#if team || attempt.at('driverId')}
      <Choice
        label="Driver"
        bind:value={driver}
        problem={attempt.at('driverId')}
        options={sheet.drivers.map((d, i) => ({ value: i ? String(d.driverId) : '', label: d.name }))}
      />
    {/if}
    {#if sheet.loads.length > 1 || attempt.at('loadId')}
      <Choice
        label="For"
        bind:value={load}
        problem={attempt.at('loadId')}
        options={[
          { value: '', label: 'All loads, by miles' },
          ...sheet.loads.map((l) => ({ value: String(l.loadId), label: l.load })),
        ]}
      />
    {/if}
    {#if sheet.trip.isLeased || attempt.at('chargeBack')}
      <Choice
        label="Cost to"
        bind:value={bears}
        problem={attempt.at('chargeBack')}
        options={[
          { value: '', label: 'As the lease says' },
          { value: 'driver', label: 'Owner-operator' },
          { value: 'company', label: 'Company' },
        ]}
      />
    {/if}
    {#if asksAccount}
      <Choice
        class="col-span-2"
        label="Account"
        bind:value={account}
        problem={attempt.at('account')}
        options={[{ value: '', label: 'The usual one' }, ...chart.options(['expense', 'asset'])]}
      />
    {/if}
    <TextField class="col-span-2" label="Note" bind:value={note} maxlength={200} problem={attempt.at('note')} />
    <label class="col-span-2 flex flex-col gap-0.5 text-sm">
      <span class="text-mute">Receipt (PDF or photo)</span>
      <input
        class="text-sm"
        type="file"
        accept="image/*,application/pdf"
        onchange={(e) => (receipt = e.currentTarget.files?.[0] ?? null)}
      />
    </label>
  </div>
</InnerForm>
