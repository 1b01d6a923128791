<script lang="ts">
  import type { Snippet } from 'svelte';

  /** A notice to read before going on; or, when done, what came of it. */
  let {
    urgency = 'now',
    title,
    children,
  }: { urgency?: 'done' | 'soon' | 'now'; title?: string; children: Snippet } = $props();
  const looks = {
    now: 'border-ember bg-ember-tint',
    soon: 'border-marigold bg-marigold-tint',
    done: 'border-moss bg-lark-tint',
  };
  const words = { now: 'text-ember-word', soon: 'text-marigold-word', done: 'text-moss-word' };
</script>

<div class="rounded-md border-l-[3px] px-3 py-2.5 {looks[urgency]}" role="status">
  {#if title}<p class="font-bold {words[urgency]}">{title}</p>{/if}
  <div class="text-sm">{@render children()}</div>
</div>
