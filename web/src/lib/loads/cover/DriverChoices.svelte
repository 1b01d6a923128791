<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { figure } from '$lib/money';
  import { session } from '$lib/state/session.svelte';
  import { localAt, formatSoon } from '$lib/time/when';
  import { rows } from '$ui/rows';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Button from '$ui/Button.svelte';
  import { xOf, type Axis } from '$ui/axis';

  /** Our drivers for a load: their coming days, the round trip it would make, and its margin per day. */
  interface Props {
    choices: Schemas['CoverChoices'];
    driver: Schemas['DriverOffer'] | null;
    onpick: (driver: Schemas['DriverOffer']) => void;
  }
  let { choices, driver, onpick }: Props = $props();
  const width = 190;
  let all = $state(false);
  const shownDrivers = $derived(choices.drivers.slice(0, all ? 100 : 5));
  const axis = $derived<Axis>({
    from: session.now - 6 * 3_600_000,
    until: Math.max(
      session.now + 66 * 3_600_000,
      Date.parse(choices.until) + 8 * 3_600_000 || 0,
      // Round trips of the drivers shown, up to five days.
      Math.min(
        session.now + 120 * 3_600_000,
        ...[Math.max(0, ...shownDrivers.map((d) => Date.parse(d.roundTrip?.homeAt ?? '') + 4 * 3_600_000 || 0))],
      ),
    ),
    width,
  });
</script>

{#snippet empty(from: number, until: number)}
  <line x1={from} x2={until} y1="18" y2="18" stroke="var(--mute)" stroke-width="1.6" stroke-dasharray="4 3" />
{/snippet}
{#snippet hauled(from: number, until: number, colour: string)}
  <path d="M{from} 9v9H{until}v9" fill="none" stroke={colour} stroke-width="1.8" />
  <circle cx={from} cy="8" r="3.4" fill="var(--panel)" stroke={colour} stroke-width="1.6" />
  <circle cx={until} cy="28" r="3.4" fill="var(--panel)" stroke={colour} stroke-width="1.6" />
{/snippet}

<div class="relative">
  <div class="grid grid-cols-[150px_190px_minmax(0,1fr)]">
    <span></span><AxisHead {axis} /><span class="text-mute self-end pb-1 text-right text-[11px]"
      >margin per day, round trip · empty miles</span
    >
  </div>
  <div class="relative" use:rows>
    <div class="pointer-events-none absolute inset-y-0 left-[150px] w-[190px]"><AxisLines {axis} /></div>
    {#each shownDrivers as d (d.driverId)}
      <button
        class="border-line relative grid w-full grid-cols-[150px_190px_minmax(0,1fr)] items-center border-b py-1 text-left {driver?.driverId ===
        d.driverId
          ? 'bg-lark-tint/80'
          : 'hover:bg-faint/60'}"
        aria-pressed={driver?.driverId === d.driverId}
        onclick={() => onpick(d)}
      >
        <span class="min-w-0 pl-1">
          <span class="block truncate font-bold">{d.name}</span>
          <span class="text-mute block truncate text-sm"
            >{d.freeAt && Date.parse(d.freeAt) > session.now
              ? `${formatSoon(localAt(d.freeAt, session.zone))}, `
              : 'in '}{d.freeTown}</span
          >
        </span>
        <svg {width} height="36" class="overflow-hidden" aria-hidden="true">
          {#each d.commitments as p (p.from)}
            <line
              x1={xOf(axis, Date.parse(p.from))}
              x2={xOf(axis, Date.parse(p.until))}
              y1="18"
              y2="18"
              stroke={p.off ? 'var(--mute)' : 'var(--ink)'}
              stroke-width={p.off ? 7 : p.underWay ? 4 : 1.8}
              stroke-dasharray={p.off ? '1.5 3' : undefined}
            />
          {/each}
          {#if d.emptyMiles !== null && !d.blocked}
            {@render empty(
              Math.max(0, xOf(axis, Date.parse(choices.from) - (d.emptyMiles / 52) * 3_600_000)),
              xOf(axis, Date.parse(choices.from)),
            )}
          {/if}
          {#if !d.blocked}
            {@const end = xOf(axis, Date.parse(choices.until))}
            {@render hauled(xOf(axis, Date.parse(choices.from)), end, 'var(--ink)')}
            {#if d.roundTrip}
              {@const home = xOf(axis, Date.parse(d.roundTrip.homeAt))}
              {#if d.roundTrip.backBegins && d.roundTrip.backEnds}
                {@const back = xOf(axis, Date.parse(d.roundTrip.backBegins))}
                {@const done = xOf(axis, Date.parse(d.roundTrip.backEnds))}
                {@render empty(end, back)}
                {@render hauled(back, done, 'var(--lark)')}
                {@render empty(done, home)}
              {:else}{@render empty(end, home)}{/if}
              <path
                d="M{home - 4} 23v-7l4 -4l4 4v7z"
                fill="var(--panel)"
                stroke="var(--ink)"
                stroke-width="1.5"
                stroke-linejoin="round"
              />
            {/if}
          {/if}
        </svg>
        <span class="min-w-0 text-right">
          {#if d.blocked}
            <span class="text-ember-word block text-sm font-bold">not available</span>
            <span class="text-mute line-clamp-2 block text-sm leading-tight">{d.blocked}</span>
          {:else}
            <span class="fig block font-bold">{figure(d.roundTrip?.perDay ?? d.margin?.amount)}</span>
            <span class="text-mute block truncate text-sm"
              >{d.emptyMiles ?? '?'} mi empty{d.freeWhere ? `, ${d.freeWhere}` : ''}{d.roundTrip
                ? d.roundTrip.backNumber
                  ? `, ${d.roundTrip.backNumber} back`
                  : ', no return load'
                : ''}</span
            >
          {/if}
        </span>
      </button>
    {/each}
  </div>
  {#if choices.drivers.length > 5}<Button small look="quiet" class="mt-1" onclick={() => (all = !all)}
      >{all ? 'Show the best five' : `Show all ${choices.drivers.length}`}</Button
    >{/if}
</div>
