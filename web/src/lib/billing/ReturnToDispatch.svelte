<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import { api, take } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';

  /** Billing returns a load to dispatch with the reason; dispatch resolves it. */
  let { loadId, right = false, onchanged }: { loadId: number; right?: boolean; onchanged: () => void } = $props();
  let open = $state(false);
  let why = $state('');
  const attempt = new Attempt();
  const draft = new Draft(
    () => `${right ? 'resolve' : 'return'} ${loadId}`,
    () => ({ why }),
    (v) => ({ why } = v),
  );
  const send = () =>
    attempt.run(async () => {
      const path = right ? '/api/loads/{id}/resolve-return' : '/api/loads/{id}/return-to-dispatch';
      const done = await take(api.POST(path, { params: { path: { id: loadId } }, body: { why } }));
      showDone(right ? `${done.number} resolved: it can be billed.` : `${done.number} returned to dispatch.`);
      draft.done();
      open = false;
      why = '';
      onchanged();
    });
</script>

{#if !open}<Button small look="quiet" onclick={() => (open = true)}>{right ? 'Resolve' : 'Return to dispatch'}</Button>
{:else}
  <DraftNotice {draft} class="w-full" />
  <form
    class="flex w-full items-end gap-2"
    onsubmit={(e) => {
      e.preventDefault();
      void send();
    }}
  >
    <TextField
      class="flex-1"
      label={right ? 'Resolution' : 'Reason'}
      required
      bind:value={why}
      maxlength={400}
      problem={attempt.at('why')}
    />
    <Button small look="main" type="submit" busy={attempt.busy}>{right ? 'Resolve' : 'Return to dispatch'}</Button>
  </form>
  {#if attempt.refused?.general}<p class="text-ember-word text-sm" role="alert">{attempt.refused.general}</p>{/if}
{/if}
