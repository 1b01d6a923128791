<script lang="ts">
  import { api, moneyKey, take } from '$lib/api/client';
  import { doEach } from '$lib/lists/each';
  import List from '$lib/lists/List.svelte';
  import { session } from '$lib/state/session.svelte';
  import { counted } from '$lib/words';
  import Button from '$ui/Button.svelte';

  /** All invoices; selected ones can be sent again. */
  let { open, onopen }: { open: number | null; onopen: (id: number) => void } = $props();
  const sendAgain = (id: number) =>
    take(
      api.POST('/api/invoices/{id}/send', {
        params: { path: { id } },
        body: { to: null, message: null },
        headers: moneyKey(),
      }),
    );
</script>

<List list="invoices" {open} {onopen}>
  {#snippet actions(keys, clear)}
    {#if session.may('billing.invoice')}<Button
        small
        onclick={() => doEach(keys, sendAgain, (n) => `${counted(n, 'invoice')} resent.`).then(clear)}
        >Resend {keys.length}</Button
      >{/if}
  {/snippet}
</List>
