<script lang="ts">
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { clockAt } from '$lib/time/when';
  import { tripStopDone, tripStopLabels } from '$lib/trips/stops';
  import Button from '$ui/Button.svelte';

  /** The driver makes a stop of the trip's own: fuel, scale, hooking the trailer. */
  interface Props {
    load: Schemas['MyLoad'];
    stop: Schemas['MyTripStop'];
    ondone: () => Promise<void>;
    /** The driver does not stop here. */
    onpassed: () => void;
    /** Shown instead until the driver has accepted the trip. */
    before?: import('svelte').Snippet;
  }
  let { load, stop, ondone, onpassed, before }: Props = $props();
  let busy = $state(false);
  let refused = $state('');
  const trailer = $derived(stop.kind === 'hook' || stop.kind === 'drop');
  async function say(left: boolean) {
    busy = true;
    refused = '';
    try {
      const done = await take(
        api.POST('/api/mine/trips/{id}/stops/{stopId}', {
          params: { path: { id: stop.tripId, stopId: stop.id } },
          body: { left, at: null },
          headers: { 'Lark-Via': 'phone' },
        }),
      );
      showDone(`${done.summary}.`);
    } catch (e) {
      if (e instanceof Refused) refused = e.message;
      else showError(e);
    } finally {
      busy = false;
      await ondone();
    }
  }
</script>

<h1 class="mt-2 text-xl font-bold">{stop.place}</h1>
<p>{stop.town}</p>
<p class="mt-1"><b>{tripStopLabels[stop.kind]}{trailer ? ` ${load.trailer}` : ''}</b></p>
{#if stop.note}<p class="mt-1">{stop.note}</p>{/if}
{#if stop.arrivedAt}<p class="text-mute text-sm">you arrived {clockAt(stop.arrivedAt, stop.zone)}</p>{/if}
{#if refused}<p class="text-ember-word mt-3" role="alert">{refused}</p>{/if}
{#if before}{@render before()}{:else}
  <div class="mt-5 flex flex-col gap-3">
    {#if !stop.arrivedAt && !trailer && stop.kind !== 'waypoint'}
      <Button look="main" class="h-16! text-lg" {busy} onclick={() => void say(false)}>Arrived</Button>
    {:else}
      <Button look="main" class="h-16! text-lg" {busy} onclick={() => void say(true)}>{tripStopDone[stop.kind]}</Button>
    {/if}
    {#if !stop.arrivedAt && !trailer}<Button look="quiet" class="h-12!" onclick={onpassed}>Not stopping here</Button
      >{/if}
  </div>
{/if}
