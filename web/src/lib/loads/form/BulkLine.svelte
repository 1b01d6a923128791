<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { showError } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';
  import type { Freight } from './freight';

  /** A line of liquid in bulk: product and volume; weight and temperature come from the product. */
  interface Props {
    freight: Freight;
    at: (field: string) => string | undefined;
  }
  let { freight = $bindable(), at }: Props = $props();
  let products = $state<Schemas['Product'][]>([]);
  take(api.GET('/api/products')).then((p) => (products = p), showError);
  const product = $derived(products.find((p) => String(p.id) === freight.product));
  const gallons = $derived(
    Number(freight.volume.replace(/[,\s]/g, '')) / (freight.unit === 'liters' ? 3.785411784 : 1) || 0,
  );
  /** Another product or volume has another weight. */
  // svelte-ignore state_referenced_locally -- where it begins
  let was = `${freight.product} ${freight.volume} ${freight.unit}`;
  $effect(() => {
    const now = `${freight.product} ${freight.volume} ${freight.unit}`;
    if (now !== was) freight.weight = '';
    was = now;
  });
  const weight = $derived(product && gallons ? Math.round(gallons * product.lbPerGallon) : null);
</script>

<Choice
  class="col-span-4"
  label="Product"
  required
  bind:value={freight.product}
  problem={at('bulk.productId')}
  options={[{ value: '', label: '—' }, ...products.map((p) => ({ value: String(p.id), label: p.name }))]}
/>
<TextField
  class="col-span-2"
  label="Volume"
  required
  inputmode="decimal"
  bind:value={freight.volume}
  problem={at('bulk.volume')}
/>
<Choice
  class="col-span-2"
  label="In"
  bind:value={freight.unit}
  options={[
    { value: 'gallons', label: 'gallons' },
    { value: 'liters', label: 'liters' },
  ]}
/>
<TextField
  class="col-span-2"
  label="Weight, lb"
  inputmode="numeric"
  placeholder={weight ? weight.toLocaleString('en-US') : ''}
  bind:value={freight.weight}
  problem={at('weightLb')}
/>
<TextField
  class="col-span-2"
  label="°F"
  inputmode="numeric"
  placeholder={product?.temperatureF == null ? '' : String(product.temperatureF)}
  bind:value={freight.temperature}
  problem={at('temperatureF')}
/>
<label class="col-span-12 flex items-center gap-1.5 text-sm"
  ><input type="checkbox" bind:checked={freight.own} disabled={product?.ownCompartments} />Own compartments, shared with
  no other order{product?.ownCompartments ? ` (always for ${product.name})` : ''}</label
>
