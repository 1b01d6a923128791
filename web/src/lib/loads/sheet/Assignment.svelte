<script lang="ts">
  import { findPlaces } from '$lib/companies/find';
  import { api, ifMatch, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatLocal } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import Part from '$ui/Part.svelte';
  import Picker from '$ui/Picker.svelte';
  import CoverPanel from '../CoverPanel.svelte';
  import CarrierLeg from './CarrierLeg.svelte';
  import { equipmentLabels } from '../labels';

  /** Assignments by leg, and handovers. */
  interface Props {
    view: Schemas['LoadSheetView'];
    takeBack: () => Promise<void>;
    busy: boolean;
    onchanged: () => Promise<void>;
  }
  let { view, takeBack, busy, onchanged }: Props = $props();
  const l = $derived(view.sheet.load);
  const leg = $derived(view.sheet.legs.at(-1));
  const underWay = $derived(
    !!leg?.driverId && (l.state === 'rolling' || (l.state === 'covered' && l.stops.some((s) => s.arrivedAt))),
  );
  let handing = $state(false);
  /** Reassigning, with its effects shown. */
  let giving = $state(false);
  let fleet = $state<Schemas['FleetView'] | null>(null);
  let place = $state<Schemas['PlaceRow'] | null>(null);
  let driver = $state('');
  let truck = $state('');
  const attempt = new Attempt();
  async function begin() {
    handing = !handing;
    if (handing && !fleet) fleet = await take(api.GET('/api/fleet')).catch((e) => (showError(e), null));
    driver = String(leg?.driverId ?? '');
    truck = String(leg?.truckId ?? '');
  }
  const handBack = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/{id}/handover/undo', { params: { path: { id: l.id } }, headers: ifMatch(l.version) }),
      );
      showDone(`${done.summary}.`);
      await onchanged();
    });
  const handOver = () =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/{id}/handover', {
          params: { path: { id: l.id } },
          body: {
            placeId: place?.id ?? null,
            at: null,
            driverId: Number(driver) || null,
            truckId: Number(truck) || null,
            trailerId: null,
          },
          headers: ifMatch(l.version),
        }),
      );
      showDone(`${done.summary}.`);
      handing = false;
      await onchanged();
    });
</script>

{#if leg && l.who}
  <Part title="Assignment">
    {#snippet aside()}
      {#if (l.state === 'tendered' || (l.state === 'covered' && !l.stops.some((s) => s.arrivedAt))) && session.may('loads.cover')}<Button
          small
          look="quiet"
          {busy}
          onclick={takeBack}>{l.state === 'tendered' ? 'Withdraw tender' : `Unassign ${l.who}`}</Button
        ><Button small look="quiet" onclick={() => (giving = !giving)}
          >{l.state === 'tendered' ? 'Tender to another' : 'Reassign'}</Button
        >{:else if underWay && session.may('loads.cover')}<Button small look="quiet" onclick={begin}
          >Change driver or truck</Button
        >{/if}
    {/snippet}
    {#each view.sheet.legs as g (g.id)}
      {#if g.driverId}
        <p class="flex justify-between gap-2">
          <span
            ><b>{g.driver}</b>
            <span class="text-mute text-sm">truck {g.truck} · {equipmentLabels[l.equipment ?? '']} {g.trailer}</span
            ></span
          ><span class="text-mute shrink-0 text-sm">trip {g.trip}</span>
        </p>
        <p class="text-mute text-sm">
          {g.driverPhone}{g.handedOverAt
            ? ` · handed over in ${g.handoverTown} ${formatLocal(localAt(g.handedOverAt, session.zone))}, ${g.miles} mi`
            : g.acceptedAt
              ? ` · accepted the trip ${formatLocal(localAt(g.acceptedAt, session.zone))}`
              : ''}
          {#if g.handedOverAt && g === view.sheet.legs.at(-2) && session.may('loads.cover')}<button
              class="text-lark ml-1 hover:underline"
              onclick={() => void handBack()}>undo handover</button
            >{/if}
        </p>
      {:else}
        <CarrierLeg load={l} {g} {onchanged} />
      {/if}
    {/each}
    {#if !handing && attempt.refused}<p class="text-ember-word text-sm" role="alert">{attempt.refused.message}</p>{/if}
    {#if handing && fleet}
      <form
        class="border-line bg-paper mt-2 grid grid-cols-6 gap-2 rounded-md border p-3"
        aria-label="Change driver or truck mid-trip"
        onsubmit={(e) => {
          e.preventDefault();
          void handOver();
        }}
      >
        <Picker
          class="col-span-6"
          label="Handover location"
          required
          bind:value={place}
          find={findPlaces}
          name={(p) => p.name}
          detail={(p) => `${p.town} ${p.region}`}
          key={(p) => p.id}
          problem={attempt.at('placeId')}
        />
        <Choice
          class="col-span-3"
          label="New driver"
          bind:value={driver}
          problem={attempt.at('driverId')}
          options={fleet.drivers.map((d) => ({ value: String(d.id), label: d.name }))}
        />
        <Choice
          class="col-span-3"
          label="New truck"
          bind:value={truck}
          problem={attempt.at('truckId')}
          options={fleet.trucks.map((t) => ({ value: String(t.id), label: t.unit }))}
        />
        <p class="text-mute col-span-6 text-sm">
          The leg of {leg.driver} ends at the handover. The trailer continues, and each driver is paid for their own leg.
        </p>
        <div class="col-span-6 flex items-center gap-2">
          <Button look="main" small type="submit" busy={attempt.busy}>Hand over {l.number}</Button>
          {#if attempt.refused && !attempt.refused.problems.some((p) => p.field)}<p
              class="text-ember-word text-sm"
              role="alert"
            >
              {attempt.refused.message}
            </p>{/if}
        </div>
      </form>
    {/if}
  </Part>
{/if}
{#if giving && (l.state === 'covered' || l.state === 'tendered')}
  <CoverPanel
    {view}
    oncovered={() => {
      giving = false;
      void onchanged();
    }}
  />
{/if}
