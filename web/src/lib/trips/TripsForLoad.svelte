<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { keepShown, latest } from '$lib/api/latest';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import TripOffers from './TripOffers.svelte';

  /** Trips a load fits, where it adds most first. */
  interface Props {
    loadId: number;
    leg: number;
    onadded: () => void;
  }
  let { loadId, leg, onadded }: Props = $props();
  let offers = $state<Schemas['TripOffer'][] | null>(null);
  const load: () => Promise<void> = latest(
    () => take(api.GET('/api/loads/{id}/trips', { params: { path: { id: loadId }, query: { leg } } })),
    (found) => (offers = found),
    keepShown(
      () => offers,
      () => void load(),
      showError,
    ),
  );
  onChange(
    () => `${loadId} ${leg}`,
    () => {
      offers = null;
      void load();
      return live.follow(load, ['loads', 'fleet']);
    },
  );
</script>

{#if offers === null}
  <p class="text-mute text-sm" role="status">Finding trips …</p>
{:else if offers.length === 0}
  <p class="text-mute text-sm">No trip with a trailer for this load passes near its pickup at that time.</p>
{:else}
  <TripOffers {offers} of="trip" {onadded} />
{/if}
