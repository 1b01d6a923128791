<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { keepShown, latest } from '$lib/api/latest';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { onChange } from '$lib/state/change.svelte';
  import { live } from '$lib/state/live.svelte';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { formatLocal, localAt } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import { difference } from './visits';

  /** Loads for a trip, or trips for a load: what each adds, and what becomes late. */
  interface Props {
    /** The trip that loads are for. */
    trip?: number;
    /** Or the load, with its leg, that trips are for. */
    load?: { id: number; leg: number };
    onadded: () => Promise<void> | void;
  }
  let { trip, load, onadded }: Props = $props();
  const of = $derived(trip ? 'load' : 'trip');
  let offers = $state<Schemas['TripOffer'][] | null>(null);
  const look: () => Promise<void> = latest(
    () =>
      load
        ? take(api.GET('/api/loads/{id}/trips', { params: { path: { id: load.id }, query: { leg: load.leg } } }))
        : take(api.GET('/api/trips/{id}/loads', { params: { path: { id: trip! } } })),
    (found) => (offers = found),
    keepShown(
      () => offers,
      () => void look(),
      showError,
    ),
  );
  onChange(
    () => `${trip} ${load?.id} ${load?.leg}`,
    () => {
      offers = null;
      void look();
      return live.follow(look, ['loads', 'fleet']);
    },
  );
  const attempt = new Attempt();
  const key = (o: Schemas['TripOffer']) => `${o.tripId} ${o.legId}`;
  /** The offer whose lateness is shown. */
  let open = $state('');

  const add = (o: Schemas['TripOffer']) =>
    attempt.run(async () => {
      const done = await take(
        api.POST('/api/loads/{id}/cover/trip', {
          params: { path: { id: o.loadId }, query: { leg: o.legId } },
          body: { tripId: o.tripId, allowLate: o.late.length > 0 },
        }),
      );
      showDone(`${done.number} added to trip ${done.trip} of ${done.who}.`, () =>
        take(
          api.POST('/api/loads/{id}/unassign', { params: { path: { id: done.loadId }, query: { leg: done.legId } } }),
        ),
      );
      await onadded();
    });
</script>

{#if offers === null}
  <p class="text-mute text-sm" role="status">Finding {of}s …</p>
{:else if offers.length === 0}
  <p class="text-mute text-sm">
    {trip
      ? 'No open load fits this trip.'
      : 'No trip with a trailer for this load passes near its pickup at that time.'}
  </p>
{:else}
  <ul class="-mx-2">
    {#each offers as o (key(o))}
      <li class="border-line border-b px-2 py-1.5 last:border-0">
        <div class="flex items-baseline justify-between gap-2">
          <span class="min-w-0">
            {#if of === 'load'}<a class="text-lark fig font-bold underline" href="/load/{o.loadId}">{o.load}</a>
              <span>{o.customer}</span>
            {:else}<a class="text-lark fig font-bold underline" href="/trip/{o.tripId}">{o.trip}</a>
              <span>{o.driver}</span>{/if}
            <span class="text-mute block text-sm"
              >{of === 'load'
                ? o.lane.replace(' to ', ' → ')
                : `${o.tripLane.replace(' to ', ' → ')} with ${o.carries.join(', ')}`}</span
            >
            <span class="text-mute block text-sm">
              {#if of === 'load'}{formatLocal(localAt(o.from, o.zone))} · {o.weightLb?.toLocaleString('en-US') ?? '?'} lb{o.pallets
                  ? `, ${o.pallets} pallets`
                  : ''}<br />{/if}{difference(o.addedMiles, o.addedTime)}{o.trailer ? `, in trailer ${o.trailer}` : ''}
            </span>
          </span>
          <span class="shrink-0 text-right text-sm">
            {#if o.adds}<span class="fig block font-bold">{figure(o.adds)}</span>{/if}
            {#if o.late.length}<button
                class="text-ember-word hover:underline"
                onclick={() => (open = open === key(o) ? '' : key(o))}>late</button
              >{:else}<Button
                small
                look="quiet"
                busy={attempt.busy}
                aria-label={of === 'load' ? `Add ${o.load} to the trip` : `Add to trip ${o.trip}`}
                onclick={() => add(o)}>Add</Button
              >{/if}
          </span>
        </div>
        {#if open === key(o)}
          <div class="text-sm">
            {#each [...o.notBeside, ...o.late] as said (said)}<p>{said}</p>{/each}
            <Button small look="quiet" busy={attempt.busy} onclick={() => add(o)}>Add anyway</Button>
          </div>
        {/if}
      </li>
    {/each}
  </ul>
  {#if offers.some((o) => o.adds)}<p class="text-mute mt-1 text-sm">
      Amounts are what the load adds: its revenue less the extra miles and time at company cost.
    </p>{/if}
{/if}
{#if attempt.refused}<p class="text-ember-word mt-1 text-sm" role="alert">{attempt.refused.message}</p>{/if}
