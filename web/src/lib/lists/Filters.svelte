<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import Button from '$ui/Button.svelte';
  import Plus from '@lucide/svelte/icons/plus';
  import X from '@lucide/svelte/icons/x';
  import { session } from '$lib/state/session.svelte';
  import { parseDay } from '$lib/time/when';
  import { opsFor, type Filter } from './list';

  /** Column filters; all must match. */
  let { about, filters = $bindable() }: { about: Schemas['ListDescription']; filters: Filter[] } = $props();
  const column = (id: string) => about.columns.find((c) => c.id === id);
  const dated = (c: Schemas['ListColumn'] | undefined) => c?.kind === 'date' || c?.kind === 'time';
  /** Suggestions; any number of days is understood. */
  const periods = [
    'today',
    'yesterday',
    'this week',
    'last week',
    'this month',
    'last month',
    'this quarter',
    'last quarter',
    'year to date',
    'last year',
    'last 30 days',
    'next 7 days',
    'older than 30 days',
  ];
  const box = 'border-line bg-panel h-8 rounded-md border px-2 text-sm';
</script>

<datalist id="periods"
  >{#each periods as period (period)}<option value={period}></option>{/each}</datalist
>
<div class="border-line bg-panel mx-5 mb-2 flex flex-col gap-2 rounded-md border p-3" role="group" aria-label="Filters">
  {#each filters as filter, i (i)}
    {@const c = column(filter.column)}
    <div class="flex items-center gap-2">
      <select
        class="{box} w-44"
        aria-label="Column of filter {i + 1}"
        bind:value={filter.column}
        onchange={() => {
          filter.op = opsFor(column(filter.column))[0].value;
          filter.value = column(filter.column)?.kind === 'yes_no' ? 'yes' : '';
        }}
      >
        {#each about.columns as option (option.id)}<option value={option.id}>{option.title}</option>{/each}
      </select>
      <select class="{box} w-28" aria-label="Comparison of filter {i + 1}" bind:value={filter.op}>
        {#each opsFor(c) as op (op.value)}<option value={op.value}>{op.label}</option>{/each}
      </select>
      {#if filter.op !== 'empty' && filter.op !== 'filled'}
        {#if c?.kind === 'choice'}
          <select class="{box} w-44" aria-label="Value of filter {i + 1}" bind:value={filter.value}>
            <option value="">any</option>
            {#each about.options[c.id] ?? [] as word (word)}<option value={word}>{word.replace(/_/g, ' ')}</option
              >{/each}
          </select>
        {:else if c?.kind === 'yes_no'}
          <select class="{box} w-44" aria-label="Value of filter {i + 1}" bind:value={filter.value}>
            <option value="yes">yes</option>
            <option value="no">no</option>
          </select>
        {:else}
          <input
            class="{box} w-44"
            aria-label="Value of filter {i + 1}"
            inputmode={c?.kind === 'number' || c?.kind === 'money' ? 'decimal' : undefined}
            maxlength="400"
            list={dated(c) ? 'periods' : undefined}
            placeholder={dated(c) ? 'last month, Nov 3 …' : undefined}
            bind:value={filter.value}
            onchange={() => {
              // A date in any form is sent as one; a period stays as it is, so that it moves on with the days.
              if (dated(c)) filter.value = parseDay(filter.value, session.today) ?? filter.value;
            }}
          />
        {/if}
      {/if}
      <button
        class="text-mute hover:bg-faint rounded p-1"
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
        filters.push({ column: first.id, op: opsFor(first)[0].value, value: '' });
      }}><Plus size={14} />Add a filter</Button
    >
    {#if filters.length > 0}<Button small look="quiet" onclick={() => (filters = [])}>Remove all</Button>{/if}
  </div>
</div>
