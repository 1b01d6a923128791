<script lang="ts">
  import type { Attempt } from '$lib/state/attempt.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import { chart } from './accounts.svelte';
  import { currencyOf, type Line } from './journal';

  /** Debits and credits by account. */
  interface Props {
    lines: Line[];
    attempt: Attempt;
    /** So many lines stay. */
    least?: number;
    required?: boolean;
  }
  let { lines = $bindable(), attempt, least = 0, required = false }: Props = $props();
  $effect(() => void chart.read().catch(showError));
  const options = $derived([
    { value: '', label: 'Choose' },
    ...chart.options(['asset', 'liability', 'equity', 'income', 'expense']),
  ]);
</script>

{#each lines as line, n (line.id)}
  <div class="grid grid-cols-[1fr_120px_120px_20px] items-end gap-2">
    <Choice
      label="Account"
      {required}
      bind:value={line.account}
      {options}
      problem={attempt.at(`lines[${n}].account`)}
    />
    <MoneyField
      label="Debit"
      currency={currencyOf(line)}
      bind:value={line.debit}
      problem={attempt.at(`lines[${n}].debit`)}
    />
    <MoneyField
      label="Credit"
      currency={currencyOf(line)}
      bind:value={line.credit}
      problem={attempt.at(`lines[${n}].credit`)}
    />
    {#if lines.length > least}<button
        type="button"
        class="text-mute hover:text-ink h-9"
        aria-label="Remove line {n + 1}"
        onclick={() => (lines = lines.filter((l) => l !== line))}>×</button
      >{/if}
  </div>
{/each}
