<script lang="ts">
  import type { Refused } from '$lib/api/client';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import BulkLine from './BulkLine.svelte';
  import { newFreight, untouched, usualFreight, type Freight, type FreightWhat } from './freight';
  import GeneralLine from './GeneralLine.svelte';
  import VehicleLine from './VehicleLine.svelte';

  /** What is hauled: general freight, liquid in bulk for a tanker, vehicles for a car hauler. */
  interface Props {
    freight: Freight[];
    equipment: string;
    refused: Refused | null;
  }
  let { freight = $bindable(), equipment, refused }: Props = $props();
  const usual = $derived(usualFreight(equipment));
  const names: Record<FreightWhat, string> = { general: 'Freight line', bulk: 'Product', vehicle: 'Vehicle' };
  const plain: Record<FreightWhat, string> = { general: 'other freight', bulk: 'a product', vehicle: 'a vehicle' };
  // An empty line becomes what the trailer usually hauls.
  $effect(() => {
    if (freight.length === 1 && freight[0].what !== usual && untouched(freight[0])) freight[0] = newFreight(usual);
  });
  /** The other kind a line may have: the usual one, or general freight. */
  const other = (f: Freight): FreightWhat => (f.what === 'general' ? usual : 'general');
</script>

<Part title="Freight">
  {#snippet aside()}<Button small look="quiet" onclick={() => freight.push(newFreight(usual))}
      ><Plus size={14} />{names[usual]}</Button
    >{/snippet}
  {#each freight as f, i (f.key)}
    {@const at = (field: string) => refused?.at(`freight[${i}].${field}`)}
    <div class="mb-2 grid grid-cols-12 gap-x-2 gap-y-1.5">
      {#if f.what === 'bulk'}<BulkLine bind:freight={freight[i]} {at} />
      {:else if f.what === 'vehicle'}<VehicleLine bind:freight={freight[i]} {at} />
      {:else}<GeneralLine bind:freight={freight[i]} {at} />{/if}
      <div class="col-span-12 -mt-0.5 flex gap-3 text-sm">
        {#if f.what === 'general' && !f.more}<button
            type="button"
            class="text-lark hover:underline"
            onclick={() => (f.more = true)}>Pieces, dimensions, hazmat</button
          >{/if}
        {#if other(f) !== f.what}<button
            type="button"
            class="text-lark hover:underline"
            onclick={() => (f.what = other(f))}>Enter {plain[other(f)]} instead</button
          >{/if}
        {#if freight.length > 1}<button
            type="button"
            class="text-mute ml-auto flex items-center gap-1 hover:underline"
            onclick={() => freight.splice(i, 1)}><X size={14} />Remove line {i + 1}</button
          >{/if}
      </div>
    </div>
  {/each}
</Part>
