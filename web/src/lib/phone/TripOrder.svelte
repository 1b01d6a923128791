<script lang="ts">
  import type { Visit } from './trip';

  /** What the driver does in order on a trip that carries several loads. */
  let { visits }: { visits: Visit[] } = $props();
  const next = $derived(visits.find((v) => !v.done));
</script>

{#if visits.length > 0}
  <section class="border-line mt-6 border-t pt-3">
    <h2 class="text-mute mb-1 text-sm font-bold">This trip, in order</h2>
    <ol>
      {#each visits as v (v.at)}
        <li class="flex gap-3 py-1 {v.done ? 'text-mute' : ''}" aria-current={v === next ? 'step' : undefined}>
          <span class="fig w-5 shrink-0 text-right">{v.at}</span>
          <span class="min-w-0">
            <span class={v === next ? 'font-bold' : ''}>{v.town}</span>
            <span class="text-mute text-sm"
              >{v.kind}
              {#if !v.own}<span class="fig">{v.load.number}</span>{/if}{v.done ? ', done' : ''}</span
            >
            <span class="text-mute block truncate text-sm">{v.place}</span>
          </span>
        </li>
      {/each}
    </ol>
  </section>
{/if}
