<script lang="ts">
  import { inCurrency } from '$ui/currency';
  import type { Money, Schemas } from '$lib/api/client';
  import { cents, figure, said } from '$lib/money';
  import { session } from '$lib/state/session.svelte';
  import { formatDate } from '$lib/time/when';
  import MoneyField from '$ui/MoneyField.svelte';

  /** A bill to choose for payment, whole or in part. */
  interface Props {
    bill: Schemas['PayableBill'];
    chosen: boolean;
    /** What to pay of it; all when empty. */
    amount: Money | null;
    /** Why it cannot be paid now. */
    blocked: string | null;
    problem?: string;
  }
  let { bill: b, chosen = $bindable(), amount = $bindable(), blocked, problem }: Props = $props();
  let part = $state(false);
  inCurrency(() => b.open?.currency);
</script>

<div class="flex min-h-9 items-center gap-3 py-1 text-sm">
  <label class="flex min-w-0 flex-1 items-center gap-2">
    <input type="checkbox" bind:checked={chosen} disabled={!!blocked} />
    <span class="fig w-20 shrink-0 truncate font-bold">{b.number}</span>
    <span class="text-mute min-w-0 truncate">
      {b.loadNumber ? `load ${b.loadNumber}` : ''}
      {cents(b.discount) > 0 ? ` quick pay, less ${said(b.discount)}` : ''}
    </span>
  </label>
  <span class="w-20 shrink-0 {b.dueOn < session.today ? 'text-ember-word font-bold' : 'text-mute'}"
    >{b.dueOn < session.today ? 'past due' : 'due'}
    {formatDate(b.dueOn)}</span
  >
  {#if part && chosen}
    <MoneyField class="w-28" label="Pay of {figure(b.open)}" bind:value={amount} {problem} />
  {:else}
    {#if chosen}<button class="text-lark hover:underline" onclick={() => (part = true)}>Pay part</button>{/if}
    <span class="fig w-24 shrink-0 text-right {chosen ? '' : 'text-mute'}">{figure(b.open)}</span>
  {/if}
</div>
{#if blocked}<p class="text-marigold-word pb-1 pl-6 text-sm">{blocked}</p>{/if}
