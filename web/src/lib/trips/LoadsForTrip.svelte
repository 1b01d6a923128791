<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { keepShown, latest } from '$lib/api/latest';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import Part from '$ui/Part.svelte';
  import TripOffers from './TripOffers.svelte';

  /** Open loads that would ride on a trip, what adds most first. */
  interface Props {
    trip: Schemas['TripSheet'];
    onadded: () => Promise<void>;
  }
  let { trip, onadded }: Props = $props();
  let offers = $state<Schemas['TripOffer'][] | null>(null);
  const load: () => Promise<void> = latest(
    () => take(api.GET('/api/trips/{id}/loads', { params: { path: { id: trip.trip.id } } })),
    (found) => (offers = found),
    keepShown(
      () => offers,
      () => void load(),
      showError,
    ),
  );
  onChange(
    () => trip.trip.id,
    () => {
      offers = null;
      void load();
      return live.follow(load, ['loads', 'fleet']);
    },
  );
</script>

<Part title="Loads that fit this trip">
  {#if offers === null}
    <p class="text-mute text-sm" role="status">Finding loads …</p>
  {:else if offers.length === 0}
    <p class="text-mute text-sm">No open load fits this trip.</p>
  {:else}
    <TripOffers {offers} of="load" {onadded} />
  {/if}
</Part>
