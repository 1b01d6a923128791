<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Attempt } from '$lib/state/attempt.svelte';
  import Button from './Button.svelte';
  import { takesFocus } from './forms';

  /** A small form within a sheet: its fields, what was refused as a whole, its action and Cancel. */
  interface Props {
    attempt: Attempt;
    action: string;
    onact: () => void;
    oncancel: () => void;
    children: Snippet;
  }
  let { attempt, action, onact, oncancel, children }: Props = $props();
</script>

<div data-form class="border-line mt-3 flex flex-col gap-2 rounded-md border p-3" use:takesFocus>
  {@render children()}
  {#if attempt.refused?.problems.some((p) => !p.field)}<p class="text-ember-word text-sm" role="alert">
      {attempt.refused.message}
    </p>{/if}
  <div class="flex gap-2">
    <Button small look="main" data-main busy={attempt.busy} onclick={onact}>{action}</Button>
    <Button small look="quiet" data-cancel onclick={oncancel}>Cancel</Button>
  </div>
</div>
