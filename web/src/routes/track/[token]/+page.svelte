<script lang="ts">
  import { page } from '$app/state';
  import { api, Refused, take, type Schemas } from '$lib/api/client';
  import { formatLocal, zoneName, formatTime } from '$lib/time/when';

  /** What a customer sees of its load: where it is, and its ETA. Nothing else. */
  const token = $derived(page.params.token ?? '');
  let track = $state<Schemas['TrackView'] | null>(null);
  let problem = $state('');
  let away = $state(false);
  async function load() {
    try {
      track = await take(api.GET('/api/track/{token}', { params: { path: { token } } }));
      away = false;
    } catch (e) {
      if (e instanceof Refused && e.status !== 0) problem = e.message;
      else away = true;
    }
  }
  $effect(() => {
    void load();
    const minute = setInterval(load, 60_000);
    return () => clearInterval(minute);
  });
</script>

<svelte:head><title>Track your load</title></svelte:head>
<main class="mx-auto max-w-xl p-6">
  {#if problem}
    <h1 class="mb-2 text-xl font-bold">Not found</h1>
    <p role="alert">{problem} Please contact the sender of this link.</p>
  {:else if track}
    <p class="text-mute">{track.business} · {track.phone}</p>
    <h1 class="mt-4 text-xl font-bold">{track.from} to {track.to}</h1>
    {#if track.reference}<p class="text-mute">your reference <span class="fig">{track.reference}</span></p>{/if}
    <p class="mt-6 text-lg">Your load is <b>{track.where}</b>.</p>
    {#if track.deliveredAt}
      <p class="mt-1 text-lg">Delivered <b>{formatLocal(track.deliveredAt)}</b> {zoneName(track.zone)} time.</p>
    {:else if track.expectedFrom && track.expectedUntil}
      <p class="mt-1 text-lg">
        Estimated arrival <b
          >{formatLocal(track.expectedFrom)} – {track.expectedUntil.slice(0, 10) === track.expectedFrom.slice(0, 10)
            ? formatTime(track.expectedUntil)
            : formatLocal(track.expectedUntil)}</b
        >
        {zoneName(track.zone)} time.
      </p>
      <p class="text-mute mt-1 text-sm">Estimated. This page updates every minute.</p>
    {/if}
    {#if away}<p class="text-marigold-word mt-4 text-sm" role="status">
        No response right now; this information may be out of date.
      </p>{/if}
  {:else if away}
    <p role="alert">We cannot be reached right now. Retrying automatically.</p>
  {:else}
    <p class="text-mute" role="status">Loading …</p>
  {/if}
</main>
