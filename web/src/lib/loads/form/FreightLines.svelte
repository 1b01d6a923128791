<script lang="ts">
  import type { Refused } from '$lib/api/client';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { newFreight, type Freight } from './freight';

  const freightClasses = '50 55 60 65 70 77.5 85 92.5 100 110 125 150 175 200 250 300 400 500'.split(' ');
  let { freight = $bindable(), refused }: { freight: Freight[]; refused: Refused | null } = $props();
  const at = (i: number, field: string) => refused?.at(`freight[${i}].${field}`);
</script>

<Part title="Freight">
  {#snippet aside()}<Button small look="quiet" onclick={() => freight.push(newFreight())}
      ><Plus size={14} />Freight line</Button
    >{/snippet}
  {#each freight as f, i (f.key)}
    <div class="mb-2 grid grid-cols-12 gap-x-2 gap-y-1.5">
      <TextField
        class="col-span-6"
        label="Description"
        required
        bind:value={f.description}
        maxlength={200}
        problem={at(i, 'description')}
      />
      <TextField
        class="col-span-2"
        label="Pallets"
        inputmode="numeric"
        bind:value={f.pallets}
        problem={at(i, 'pallets')}
      />
      <TextField
        class="col-span-2"
        label="Weight, lb"
        inputmode="numeric"
        bind:value={f.weight}
        problem={at(i, 'weightLb')}
      />
      <TextField
        class="col-span-2"
        label="°F"
        inputmode="numeric"
        bind:value={f.temperature}
        problem={at(i, 'temperatureF')}
      />
      {#if f.more}
        <TextField
          class="col-span-2"
          label="Pieces"
          inputmode="numeric"
          bind:value={f.pieces}
          problem={at(i, 'pieces')}
        />
        <TextField
          class="col-span-2"
          label="Length, in"
          inputmode="numeric"
          bind:value={f.length}
          problem={at(i, 'lengthIn')}
        />
        <TextField
          class="col-span-2"
          label="Width, in"
          inputmode="numeric"
          bind:value={f.width}
          problem={at(i, 'widthIn')}
        />
        <TextField
          class="col-span-2"
          label="Height, in"
          inputmode="numeric"
          bind:value={f.height}
          problem={at(i, 'heightIn')}
        />
        <Choice
          class="col-span-4"
          label="Freight class"
          bind:value={f.freightClass}
          problem={at(i, 'freightClass')}
          options={[{ value: '', label: 'by density' }, ...freightClasses.map((c) => ({ value: c, label: c }))]}
        />
        <div class="col-span-12 flex items-center gap-4 text-sm">
          <label class="flex items-center gap-1.5"><input type="checkbox" bind:checked={f.stackable} />Stackable</label>
          <label class="flex items-center gap-1.5"><input type="checkbox" bind:checked={f.hazmat} />Hazmat</label>
        </div>
        {#if f.hazmat}
          <TextField
            class="col-span-2"
            label="UN number"
            bind:value={f.un}
            maxlength={8}
            problem={at(i, 'unNumber')}
            placeholder="UN1993"
          />
          <TextField
            class="col-span-5"
            label="Proper shipping name"
            bind:value={f.name}
            maxlength={120}
            problem={at(i, 'hazmatName')}
          />
          <TextField
            class="col-span-2"
            label="Hazard class"
            bind:value={f.hazard}
            maxlength={16}
            problem={at(i, 'hazardClass')}
          />
          <TextField
            class="col-span-2"
            label="Packing group"
            bind:value={f.group}
            maxlength={8}
            problem={at(i, 'packingGroup')}
          />
          <TextField
            class="col-span-3"
            label="Emergency phone"
            bind:value={f.emergency}
            maxlength={40}
            problem={at(i, 'emergencyPhone')}
          />
        {/if}
      {/if}
      <div class="col-span-12 -mt-0.5 flex gap-3 text-sm">
        {#if !f.more}<button type="button" class="text-lark hover:underline" onclick={() => (f.more = true)}
            >Pieces, dimensions, hazmat</button
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
