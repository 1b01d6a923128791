<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, moneyKey, take, type Money, type Schemas } from '$lib/api/client';
  import { chart } from '$lib/ledger/accounts.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import DateField from '$ui/DateField.svelte';

  /** Hours, extra pay, a reimbursement or a deduction in a settlement. */
  let { driverId, ondone }: { driverId: number; ondone: () => void } = $props();
  let kind = $state('reimbursement');
  let what = $state('');
  let on = $state(session.today);
  let hours = $state('');
  let amount = $state<Money | null>(null);
  let account = $state('');
  const attempt = new Attempt();
  const draft = new Draft(
    () => `pay item ${driverId}`,
    () => ({ kind, what, on, hours, amount, account }),
    (v) => {
      ({ kind, what, on, hours, amount, account } = v);
    },
  );
  $effect(() => void chart.read().catch(showError));
  const options = $derived([
    { value: '', label: kind === 'deduction' ? '2200 Withheld from pay' : '5120 Driver reimbursements' },
    ...chart.options(['expense', 'liability', 'income']),
  ]);
  const add = () =>
    attempt.run(async (money) => {
      const made = await take(
        api.POST('/api/pay-items', {
          body: {
            driverId,
            kind: kind as Schemas['PayItemKind'],
            on: on || null,
            what,
            hours: kind === 'hours' ? Number(hours.replace(',', '.')) || 0 : null,
            amount: kind === 'hours' ? null : amount,
            account: account || null,
            loadId: null,
          },
          headers: money,
        }),
      );
      draft.done();
      showDone(`${what} added to the settlement.`, () =>
        take(api.POST('/api/pay-items/{id}/remove', { params: { path: { id: made.id } }, headers: moneyKey() })).then(
          ondone,
        ),
      );
      what = hours = '';
      amount = null;
      ondone();
    });
</script>

<form
  class="border-line bg-paper mt-4 grid grid-cols-12 gap-2 rounded-md border p-3"
  aria-label="Add a settlement item"
  onsubmit={(e) => {
    e.preventDefault();
    void add();
  }}
>
  <DraftNotice {draft} />
  <Choice
    class="col-span-4"
    label="Type"
    bind:value={kind}
    problem={attempt.at('kind')}
    options={[
      { value: 'reimbursement', label: 'reimbursement' },
      { value: 'hours', label: 'hours' },
      { value: 'extra', label: 'extra pay' },
      { value: 'deduction', label: 'deduction' },
    ]}
  />
  <TextField
    class="col-span-5"
    label="Description"
    required
    bind:value={what}
    maxlength={120}
    problem={attempt.at('what')}
    placeholder={kind === 'hours' ? 'yard work' : 'scale ticket'}
  />
  <DateField class="col-span-3" label="Day" bind:value={on} problem={attempt.at('on')} />
  {#if kind === 'hours'}
    <TextField
      class="col-span-3"
      label="Hours"
      inputmode="decimal"
      required
      bind:value={hours}
      problem={attempt.at('hours')}
    />
  {:else}
    <MoneyField class="col-span-3" label="Amount" required bind:value={amount} problem={attempt.at('amount')} />
  {/if}
  {#if kind === 'reimbursement' || kind === 'deduction'}
    <Choice class="col-span-5" label="Account" bind:value={account} {options} problem={attempt.at('account')} />
  {/if}
  <div class="col-span-4 flex items-end">
    <Button small type="submit" busy={attempt.busy} disabled={!what.trim()}>Add</Button>
  </div>
  {#if attempt.refused?.general}<p class="text-ember-word col-span-12 text-sm" role="alert">
      {attempt.refused.general}
    </p>{/if}
</form>
