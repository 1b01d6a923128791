<script lang="ts">
  import { type Money, api, ifMatch, Refused, take, type Schemas } from '$lib/api/client';
  import MapView from '$lib/map/Map.svelte';
  import PlaceField from '$lib/map/PlaceField.svelte';
  import { figure } from '$lib/money';
  import { showDone, showError } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, hours } from '$lib/time/when';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import MoneyField from '$ui/MoneyField.svelte';
  import Part from '$ui/Part.svelte';
  import TextField from '$ui/TextField.svelte';
  import X from '@lucide/svelte/icons/x';

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
  let kind = $state('fuel');
  let expected = $state<Money | null>(null);
  let actual = $state<Money | null>(null);
  let note = $state('');

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
              done: !!(s.leftAt || s.deliveredAt || s.refusedAt),
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
  async function set(body: Schemas['RouteOverrideRequest']) {
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
    if (!(await set(wanted()))) via = before;
    adding = null;
  }
  async function addCost() {
    busy = 'cost';
    refused = null;
    try {
      const cost = await take(
        api.POST('/api/loads/{id}/costs', {
          params: { path: { id: l.id } },
          body: { kind: kind as Schemas['CostKind'], expected, actual, note: note || null },
        }),
      );
      showDone(`${words[kind]} of ${figure(cost.actual ?? cost.expected)} added to ${l.number}.`, () =>
        take(
          api.POST('/api/loads/{id}/costs/{costId}/remove', { params: { path: { id: l.id, costId: cost.id } } }),
        ).then(load),
      );
      expected = actual = null;
      note = '';
      await load();
    } catch (e) {
      if (e instanceof Refused) refused = e;
      else showError(e);
    } finally {
      busy = '';
    }
  }
  async function costBack(id: number) {
    try {
      await take(api.POST('/api/loads/{id}/costs/{costId}/remove', { params: { path: { id: l.id, costId: id } } }));
      await load();
    } catch (e) {
      showError(e);
    }
  }
  const words: Record<string, string> = {
    fuel: 'Fuel',
    toll: 'Tolls',
    lodging: 'Lodging',
    scale: 'Scale',
    wash: 'Wash',
    other: 'Other',
  };
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
      <b class="fig">{trip.loadedMiles.toLocaleString('en-US')}</b> mi loaded{#if trip.empty}, <b class="fig"
          >{trip.empty.miles.toLocaleString('en-US')}</b
        >
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
            <div class="bg-paper border-line my-1 flex flex-col gap-2 rounded-md border p-3">
              <p class="text-mute">Add a via point: type a place or click the map.</p>
              {#if via.length}<ul class="flex flex-wrap gap-1">
                  {#each via as v, i (i)}<li class="border-line bg-panel flex items-center rounded-md border pl-2">
                      {v.name}<button
                        class="text-mute hover:bg-faint rounded p-1"
                        aria-label="Remove via {v.name}"
                        onclick={() => {
                          via = via.filter((_, k) => k !== i);
                          void set(wanted());
                        }}><X size={13} /></button
                      >
                    </li>{/each}
                </ul>{/if}
              <PlaceField
                label="Via"
                bind:value={adding}
                problem={refused?.at('via')}
                onchosen={(c) => {
                  if (c) void over(c.label, c.point.latitude!, c.point.longitude!);
                }}
              />
              <div class="grid grid-cols-[90px_1fr_auto] items-end gap-2">
                <TextField label="Manual miles" inputmode="numeric" bind:value={miles} problem={refused?.at('miles')} />
                <TextField label="Reason" bind:value={why} maxlength={200} problem={refused?.at('milesWhy')} />
                <Button
                  small
                  busy={busy === 'way'}
                  disabled={!miles.trim() || Number.isNaN(Number(miles))}
                  onclick={() => set(wanted())}>Set</Button
                >
              </div>
              {#if s.milesSet !== null || s.via.length}<div>
                  <Button
                    small
                    look="quiet"
                    onclick={() => {
                      miles = why = '';
                      via = [];
                      void set({ miles: null, milesWhy: null, via: [] });
                    }}>Reset to the standard route</Button
                  >
                </div>{/if}
            </div>
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
      {@const c = trip.cost}
      <dl class="mt-2 grid grid-cols-[1fr_auto] gap-y-1 text-sm">
        <dt>Fuel</dt>
        <dd class="fig text-right">{figure(c.fuel)}</dd>
        <dt>Tolls</dt>
        <dd class="fig text-right">{figure(c.tolls)}</dd>
        <dt>Driver</dt>
        <dd class="fig text-right">{figure(c.driver)}</dd>
        <dt>Truck, per mile and day</dt>
        <dd class="fig text-right">{figure(c.fixed)}</dd>
        {#if Number(c.other.amount) > 0}<dt>Other</dt>
          <dd class="fig text-right">{figure(c.other)}</dd>{/if}
        <dt class="border-line border-t pt-1"><b>Profit</b> on {figure(l.revenue)}, via {c.days} days</dt>
        <dd class="fig border-line border-t pt-1 text-right font-bold">{figure(c.profit)}</dd>
        <dt class="text-mute">per mile, per day</dt>
        <dd class="fig text-mute text-right">
          {c.profitPerMile ? figure(c.profitPerMile) : '–'} · {figure(c.profitPerDay)}
        </dd>
      </dl>
      {#each trip.costs ?? [] as cost (cost.id)}
        <p class="flex items-baseline gap-2 text-sm">
          <span class="min-w-0 flex-1 truncate"
            >{words[cost.kind]}{cost.note ? `, ${cost.note}` : ''}
            <span class="text-mute">by {cost.enteredBy}</span></span
          >
          <span class="fig">{cost.actual ? figure(cost.actual) : `${figure(cost.expected)} expected`}</span>
          {#if session.may('loads.cover')}<button
              class="text-mute hover:bg-faint rounded p-0.5"
              aria-label="Remove {words[cost.kind]}"
              onclick={() => costBack(cost.id)}><X size={13} /></button
            >{/if}
        </p>
      {/each}
      {#if session.may('loads.cover')}
        <div class="mt-1 grid grid-cols-[90px_1fr_1fr_1.2fr_auto] items-end gap-2">
          <Choice
            label="Cost type"
            bind:value={kind}
            options={Object.entries(words).map(([value, label]) => ({ value, label }))}
          />
          <MoneyField label="Expected" bind:value={expected} problem={refused?.at('expected')} />
          <MoneyField label="Actual" bind:value={actual} problem={refused?.at('actual')} />
          <TextField label="Note" bind:value={note} maxlength={200} problem={refused?.at('note')} />
          <Button small busy={busy === 'cost'} disabled={!expected && !actual} onclick={addCost}>Enter</Button>
        </div>
      {/if}
    {/if}
  {:else}<p class="text-mute text-sm">Loading route …</p>{/if}
</Part>
