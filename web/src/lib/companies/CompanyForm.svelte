<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { session } from '$lib/state/session.svelte';
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import { takesFocus } from '$ui/forms';
  import CarrierFields from './CarrierFields.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  type Company = Schemas['CompanyRow'];
  interface Props {
    /** The company to edit; a new one when omitted. */
    edit?: Company | null;
    name?: string;
    kind?: 'customer' | 'carrier' | 'vendor';
    onmade: (company: Company) => void;
    oncancel?: () => void;
  }
  let { edit = null, name = '', kind = 'customer', onmade, oncancel }: Props = $props();

  const blank = () => ({
    name: edit?.name ?? name,
    phone: edit?.phone ?? '',
    email: edit?.email ?? '',
    address: edit?.address ?? '',
    town: edit?.town ?? '',
    region: edit?.region ?? '',
    terms: String(edit?.termsDays ?? 30),
    isCustomer: edit?.isCustomer ?? kind === 'customer',
    isCarrier: edit?.isCarrier ?? kind === 'carrier',
    isVendor: edit?.isVendor ?? kind === 'vendor',
    usdot: edit?.carrier?.usdot ?? '',
    authority: edit?.carrier?.authorityActive ? 'yes' : 'no',
    liability: edit?.carrier?.liabilityUntil ?? '',
    cargo: edit?.carrier?.cargoUntil ?? '',
    liabilityLimit: edit?.carrier?.liability ?? null,
    cargoLimit: edit?.carrier?.cargo ?? null,
    safety: edit?.carrier?.safety ?? 'none',
    agreement: edit?.carrier?.agreementOn ?? '',
    payDays: String(edit?.payDays ?? 30),
    doNotUse: edit?.carrier?.doNotUse ?? '',
    quickPay: edit?.quickPayPercent ? String(edit.quickPayPercent) : '',
    quickDays: String(edit?.quickPayDays ?? 1),
    whenPaid: edit?.payWhenPaid ? 'yes' : 'no',
    limit: edit?.creditLimit ?? null,
    currency: edit?.currency ?? 'USD',
  });
  let f = $state(blank());
  $effect(() => {
    void edit?.id;
    void edit?.version;
    f = blank();
  });
  const attempt = new Attempt();
  const draft = new Draft(
    () => (edit ? `company ${edit.id}` : `new ${kind}`),
    () => f,
    (v) => (f = v),
  );

  async function save() {
    const body: Schemas['CompanyRequest'] = {
      name: f.name,
      phone: f.phone || null,
      email: f.email || null,
      address: f.address || null,
      town: f.town || null,
      region: f.region || null,
      isCustomer: f.isCustomer,
      isCarrier: f.isCarrier,
      isVendor: f.isVendor,
      payDays: Number(f.payDays) || 0,
      termsDays: Number(f.terms) || 0,
      note: edit?.note ?? null,
      version: edit?.version ?? null,
      quickPayPercent: f.quickPay.trim() ? Number(f.quickPay.replace('%', '')) : null,
      quickPayDays: Number(f.quickDays) || 0,
      payWhenPaid: f.whenPaid === 'yes',
      currency: f.currency,
      creditLimit: f.limit ?? undefined,
      carrier: f.isCarrier
        ? {
            usdot: f.usdot || null,
            authorityActive: f.authority === 'yes',
            liabilityUntil: f.liability || null,
            cargoUntil: f.cargo || null,
            doNotUse: f.doNotUse || null,
            liability: f.liabilityLimit ?? undefined,
            cargo: f.cargoLimit ?? undefined,
            safety: f.safety as Schemas['SafetyRating'],
            agreementOn: f.agreement || undefined,
          }
        : null,
    };
    await attempt.run(async () => {
      const made = edit
        ? await take(api.PUT('/api/companies/{id}', { params: { path: { id: edit.id } }, body }))
        : await take(api.POST('/api/companies', { body }));
      showDone(edit ? `${made.name} changed.` : `${made.name} added to the address book.`);
      draft.done();
      onmade(made);
    });
  }
  const at = (field: string) => attempt.at(field);
</script>

<div
  use:takesFocus={!edit}
  data-form
  class="border-line bg-paper grid grid-cols-6 gap-2 rounded-md border p-3"
  role="group"
  aria-label={edit ? `Edit ${edit.name}` : 'New company'}
>
  <DraftNotice {draft} class="col-span-6" />
  <TextField class="col-span-4" label="Name" required bind:value={f.name} problem={at('name')} maxlength={120} />
  <TextField class="col-span-2" label="Phone" bind:value={f.phone} problem={at('phone')} maxlength={40} />
  <TextField
    class="col-span-4"
    label={f.isCarrier ? 'Email for rate confirmations' : f.isCustomer ? 'Email for invoices' : 'Email'}
    bind:value={f.email}
    problem={at('email')}
    maxlength={200}
  />
  {#if f.isCustomer}<TextField
      class="col-span-2"
      label="Terms, days"
      inputmode="numeric"
      bind:value={f.terms}
      problem={at('termsDays')}
    />{/if}
  <TextField class="col-span-3" label="Address" bind:value={f.address} problem={at('address')} />
  <TextField class="col-span-2" label="Town" bind:value={f.town} problem={at('town')} maxlength={80} />
  <TextField class="col-span-1" label="State" bind:value={f.region} problem={at('region')} maxlength={2} />
  <Choice
    class="col-span-2"
    label="Currency"
    bind:value={f.currency}
    problem={at('currency')}
    options={[
      { value: 'USD', label: 'US dollars' },
      { value: 'CAD', label: 'Canadian dollars' },
    ]}
  />
  {#if f.isCustomer}
    <fieldset class="contents" disabled={!session.may('credit.edit')}>
      <MoneyField
        class="col-span-2"
        label="Credit limit, USD"
        currency={f.currency}
        bind:value={f.limit}
        problem={at('creditLimit')}
        hint="Leave empty for no limit"
      />
    </fieldset>
  {/if}
  {#if f.isCarrier || f.isVendor}
    <TextField
      class="col-span-2"
      label="Pay in, days"
      inputmode="numeric"
      bind:value={f.payDays}
      problem={at('payDays')}
    />
  {/if}
  {#if f.isCarrier}
    <TextField
      class="col-span-2"
      label="Quick-pay fee, %"
      inputmode="decimal"
      bind:value={f.quickPay}
      problem={at('quickPayPercent')}
      hint="Empty for none"
    />
    <TextField
      class="col-span-2"
      label="Quick pay in days"
      inputmode="numeric"
      bind:value={f.quickDays}
      problem={at('quickPayDays')}
    />
    <Choice
      class="col-span-3"
      label="Pay when paid"
      bind:value={f.whenPaid}
      options={[
        { value: 'no', label: 'No' },
        { value: 'yes', label: 'Yes' },
      ]}
    />
  {/if}
  {#if f.isCarrier}<CarrierFields bind:f {at} />{/if}
  <div class="col-span-6 flex items-center gap-2">
    <Button data-main look="main" small busy={attempt.busy} onclick={save}
      >{edit ? 'Save' : `Create ${f.name || 'company'}`}</Button
    >
    {#if oncancel}<Button data-cancel small look="quiet" onclick={oncancel}>Cancel</Button>{/if}
    {#if attempt.refused && !attempt.refused.problems.some((p) => p.field && p.field !== 'version')}<p
        class="text-ember-word text-sm"
        role="alert"
      >
        {attempt.refused.message}
      </p>{/if}
  </div>
</div>
