<script lang="ts">
  import { session } from '../state/session.svelte';
  import { xOf, type Axis } from '$ui/axis';
  import { labelOf, stretches, worksAt, type Trip } from './plan';

  /** A trip as a line: pegs at its visits, dashes where nothing is on board, thick where it was driven. */
  interface Props {
    trip: Trip;
    axis: Axis;
    /** Whether it is there only in the change that is tried. */
    tried?: boolean;
    height?: number;
    /** The other driver of a team. */
    mate?: string;
  }
  let { trip, axis, tried = false, height = 46, mate }: Props = $props();
  const mid = $derived(height / 2 + 3);
  const clamp = (at: number) => Math.max(-8, Math.min(axis.width + 8, xOf(axis, at)));
  const ink = $derived(tried ? 'var(--lark)' : 'var(--ink)');
  const pegs = $derived(
    trip.visits.map((v) => ({ v, x: clamp(worksAt(v)), up: v.kind === 'pickup', due: clamp(Date.parse(v.until)) })),
  );
  const shown = $derived(stretches(trip, session.now));
  /** The loads are named after the first pickup, and after others right beside it. */
  const label = $derived(pegs.reduce((x, p) => (p.up && p.x - x > 0 && p.x - x < 44 ? p.x : x), pegs[0].x));
  const room = $derived(pegs[pegs.length - 1].x - pegs[0].x);
</script>

{#each shown as s (`${s.kind}-${s.from}`)}
  <line
    x1={clamp(s.from)}
    x2={clamp(s.until)}
    y1={mid}
    y2={mid}
    stroke={ink}
    stroke-width={s.kind === 'driven' ? 4 : tried ? 2.4 : 1.7}
    stroke-dasharray={s.kind === 'empty' ? '5 4' : undefined}
    opacity={s.kind === 'empty' ? 0.75 : 1}
  />
{/each}
{#each pegs as { v, x, up, due } (v.id)}
  {#if v.late > 0 && !v.reached && !v.own}
    <line x1={due} x2={x} y1={mid} y2={mid} stroke="var(--ember)" stroke-width="4" />
  {/if}
  {#if v.own}
    <rect
      x={x - 3}
      y={mid - 3}
      width="6"
      height="6"
      fill={v.done ? ink : 'var(--paper)'}
      stroke={ink}
      stroke-width="1.5"
    />
  {:else}
    <line x1={x} x2={x} y1={mid} y2={up ? mid - 6 : mid + 6} stroke={ink} stroke-width="1.5" />
    <circle
      cx={x}
      cy={up ? mid - 9.5 : mid + 9.5}
      r="3.8"
      fill={v.done ? ink : 'var(--paper)'}
      stroke={v.late > 0 && !v.reached ? 'var(--ember)' : ink}
      stroke-width="1.7"
    />
  {/if}
{/each}
{#if room > 64 && pegs[0].x > -8 && pegs[0].x < axis.width - 40}
  <text x={label + 8} y={mid - 5} class="fig" font-size="11" fill={tried ? 'var(--lark)' : 'var(--mute)'}
    >{labelOf(trip)}{mate ? ` with ${mate}` : ''}</text
  >
{/if}
