<script lang="ts">
  import { equipmentLabels } from '../loads/labels';
  import { said } from '../money';
  import { session } from '../state/session.svelte';
  import { formatLocal, formatSoon, localAt } from '../time/when';
  import { xOf, type Axis } from '$ui/axis';
  import PlanLine from './PlanLine.svelte';
  import { canMove, loadsOf, mateOf, type Row, type Trip } from './plan';
  import type { Planner } from './planner.svelte';

  /** A driver, truck or trailer with its trips, time off and way home. */
  interface Props {
    row: Row;
    planner: Planner;
    axis: Axis;
    may: boolean;
    onopen: (trip?: Trip) => void;
    /** The pointer is at x on the page. */
    ondrag: (trip: Trip | null, x: number) => void;
    ondrop: (x: number, trip?: Trip) => void;
  }
  let { row, planner, axis, may, onopen, ondrag, ondrop }: Props = $props();
  const height = 46;
  const driver = $derived(row.driver);
  const target = $derived(planner.target?.row?.key === row.key);
  const here = $derived(planner.at?.row === row.key);
  const before = $derived(planner.plain.find((r) => r.key === row.key)?.trips.map((t) => t.id) ?? []);
  const shown = $derived(row.trips.filter((t) => Date.parse(t.ends) > axis.from && Date.parse(t.setsOut) < axis.until));
  const when = (at: string) => formatLocal(localAt(at, session.zone));
  const unitAt = $derived(planner.unitAt(row));
  const free = $derived(
    driver
      ? [
          row.equipment ? equipmentLabels[row.equipment] : null,
          driver.freeTown
            ? driver.freeAt && Date.parse(driver.freeAt) > session.now
              ? `${driver.freeTown} ${formatSoon(localAt(driver.freeAt, session.zone))}`
              : `free in ${driver.freeTown}`
            : null,
        ]
      : [
          row.equipment ? equipmentLabels[row.equipment] : null,
          unitAt ? `${unitAt.where} ${formatSoon(localAt(unitAt.at, session.zone))}` : null,
        ],
  );
  const standing = $derived(
    row.by === 'trailers' ? (planner.board?.standing.filter((s) => s.trailerId === row.id) ?? []) : [],
  );
  const home = $derived(driver?.homeAt ? xOf(axis, Date.parse(driver.homeAt)) : null);
  const homeLate = $derived(
    !!driver?.homeAt && !!driver.homeBy && Date.parse(driver.homeAt) > Date.parse(driver.homeBy),
  );
  const span = (trip: Trip) => {
    const x = Math.max(0, xOf(axis, Date.parse(trip.setsOut)) - 6);
    return { x, width: Math.max(16, Math.min(axis.width, xOf(axis, Date.parse(trip.ends))) - x + 6) };
  };
  const mate = (trip: Trip) => (driver ? mateOf(planner.board?.drivers ?? [], trip, driver.id) : undefined);
  const word = (trip: Trip) =>
    `Trip ${trip.number}${mate(trip) ? ` with ${mate(trip)}` : ''}, ${trip.lane}, load ${loadsOf(trip).join(', ')}, ${trip.startedAt ? (trip.endedAt ? 'ended' : 'under way') : `from ${when(trip.setsOut)}`}${trip.visits.some((v) => v.late > 0 && !v.reached && !v.own) ? ', late' : ''}`;
</script>

<div
  class="border-line relative flex border-b [contain-intrinsic-height:46px] [content-visibility:auto] {target
    ? 'bg-lark-tint/70'
    : here
      ? 'bg-faint/70'
      : ''}"
  role="row"
  tabindex="-1"
  data-plan={row.key}
  ondragover={(e) => may && e.preventDefault()}
  ondrop={(e) => {
    e.preventDefault();
    ondrop(e.clientX);
  }}
