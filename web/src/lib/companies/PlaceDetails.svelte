<script lang="ts">
  import { Draft } from '$lib/state/draft.svelte';
  import DraftNotice from '$ui/DraftNotice.svelte';
  import L from 'leaflet';
  import { onDestroy } from 'svelte';
  import { api, take, type Schemas } from '$lib/api/client';
  import MapView from '$lib/map/Map.svelte';
  import { Attempt } from '$lib/state/attempt.svelte';
  import { showDone } from '$lib/state/messages.svelte';
  import { session } from '$lib/state/session.svelte';
  import Button from '$ui/Button.svelte';
  import Choice from '$ui/Choice.svelte';
  import TextField from '$ui/TextField.svelte';

  /** A place's details, and its geofence on the map: moved, drawn and resized there, or by numbers. */
  let { place, onkept }: { place: Schemas['PlaceRow']; onkept: (p: Schemas['PlaceRow']) => void } = $props();
  const text = (t: string | null | undefined) => t ?? '';
  // svelte-ignore state_referenced_locally -- the form begins with the place as it is; another place makes another form
  const first = place;
  let name = $state(first.name);
  let address = $state(text(first.address));
  let docks = $state(text(first.docks));
  let hours = $state(text(first.hours));
  let service = $state(first.serviceMinutes ? String(first.serviceMinutes) : '');
  let appointments = $state(text(first.appointments));
  let bookingNote = $state(text(first.bookingNote));
  let note = $state(text(first.note));
  let at = $state<[number, number]>([first.longitude, first.latitude]);
  let kind = $state(first.geofence?.length ? 'polygon' : first.geofenceMiles ? 'circle' : 'house');
  let miles = $state(String(first.geofenceMiles ?? ''));
  let corners = $state<[number, number][]>((first.geofence ?? []).map((p) => [p.longitude!, p.latitude!]));
  let house = $state(0.5);
  const attempt = new Attempt();
  const may = $derived(session.may('companies.edit'));
  let map = $state.raw<L.Map>();
  let handles: L.Marker[] = [];

  $effect(() => {
    take(api.GET('/api/company-settings'))
      .then((h) => (house = h.geofenceMiles))
      .catch(() => {});
  });
  const radius = $derived(kind === 'house' ? house : Number(miles) || 0);
  const fences = $derived([kind === 'polygon' ? { at, corners } : { at, miles: radius }]);
  const east = (m: number): [number, number] => [at[0] + m / (69.09 * Math.cos((at[1] * Math.PI) / 180)), at[1]];
  const around = (m: number): [number, number][] =>
    [45, 135, 225, 315].map((d) => {
      const a = (d * Math.PI) / 180;
      return [
        at[0] + (m * Math.sin(a)) / (69.09 * Math.cos((at[1] * Math.PI) / 180)),
        at[1] + (m * Math.cos(a)) / 69.09,
      ];
    });
  // svelte-ignore state_referenced_locally -- where the map begins
  const view = ((m: number) => [...around(m * 2.2), at])(
    Math.max(
      0.6,
      first.geofenceMiles ?? 0.6,
      ...corners.map((c) => Math.hypot((c[0] - at[0]) * 47, (c[1] - at[1]) * 69)),
    ),
  );

  function icon(word: string) {
    return L.divIcon({ className: 'handle', iconSize: [14, 14], html: `<span class="sr-only">${word}</span>` });
  }
  /** Drag handles: the place itself, the circle's edge, the polygon's corners. */
  function place_handles() {
    handles.forEach((h) => h.remove());
    handles = [];
    if (!map || !may) return;
    const put = (p: [number, number], word: string, moved: (p: [number, number]) => void, removed?: () => void) => {
      const h = L.marker([p[1], p[0]], { draggable: true, icon: icon(word), title: word, keyboard: false }).addTo(map!);
      h.on('drag', () => {
        const q = h.getLatLng();
        moved([q.lng, q.lat]);
      });
      h.on('dragend', place_handles);
      if (removed) h.on('dblclick', removed);
      handles.push(h);
    };
    put(at, 'Move the place', (p) => {
      const by = [p[0] - at[0], p[1] - at[1]];
      corners = corners.map((c) => [c[0] + by[0], c[1] + by[1]]);
      at = p;
    });
    if (kind === 'polygon')
      corners.forEach((c, i) =>
        put(
          c,
          `Corner ${i + 1}; double-click to remove`,
          (p) => (corners[i] = p),
          () => {
            if (corners.length > 3) corners = corners.filter((_, k) => k !== i);
            place_handles();
          },
        ),
      );
    else
      put(east(radius), 'Resize the circle', (p) => {
        kind = 'circle';
        miles = Math.max(
          0.02,
          Math.min(50, Math.abs(p[0] - at[0]) * 69.09 * Math.cos((at[1] * Math.PI) / 180)),
        ).toFixed(2);
      });
  }
  $effect(() => {
    void [map, kind];
    if (kind === 'polygon' && corners.length < 3) corners = around(radius || house);
    place_handles();
  });
  onDestroy(() => handles.forEach((h) => h.remove()));

  /** A click adds a corner to the nearest side of the polygon. */
  function corner(p: readonly number[]) {
    if (kind !== 'polygon' || !may) return;
    let [best, where] = [Infinity, 0];
    corners.forEach((a, i) => {
      const b = corners[(i + 1) % corners.length];
      const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
      const k = Math.max(0, Math.min(1, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / (dx * dx + dy * dy || 1)));
      const d = Math.hypot(a[0] + k * dx - p[0], a[1] + k * dy - p[1]);
      if (d < best) [best, where] = [d, i + 1];
    });
    corners = [...corners.slice(0, where), [p[0], p[1]], ...corners.slice(where)];
    place_handles();
  }
  const draft = new Draft(
    () => `place ${first.id}`,
    () => ({ name, address, docks, hours, service, appointments, bookingNote, note, at, kind, miles, corners }),
    (v) => {
      ({ name, address, docks, hours, service, appointments, bookingNote, note, at, kind, miles, corners } = v);
      place_handles();
    },
  );
  const save = () =>
    attempt.run(async () => {
      const kept = await take(
        api.PUT('/api/places/{id}', {
          params: { path: { id: first.id } },
          body: {
            name,
            address: address || null,
            townId: null,
            note: note || null,
            latitude: at[1],
            longitude: at[0],
            geofenceMiles: kind === 'circle' ? Number(miles) || 0 : null,
            geofence: kind === 'polygon' ? corners.map((c) => [c[0], c[1]]) : null,
            docks: docks || null,
            hours: hours || null,
            serviceMinutes: service.trim() ? Number(service) || 0 : null,
            appointments: appointments || null,
            bookingNote: bookingNote || null,
          },
        }),
      );
      draft.done();
      showDone(`${kept.name} saved.`);
      onkept(kept);
    });
