<script lang="ts">
  import { api, take, type Money, type Schemas } from '$lib/api/client';
  import { said } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Equipment bought, from the bank or with a loan. */
  let { trucks, ondone, oncancel }: { trucks: Schemas['TruckRow'][]; ondone: () => void; oncancel: () => void } =
    $props();
  let name = $state('');
  let truck = $state('');
  let on = $state(session.today);
  let cost = $state<Money | null>(null);
  let salvage = $state<Money | null>(null);
  let months = $state('60');
  let financed = $state(false);
  let lender = $state('');
  let principal = $state<Money | null>(null);
  let percent = $state('');
  let payments = $state('60');
  let firstOn = $state('');
  const number = (s: string) => (s.trim() && Number.isFinite(Number(s)) ? Number(s) : null);
  const attempt = new Attempt();
  const buy = () =>
    attempt.run(async (money) => {
      const asset = await take(
        api.POST('/api/assets', {
          body: {
            name: name || null,
            truckId: truck ? Number(truck) : null,
            inService: on || null,
            cost,
            salvage,
            months: number(months),
            loan: financed
              ? {
                  lender: lender || null,
                  principal,
                  percent: number(percent),
                  months: number(payments),
                  firstOn: firstOn || null,
                }
              : null,
          },
          headers: money,
        }),
      );
      showDone(`${asset.name} added for ${said(asset.cost)}.`);
      ondone();
    });
</script>

<InnerForm {attempt} action="Add equipment" onact={buy} {oncancel}>
  <div class="grid grid-cols-3 gap-3">
    <TextField label="Name" required bind:value={name} maxlength={120} problem={attempt.at('name')} />
    <Choice
      label="Truck"
      bind:value={truck}
      problem={attempt.at('truckId')}
      options={[{ value: '', label: 'none' }, ...trucks.map((t) => ({ value: String(t.id), label: t.unit }))]}
    />
    <DateField label="In service" required bind:value={on} problem={attempt.at('inService')} />
    <MoneyField label="Cost" required bind:value={cost} problem={attempt.at('cost')} />
    <MoneyField label="Salvage value" bind:value={salvage} problem={attempt.at('salvage')} />
    <TextField
      label="Useful life, months"
      required
      inputmode="numeric"
      bind:value={months}
      problem={attempt.at('months')}
    />
  </div>
  <label class="flex items-center gap-2 text-sm"><input type="checkbox" bind:checked={financed} />With a loan</label>
  {#if financed}
    <div class="grid grid-cols-3 gap-3">
      <TextField label="Lender" required bind:value={lender} maxlength={120} problem={attempt.at('loan.lender')} />
      <MoneyField label="Amount of the loan" required bind:value={principal} problem={attempt.at('loan.principal')} />
      <TextField
        label="Interest, % a year"
        required
        inputmode="decimal"
        bind:value={percent}
        problem={attempt.at('loan.percent')}
      />
      <TextField
        label="Monthly payments"
        required
        inputmode="numeric"
        bind:value={payments}
        problem={attempt.at('loan.months')}
      />
      <DateField label="First payment" required bind:value={firstOn} problem={attempt.at('loan.firstOn')} />
    </div>
  {/if}
</InnerForm>
