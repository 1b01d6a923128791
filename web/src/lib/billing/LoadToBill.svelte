<script lang="ts">
  import { api, sendDocument, take, type Schemas } from '$lib/api/client';
  import { documentLabels } from '$lib/loads/labels';
  import { said } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Button from '$ui/Button.svelte';
  import Key from '$ui/Key.svelte';
  import { isPlain } from '$ui/keys';
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
  let picker = $state<HTMLInputElement>();
  let busy = $state(false);
  /** Adds the first missing document; the load may be ready then. */
  async function attach(file: File | undefined) {
    if (!file) return;
    const kind = u.missing[0];
    busy = true;
    try {
      await sendDocument(u.loadId, kind, file, file.name);
      showDone(`${documentLabels[kind]} added to ${u.number}.`);
      await onchanged();
    } catch (e) {
      showError(e);
    } finally {
      busy = false;
    }
  }
  function key(e: KeyboardEvent) {
    if (e.key !== 'p' || !isPlain(e) || !picker) return;
    e.preventDefault();
    picker.click();
  }
</script>

<svelte:window onkeydown={key} />
<div class="border-line flex flex-wrap items-center gap-2 border-b py-2 pr-12 pl-5">
  {#if u.missing.length === 0 && !u.held}
    <Button small look="main" onclick={onbill}>Bill {said(u.revenue)}</Button>
    <Button small onclick={onchoose}>{chosen ? 'Deselect' : 'Select'} <Key>x</Key></Button>
  {:else if u.missing.length}
    <Button small look="main" {busy} onclick={() => picker?.click()}
      >Attach {documentLabels[u.missing[0]]} <Key>p</Key></Button
    >
    <Button small onclick={() => ask()}>Request {u.missing.map((p) => documentLabels[p]).join(', ')}</Button>
    <input
      bind:this={picker}
      type="file"
      class="sr-only"
      tabindex="-1"
      accept="application/pdf,image/jpeg,image/png"
      aria-label="File of {documentLabels[u.missing[0]]}"
      onchange={(e) => {
        void attach(e.currentTarget.files?.[0]);
        e.currentTarget.value = '';
      }}
    />
  {/if}
  {#if !u.held}<ReturnToDispatch loadId={u.loadId} {onchanged} />{/if}
</div>
