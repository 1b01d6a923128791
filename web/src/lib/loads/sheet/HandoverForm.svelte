<script lang="ts">
  import { api, ifMatch, take, type Money, type Schemas } from '$lib/api/client';
  import { findPlaces, findVendors } from '$lib/companies/find';
  import { figure } from '$lib/money';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import Choice from '$ui/Choice.svelte';
  import InnerForm from '$ui/InnerForm.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Picker from '$ui/Picker.svelte';
  import TextField from '$ui/TextField.svelte';
  import DispatchFields from '../DispatchFields.svelte';

  /** A load on the way changes trucks: to another driver or truck of ours, or to a carrier. */
  interface Props {
    view: Schemas['LoadSheetView'];
    leg: Schemas['LegRow'];
    ondone: () => void;
    oncancel: () => void;
  }
  let { view, leg, ondone, oncancel }: Props = $props();
  const l = $derived(view.sheet.load);
  const attempt = new Attempt();
  // The form opens with what the leg is then.
  // svelte-ignore state_referenced_locally
  let to = $state(leg.carrierId ? 'carrier' : 'ours');
  let fleet = $state<Schemas['FleetView'] | null>(null);
  let place = $state<Schemas['PlaceRow'] | null>(null);
  // svelte-ignore state_referenced_locally
  let driver = $state(String(leg.driverId ?? ''));
  // svelte-ignore state_referenced_locally
  let truck = $state(String(leg.truckId ?? ''));
  // svelte-ignore state_referenced_locally
  let trailer = $state(String(leg.trailerId ?? ''));
  let carrier = $state<Schemas['CompanyRow'] | null>(null);
  let pay = $state<Money | null>(null);
  let still = $state<Money | null>(null);
  let acceptedBy = $state('');
  let comes = $state({ driver: '', phone: '', truck: '', trailer: '' });
  let cabotage = $state('');
  void take(api.GET('/api/fleet')).then((f) => (fleet = f), showError);
  const findCarriers = async (typed: string) => (await findVendors(typed)).filter((c) => c.isCarrier);
  const units = (all: { id: number; unit: string }[] | undefined, none: string) => [
    { value: '', label: none },
    ...(all ?? []).map((u) => ({ value: String(u.id), label: u.unit })),
  ];
  const send = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/{id}/handover', {
          params: { path: { id: l.id } },
          body: {
            placeId: place?.id ?? null,
            at: null,
            driverId: to === 'ours' ? Number(driver) || null : null,
            truckId: to === 'ours' ? Number(truck) || null : null,
            trailerId: to === 'ours' ? Number(trailer) || null : null,
            payBefore: (leg.carrierId && still) || undefined,
            carrier:
              to === 'carrier'
                ? {
                    carrierId: carrier?.id ?? null,
                    pay,
                    acceptedBy: acceptedBy || null,
                    dispatch: { ...comes, trailer: comes.trailer || null },
                    cabotageReason: cabotage || null,
                  }
                : null,
          },
          headers: ifMatch(l.version),
        }),
      );
      showDone(`${done.summary}.`);
      ondone();
    });
</script>

<InnerForm {attempt} action="Hand over {l.number}" onact={send} {oncancel}>
  <div class="grid grid-cols-2 gap-3" role="group" aria-label="Hand over {l.number}">
    <Picker
      class="col-span-2"
      label="Handover location"
      required
      bind:value={place}
      find={findPlaces}
      name={(p) => p.name}
      detail={(p) => `${p.town} ${p.region}`}
      key={(p) => p.id}
      problem={attempt.at('placeId')}
    />
    {#if leg.carrierId}
      <MoneyField
        class="col-span-2"
        label="Pay of {leg.carrier} for its part"
        bind:value={still}
        currency={leg.agreed?.currency}
        hint="Agreed: {figure(leg.agreed)}. Enter 0 if it is paid nothing; leave empty for no change."
        problem={attempt.at('payBefore')}
      />
    {/if}
    <Choice
      class="col-span-2"
      label="Handed over to"
      bind:value={to}
      options={[
        { value: 'ours', label: 'Our driver' },
        { value: 'carrier', label: 'A carrier' },
      ]}
    />
    {#if to === 'ours'}
      <Choice
        class="col-span-2"
        label="New driver"
        bind:value={driver}
        problem={attempt.at('driverId')}
        options={[
          { value: '', label: 'Choose a driver' },
          ...(fleet?.drivers ?? []).map((d) => ({ value: String(d.id), label: d.name })),
        ]}
      />
      <Choice
        label="New truck"
        bind:value={truck}
        problem={attempt.at('truckId')}
        options={units(fleet?.trucks, 'Choose a truck')}
      />
      <Choice
        label="Trailer"
        bind:value={trailer}
        problem={attempt.at('trailerId')}
        options={units(fleet?.trailers, 'Choose a trailer')}
      />
    {:else}
      <Picker
        label="Carrier"
        required
        bind:value={carrier}
        find={findCarriers}
        name={(c) => c.name}
        detail={(c) => [c.town, c.region].filter(Boolean).join(' ')}
        key={(c) => c.id}
        problem={attempt.at('carrier.carrierId')}
      />
      <MoneyField
        label="Carrier pay"
        required
        bind:value={pay}
        currency={carrier?.currency}
        problem={attempt.at('carrier.pay')}
      />
      <TextField
        class="col-span-2"
        label="Accepted by phone, by"
        required
        bind:value={acceptedBy}
        maxlength={80}
        problem={attempt.at('carrier.acceptedBy')}
      />
      <DispatchFields bind:value={comes} at={(f) => attempt.at(`carrier.dispatch.${f}`)} named />
      {#if cabotage || attempt.at('carrier.cabotageReason')}
        <TextField
          class="col-span-2"
          label="Reason why it is allowed"
          bind:value={cabotage}
          maxlength={200}
          problem={attempt.at('carrier.cabotageReason')}
        />
      {/if}
    {/if}
  </div>
  <p class="text-mute text-sm">
    The leg of {leg.driver ?? leg.carrier} ends at the handover, and the next one begins there.
    {to === 'carrier'
      ? 'The carrier is emailed a rate confirmation from there to the delivery.'
      : 'Each driver is paid for their own leg.'}
  </p>
</InnerForm>
