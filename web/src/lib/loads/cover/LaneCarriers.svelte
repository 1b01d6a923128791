<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { formatDate } from '$lib/time/when';

  /** Who ran this lane, and what it paid. */
  interface Props {
    choices: Schemas['CoverChoices'];
    carrier: Schemas['CarrierOffer'] | null;
    onpick: (carrier: Schemas['CarrierOffer']) => void;
  }
  let { choices, carrier, onpick }: Props = $props();
  const ran = $derived(choices.carriers.filter((c) => c.loadsRun > 0).slice(0, 8));
</script>

{#if ran.length > 0}
  <h4 class="text-mute mt-4 mb-1 text-sm font-bold">Carriers on this lane</h4>
  <ul>
    {#each ran as c (c.id)}
      <li class="border-line border-b">
        <button
          class="flex w-full items-baseline gap-3 py-1 text-left {carrier?.id === c.id
            ? 'bg-lark-tint/80'
            : 'hover:bg-faint/60'}"
          aria-pressed={carrier?.id === c.id}
          onclick={() => onpick(c)}
        >
          <span class="min-w-0 flex-1 truncate font-bold {c.blocked.length ? 'text-mute line-through' : ''}"
            >{c.name}</span
          >
          <span class="fig text-mute text-sm">{c.phone ?? ''}</span>
          <span class="text-mute text-sm">{c.loadsRun}×</span>
          <span class="fig">{figure(c.lastPaid)}</span>
        </button>
      </li>
    {/each}
  </ul>
{/if}
{#if choices.lane.length > 0}
  <h4 class="text-mute mt-3 mb-1 text-sm font-bold">Lane history</h4>
  <ul class="text-sm">
    {#each choices.lane.slice(0, 8) as l (l.loadNumber)}
      <li class="border-faint flex justify-between border-b py-0.5">
        <span class="fig font-bold">{l.loadNumber}</span><span class="flex-1 truncate px-3">{l.carrier}</span><span
          class="text-mute pr-3">{formatDate(l.on)}</span
        ><span class="fig">{figure(l.agreed)}</span>
      </li>
    {/each}
  </ul>
{/if}
