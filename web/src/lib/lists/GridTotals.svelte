<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { formatTotal, numeric, type Column } from './list';

  /** Sums under the columns after the first, which has the name. */
  let { columns, sums, bold = false }: { columns: Column[]; sums: Schemas['ListSums']; bold?: boolean } = $props();
</script>

{#each columns.slice(1) as c (c.id)}
  <span role="gridcell" class="truncate {numeric(c) ? 'fig text-right' : ''} {bold ? 'font-bold' : ''}"
    >{formatTotal(sums.totals[c.id], c)}</span
  >
{/each}
