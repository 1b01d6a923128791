<script lang="ts">
  import { api, moneyKey, take } from '$lib/api/client';
  import { doEach } from '$lib/lists/each';
  import List from '$lib/lists/List.svelte';
  import { session } from '$lib/state/session.svelte';
  import { counted } from '$lib/words';
  import Button from '$ui/Button.svelte';

  /** All payments; selected ones can be reversed. */
  let { open, onopen }: { open: number | null; onopen: (id: number) => void } = $props();
  const reversePayment = (id: number) =>
    take(api.POST('/api/payments/{id}/reverse', { params: { path: { id } }, headers: moneyKey() }));
</script>

<List list="payments" {open} {onopen}>
  {#snippet actions(keys, clear)}
    {#if session.may('billing.receive')}<Button
        small
        onclick={() => doEach(keys, reversePayment, (n) => `${counted(n, 'payment')} reversed.`).then(clear)}
        >Reverse {keys.length}</Button
      >{/if}
  {/snippet}
</List>
