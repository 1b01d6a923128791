<script lang="ts">
  import { api, take, type Schemas } from '$lib/api/client';
  import MapView from '$lib/map/Map.svelte';
  import { showError } from '$lib/state/messages.svelte';
  import Part from '$ui/Part.svelte';

  /** A trip's way on the map, with its miles by state, empty ones apart. */
  let { sheet }: { sheet: Schemas['TripSheet'] } = $props();
  let route = $state<Schemas['TripRoute'] | null>(null);
  const key = $derived(`${sheet.trip.id} ${sheet.visits.map((v) => v.id).join()}`);
  $effect(() => {
    void key;
    const id = sheet.trip.id;
    take(api.GET('/api/trips/{id}/route', { params: { path: { id } } }))
      .then((r) => {
        if (id === sheet.trip.id) route = r;
      })
      .catch(showError);
  });
  const lines = $derived(
    route
      ? [
          ...route.ways
            .filter((w) => w.empty)
            .map((w) => ({ id: -w.visitId, label: '', line: w.line, stops: [], look: 2 })),
          {
            id: sheet.trip.id,
            label: sheet.trip.number,
            line: route.ways.filter((w) => !w.empty).flatMap((w) => w.line),
            look: 0,
            stops: sheet.visits.map((v, i) => ({ at: [v.longitude, v.latitude], label: String(i + 1), done: v.done })),
          },
        ]
      : [],
  );
  const box = $derived(route?.ways.flatMap((w) => w.line) ?? []);
  const whole = (miles: number) => Math.round(miles).toLocaleString('en-US');
</script>

{#if route && route.ways.length > 0}
  <Part title="Route">
    <div class="border-line mb-2 h-44 overflow-hidden rounded-md border">
      <MapView label="Route of trip {sheet.trip.number}" trips={lines} view={box} still />
    </div>
    <p class="text-sm">
      {#each route.byState as s, i (s.region)}{i ? ' · ' : ''}<b>{s.region}</b>
        <span class="fig">{whole(s.loaded)}</span>{s.empty >= 0.5
          ? ` and ${whole(s.empty)} empty`
          : ''}{/each}{route.tollMiles >= 0.5 ? ` · ${whole(route.tollMiles)} mi on toll roads` : ''}
    </p>
    {#if route.ways.some((w) => w.estimated)}<p class="text-marigold-word text-sm">
        Partly outside our road network: estimated from the straight-line distance.
      </p>{/if}
  </Part>
{/if}
