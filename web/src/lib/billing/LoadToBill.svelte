<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { documentLabels } from '$lib/loads/labels';
  import { said } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Key from '$ui/Key.svelte';
  import ReturnToDispatch from './ReturnToDispatch.svelte';

  /** What can be done with a delivered load: bill it, ask for what is missing, or return it. */
  interface Props {
    u: Schemas['UnbilledRow'];
    chosen: boolean;
    onbill: () => void;
    onchoose: () => void;
    onchanged: () => Promise<void>;
  }
  let { u, chosen, onbill, onchoose, onchanged }: Props = $props();

  async function ask() {
    try {
      showDone(
        (await take(api.POST('/api/loads/{id}/request-documents', { params: { path: { id: u.loadId } } }))).summary +
          '.',
      );
      await onchanged();
    } catch (e) {
      showError(e);
    }
  }
</script>

<div class="border-line flex flex-wrap items-center gap-2 border-b py-2 pr-12 pl-5">
  {#if u.missing.length === 0 && !u.held}
    <Button small look="main" onclick={onbill}>Bill {said(u.revenue)}</Button>
    <Button small onclick={onchoose}>{chosen ? 'Deselect' : 'Select'} <Key>x</Key></Button>
  {:else if u.missing.length}<Button small look="main" onclick={() => ask()}
      >Request {u.missing.map((p) => documentLabels[p]).join(', ')}</Button
    >{/if}
  {#if !u.held}<ReturnToDispatch loadId={u.loadId} {onchanged} />{/if}
</div>
