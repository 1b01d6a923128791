<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { windowOf } from '$lib/loads/labels';

  /** The driver's next trips, and what was delivered lately. */
  let { later, behind }: { later: Schemas['MyLoad'][]; behind: Schemas['MyLoad'][] } = $props();
</script>

{#if later.length > 0}
  <section class="border-line mt-6 border-t pt-3">
    <h2 class="text-mute mb-1 text-sm font-bold">Next trips</h2>
    {#each later as l (l.id)}
      <p class="py-1">
        <span class="fig font-bold">{l.number}</span>
        {l.stops[0].town} → {l.stops.at(-1)?.town}
        <span class="text-mute block text-sm">{l.stops[0].place}, {windowOf(l.stops[0])}</span>
      </p>
    {/each}
  </section>
{/if}
{#if behind.length > 0}
  <section class="border-line mt-6 border-t pt-3">
    <h2 class="text-mute mb-1 text-sm font-bold">Recently delivered</h2>
    {#each behind as l (l.id)}
      <p class="flex justify-between gap-2 py-1">
        <span><span class="fig font-bold">{l.number}</span> {l.stops[0].town} → {l.stops.at(-1)?.town}</span><span
          class="text-mute shrink-0 text-sm">{l.documents.some((p) => p.kind === 'pod') ? 'POD in' : 'no POD'}</span
        >
      </p>
    {/each}
  </section>
{/if}
