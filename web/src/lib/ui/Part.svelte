<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    title: string;
    aside?: Snippet;
    /** Scrolls fully into view, above a form's footer, when one of its fields gets the focus. */
    whole?: boolean;
    children: Snippet;
  }
  /** A section of a sheet, under a quiet title. */
  let { title, aside, whole = false, children }: Props = $props();
</script>

<section
  class="border-line mx-5 scroll-mb-16 border-t py-3"
  onfocusin={(e) => {
    const part = e.currentTarget;
    if (whole) requestAnimationFrame(() => part.scrollIntoView({ block: 'nearest' }));
  }}
>
  <div class="mb-1.5 flex items-center justify-between gap-2">
    <h3 class="text-mute text-sm font-bold">{title}</h3>
    {#if aside}<span class="flex items-center gap-1">{@render aside()}</span>{/if}
  </div>
  {@render children()}
</section>
