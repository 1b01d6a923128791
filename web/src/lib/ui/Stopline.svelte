<script lang="ts">
  import type { Schemas } from '../api/client';
  import { session } from '../state/session.svelte';
  import { xOf, type Axis } from './axis';

  interface Props {
    load: Schemas['LoadRow'];
    visits: Schemas['VisitView'][];
    axis: Axis;
    height?: number;
  }
  let { load, visits, axis, height = 44 }: Props = $props();

  const mid = $derived(height / 2);
  const clamp = (x: number) => Math.max(-6, Math.min(axis.width + 6, x));
  const carried = $derived(load.who !== null && load.state !== 'tendered');
  const pegs = $derived(
    load.stops
      .filter((s) => s.fromAt && s.untilAt)
      .map((stop) => {
        const visit = visits.find((v) => v.stopId === stop.id);
        const dueBy = Date.parse(stop.untilAt!);
        return {
          stop,
          up: stop.kind === 'pickup',
          done: visit?.done ?? false,
          at: stop.kind === 'pickup' ? Date.parse(stop.fromAt!) : dueBy,
          dueBy,
          opens: Date.parse(stop.fromAt!),
          expected: visit && !visit.done ? Date.parse(visit.arrives) : null,
          outlook: visit?.outlook ?? 'on_time',
        };
      }),
  );
  /** Where the freight changes trucks; beyond one whose next truck is not known, the line is dashed. */
  const transfers = $derived(
    load.transfers.map((t) => ({ t, at: Date.parse(t.takenAt ?? t.plannedAt ?? t.leftAt!), taken: !!t.takenAt })),
  );
  const unknown = $derived(carried ? transfers.find((x) => !x.t.nextWho)?.at : undefined);
  const first = $derived(pegs[0]);
  const last = $derived(pegs.at(-1));
  // The stretch a truck has driven: from the first stop left to now, or to the last stop done.
  const left = $derived(load.stops.find((s) => s.leftAt || s.deliveredAt));
  const behindUntil = $derived(
    last && pegs.every((p) => p.done)
      ? last.at
      : Math.min(session.now, Math.max(last?.at ?? 0, ...pegs.map((p) => p.expected ?? 0))),
  );
  const words = $derived(
    [
      ...pegs.map(
        (p) =>
          `${p.stop.kind} ${p.stop.town} ${p.done ? 'done' : p.outlook === 'late' ? 'late' : p.outlook === 'tight' ? 'tight' : p.outlook === 'no_update' ? 'no update' : 'upcoming'}`,
      ),
      ...transfers.map((x) => `transfer ${x.t.town} ${x.taken ? 'done' : 'upcoming'}`),
    ].join(', '),
  );
</script>

<svg width={axis.width} {height} class="block overflow-hidden" role="img" aria-label={words}>
  {#if first && last}
    {@const end = Math.max(last.at, last.expected ?? 0)}
    <line
      x1={clamp(xOf(axis, first.at))}
      x2={clamp(xOf(axis, Math.min(unknown ?? end, end)))}
      y1={mid}
      y2={mid}
      stroke="var(--ink)"
      stroke-width="1.6"
      stroke-dasharray={carried ? undefined : '2.5 3.5'}
    />
    {#if unknown !== undefined && unknown < end}
      <line
        x1={clamp(xOf(axis, unknown))}
        x2={clamp(xOf(axis, end))}
        y1={mid}
        y2={mid}
        stroke="var(--ink)"
        stroke-width="1.6"
        stroke-dasharray="2.5 3.5"
      />
    {/if}
    {#if carried && left && first.at < behindUntil}
      <line
        x1={clamp(xOf(axis, first.at))}
        x2={clamp(xOf(axis, behindUntil))}
        y1={mid}
        y2={mid}
        stroke="var(--ink)"
        stroke-width="4"
        stroke-linecap="round"
      />
    {/if}
    {#each transfers as { t, at, taken } (t.id)}
      <rect
        x={clamp(xOf(axis, at)) - 4}
        y={mid - 4}
        width="8"
        height="8"
        fill={taken ? 'var(--ink)' : 'var(--paper)'}
        stroke="var(--ink)"
        stroke-width="1.7"
      />
    {/each}
    {#each pegs as peg (peg.stop.id)}
      {@const x = xOf(axis, peg.at)}
      {#if peg.opens !== peg.dueBy && !peg.done}
        <line
          x1={clamp(xOf(axis, peg.opens))}
          x2={clamp(xOf(axis, peg.dueBy))}
          y1={peg.up ? mid - 9 : mid + 9}
          y2={peg.up ? mid - 9 : mid + 9}
          stroke="var(--line)"
          stroke-width="3"
        />
      {/if}
      {#if peg.expected && !peg.done && peg.outlook !== 'on_time'}
        {@const e = xOf(axis, peg.outlook === 'no_update' ? session.now : peg.expected)}
        {@const colour = peg.outlook === 'tight' ? 'var(--marigold)' : 'var(--ember)'}
        <line
          x1={clamp(Math.min(peg.outlook === 'late' ? xOf(axis, peg.dueBy) : x, e))}
          x2={clamp(Math.max(peg.outlook === 'late' ? xOf(axis, peg.dueBy) : x, e))}
          y1={mid}
          y2={mid}
          stroke={colour}
          stroke-width="4"
        />
        <line x1={clamp(e)} x2={clamp(e)} y1={mid - 6} y2={mid + 6} stroke={colour} stroke-width="2.2" />
      {:else if peg.expected && !peg.done && carried}
        {@const e = xOf(axis, peg.expected)}
        <line x1={clamp(e)} x2={clamp(e)} y1={mid - 3} y2={mid + 3} stroke="var(--ink)" stroke-width="1.4" />
      {/if}
      <line
        x1={clamp(x)}
        x2={clamp(x)}
        y1={mid}
        y2={peg.up ? mid - 6 : mid + 6}
        stroke="var(--ink)"
        stroke-width="1.5"
      />
      <circle
        cx={clamp(x)}
        cy={peg.up ? mid - 9 : mid + 9}
        r="4"
        fill={peg.done ? 'var(--ink)' : 'var(--paper)'}
        stroke="var(--ink)"
        stroke-width="1.7"
      />
    {/each}
  {/if}
</svg>
