<script lang="ts">
  import Field from './Field.svelte';
  import Select from './Select.svelte';

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
    <Select
      {id}
      class="h-9 w-full px-2.5 text-base"
      bind:value
      {options}
      aria-describedby={describedBy}
      aria-invalid={invalid}
      aria-required={!!required}
    />
  {/snippet}
</Field>
