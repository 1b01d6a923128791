<script lang="ts">
  import { api, take, type Refused, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { session } from '$lib/state/session.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import { hours } from '$lib/time/when';
  import { options } from '$lib/words';
  import { inCurrency } from '$ui/currency';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import Ellipsis from '@lucide/svelte/icons/ellipsis';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { chargeLabels } from '../labels';
  import ChargeMore from './ChargeMore.svelte';
  import { newCharge, type Charge, type Typed } from './typed';

  /** Customer charges: flat, a rate times miles, weight or the line haul, or by freight class. */
  interface Props {
    typed: Typed;
    refused: Refused | null;
    miles: number | null;
    /** Miles between the stops, and empty miles to the first. */
    road: Schemas['RoadMiles'] | null;
    emptyMiles: string;
    /** What the charges come to, as far as they are entered. */
    price: Schemas['ChargePreview'] | null;
  }
  let { typed, refused, miles, road, emptyMiles = $bindable(), price }: Props = $props();
  const currency = $derived((typed.billTo ?? typed.customer)?.currency ?? 'USD');
  const at = (i: number, field: string) => refused?.at(`charges[${i}].${field}`);
  inCurrency(() => currency);
  const under = $derived(!!price?.isBelowMinimum);
  const bases = [
    { value: 'flat', label: 'flat' },
    { value: 'per_mile', label: 'per mile' },
    { value: 'per_cwt', label: 'per cwt' },
    { value: 'percent', label: '% of line haul' },
    { value: 'by_class', label: 'by class' },
  ];
  const suits = (basis: string, kind: string) => basis !== (kind === 'line_haul' ? 'percent' : 'by_class');
  let tables = $state<Schemas['ClassRates'][] | null>(null);
  /** Few loads are priced by class: the rate tables are read for the first one. */
  const byClass = $derived(typed.charges.some((c) => c.basis === 'by_class'));
  $effect(() => {
    if (!byClass || tables) return;
    if (session.may('rates.see')) take(api.GET('/api/class-rates')).then((all) => (tables = all), showError);
    else tables = [];
  });
  /** Choosing a rate table proposes its fuel surcharge. */
  function choose(charge: Charge, id: string) {
    charge.classRates = id;
    const percent = tables?.find((t) => String(t.id) === id)?.surchargePercent;
    if (percent && typed.charges.every((c) => c.kind !== 'fuel_surcharge'))
      typed.charges.push({ ...newCharge('fuel_surcharge'), basis: 'percent', rate: String(percent) });
  }
</script>

<Part title="Charges" whole>
  {#snippet aside()}<Button
      small
      look="quiet"
      onclick={() =>
        typed.charges.push(
          newCharge(typed.charges.some((c) => c.kind === 'fuel_surcharge') ? 'other' : 'fuel_surcharge'),
        )}><Plus size={14} />Charge</Button
    >{/snippet}
  {#each typed.charges as charge, i (charge.key)}
    <div class="mb-2 grid grid-cols-[1.35fr_1.2fr_1.2fr_0.9fr_3.2rem] items-start gap-2">
      {#if i === 0}
        <p class="pt-7 font-bold">Line haul</p>
      {:else}
        <Choice label="Charge type" bind:value={charge.kind} problem={at(i, 'kind')} options={options(chargeLabels)} />
      {/if}
      {#if charge.basis === 'flat'}
        <MoneyField label="Amount, USD" required={i === 0} bind:value={charge.amount} problem={at(i, 'amount')} />
      {:else if charge.basis === 'by_class'}
        <Choice
          label="Rate table"
          required
          bind:value={() => charge.classRates, (id) => choose(charge, id)}
          problem={at(i, 'classRatesId')}
          options={(tables ?? []).map((t) => ({ value: String(t.id), label: t.name }))}
        />
      {:else}
        <TextField
          label={charge.basis === 'percent' ? 'Percent' : `Rate, ${currency}`}
          inputmode="decimal"
          required={i === 0}
          bind:value={charge.rate}
          problem={at(i, 'rate')}
        />
      {/if}
      <Choice
        label="Rate basis"
        bind:value={charge.basis}
        problem={at(i, 'basis')}
        options={bases.filter((b) => suits(b.value, charge.kind))}
      />
      <TextField
        label="Description"
        bind:value={charge.description}
        maxlength={200}
        problem={at(i, 'description')}
        hint={charge.basis === 'flat' ? undefined : figure(price?.charges[i]?.amount)}
      />
      <span class="mt-7 flex">
        <button
          type="button"
          class="text-mute hover:bg-faint w-fit rounded p-1"
          aria-label="Minimum and authorization of charge {i + 1}"
          aria-expanded={charge.more}
          title="Minimum and authorization of charge {i + 1}"
          onclick={() => (charge.more = !charge.more)}><Ellipsis size={16} /></button
        >
        {#if i > 0}<button
            type="button"
            class="text-mute hover:bg-faint w-fit rounded p-1"
            aria-label="Remove charge {i + 1}"
            title="Remove charge {i + 1}"
            onclick={() => typed.charges.splice(i, 1)}><X size={16} /></button
          >{/if}
      </span>
    </div>
    {#if charge.basis === 'by_class' && (price?.charges[i]?.rating || price?.charges[i]?.why)}
      <p class="text-mute -mt-1 mb-2 text-sm" role="status">
        {tables?.length !== 0 ? (price.charges[i].rating ?? price.charges[i].why) : 'No rate tables: add one in Setup.'}
      </p>
    {/if}
    {#if charge.more}<ChargeMore bind:charge={typed.charges[i]} at={(field) => at(i, field)} />{/if}
  {/each}
  <p class="flex justify-between pr-[8.5%]">
    <b>Customer pays</b><span class="fig font-bold">{figure(price?.total)}</span>
  </p>
  <MoneyField
    class="mt-1 w-56"
    label="Driver collects on delivery (COD)"
    bind:value={typed.cod}
    problem={refused?.at('cod')}
  />
  {#if road && miles}
    <dl class="mt-2 grid grid-cols-[1fr_auto] gap-y-1 pr-[8.5%] text-sm">
      <dt>
        <b class="fig">{miles.toLocaleString('en-US')}</b> mi, {hours(road.minutes ?? 0)} driving{#if road.estimated}<span
            class="text-marigold-word">, estimated: outside our road network</span
          >{/if}
      </dt>
      <dd class="fig text-right">
        {#if price?.perMile}<b>{price.perMile.toFixed(2)}</b> per mile{/if}
      </dd>
      <dt class="text-mute flex items-center gap-1.5">
        <label for="empty-miles">Empty miles to pickup</label>
        <input
          id="empty-miles"
          class="border-line bg-panel fig h-6 w-16 rounded border px-1.5 text-right"
          inputmode="numeric"
          autocomplete="off"
          placeholder={String(road.emptyMiles ?? 0)}
          bind:value={emptyMiles}
        />
        <span class="truncate">mi{road.emptyFrom ? `, ${road.emptyFrom}` : ''}</span>
      </dt>
      <dd class="text-right {under ? 'text-ember-word font-bold' : 'text-mute'}">
        {#if road.minimum}{under ? 'below minimum rate' : 'minimum rate'}
          <span class="fig">{figure(road.minimum)}</span>{/if}
      </dd>
    </dl>
  {/if}
</Part>
