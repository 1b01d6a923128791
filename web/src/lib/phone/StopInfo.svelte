<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import Cod from '$lib/loads/Cod.svelte';
  import { windowOf } from '$lib/loads/labels';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, formatLocal, localAt, zoneName } from '$lib/time/when';

  /** Where the driver stops next for a load, and when. */
  interface Props {
    load: Schemas['MyLoad'];
    stop: Schemas['MyStop'];
    onchanged: () => void;
  }
  let { load, stop, onchanged }: Props = $props();
</script>

<h1 class="mt-2 text-xl font-bold">{stop.place}</h1>
<p>{stop.address ? `${stop.address}, ` : ''}{stop.town}</p>
<p class="mt-1">
  {stop.kind}, <b>{windowOf(stop)}</b>{stop.zone !== session.zone ? ` ${zoneName(stop.zone)} time` : ''}
</p>
{#if stop.expectedAt && !stop.arrivedAt}<p class="text-mute text-sm">
    estimated arrival {formatLocal(localAt(stop.expectedAt, stop.zone))}
  </p>{/if}
{#if stop.arrivedAt}<p class="text-mute text-sm">you arrived {clockAt(stop.arrivedAt, stop.zone)}</p>{/if}
{#if load.cod && stop.kind === 'delivery' && stop.id === load.stops.at(-1)?.id}
  <div class="border-line my-3 rounded border p-3">
    <Cod loadId={load.id} cod={load.cod} mine may={!!stop.arrivedAt} {onchanged} />
  </div>
{/if}
{#if stop.note}<p class="mt-1">{stop.note}</p>{/if}
<p class="mt-1">
  <a class="text-lark font-bold hover:underline" href="/api/mine/loads/{load.id}/trip-sheet" target="_blank"
    >Directions and trip sheet</a
  >
</p>
