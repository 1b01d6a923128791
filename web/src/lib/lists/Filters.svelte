<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import Button from '$ui/Button.svelte';
  import Select from '$ui/Select.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import FilterValues from './FilterValues.svelte';
  import { opsFor, takesMany, withoutValues, type Filter } from './list';

  /** Column filters; all must match. */
  let { about, filters = $bindable() }: { about: Schemas['ListDescription']; filters: Filter[] } = $props();
  const column = (id: string) => about.columns.find((c) => c.id === id);
  const columns = $derived(about.columns.map((c) => ({ value: c.id, label: c.title })));
</script>

<div class="border-line bg-panel mx-5 mb-2 flex flex-col gap-2 rounded-md border p-3" role="group" aria-label="Filters">
  {#each filters as filter, i (i)}
    {@const c = column(filter.column)}
    <div class="flex items-start gap-2 text-sm">
      <Select
        class="h-8 w-48"
        label="Column of filter {i + 1}"
        options={columns}
        bind:value={filter.column}
        onchange={() => {
          filter.op = opsFor(column(filter.column))[0].value;
          filter.values = column(filter.column)?.kind === 'yes_no' ? ['yes'] : [];
        }}
      />
      <Select
        class="h-8 w-32"
        label="Comparison of filter {i + 1}"
        options={opsFor(c)}
        bind:value={filter.op}
        onchange={() => {
          if (!takesMany(filter.op)) filter.values = filter.values.slice(0, 1);
        }}
      />
      {#if c && !withoutValues(filter.op)}
        <FilterValues
          {c}
          name="filter {i + 1}"
          options={about.options[c.id] ?? []}
          many={takesMany(filter.op)}
          bind:values={filter.values}
        />
      {/if}
      <button
        class="text-mute hover:bg-faint rounded p-1.5"
        aria-label="Remove filter {i + 1}"
        title="Remove filter {i + 1}"
        onclick={() => filters.splice(i, 1)}><X size={15} /></button
      >
    </div>
  {/each}
  <div class="flex gap-2">
    <Button
      small
      look="quiet"
      onclick={() => {
        const first = about.columns.find((c) => c.kind === 'choice') ?? about.columns[0];
        filters.push({ column: first.id, op: opsFor(first)[0].value, values: [] });
      }}><Plus size={14} />Add a filter</Button
    >
    {#if filters.length > 0}<Button small look="quiet" onclick={() => (filters = [])}>Remove all</Button>{/if}
  </div>
</div>
