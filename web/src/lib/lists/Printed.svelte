<script lang="ts">
  import { formatCell, numeric, type Column, type Row } from './list';

  /** Rows on paper. */
  let { title, count, columns, rows }: { title: string; count: number; columns: Column[]; rows: Row[] } = $props();
</script>

<table class="hidden w-full text-[11px] print:table">
  <caption class="text-left font-bold">{title}, {rows.length} of {count} rows</caption>
  <thead>
    <tr
      >{#each columns as c (c.id)}<th class={numeric(c) ? 'text-right' : 'text-left'}>{c.title}</th>{/each}</tr
    >
  </thead>
  <tbody>
    {#each rows as row (row.id)}
      <tr class="border-line border-b"
        >{#each columns as c (c.id)}<td class={numeric(c) ? 'text-right' : ''}>{formatCell(row[c.id], c)}</td
          >{/each}</tr
      >
    {/each}
  </tbody>
</table>
