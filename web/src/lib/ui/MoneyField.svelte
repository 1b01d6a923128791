<script lang="ts">
  import type { Money } from '../api/client';
  import { parseMoney, typedFigure } from '../money';
  import Field from './Field.svelte';
  import { box } from './box';
  import { currencyHere, type Currency } from './currency';

  interface Props {
    label: string;
    value: Money | null;
    problem?: string;
    hint?: string;
    required?: boolean;
    class?: string;
    big?: boolean;
    /** When it is not that of the form around it. */
    currency?: Currency;
  }
  let {
    label,
    value = $bindable(),
    problem,
    hint,
    required,
    class: more = '',
    big = false,
    currency,
  }: Props = $props();
  const here = currencyHere();
  const its = $derived(currency ?? here());
  const parse = (text: string) => parseMoney(text, its);
  $effect(() => {
    // The customer or carrier was chosen after the amount was typed.
    if (value && value.currency !== its) value = { ...value, currency: its };
  });
  let typed = $state('');
  let focused = $state(false);
  $effect(() => {
    // Shows others' changes; what I am typing is never overwritten.
    const shown = typedFigure(value);
    if (!focused && parse(typed)?.amount !== value?.amount) typed = shown;
  });
  const unread = $derived(typed.trim() !== '' && !parse(typed) && !focused);
</script>

<Field
  label={its === 'CAD' ? `${label.replace(', USD', '')}, CAD` : label}
  {required}
  {hint}
  problem={unread ? 'Enter an amount such as 1850 or 1,850.00.' : problem}
  class={more}
>
  {#snippet children({ id, describedBy, invalid })}
    <input
      {id}
      class="{box} fig text-right {big ? 'h-10 text-lg font-bold' : 'h-9'}"
      inputmode="decimal"
      autocomplete="off"
      aria-describedby={describedBy}
      aria-invalid={invalid}
      aria-required={!!required}
      bind:value={typed}
      onfocus={() => (focused = true)}
      oninput={() => (value = parse(typed))}
      onblur={() => {
        focused = false;
        const read = parse(typed);
        if (read) typed = typedFigure(read);
      }}
    />
  {/snippet}
</Field>
