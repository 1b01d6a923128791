<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { said, sums } from '$lib/money';
  import Button from '$ui/Button.svelte';
  import Key from '$ui/Key.svelte';

  /** Bills everything that is ready, or the selection: each load by its customer's settings, or all on one invoice. */
  interface Props {
    ready: Schemas['UnbilledRow'][];
    picked: Schemas['UnbilledRow'][];
    busy: boolean;
    onbill: (loads: Schemas['UnbilledRow'][]) => unknown;
    ontogether: (loads: Schemas['UnbilledRow'][]) => void;
  }
  let { ready, picked, busy, onbill, ontogether }: Props = $props();
</script>

<span class="flex items-center gap-2">
  {#if picked.length}
    {#if new Set(picked.map((u) => u.customerId)).size === 1}<Button small onclick={() => ontogether(picked)}
        >Bill {picked.length} on one invoice <Key>b</Key></Button
      >{/if}
    <Button small look="main" {busy} onclick={() => onbill(picked)}
      >Bill the {picked.length} for {sums(
        picked.map((u) => u.revenue),
        said,
      )}</Button
    >
  {:else}<Button small look="main" {busy} onclick={() => onbill(ready)}
      >Bill {ready.length} for {sums(
        ready.map((u) => u.revenue),
        said,
      )}
      <Key>B</Key></Button
    >{/if}
</span>
