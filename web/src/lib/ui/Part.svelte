<script lang="ts">
  import type { Snippet } from 'svelte';

  /** A part of a sheet, under a quiet title. */
  let { title, aside, children }: { title: string; aside?: Snippet; children: Snippet } = $props();
</script>

<section class="border-line mx-5 border-t py-3">
  <div class="mb-1.5 flex items-center justify-between gap-2">
    <h3 class="text-mute text-sm font-bold">{title}</h3>
    {@render aside?.()}
  </div>
  {@render children()}
</section>
