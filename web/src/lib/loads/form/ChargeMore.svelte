<script lang="ts">
  import DateField from '$ui/DateField.svelte';
  import TextField from '$ui/TextField.svelte';
  import type { Charge } from './typed';

  /** What few charges have: a minimum, a discount, and who authorized it. */
  interface Props {
    charge: Charge;
    at: (field: string) => string | undefined;
  }
  let { charge = $bindable(), at }: Props = $props();
</script>

<div class="mb-3 grid grid-cols-12 items-start gap-2">
  <span class="col-span-1"></span>
  {#if charge.basis !== 'flat'}
    <TextField
      class="col-span-2"
      label="Minimum, USD"
      inputmode="decimal"
      bind:value={charge.minimum}
      problem={at('minimum')}
    />
  {/if}
  {#if charge.basis === 'by_class'}
    <TextField
      class="col-span-2"
      label="Discount, %"
      inputmode="decimal"
      bind:value={charge.discount}
      problem={at('discountPercent')}
    />
  {/if}
  <TextField
    class="col-span-3"
    label="Authorized by"
    bind:value={charge.by}
    maxlength={80}
    problem={at('authorization.by')}
  />
  <DateField class="col-span-3" label="Authorized on" bind:value={charge.on} problem={at('authorization.on')} />
  <TextField
    class="col-span-3"
    label="Authorization reference"
    bind:value={charge.reference}
    maxlength={80}
    problem={at('authorization.reference')}
  />
</div>
