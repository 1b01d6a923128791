<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import { numeric, type Column, type Sort } from './list';

  /** The titles of a grid's columns; each sorts. */
  interface Props {
    columns: Column[];
    sorts: Sort[];
    /** The widths, as a grid template. */
    template: string;
  }
  let { columns, sorts = $bindable(), template }: Props = $props();

  function sortBy(c: Column, add: boolean) {
    const was = sorts.find((s) => s.column === c.id);
    const next = { column: c.id, descending: was ? !was.descending : numeric(c) };
    sorts = add ? [...sorts.filter((s) => s.column !== c.id), next].slice(-4) : [next];
  }
</script>

<div
  role="row"
  aria-rowindex="1"
  class="border-line bg-paper text-mute sticky top-0 z-10 grid min-w-full items-center gap-x-3 border-b px-5 text-sm"
  style:grid-template-columns={template}
>
  <span role="columnheader" class="py-1"><span class="sr-only">Selected</span></span>
  {#each columns as c (c.id)}
    {@const sort = sorts.find((s) => s.column === c.id)}
    <span
      role="columnheader"
      aria-sort={sort ? (sort.descending ? 'descending' : 'ascending') : 'none'}
      class={numeric(c) ? 'text-right' : ''}
    >
      <button
        class="hover:text-ink inline-flex items-center gap-0.5 py-1 {sort ? 'text-ink font-bold' : ''}"
        title="Sort by this column; Shift-click to add it to the sort"
        onclick={(e) => sortBy(c, e.shiftKey)}
        >{c.title}{#if sort}{#if sort.descending}<ArrowDown size={12} />{:else}<ArrowUp size={12} />{/if}{/if}</button
      >
    </span>
  {/each}
</div>
