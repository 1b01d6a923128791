<script lang="ts">
  import { session } from '../state/session.svelte';
  import { ticks, xOf, type Axis } from './axis';

  /** Grid lines behind all rows, drawn once for the whole list. */
  let { axis }: { axis: Axis } = $props();
  const list = $derived(ticks(axis, session.zone));
  const now = $derived(xOf(axis, session.now));
</script>

<div class="pointer-events-none absolute inset-0 overflow-hidden" aria-hidden="true">
  {#each list as tick (tick.x)}
    <div
      class="absolute inset-y-0 w-px {tick.strong ? 'bg-line' : 'bg-faint'}"
      style:left="{Math.round(tick.x)}px"
    ></div>
  {/each}
  {#if now >= 0 && now <= axis.width}
    <div class="bg-lark absolute inset-y-0 w-[2px]" style:left="{Math.round(now)}px"></div>
  {/if}
</div>
