<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, formatLocal, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';

  /** What was recorded at a stop of the trip's own, and what can be. */
  interface Props {
    trip: Schemas['TripRow'];
    visit: Schemas['TripVisit'];
    onchanged: () => Promise<void>;
  }
  let { trip, visit, onchanged }: Props = $props();
  const attempt = new Attempt();
  const own = $derived(visit.own!);
  const path = $derived({ path: { id: trip.id, stopId: visit.id } });
  const over = $derived(!!trip.endedAt || !!trip.canceledAt);
  const act = (run: () => Promise<Schemas['TripStopAnswer']>) =>
    attempt.run(async () => {
      showDone(`${(await run()).summary}.`);
      await onchanged();
    });
  const record = (left: boolean) =>
    act(() => take(api.POST('/api/trips/{id}/stops/{stopId}', { params: path, body: { left, at: null } })));
  const undo = () => act(() => take(api.POST('/api/trips/{id}/stops/{stopId}/undo', { params: path })));
  const remove = () => act(() => take(api.POST('/api/trips/{id}/stops/{stopId}/remove', { params: path })));
  const time = (at: string) => clockAt(at, visit.zone);
</script>

<span class="text-mute text-sm">
  {own.leftAt
    ? `left ${time(own.leftAt)}`
    : own.arrivedAt
      ? `arrived ${time(own.arrivedAt)}`
      : own.startsAt
        ? `set to start ${formatLocal(localAt(own.startsAt, visit.zone))}`
        : own.minutes > 0
          ? `${own.minutes} min`
          : ''}{own.note ? `${own.minutes > 0 || own.arrivedAt || own.startsAt ? ' · ' : ''}${own.note}` : ''}
</span>
{#if !trip.canceledAt}
  <span class="flex flex-wrap gap-1">
    {#if session.may('loads.roll')}
      {#if !own.arrivedAt && own.kind !== 'start'}<Button small busy={attempt.busy} onclick={() => record(false)}
          >Arrived</Button
        >{/if}
      {#if !own.leftAt && own.kind !== 'end'}<Button small busy={attempt.busy} onclick={() => record(true)}
          >{own.kind === 'start' ? 'Started' : 'Left'}</Button
        >{/if}
      {#if own.arrivedAt}<Button small look="quiet" busy={attempt.busy} onclick={undo}>Undo</Button>{/if}
    {/if}
    {#if session.may('loads.cover') && !own.arrivedAt && !over}<Button
        small
        look="quiet"
        busy={attempt.busy}
        onclick={remove}>Remove</Button
      >{/if}
  </span>
{/if}
{#if attempt.refused}<span class="text-ember-word block text-sm" role="alert">{attempt.refused.message}</span>{/if}
