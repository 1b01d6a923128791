<script lang="ts">
  import type { OfferedDraft } from '../state/draft.svelte';
  import { session } from '../state/session.svelte';
  import { formatShort, localAt } from '../time/when';
  import Button from './Button.svelte';

  interface Props {
    draft: OfferedDraft;
    class?: string;
  }
  /** Offers to restore a draft. */
  let { draft, class: more = '' }: Props = $props();
</script>

{#if draft.waiting}
  <div
    class="border-marigold bg-marigold-tint flex flex-wrap items-center gap-2 rounded-md border-l-[3px] px-3 py-2 text-sm {more}"
    role="status"
  >
    <span class="min-w-0 flex-1"
      >You left this unfinished on {formatShort(localAt(new Date(draft.waiting.at).toISOString(), session.zone))}.</span
    >
    <Button small onclick={() => draft.take()}>Continue</Button>
    <Button small look="quiet" onclick={() => draft.discard()}>Discard</Button>
  </div>
{/if}
