<script lang="ts">
  import { session } from '../state/session.svelte';
  import { ticks, xOf, type Axis } from './axis';

  let { axis, word = 'now' }: { axis: Axis; word?: string } = $props();
  const list = $derived(ticks(axis, session.zone));
  const now = $derived(xOf(axis, session.now));
</script>

<div class="fig relative h-9 text-[11px] leading-none" aria-hidden="true">
  {#each list as tick (tick.x)}
    {#if tick.x < axis.width - 24 && tick.x >= -2}
      <span
        class="absolute {tick.strong ? 'text-ink top-0.5 font-bold' : 'text-mute top-4'} pl-1 whitespace-nowrap"
        style:left="{tick.x}px"
        class:hidden={!tick.strong && Math.abs(tick.x - now) < 34}>{tick.label}</span
      >
    {/if}
  {/each}
  {#if now >= 0 && now <= axis.width}
    <span class="text-lark absolute top-4 -translate-x-full pr-1 font-bold" style:left="{now}px">{word}</span>
  {/if}
</div>
