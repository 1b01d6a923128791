<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import type { Where } from '$lib/companies/find';
  import WherePicker from '$lib/companies/WherePicker.svelte';
  import type { Local } from '$lib/time/when';
  import Choice from '$ui/Choice.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import { transferLabels } from '../labels';

  /** Where, when and how freight changes trucks, and with which truck ours swaps trailers. Fields of a grid with two columns. */
  interface Props {
    where: Where | null;
    at: Local | null;
    method: Schemas['TransferMethod'];
    /** The other load as a key; empty for none. */
    swapWith: string;
    /** Loads whose truck could meet ours, when trailers are swapped; null where that is not asked. */
    others: { value: string; label: string }[] | null;
    /** The default date or time for partial input. */
    like: Local | null;
    problem: (field: 'placeId' | 'at' | 'method' | 'swapWithLoadId') => string | undefined;
  }
  let {
    where = $bindable(),
    at = $bindable(),
    method = $bindable(),
    swapWith = $bindable(),
    others,
    like,
    problem,
  }: Props = $props();
</script>

<WherePicker class="col-span-2" label="Transfer point" required bind:value={where} problem={problem('placeId')} />
<WhenField label="Next truck takes it" required zone={where?.zone} {like} bind:value={at} problem={problem('at')} />
<Choice
  label="How"
  bind:value={() => method, (how) => (method = how as typeof method)}
  problem={problem('method')}
  options={Object.entries(transferLabels).map(([value, label]) => ({ value, label }))}
/>
{#if method === 'swap' && others}
  <Choice
    class="col-span-2"
    label="Swap with"
    bind:value={swapWith}
    problem={problem('swapWithLoadId')}
    options={[{ value: '', label: 'Another truck, assigned later' }, ...others]}
  />
{/if}
