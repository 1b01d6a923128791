<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import ArrowLeft from '@lucide/svelte/icons/arrow-left';
  import ArrowRight from '@lucide/svelte/icons/arrow-right';

  /** Column visibility and order. */
  let { about, columns = $bindable() }: { about: Schemas['ListDescription']; columns: string[] } = $props();
  function move(i: number, by: number) {
    const next = [...columns];
    next.splice(i + by, 0, ...next.splice(i, 1));
    columns = next;
  }
</script>

<div class="border-line bg-panel mx-5 mb-2 rounded-md border p-3" role="group" aria-label="Columns">
  <p class="text-mute mb-1 text-sm">Shown, in this order</p>
  <ul class="mb-2 flex flex-wrap gap-2">
    {#each columns as id, i (id)}
      {@const title = about.columns.find((c) => c.id === id)?.title}
      <li class="border-line flex items-center rounded-md border text-sm">
        <button
          class="hover:bg-faint rounded-l p-1 disabled:opacity-30"
          disabled={i === 0}
          aria-label="{title}: to the left"
          onclick={() => move(i, -1)}><ArrowLeft size={13} /></button
        >
        <label class="flex items-center gap-1 px-1"
          ><input
            type="checkbox"
            checked
            disabled={columns.length === 1}
            onchange={() => (columns = columns.filter((c) => c !== id))}
          />{title}</label
        >
        <button
          class="hover:bg-faint rounded-r p-1 disabled:opacity-30"
          disabled={i === columns.length - 1}
          aria-label="{title}: to the right"
          onclick={() => move(i, 1)}><ArrowRight size={13} /></button
        >
      </li>
    {/each}
  </ul>
  <p class="text-mute mb-1 text-sm">Not shown</p>
  <div class="flex flex-wrap gap-x-4 gap-y-1 text-sm">
    {#each about.columns.filter((c) => !columns.includes(c.id)) as c (c.id)}
      <label class="flex items-center gap-1"
        ><input type="checkbox" onchange={() => (columns = [...columns, c.id])} />{c.title}</label
      >
    {:else}<span class="text-mute">All columns are shown.</span>{/each}
  </div>
</div>
