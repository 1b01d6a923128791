<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { clockAt, formatLocal, localAt } from '$lib/time/when';
  import { ofTrailer, tripStopDone, tripStopLabel } from '$lib/trips/stops';
  import Button from '$ui/Button.svelte';

  /** The driver makes a stop of the trip's own: fuel, scale, hooking a trailer. */
  interface Props {
    stop: Schemas['MyTripStop'];
    ondone: () => Promise<void>;
    /** The driver does not stop here. */
    onpassed: () => void;
    /** Shown instead until the driver has accepted the trip. */
    before?: import('svelte').Snippet;
  }
  let { stop, ondone, onpassed, before }: Props = $props();
  const attempt = new Attempt();
  const trailer = $derived(ofTrailer(stop.kind));
  /** Whether one press does it, without an arrival before. */
  const atOnce = $derived(trailer || stop.kind === 'waypoint' || stop.kind === 'start' || stop.kind === 'end');
  async function say(left: boolean) {
    await attempt.run(async () => {
      const done = await take(
        api.POST('/api/mine/trips/{id}/stops/{stopId}', {
          params: { path: { id: stop.tripId, stopId: stop.id } },
          body: { left, at: null },
          headers: { 'Lark-Via': 'phone' },
        }),
      );
      showDone(`${done.summary}.`);
    });
    await ondone();
  }
</script>

<h1 class="mt-2 text-xl font-bold">{stop.place}</h1>
<p>{stop.town}</p>
<p class="mt-1"><b>{tripStopLabel(stop.kind, stop.trailer)}</b></p>
{#if stop.startsAt}<p class="mt-1">{formatLocal(localAt(stop.startsAt, stop.zone))}</p>{/if}
{#if stop.note}<p class="mt-1">{stop.note}</p>{/if}
{#if stop.arrivedAt}<p class="text-mute text-sm">you arrived {clockAt(stop.arrivedAt, stop.zone)}</p>{/if}
{#if attempt.refused}<p class="text-ember-word mt-3" role="alert">{attempt.refused.message}</p>{/if}
{#if before}{@render before()}{:else}
  <div class="mt-5 flex flex-col gap-3">
    {#if !stop.arrivedAt && !atOnce}
      <Button look="main" class="h-16! text-lg" busy={attempt.busy} onclick={() => void say(false)}>Arrived</Button>
    {:else}
      <Button look="main" class="h-16! text-lg" busy={attempt.busy} onclick={() => void say(true)}
        >{tripStopDone[stop.kind]}</Button
      >
    {/if}
    {#if !stop.arrivedAt && !trailer}<Button look="quiet" class="h-12!" onclick={onpassed}>Not stopping here</Button
      >{/if}
  </div>
{/if}
