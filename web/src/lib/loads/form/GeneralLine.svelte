<script lang="ts">
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';
  import type { Freight } from './freight';

  /** A line of freight that is neither liquid in bulk nor a vehicle. */
  interface Props {
    freight: Freight;
    at: (field: string) => string | undefined;
  }
  let { freight = $bindable(), at }: Props = $props();
  const freightClasses = '50 55 60 65 70 77.5 85 92.5 100 110 125 150 175 200 250 300 400 500'.split(' ');
</script>

<TextField
  class="col-span-6"
  label="Description"
  required
  bind:value={freight.description}
  maxlength={200}
  problem={at('description')}
/>
<TextField
  class="col-span-2"
  label="Pallets"
  inputmode="numeric"
  bind:value={freight.pallets}
  problem={at('pallets')}
/>
<TextField
  class="col-span-2"
  label="Weight, lb"
  inputmode="numeric"
  bind:value={freight.weight}
  problem={at('weightLb')}
/>
<TextField
  class="col-span-2"
  label="°F"
  inputmode="numeric"
  bind:value={freight.temperature}
  problem={at('temperatureF')}
/>
{#if freight.more}
  <TextField class="col-span-2" label="Pieces" inputmode="numeric" bind:value={freight.pieces} problem={at('pieces')} />
  <TextField
    class="col-span-2"
    label="Length, in"
    inputmode="numeric"
    bind:value={freight.length}
    problem={at('lengthIn')}
  />
  <TextField
    class="col-span-2"
    label="Width, in"
    inputmode="numeric"
    bind:value={freight.width}
    problem={at('widthIn')}
  />
  <TextField
    class="col-span-2"
    label="Height, in"
    inputmode="numeric"
    bind:value={freight.height}
    problem={at('heightIn')}
  />
  <Choice
    class="col-span-4"
    label="Freight class"
    bind:value={freight.freightClass}
    problem={at('freightClass')}
    options={[{ value: '', label: 'by density' }, ...freightClasses.map((c) => ({ value: c, label: c }))]}
  />
  <div class="col-span-12 flex items-center gap-4 text-sm">
    <label class="flex items-center gap-1.5"><input type="checkbox" bind:checked={freight.stackable} />Stackable</label>
    <label class="flex items-center gap-1.5"><input type="checkbox" bind:checked={freight.hazmat} />Hazmat</label>
  </div>
  {#if freight.hazmat}
    <TextField
      class="col-span-2"
      label="UN number"
      bind:value={freight.un}
      maxlength={8}
      problem={at('unNumber')}
      placeholder="UN1993"
    />
    <TextField
      class="col-span-5"
      label="Proper shipping name"
      bind:value={freight.name}
      maxlength={120}
      problem={at('hazmatName')}
    />
    <TextField
      class="col-span-2"
      label="Hazard class"
      bind:value={freight.hazard}
      maxlength={16}
      problem={at('hazardClass')}
    />
    <TextField
      class="col-span-2"
      label="Packing group"
      bind:value={freight.group}
      maxlength={8}
      problem={at('packingGroup')}
    />
    <TextField
      class="col-span-3"
      label="Emergency phone"
      bind:value={freight.emergency}
      maxlength={40}
      problem={at('emergencyPhone')}
    />
  {/if}
{/if}
