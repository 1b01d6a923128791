<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    label: string;
    required?: boolean;
    /** What is wrong with it, in a sentence. */
    problem?: string;
    /** A quiet word below: what was understood, a unit. */
    hint?: string;
    children: Snippet<[{ id: string; describedBy: string | undefined; invalid: boolean }]>;
    class?: string;
  }
  let { label, required = false, problem, hint, children, class: more = '' }: Props = $props();
  const id = $props.id();
</script>

<div class="flex min-w-0 flex-col gap-0.5 {more}">
  <label for={id} class="text-mute truncate text-sm"
    >{label}{#if required}<span class="text-ember-word" aria-hidden="true"> *</span><span class="sr-only">
        (required)</span
      >{/if}</label
  >
  {@render children({ id, describedBy: problem || hint ? `${id}-hint` : undefined, invalid: !!problem })}
  {#if problem}
    <p id="{id}-hint" class="text-ember-word text-sm" role="alert">{problem}</p>
  {:else if hint}
    <p id="{id}-hint" class="text-mute truncate text-sm">{hint}</p>
  {/if}
</div>
