<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { showError } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';
  import type { Freight } from './freight';

  /** A line that is one vehicle; its size and weight come from its body style. */
  interface Props {
    freight: Freight;
    at: (field: string) => string | undefined;
  }
  let { freight = $bindable(), at }: Props = $props();
  let styles = $state<Schemas['BodyStyle'][]>([]);
  take(api.GET('/api/body-styles')).then((s) => (styles = s), showError);
  const style = $derived(styles.find((s) => s.name === freight.body));
  /** Another body style has another size. */
  // svelte-ignore state_referenced_locally -- where it begins
  let was = freight.body;
  $effect(() => {
    if (freight.body !== was) Object.assign(freight, { length: '', width: '', height: '', weight: '' });
    was = freight.body;
  });
  const usual = (n: number | undefined) => n?.toLocaleString('en-US') ?? '';
</script>

<TextField class="col-span-2" label="Year" inputmode="numeric" bind:value={freight.year} problem={at('vehicle.year')} />
<TextField class="col-span-3" label="Make" bind:value={freight.make} maxlength={40} problem={at('vehicle.make')} />
<TextField class="col-span-3" label="Model" bind:value={freight.model} maxlength={40} problem={at('vehicle.model')} />
<Choice
  class="col-span-4"
  label="Body style"
  bind:value={freight.body}
  problem={at('vehicle.body')}
  options={[{ value: '', label: 'other' }, ...styles.map((s) => ({ value: s.name, label: s.name }))]}
/>
<TextField class="col-span-4" label="VIN" bind:value={freight.vin} maxlength={25} problem={at('vehicle.vin')} />
<TextField
  class="col-span-2"
  label="Length, in"
  inputmode="numeric"
  placeholder={usual(style?.lengthIn)}
  bind:value={freight.length}
  problem={at('lengthIn')}
/>
<TextField
  class="col-span-2"
  label="Width, in"
  inputmode="numeric"
  placeholder={usual(style?.widthIn)}
  bind:value={freight.width}
  problem={at('widthIn')}
/>
<TextField
  class="col-span-2"
  label="Height, in"
  inputmode="numeric"
  placeholder={usual(style?.heightIn)}
  bind:value={freight.height}
  problem={at('heightIn')}
/>
<TextField
  class="col-span-2"
  label="Weight, lb"
  inputmode="numeric"
  placeholder={usual(style?.weightLb)}
  bind:value={freight.weight}
  problem={at('weightLb')}
/>
<div class="col-span-12 flex items-center gap-4 text-sm">
  <label class="flex items-center gap-1.5"><input type="checkbox" bind:checked={freight.runs} />Runs</label>
  <label class="flex items-center gap-1.5"><input type="checkbox" bind:checked={freight.keys} />Has keys</label>
</div>
