<script lang="ts">
  import { api, ifMatch, Refused, take, type Schemas } from '$lib/api/client';
  import MapView from '$lib/map/Map.svelte';
  import { figure } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, hours } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Part from '$ui/Part.svelte';
  import { isDone } from '../labels';
  import RouteEdit from './RouteEdit.svelte';
  import TripCosts from './TripCosts.svelte';

  /** A load's route: a small map, miles by state, overrides, and costs. */
  let { view, onchanged }: { view: Schemas['LoadSheetView']; onchanged: () => void } = $props();
  type Stretch = Schemas['StretchView'];
  const l = $derived(view.sheet.load);
  let trip = $state<Schemas['TripView'] | null>(null);
  let steps = $state(false);
  let costing = $state(false);
  /** The stretch being edited, by the stop it leads to. */
  let at = $state<number | null>(null);
  let miles = $state('');
  let why = $state('');
  let via = $state<Schemas['ViaRequest'][]>([]);
  let adding = $state<Schemas['Candidate'] | null>(null);
  let refused = $state<Refused | null>(null);
  let busy = $state('');

  const load = () =>
    take(api.GET('/api/loads/{id}/trip', { params: { path: { id: l.id } } }))
      .then((t) => (trip = t))
      .catch(() => (trip = null));
  $effect(() => {
    void [l.id, l.version];
    void load();
  });
  const shaped = $derived(at !== null);
  const trips = $derived(
    trip
      ? [
          ...(trip.empty ? [{ id: -1, label: '', line: trip.empty.line, stops: [], look: 2 }] : []),
          {
            id: l.id,
            label: l.number,
            line: trip.stretches.flatMap((s) => s.line),
            look: 0,
            stops: l.stops.map((s, i) => ({
              at: [s.longitude!, s.latitude!],
              label: String(i + 1),
              done: isDone(s),
            })),
          },
        ]
      : [],
  );
  const box = $derived(trip ? [...(trip.empty?.line ?? []), ...trip.stretches.flatMap((s) => s.line)] : []);
  const mayShape = $derived(session.may('loads.book') && !['billed', 'closed', 'cancelled'].includes(l.state));

  function open(s: Stretch) {
    at = at === s.stopId ? null : s.stopId;
    miles = s.milesSet === null ? '' : String(s.milesSet);
    why = s.milesWhy ?? '';
    via = [...s.via];
    adding = null;
    refused = null;
  }
  async function set(body: Schemas['RouteOverrideRequest'] = wanted()) {
    busy = 'way';
    refused = null;
    try {
      const done = await take(
        api.POST('/api/loads/{id}/stops/{stopId}/route', {
          params: { path: { id: l.id, stopId: at! } },
          body,
          headers: ifMatch(l.version),
        }),
      );
      showDone(`${done.summary}.`);
      onchanged();
      await load();
      return true;
    } catch (e) {
      if (e instanceof Refused && e.status !== 409) refused = e;
      else showError(e);
      return false;
    } finally {
      busy = '';
    }
  }
  const wanted = (): Schemas['RouteOverrideRequest'] => ({
    miles: miles.trim() ? Math.round(Number(miles)) : null,
    milesWhy: why || null,
    via,
  });
  async function over(name: string, latitude: number, longitude: number) {
    const before = via;
    via = [...via, { name, latitude, longitude }];
    if (!(await set())) via = before;
    adding = null;
  }
  const files = [
    ['pdf', 'Trip sheet'],
    ['gpx', 'GPX'],
    ['geo_json', 'GeoJSON'],
    ['csv', 'CSV'],
  ];
</script>

