<script lang="ts">
  import TextField from '$ui/TextField.svelte';

  /** Who a carrier sends for the freight: its driver and equipment. */
  interface Props {
    value: { driver: string; phone: string; truck: string; trailer: string };
    /** What is wrong with a field. */
    at: (field: keyof Props['value']) => string | undefined;
    /** Whether the labels say that they are the carrier’s, as in a form that also asks for ours. */
    named?: boolean;
  }
  let { value = $bindable(), at, named = false }: Props = $props();
  const label = (own: string) => (named ? `Carrier’s ${own.toLowerCase()}` : own);
</script>

<TextField label={label('Driver')} required bind:value={value.driver} maxlength={80} problem={at('driver')} />
<TextField label="Driver’s phone" required bind:value={value.phone} maxlength={40} problem={at('phone')} />
<TextField label={label('Truck')} required bind:value={value.truck} maxlength={20} problem={at('truck')} />
<TextField label={label('Trailer')} bind:value={value.trailer} maxlength={20} problem={at('trailer')} />