</script>

<form
  class="grid grid-cols-6 gap-2"
  onsubmit={(e) => {
    e.preventDefault();
    void save();
  }}
>
  <DraftNotice {draft} class="col-span-6" />
  <div class="border-line col-span-6 h-64 overflow-hidden rounded-md border">
    <MapView
      label="{place.name} on the map{kind === 'polygon' ? '; click to add a corner' : ''}"
      {fences}
      {view}
      marks={[{ id: 0, at, label: '', kind: 'place' }]}
      onready={(m) => (map = m)}
      onpoint={corner}
    />
  </div>
  <Choice
    class="col-span-2"
    label="Geofence"
    bind:value={kind}
    options={[
      { value: 'house', label: `default circle, ${house} mi` },
      { value: 'circle', label: 'custom circle' },
      { value: 'polygon', label: 'polygon' },
    ]}
  />
  {#if kind === 'circle'}<TextField
      class="col-span-1"
      label="Radius, mi"
      inputmode="decimal"
      bind:value={miles}
      onchange={place_handles}
      problem={attempt.at('geofenceMiles')}
    />
  {:else if kind === 'polygon'}<p class="text-mute col-span-4 self-end pb-1 text-sm">
      Drag the corners. Click the map to add one; double-click a corner to remove it.
      {#if attempt.at('geofence')}<span class="text-ember-word block" role="alert">{attempt.at('geofence')}</span>{/if}
    </p>{/if}
  <TextField class="col-span-3" label="Name" required bind:value={name} problem={attempt.at('name')} maxlength={120} />
  <TextField class="col-span-3" label="Street address" bind:value={address} problem={attempt.at('address')} />
  <TextField
    class="col-span-3"
    label="Docks and directions"
    bind:value={docks}
    problem={attempt.at('docks')}
    maxlength={200}
    placeholder="dock 4, around back"
  />
  <TextField
    class="col-span-2"
    label="Hours"
    bind:value={hours}
    problem={attempt.at('hours')}
    maxlength={200}
    placeholder="Mon to Fri 6 am to 3 pm"
  />
  <TextField
    class="col-span-1"
    label="Service time, minutes"
    inputmode="numeric"
    bind:value={service}
    placeholder="60"
    problem={attempt.at('serviceMinutes')}
  />
  <TextField
    class="col-span-6"
    label="Appointment instructions"
    bind:value={appointments}
    problem={attempt.at('appointments')}
    maxlength={300}
    placeholder="call the day before"
  />
  <TextField
    class="col-span-6"
    label="Booking note"
    bind:value={bookingNote}
    problem={attempt.at('bookingNote')}
    maxlength={500}
  />
  <TextField
    class="col-span-6"
    label="Note"
    lines={2}
    bind:value={note}
    problem={attempt.at('note')}
    maxlength={1000}
  />
  {#if attempt.at('latitude')}<p class="text-ember-word col-span-6 text-sm" role="alert">
      {attempt.at('latitude')}
    </p>{/if}
  {#if may}<div class="col-span-6"><Button look="main" type="submit" busy={attempt.busy}>Save</Button></div>{/if}
</form>
