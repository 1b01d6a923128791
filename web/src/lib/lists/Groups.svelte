<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import Button from '$ui/Button.svelte';
  import Select from '$ui/Select.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { dated, type Group, type Period } from './list';

  /** Groups with subtotals; the second within the first. */
  let { about, groups = $bindable() }: { about: Schemas['ListDescription']; groups: Group[] } = $props();
  const kind = (id: string) => about.columns.find((c) => c.id === id);
  const columns = $derived(about.columns.map((c) => ({ value: c.id, label: c.title })));
  const periods = ['day', 'week', 'month', 'quarter', 'year'].map((p) => ({ value: p, label: `by ${p}` }));
</script>

<div class="border-line bg-panel mx-5 mb-2 flex flex-col gap-2 rounded-md border p-3" role="group" aria-label="Groups">
  {#each groups as group, i (i)}
    <div class="flex items-center gap-2 text-sm">
      <span class="text-mute w-14">{i === 0 ? 'Group by' : 'then by'}</span>
      <Select
        class="h-8 w-48"
        label="Column of group {i + 1}"
        options={columns}
        bind:value={group.column}
        onchange={() => (group.period = dated(kind(group.column)) ? 'month' : null)}
      />
      {#if dated(kind(group.column))}
        <Select
          class="h-8 w-32"
          label="Period of group {i + 1}"
          options={periods}
          value={group.period ?? 'month'}
          onchange={(v: string) => (group.period = v as Period)}
        />
      {/if}
      <button
        class="text-mute hover:bg-faint rounded p-1"
        aria-label="Remove group {i + 1}"
        title="Remove group {i + 1}"
        onclick={() => groups.splice(i, 1)}><X size={15} /></button
      >
    </div>
  {/each}
  <div>
    {#if groups.length < 2}
      <Button
        small
        look="quiet"
        onclick={() => {
          const next = about.columns.find(
            (c) =>
              !groups.some((g) => g.column === c.id) &&
              ['customer', 'vendor', 'region', 'source', 'state'].includes(c.id),
          );
          groups.push({ column: (next ?? about.columns[0]).id, period: null });
        }}><Plus size={14} />{groups.length === 0 ? 'Group rows' : 'Group within'}</Button
      >
    {/if}
  </div>
</div>
