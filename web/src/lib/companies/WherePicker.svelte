<script lang="ts">
  import Picker from '$ui/Picker.svelte';
  import { findWhere, type Where } from './find';

  /** A place of the address book, or any town. */
  interface Props {
    label: string;
    value: Where | null;
    required?: boolean;
    problem?: string;
    placeholder?: string;
    class?: string;
  }
  let { value = $bindable(), placeholder = 'A place or any town', ...rest }: Props = $props();
</script>

<Picker
  {...rest}
  bind:value
  find={findWhere}
  name={(w) => w.name}
  detail={(w) => w.detail}
  key={(w) => w.key}
  {placeholder}
/>
