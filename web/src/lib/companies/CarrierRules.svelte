<script lang="ts">
  import type { Money } from '$lib/api/client';
  import type { Attempt } from '$lib/state/attempt.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';
  import type { CarrierRules } from './carrierRules';

  /** What the company asks of its carriers, how long they have to answer, and what it pays for waiting. */
  let { rules = $bindable(), attempt }: { rules: CarrierRules; attempt: Attempt } = $props();
  const money: [keyof CarrierRules, string, string][] = [
    ['minLiability', 'Liability insurance, USD', 'Empty is $750,000, by law'],
    ['minCargo', 'Cargo insurance, USD', 'Empty is no minimum'],
  ];
  const waiting: [keyof CarrierRules, string, string][] = [
    ['carrierDetention', 'Detention, USD per hour', 'Empty is none offered'],
    ['carrierDetentionCap', 'Most detention per stop, USD', 'Empty is no limit'],
  ];
</script>

<h2 class="mt-2 font-bold">Carriers</h2>
<div class="grid grid-cols-3 gap-3">
  {#each money as [key, label, hint] (key)}
    <MoneyField {label} {hint} bind:value={rules[key] as Money | null} problem={attempt.at(key)} />
  {/each}
  <TextField
    label="Time to answer a tender, hours"
    inputmode="numeric"
    bind:value={rules.tenderHours}
    problem={attempt.at('tenderHours')}
  />
  <TextField
    label="Free time per stop, minutes"
    inputmode="numeric"
    bind:value={rules.carrierFreeMinutes}
    problem={attempt.at('carrierFreeMinutes')}
  />
  {#each waiting as [key, label, hint] (key)}
    <MoneyField {label} {hint} bind:value={rules[key] as Money | null} problem={attempt.at(key)} />
  {/each}
</div>
<label class="flex items-center gap-2"
  ><input type="checkbox" bind:checked={rules.agreementRequired} />Carriers must have signed our broker-carrier
  agreement</label
>
<label class="flex items-center gap-2"
  ><input type="checkbox" bind:checked={rules.refuseConditional} />Carriers with a conditional safety rating are refused</label
>