>
  <div class="w-60 shrink-0 py-1 pr-2 pl-5" role="rowheader">
    <button class="block max-w-full truncate text-left font-bold hover:underline" onclick={() => onopen()}
      >{row.name}{#if row.drivers.length > 0}<span class="text-mute ml-2 text-sm font-normal"
          >{row.drivers.join(', ')}</span
        >{/if}</button
    >
    <span class="text-mute block truncate text-sm">{free.filter(Boolean).join(' · ')}</span>
  </div>
  <div class="relative shrink-0" style:width="{axis.width}px" role="gridcell">
    <svg width={axis.width} {height} class="block overflow-hidden" aria-hidden="true">
      {#each driver?.off ?? [] as off (off.id)}
        {@const x = Math.max(0, xOf(axis, Date.parse(off.from)))}
        {@const end = Math.min(axis.width, xOf(axis, Date.parse(off.until)))}
        {#if end > x}<rect {x} y="14" width={end - x} height="24" fill="url(#plan-off)" stroke="var(--line)" />{/if}
      {/each}
      {#each standing as s (s.transferId)}
        {@const x = Math.max(0, xOf(axis, Date.parse(s.since)))}
        {@const end = Math.min(axis.width, xOf(axis, Math.max(session.now, Date.parse(s.deadline))))}
        <rect {x} y="20" width={Math.max(4, end - x)} height="12" fill="var(--lark-tint)" stroke="var(--lark)" />
        <text x={x + 5} y="30" font-size="11" fill="var(--ink)">{s.load} loaded, {s.town}</text>
      {/each}
      {#if driver && home !== null && shown.length > 0}
        {@const ends = xOf(axis, Date.parse(driver.freeAt!))}
        {#if driver.homeMiles}<line
            x1={Math.max(0, ends)}
            x2={home}
            y1={height / 2 + 3}
            y2={height / 2 + 3}
            stroke="var(--mute)"
            stroke-width="1.3"
            stroke-dasharray="2 5"
          />{/if}
        <path
          d="M{home} {height / 2 - 4} l6 6 v8 h-12 v-8 z"
          fill="var(--paper)"
          stroke={homeLate ? 'var(--ember)' : 'var(--ink)'}
          stroke-width="1.6"
          stroke-linejoin="round"
        />
      {/if}
      {#each shown as trip (trip.id)}<PlanLine
          {trip}
          {axis}
          {height}
          tried={!before.includes(trip.id)}
          mate={mate(trip)}
        />{/each}
    </svg>
    {#each shown as trip (trip.id)}
      {@const at = span(trip)}
      <button
        class="absolute inset-y-1 rounded {planner.at?.trip === trip.id && here
          ? 'outline-lark outline-2'
          : 'hover:bg-lark/5'}"
        style:left="{at.x}px"
        style:width="{at.width}px"
        aria-label={word(trip)}
        title={word(trip)}
        data-trip={trip.id}
        tabindex="-1"
        draggable={may && canMove(trip)}
        ondragstart={(e) => ondrag(trip, e.clientX)}
        ondragend={() => ondrag(null, 0)}
        ondragover={(e) => may && e.preventDefault()}
        ondrop={(e) => {
          e.preventDefault();
          e.stopPropagation();
          ondrop(e.clientX, trip);
        }}
        onclick={() => (planner.at = { row: row.key, trip: trip.id })}
        ondblclick={() => onopen(trip)}
      ></button>
    {/each}
  </div>
  <div class="min-w-0 flex-1 py-1 pr-3 pl-1 text-right text-sm" role="gridcell">
    {#if driver?.perDay && shown.length > 0}<span class="fig block whitespace-nowrap"
        >{said(driver.perDay).replace(/\.\d\d$/, '')} a day</span
      >{/if}
    {#if driver && driver.warnings.length > 0}
      <span class="text-ember-word block truncate font-bold" title={driver.warnings.join('\n')}
        >{driver.warnings.length === 1 ? '1 problem' : `${driver.warnings.length} problems`}</span
      >
    {:else if driver && shown.length === 0}<span class="text-mute block">free</span>{/if}
  </div>
</div>