<Part title="Route">
  {#snippet aside()}
    {#if trip}<span class="flex gap-3 text-sm">
        {#each files as [format, name] (format)}<a
            class="text-lark font-bold hover:underline"
            href="/api/loads/{l.id}/route?format={format}"
            download={format !== 'pdf'}
            target={format === 'pdf' ? '_blank' : undefined}>{name}</a
          >{/each}
      </span>{/if}
  {/snippet}
  {#if trip}
    <div class="border-line mb-2 overflow-hidden rounded-md border {shaped ? 'h-72' : 'h-44'}">
      <MapView
        label="Route of {l.number}{shaped ? '; click to add a via point' : ''}"
        {trips}
        view={box}
        still={!shaped}
        onpoint={shaped && mayShape
          ? ([lon, lat]) => void over(`${lat.toFixed(3)}, ${lon.toFixed(3)}`, lat, lon)
          : undefined}
      />
    </div>
    <p>
      <b class="fig">{trip.loadedMiles.toLocaleString('en-US')}</b> mi {l.isMove && !l.freight
        ? 'empty'
        : 'loaded'}{#if trip.empty}, <b class="fig">{trip.empty.miles.toLocaleString('en-US')}</b>
        empty from {trip.empty.from}{/if}, {hours(trip.minutes)} driving{trip.tollMiles
        ? `, ${trip.tollMiles.toFixed(0)} mi on toll roads`
        : ''}
    </p>
    <p class="text-mute text-sm">
      {#each Object.entries(trip.byState) as [state, m], i (state)}{i ? ' · ' : ''}<b>{state}</b>
        <span class="fig">{m.toFixed(1)}</span>{/each}
    </p>
    <ul class="mt-1.5 text-sm">
      {#each trip.stretches as s (s.stopId)}
        <li class="border-line border-t py-1">
          <div class="flex items-baseline gap-2">
            <span class="min-w-0 flex-1 truncate"
              >{s.from} → {s.to}{s.via.length ? `, via ${s.via.map((v) => v.name).join(', ')}` : ''}</span
            >
            <span class="fig">{s.miles.toFixed(s.milesSet === null ? 1 : 0)} mi</span>
            {#if mayShape}<button class="text-lark font-bold hover:underline" onclick={() => open(s)}
                >{at === s.stopId ? 'Close' : 'Change'}</button
              >{/if}
          </div>
          {#if s.milesSet !== null}<p class="text-marigold-word">
              set by {s.milesBy}, {clockAt(s.milesAt!, session.zone)}: {s.milesWhy}
              <span class="text-mute">(road miles {s.roadMiles.toFixed(1)})</span>
            </p>{/if}
          {#if s.estimated}<p class="text-marigold-word">
              Outside our road network: estimated from the straight-line distance.
            </p>{/if}
          {#if at === s.stopId}
            <RouteEdit
              stretch={s}
              {refused}
              busy={busy === 'way'}
              bind:via
              bind:miles
              bind:why
              bind:adding
              {set}
              {over}
            />
          {/if}
        </li>
      {/each}
    </ul>
    <div class="mt-1 flex gap-2">
      <Button small look="quiet" onclick={() => (steps = !steps)}>{steps ? 'Hide directions' : 'Directions'}</Button>
      {#if trip.cost}<Button small look="quiet" onclick={() => (costing = !costing)}
          >{costing ? 'Hide trip costs' : `Expected profit ${figure(trip.cost.profit)}`}</Button
        >{/if}
    </div>
    {#if steps}
      <ol class="mt-1 text-sm">
        {#each trip.steps as step, i (i)}
          <li class="flex gap-2">
            <span class="fig w-12 shrink-0 text-right">{step.miles.toFixed(1)}</span>
            <span class="w-32 shrink-0 truncate {step.road ? 'font-bold' : 'text-mute'}"
              >{step.road ?? 'local roads'}</span
            >
            <span class="truncate">{step.to ?? ''}</span>
          </li>
        {/each}
      </ol>
    {/if}
    {#if costing && trip.cost}
      <TripCosts load={l} {trip} cost={trip.cost} onchanged={load} />
    {/if}
  {:else}<p class="text-mute text-sm">Loading route …</p>{/if}
</Part>
