<script lang="ts">
  import type { Refused } from '$lib/api/client';
  import { figure, sum } from '$lib/money';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { chargeWords } from '../words';
  import { cameTo, newCharge, type Typed } from './typed';

  /** What the customer pays: flat, or a rate times miles, weight or the line haul. */
  let { typed, refused, miles }: { typed: Typed; refused: Refused | null; miles: number | null } = $props();
  const at = (i: number, field: string) => refused?.at(`charges[${i}].${field}`);
  const total = $derived(sum(typed.charges.map((c) => cameTo(typed, c, miles))));
  const bases = [
    { value: 'flat', label: 'flat' },
    { value: 'per_mile', label: 'a mile' },
    { value: 'per_cwt', label: 'a cwt' },
    { value: 'percent', label: '% of haul' },
  ];
</script>

<Part title="Money">
  {#snippet aside()}<Button
      small
      look="quiet"
      onclick={() =>
        typed.charges.push(
          newCharge(typed.charges.some((c) => c.kind === 'fuel_surcharge') ? 'other' : 'fuel_surcharge'),
        )}><Plus size={14} />Charge</Button
    >{/snippet}
  {#each typed.charges as charge, i (charge.key)}
    <div class="mb-2 grid grid-cols-12 items-start gap-2">
      {#if i === 0}
        <p class="col-span-3 pt-7 font-bold">Line haul</p>
      {:else}
        <Choice
          class="col-span-3"
          label="For"
          bind:value={charge.kind}
          problem={at(i, 'kind')}
          options={Object.entries(chargeWords).map(([value, label]) => ({ value, label }))}
        />
      {/if}
      {#if charge.basis === 'flat'}
        <MoneyField
          class="col-span-3"
          label="Amount, USD"
          required={i === 0}
          bind:value={charge.amount}
          problem={at(i, 'amount')}
        />
      {:else}
        <TextField
          class="col-span-3"
          label={charge.basis === 'percent' ? 'Percent' : 'Rate, USD'}
          inputmode="decimal"
          required={i === 0}
          bind:value={charge.rate}
          problem={at(i, 'rate')}
        />
      {/if}
      <Choice
        class="col-span-2"
        label="Reckoned"
        bind:value={charge.basis}
        problem={at(i, 'basis')}
        options={bases.filter((b) => charge.kind !== 'line_haul' || b.value !== 'percent')}
      />
      <TextField
        class="col-span-3"
        label="Words"
        bind:value={charge.description}
        maxlength={200}
        problem={at(i, 'description')}
        hint={charge.basis === 'flat' ? undefined : figure(cameTo(typed, charge, miles))}
      />
      {#if i > 0}<button
          type="button"
          class="text-mute hover:bg-faint mt-7 w-fit rounded p-1"
          aria-label="Remove charge {i + 1}"
          title="Remove charge {i + 1}"
          onclick={() => typed.charges.splice(i, 1)}><X size={16} /></button
        >{/if}
    </div>
  {/each}
  <p class="flex justify-between pr-[8.5%]">
    <b>The customer pays</b><span class="fig font-bold">{figure(total)}</span>
  </p>
  {#if miles && Number(total.amount) > 0}
    <p class="text-mute flex justify-between pr-[8.5%] text-sm">
      <span>about {miles.toLocaleString('en-US')} mi, by estimate</span><span class="fig"
        >{(Number(total.amount) / miles).toFixed(2)} a mile</span
      >
    </p>
  {/if}
</Part>
