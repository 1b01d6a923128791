<script lang="ts">
  import type { HTMLInputAttributes } from 'svelte/elements';
  import Field from './Field.svelte';
  import { box } from './box';

  interface Props extends Omit<HTMLInputAttributes, 'value'> {
    label: string;
    value: string;
    problem?: string;
    hint?: string;
    lines?: number;
    class?: string;
  }
  let { label, value = $bindable(), problem, hint, lines = 1, class: more = '', required, ...rest }: Props = $props();
</script>

<Field {label} {problem} {hint} required={!!required} class={more}>
  {#snippet children({ id, describedBy, invalid })}
    {#if lines > 1}
      <textarea
        {id}
        class="{box} py-1.5"
        rows={lines}
        aria-describedby={describedBy}
        aria-invalid={invalid}
        bind:value
        maxlength={rest.maxlength}
        placeholder={rest.placeholder}></textarea>
    {:else}
      <input
        {id}
        class="{box} h-9"
        aria-describedby={describedBy}
        aria-invalid={invalid}
        aria-required={!!required}
        bind:value
        autocomplete="off"
        {...rest}
      />
    {/if}
  {/snippet}
</Field>
