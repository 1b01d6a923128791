<script lang="ts">
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronRight from '@lucide/svelte/icons/chevron-right';
  import type { Schemas } from '$lib/api/client';
  import GridTotals from './GridTotals.svelte';
  import { dated, formatCell, numeric, type Column, type Row } from './list';

  /** The cells of one line: the head of a group with its sums, or a row. */
  interface Props {
    columns: Column[];
    row: Row | undefined;
    group: Schemas['ListGroupSums'] | null;
    open: boolean;
    head: string;
    /** Whether rows stand below a group. */
    indent: boolean;
  }
  let { columns, row, group, open, head, indent }: Props = $props();
</script>

{#if group}
  <span
    role="gridcell"
    class="flex items-center gap-1 whitespace-nowrap {group.values.length === 1 ? 'font-bold' : 'pl-4'}"
    >{#if open}<ChevronDown size={14} class="shrink-0" />{:else}<ChevronRight size={14} class="shrink-0" />{/if}{head}
    <span class="text-mute font-normal">{group.sums.count.toLocaleString('en-US')}</span></span
  >
  <GridTotals {columns} sums={group.sums} bold={group.values.length === 1} />
{:else}
  {#each columns as c, n (c.id)}
    <span
      role="gridcell"
      class="truncate {numeric(c) ? 'fig text-right' : ''} {n === 0 ? 'font-bold' : ''} {n === 0 && indent
        ? 'pl-5'
        : ''} {dated(c) ? 'text-sm' : ''}"
      title={row && c.kind === 'text' ? formatCell(row[c.id], c) : undefined}
      >{row ? formatCell(row[c.id], c) : n === 0 ? '…' : ''}</span
    >
  {/each}
{/if}
