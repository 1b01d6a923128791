<script lang="ts">
  import type { Money, Schemas } from '$lib/api/client';
  import { session } from '$lib/state/session.svelte';
  import Choice from '$ui/Choice.svelte';
  import DateField from '$ui/DateField.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import TextField from '$ui/TextField.svelte';

  /** What decides whether a carrier is fit: its authority, insurance, safety and agreement. */
  interface Props {
    f: {
      usdot: string;
      authority: string;
      safety: Schemas['SafetyRating'];
      liabilityLimit: Money | null;
      liability: string;
      cargoLimit: Money | null;
      cargo: string;
      agreement: string;
      doNotUse: string;
    };
    at: (field: string) => string | undefined;
  }
  let { f = $bindable(), at }: Props = $props();
</script>

<fieldset class="contents" disabled={!session.may('authority.edit')}>
  <TextField class="col-span-2" label="USDOT" inputmode="numeric" bind:value={f.usdot} problem={at('carrier.usdot')} />
  <Choice
    class="col-span-2"
    label="Authority active"
    bind:value={f.authority}
    options={[
      { value: 'yes', label: 'Yes' },
      { value: 'no', label: 'No' },
    ]}
  />
  <Choice
    class="col-span-2"
    label="Safety rating"
    bind:value={f.safety}
    options={[
      { value: 'none', label: 'Not rated' },
      { value: 'satisfactory', label: 'Satisfactory' },
      { value: 'conditional', label: 'Conditional' },
      { value: 'unsatisfactory', label: 'Unsatisfactory' },
    ]}
  />
  <MoneyField
    class="col-span-3"
    label="Liability insurance, USD"
    bind:value={f.liabilityLimit}
    problem={at('carrier.liability')}
  />
  <DateField class="col-span-3" label="Liability insurance expires" bind:value={f.liability} />
  <MoneyField class="col-span-3" label="Cargo insurance, USD" bind:value={f.cargoLimit} problem={at('carrier.cargo')} />
  <DateField class="col-span-3" label="Cargo insurance expires" bind:value={f.cargo} />
  <DateField
    class="col-span-3"
    label="Carrier agreement signed"
    bind:value={f.agreement}
    problem={at('carrier.agreementOn')}
  />
  <TextField
    class="col-span-6"
    label="Do not use, reason"
    bind:value={f.doNotUse}
    problem={at('carrier.doNotUse')}
    hint="Leave empty to allow this carrier"
  />
</fieldset>
{#if !session.may('authority.edit')}<p class="text-mute col-span-6 text-sm">
    Your role does not change a carrier’s authority or insurance.
  </p>{/if}
