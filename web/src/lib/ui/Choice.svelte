<script lang="ts">
  import Field from './Field.svelte';
  import { box } from './box';

  interface Props {
    label: string;
    value: string;
    options: { value: string; label: string; disabled?: boolean }[];
    problem?: string;
    required?: boolean;
    class?: string;
  }
  let { label, value = $bindable(), options, problem, required, class: more = '' }: Props = $props();
</script>

<Field {label} {problem} {required} class={more}>
  {#snippet children({ id, describedBy, invalid })}
    <select
      {id}
      class="{box} h-9 pr-1"
      bind:value
      aria-describedby={describedBy}
      aria-invalid={invalid}
      aria-required={!!required}
    >
      {#each options as option (option.value)}<option value={option.value} disabled={option.disabled}
          >{option.label}</option
        >{/each}
    </select>
  {/snippet}
</Field>
