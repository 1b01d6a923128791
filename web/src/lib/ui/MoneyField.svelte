<script lang="ts">
  import type { Money } from '../api/client';
  import { figure, parseMoney } from '../money';
  import Field from './Field.svelte';
  import { box } from './box';

  interface Props {
    label: string;
    value: Money | null;
    problem?: string;
    hint?: string;
    required?: boolean;
    class?: string;
    big?: boolean;
  }
  let { label, value = $bindable(), problem, hint, required, class: more = '', big = false }: Props = $props();
  let typed = $state('');
  let here = $state(false);
  $effect(() => {
    // Shows others' changes; what I am typing is never overwritten.
    const shown = value ? figure(value) : '';
    if (!here && parseMoney(typed)?.amount !== value?.amount) typed = shown;
  });
  const unread = $derived(typed.trim() !== '' && !parseMoney(typed) && !here);
</script>

<Field {label} {required} {hint} problem={unread ? 'Enter an amount such as 1850 or 1,850.00.' : problem} class={more}>
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
      onfocus={() => (here = true)}
      oninput={() => (value = parseMoney(typed))}
      onblur={() => {
        here = false;
        const read = parseMoney(typed);
        if (read) typed = figure(read);
      }}
    />
  {/snippet}
</Field>
