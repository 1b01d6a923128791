<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    label: string;
    required?: boolean;
    /** The error, in a sentence. */
    problem?: string;
    /** A hint below: what was understood, a unit. */
    hint?: string;
    /** A warning to read before going on: never cut off. */
    note?: string | null;
    /** Its value, where that changes without typing: selected from a list, or created in place. */
    touch?: unknown;
    children: Snippet<[{ id: string; describedBy: string | undefined; invalid: boolean }]>;
    class?: string;
  }
  let { label, required = false, problem, hint, note, touch, children, class: more = '' }: Props = $props();
  const id = $props.id();
  // An error is shown until the field is touched; the next submission decides again.
  let mended = $state(false);
  $effect(() => {
    void touch;
    mended = true;
  });
  $effect(() => {
    if (problem) mended = false;
  });
  const shown = $derived(mended ? undefined : problem);
</script>

<div class="flex min-w-0 flex-col gap-0.5 {more}" oninput={() => (mended = true)} onchange={() => (mended = true)}>
  <label for={id} class="text-mute truncate text-sm"
    >{label}{#if required}<span class="text-ember-word" aria-hidden="true"> *</span><span class="sr-only">
        (required)</span
      >{/if}</label
  >
  {@render children({ id, describedBy: shown || hint || note ? `${id}-hint` : undefined, invalid: !!shown })}
  {#if shown}
    <p id="{id}-hint" class="text-ember-word text-sm" role="alert">{shown}</p>
  {:else if hint || note}
    <div id="{id}-hint" class="text-sm">
      {#if hint}<p class="text-mute truncate">{hint}</p>{/if}
      {#if note}<p class="text-marigold-word" role="status">{note}</p>{/if}
    </div>
  {/if}
</div>
