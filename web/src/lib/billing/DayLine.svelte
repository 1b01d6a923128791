<script lang="ts">
  import { session } from '$lib/state/session.svelte';
  import { xOf, type Axis } from '$ui/axis';

  /** The timeline of an invoice: delivered, documents received, billed, due, paid. */
  interface Props {
    axis: Axis;
    delivered?: string | null;
    papers?: string | null;
    billed?: string | null;
    due?: string | null;
    paid?: string | null;
    open?: boolean;
  }
  let { axis, delivered, papers, billed, due, paid, open = true }: Props = $props();
  const x = (day: string | null | undefined) =>
    day
      ? Math.max(-4, Math.min(axis.width + 4, xOf(axis, Date.parse(day.length === 10 ? `${day}T18:00:00Z` : day))))
      : null;
  const d = $derived(x(delivered));
  const p = $derived(x(papers));
  const b = $derived(x(billed));
  const u = $derived(x(due));
  const pay = $derived(x(paid));
  const now = $derived(xOf(axis, session.now));
</script>

<svg
  width={axis.width}
  height="44"
  class="block overflow-hidden"
  role="img"
  aria-label={[
    delivered && `delivered ${delivered.slice(0, 10)}`,
    billed && `billed ${billed}`,
    due && `due ${due}`,
    paid && `paid ${paid}`,
  ]
    .filter(Boolean)
    .join(', ')}
>
  {#if u !== null && (b ?? d) !== null}
    <line x1={(b ?? d)!} x2={u} y1="22" y2="22" stroke="var(--ink)" stroke-width="1.6" />
    {#if open && u < now}<line x1={u} x2={now} y1="22" y2="22" stroke="var(--ember)" stroke-width="4" />{/if}
    <line x1={u} x2={u} y1="22" y2="28" stroke="var(--ink)" stroke-width="1.5" />
    <rect
      x={u - 3.5}
      y="27.500"
      width="7"
      height="7"
      rx="1.5"
      fill={open ? 'var(--paper)' : 'var(--ink)'}
      stroke="var(--ink)"
      stroke-width="1.6"
    />
  {:else if d !== null}
    <line
      x1={d}
      x2={p ?? now}
      y1="22"
      y2="22"
      stroke="var(--ink)"
      stroke-width="1.6"
      stroke-dasharray={p ? undefined : '2.5 3'}
    />
  {/if}
  {#if d !== null && b !== null && b > d}<line
      x1={d}
      x2={b}
      y1="22"
      y2="22"
      stroke="var(--ink)"
      stroke-width="1.6"
    />{/if}
  {#if d !== null}
    <line x1={d} x2={d} y1="22" y2="28" stroke="var(--ink)" stroke-width="1.5" />
    <circle cx={d} cy="31" r="3.6" fill="var(--ink)" />
  {/if}
  {#if (b ?? p) !== null}
    <line x1={(b ?? p)!} x2={(b ?? p)!} y1="16" y2="22" stroke="var(--ink)" stroke-width="1.5" />
    <rect x={(b ?? p)! - 4} y="8" width="8" height="8" rx="1.5" fill="var(--ink)" />
  {/if}
  {#if pay !== null}<line x1={pay} x2={pay} y1="12" y2="32" stroke="var(--moss)" stroke-width="3" />{/if}
</svg>
