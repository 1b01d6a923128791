<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { transferLabels, windowOf } from '$lib/loads/labels';
  import { formatLocal, localAt } from '$lib/time/when';

  /** The freight, the stops and the instructions of the driver's load. */
  let { load: current, done }: { load: Schemas['MyLoad']; done: (stop: Schemas['MyStop']) => boolean } = $props();
</script>

{#snippet transfer(t: Schemas['MyTransfer'] | null, reached: boolean)}
  {#if t}
    <li class="flex gap-3 py-1.5">
      <svg width="14" height="20" class="shrink-0" aria-hidden="true"
        ><rect
          x="2.5"
          y="5.5"
          width="9"
          height="9"
          fill={reached ? 'var(--ink)' : 'none'}
          stroke="var(--ink)"
          stroke-width="1.8"
        /></svg
      >
      <div>
        <p class="font-bold">{t.place}</p>
        <p class="text-mute text-sm">
          {transferLabels[t.method].toLowerCase()}, {t.town}{t.plannedAt
            ? `, ${formatLocal(localAt(t.plannedAt, t.zone))}`
            : ''}
        </p>
      </div>
    </li>
  {/if}
{/snippet}

<section class="border-line mt-6 border-t pt-3">
  <h2 class="text-mute mb-2 text-sm font-bold">Load details</h2>
  <p class="mb-2">
    {current.freight}{current.weightLb
      ? ` · ${current.weightLb.toLocaleString('en-US')} lb`
      : ''}{current.temperatureF !== null ? ` · keep at ${current.temperatureF} °F` : ''}
    <span class="text-mute">for {current.customer}</span>
  </p>
  {#if current.loading.length}<ul class="mb-2" aria-label="Where it is loaded">
      {#each current.loading as where (where)}<li>{where}</li>{/each}
    </ul>{/if}
  {#if current.features.length}<p class="mb-2">Requires {current.features.join(', ')}</p>{/if}
  <ol>
    {@render transfer(current.begins, !!current.begins?.takenAt)}
    {#each current.stops as stop (stop.id)}
      <li class="flex gap-3 py-1.5">
        <svg width="14" height="20" class="shrink-0" aria-hidden="true"
          ><circle
            cx="7"
            cy="10"
            r="5"
            fill={done(stop) ? 'var(--ink)' : 'none'}
            stroke="var(--ink)"
            stroke-width="1.8"
          /></svg
        >
        <div>
          <p class="font-bold">{stop.place}</p>
          <p class="text-mute text-sm">{stop.kind}, {stop.town}, {windowOf(stop)}</p>
        </div>
      </li>
    {/each}
    {@render transfer(current.ends, !!current.ends?.leftAt)}
  </ol>
  {#each current.notes as note, i (i)}<p class="text-marigold-word mt-2 text-sm">{note}</p>{/each}
  {#if current.instructions}<p class="mt-2 whitespace-pre-wrap">{current.instructions}</p>{/if}
</section>
