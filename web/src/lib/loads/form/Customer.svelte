<script lang="ts">
  import { api, type Refused, take } from '$lib/api/client';
  import Features from '$lib/companies/Features.svelte';
  import CompanyForm from '$lib/companies/CompanyForm.svelte';
  import { findCustomers } from '$lib/companies/find';
  import { options } from '$lib/words';
  import Choice from '$ui/Choice.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import { equipmentLabels } from '../labels';
  import { freightOf, untouched } from './freight';
  import { stopOf, type Company, type Typed } from './typed';

  /** Who orders it, their reference, and the equipment. */
  interface Props {
    typed: Typed;
    refused: Refused | null;
    /** Whether a known customer's last load fills empty fields. */
    filling: boolean;
    onfilled: () => void;
  }
  let { typed, refused, filling, onfilled }: Props = $props();
  let making = $state<string | null>(null);
  let like = $state('');
  const at = (field: string) => refused?.at(field);

  /** A known customer's last load fills empty fields. */
  async function chosen(customer: Company | null) {
    like = '';
    if (!customer || !filling) return;
    const usual = await take(
      api.GET('/api/loads/suggestion', { params: { query: { customerId: customer.id } } }),
    ).catch(() => null);
    if (!usual?.number || typed.customer?.id !== customer.id) return;
    if (!typed.equipment && usual.equipment) typed.equipment = usual.equipment;
    // Other vehicles each time.
    if (typed.freight.every(untouched) && !usual.freight.some((f) => f.vehicle))
      typed.freight = usual.freight.map(freightOf);
    const first = usual.stops[0];
    if (first?.placeId && !typed.stops[0].place) typed.stops[0].place = stopOf(first).place;
    like = usual.number;
    onfilled();
  }
</script>

<div class="grid grid-cols-12 gap-3 px-5 pb-3">
  <Picker
    class="col-span-5"
    label="Customer"
    required
    bind:value={typed.customer}
    find={findCustomers}
    name={(c) => c.name}
    detail={(c) => c.town ?? ''}
    key={(c) => c.id}
    problem={at('customerId')}
    hint={like ? `filled in from ${like}` : undefined}
    create={(name) => (making = name)}
    createLabel="New customer"
    onchosen={(c) => void chosen(c)}
  />
  <TextField
    class="col-span-4"
    label="Customer reference"
    bind:value={typed.reference}
    maxlength={60}
    problem={at('reference')}
  />
  <Choice
    class="col-span-3"
    label="Equipment"
    required
    bind:value={typed.equipment}
    problem={at('equipment')}
    options={[{ value: '', label: '—' }, ...options(equipmentLabels)]}
  />
  <details class="col-span-12" open={typed.features.length > 0 || !!at('features')}>
    <summary class="text-mute cursor-pointer text-sm"
      >Trailer must have{typed.features.length ? `: ${typed.features.join(', ')}` : ' …'}</summary
    >
    <Features quiet label="Required of the trailer" bind:value={typed.features} problem={at('features')} />
  </details>
  {#if making !== null}
    <div class="col-span-12">
      <CompanyForm
        name={making}
        kind="customer"
        onmade={(c) => {
          typed.customer = c;
          making = null;
          onfilled();
        }}
        oncancel={() => (making = null)}
      />
    </div>
  {/if}
</div>
