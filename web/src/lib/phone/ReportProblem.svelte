<script lang="ts">
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import { showDone } from '$lib/state/messages.svelte';
  import { instantOf, type Local } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import TextField from '$ui/TextField.svelte';
  import WhenField from '$ui/WhenField.svelte';

  /** A driver reports an exception with two taps and a word. */
  let { load, zone, ondone }: { load: Schemas['MyLoad']; zone: string; ondone: () => Promise<void> } = $props();
  let kind = $state<Schemas['ReportKind'] | null>(null);
  let words = $state('');
  let pieces = $state('');
  let at = $state<Local | null>(null);
  let busy = $state(false);
  let refused = $state<Refused | null>(null);
  const kinds: [Schemas['ReportKind'], string][] = [
    ['delay', 'Running late'],
    ['breakdown', 'Breakdown'],
    ['refused', 'Refused'],
    ['short', 'Short'],
    ['damaged', 'Damaged'],
  ];
  async function send() {
    busy = true;
    refused = null;
    try {
      const done = await take(
        api.POST('/api/mine/loads/{id}/reports', {
          params: { path: { id: load.id } },
          body: {
            kind,
            stopId: null,
            note: words,
            expectedAt: at && (kind === 'delay' || kind === 'breakdown') ? instantOf(at, zone) : null,
            pieces: pieces.trim() && (kind === 'short' || kind === 'damaged') ? Number(pieces) : null,
          },
          headers: { 'Lark-Via': 'phone' },
        }),
      );
      showDone(`${done.summary}.`);
      kind = null;
      words = pieces = '';
      at = null;
      await ondone();
    } catch (e) {
      if (e instanceof Refused) refused = e;
    } finally {
      busy = false;
    }
  }
</script>

<section class="border-line mt-6 border-t pt-3" aria-label="Report a problem">
  <h2 class="text-mute mb-2 text-sm font-bold">Report a problem</h2>
  <div class="grid grid-cols-2 gap-2">
    {#each kinds as [k, label] (k)}
      <button
        class="h-12 rounded-lg border px-2 text-base {kind === k
          ? 'border-lark bg-lark-tint font-bold'
          : 'border-line'}"
        aria-pressed={kind === k}
        onclick={() => (kind = kind === k ? null : k)}>{label}</button
      >
    {/each}
  </div>
  {#if kind}
    <div class="mt-3 flex flex-col gap-2">
      <TextField label="Reason" bind:value={words} maxlength={1000} problem={refused?.at('note')} />
      {#if kind === 'delay' || kind === 'breakdown'}<WhenField
          label="New ETA, if known"
          bind:value={at}
          {zone}
          problem={refused?.at('expectedAt')}
        />{/if}
      {#if kind === 'short' || kind === 'damaged'}<TextField
          label="How many pieces"
          inputmode="numeric"
          bind:value={pieces}
          problem={refused?.at('pieces')}
        />{/if}
      {#if refused && !refused.at('note') && !refused.at('expectedAt') && !refused.at('pieces')}<p
          class="text-ember-word"
          role="alert"
        >
          {refused.message}
        </p>{/if}
      <Button look="main" class="h-14! text-lg" {busy} onclick={send}>Send</Button>
    </div>
  {/if}
</section>
