<script lang="ts">
  import { goto } from '$app/navigation';
  import { page } from '$app/state';
  import { api, take } from '../api/client';
  import { latest } from '../api/latest';
  import { setQuery } from '../state/address';
  import { live } from '../state/live.svelte';
  import { showError } from '../state/messages.svelte';
  import { session } from '../state/session.svelte';
  import { addDays, formatDay } from '../time/when';
  import AxisHead from '$ui/AxisHead.svelte';
  import AxisLines from '$ui/AxisLines.svelte';
  import Button from '$ui/Button.svelte';
  import Head from '$ui/Head.svelte';
  import Select from '$ui/Select.svelte';
  import type { Axis } from '$ui/axis';
  import PlanChange from './PlanChange.svelte';
  import PlanLeg from './PlanLeg.svelte';
  import PlanRow from './PlanRow.svelte';
  import PlanSheets from './PlanSheets.svelte';
  import PlanStanding from './PlanStanding.svelte';
  import { planKeys } from './keys';
  import { loadIdsOf, planTabs, type By, type Leg, type Row, type Target, type Trip } from './plan';
  import { Planner } from './planner.svelte';

  /** The plan: drivers, trucks or trailers with their trips over some days; below them the loads that still need a truck. */
  const days = $derived(Math.min(14, Math.max(1, Number(page.url.searchParams.get('days')) || 4)));
  const today = $derived(session.wallClock().slice(0, 10));
  const first = $derived(page.url.searchParams.get('from') ?? today);
  const loadId = $derived(Number(page.url.searchParams.get('load')) || null);
  const driverId = $derived(Number(page.url.searchParams.get('driver')) || null);
  const unitKey = $derived(page.url.searchParams.get('unit'));
  const may = session.may('loads.cover');
  let width = $state(1100);
  let list = $state<HTMLElement>();
  let dragged = $state<{ trip?: Trip; x?: number; leg?: Leg } | null>(null);

  const load: () => Promise<void> = latest(
    () => take(api.GET('/api/plan', { params: { query: { from: first, days } } })),
    (board) => {
      planner.board = board;
      planner.locate().catch(showError);
    },
    showError,
  );
  const planner = new Planner(() => load());
  const asked = page.url.searchParams.get('by');
  if (asked === 'trucks' || asked === 'trailers') planner.by = asked;
  $effect(() => {
    void first;
    void days;
    void load();
    return live.follow(load, ['loads', 'fleet']);
  });
  const board = $derived(planner.board);
  const axis = $derived<Axis | null>(
    board && {
      from: Date.parse(board.from),
      until: Date.parse(board.until),
      width: Math.max(240, width - 240 - 140),
    },
  );
  const range = [1, 2, 4, 7, 14];
  const zoom = (by: number) => {
    const at = range.findIndex((d) => d >= days);
    setQuery({ days: String(range[Math.max(0, Math.min(range.length - 1, at + by))]) });
  };
  const shift = (by: number) => {
    const day = addDays(first, by);
    setQuery({ from: day === today ? null : day });
  };
  /** The new move that is entered: of a trailer, or new. */
  const move = $derived(page.url.searchParams.get('move'));
  const only = { load: null, driver: null, unit: null, move: null };
  function open(row: Row | null, trip?: Trip, leg?: Leg) {
    if (leg) setQuery({ ...only, load: String(leg.loadId) });
    else if (trip && loadIdsOf(trip).length > 1) void goto(`/trip/${trip.id}`);
    else if (trip) setQuery({ ...only, load: String(loadIdsOf(trip)[0]) });
    else if (row) setQuery({ ...only, ...(row.driver ? { driver: String(row.id) } : { unit: row.key }) });
  }
  function drop(target: Target, x = 0) {
    const what = dragged;
    dragged = null;
    if (!what || !may || !axis) return;
    const minutes = ((x - (what.x ?? x)) / axis.width) * ((axis.until - axis.from) / 60_000);
    if (what.trip) planner.dropTrip(what.trip, target, minutes);
    else if (what.leg && target.row?.by === 'drivers') void planner.pick(planner.withSelected(what.leg), target);
  }
  const show = (at: string) =>
    requestAnimationFrame(() =>
      list?.querySelector(`[data-plan="${CSS.escape(at)}"]`)?.scrollIntoView({ block: 'nearest' }),
    );
  // The driver who is tried is in view.
  $effect(() => {
    if (planner.target?.row) show(planner.target.row.key);
  });
  const key = planKeys(planner, {
    may,
    open: () => {
      const leg = planner.leg(planner.at?.row);
      const row = planner.plain.find((r) => r.key === planner.at?.row) ?? null;
      open(row, planner.trip(planner.at?.trip), leg);
    },
    zoom,
    shift,
    show,
    move: () => setQuery({ ...only, move: 'new' }),
  });
</script>

<svelte:window onkeydown={key} />
<svelte:head><title>Plan · Steady Lark</title></svelte:head>
<svg width="0" height="0" class="absolute" aria-hidden="true"
  ><defs
    ><pattern id="plan-off" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)"
      ><rect width="6" height="6" fill="var(--faint)" /><line
        y2="6"
        stroke="var(--mute)"
        stroke-width="1.4"
        opacity="0.5"
      /></pattern
    ></defs
  ></svg
>
<div class="flex h-full">
  <section class="relative flex min-w-0 flex-1 flex-col" bind:clientWidth={width}>
    <Head
      title="Plan"
      tabs={planTabs(board)}
      tab={planner.by}
      ontab={(t) => {
        if (t === 'trips') return void goto('/plan/trips');
        planner.cancel();
        planner.at = null;
        planner.by = t as By;
        planner.locate().catch(showError);
      }}
    >
      {#if planner.by === 'drivers' && planner.groups.length > 1}
        <Select
          label="Driver group"
          class="h-7 text-sm"
          bind:value={planner.group}
          placeholder="All groups"
          options={[{ value: '', label: 'All groups' }, ...planner.groups.map((g) => ({ value: g, label: g }))]}
        />
      {/if}
      {#if may}<Button small title="New move (n)" onclick={() => setQuery({ ...only, move: 'new' })}>New move</Button
        >{/if}
      <span class="flex items-center text-sm">
        <Button small look="quiet" onclick={() => shift(-1)} aria-label="A day earlier" title="A day earlier ( [ )"
          >‹</Button
        >
        <button class="hover:underline" title="Back to today" onclick={() => setQuery({ from: null })}
          >{formatDay(first)}</button
        >
        <Button small look="quiet" onclick={() => shift(1)} aria-label="A day later" title="A day later ( ] )">›</Button
        >
      </span>
      <Select
        label="Days shown"
        class="h-7 text-sm"
        value={String(days)}
        onchange={(d: string) => setQuery({ days: d })}
        options={[...new Set([...range, days])]
          .sort((a, b) => a - b)
          .map((d) => ({ value: String(d), label: d === 1 ? '24 hours' : `${d} days` }))}
      />
    </Head>
    {#if board && axis}
      <div class="pl-60"><div style:width="{axis.width}px"><AxisHead {axis} /></div></div>
      <div class="flex min-h-0 flex-1 flex-col" bind:this={list}>
        <div class="min-h-0 flex-1 overflow-y-auto">
          <div
            class="relative min-h-full"
            role={planner.rows.length ? 'grid' : undefined}
            aria-label="Plan by {planner.by}"
          >
            <div class="pointer-events-none absolute inset-y-0 left-60" style:width="{axis.width}px">
              <AxisLines {axis} />
            </div>
            {#each planner.rows as row (row.key)}
              <PlanRow
                {row}
                {planner}
                {axis}
                {may}
                onopen={(trip) => open(row, trip)}
                ondrag={(trip, x) => (dragged = trip ? { trip, x } : null)}
                ondrop={(x, trip) => drop({ row, with: trip }, x)}
              />
            {:else}<p class="text-mute px-5 py-4">
                {planner.by === 'drivers'
                  ? 'Drivers are added in Setup, under Fleet.'
                  : 'Units are added in Setup, under Fleet.'}
              </p>{/each}
          </div>
        </div>
        <div
          class="border-line max-h-[40%] shrink-0 overflow-y-auto border-t-2"
          role="region"
          aria-label="Open loads and waiting trailers"
          ondragover={(e) => dragged?.trip && e.preventDefault()}
          ondrop={(e) => {
            e.preventDefault();
            drop({ row: null });
          }}
        >
          <div class="bg-paper sticky top-0 z-10 flex items-baseline gap-4 px-5 py-1">
            <h2 class="font-bold {board.open.some((l) => l.urgency === 'now') ? 'text-ember-word' : ''}">
              Open loads <span class="fig">{board.open.length}</span>
            </h2>
            <span class="text-mute truncate text-sm"
              >{dragged?.trip
                ? 'Drop the trip here to unassign it.'
                : may
                  ? 'Enter assigns the load to the best driver; or drag it to a driver. Space selects several.'
                  : ''}</span
            >
          </div>
          <div class="relative" role={board.open.length ? 'grid' : undefined} aria-label="Open loads">
            <div class="pointer-events-none absolute inset-y-0 left-60" style:width="{axis.width}px">
              <AxisLines {axis} />
            </div>
            {#each board.open as leg (leg.legId)}
              <PlanLeg
                {leg}
                {planner}
                {axis}
                {may}
                onopen={() => open(null, undefined, leg)}
                ondrag={(l) => (dragged = l ? { leg: l } : null)}
              />
            {:else}<p class="text-mute px-5 pb-4">Every load of these days has a truck.</p>{/each}
          </div>
          {#if board.standing.length > 0}<PlanStanding standing={board.standing} />{/if}
        </div>
      </div>
    {:else}<p class="text-mute p-6" role="status">Loading plan …</p>{/if}
    {#if planner.picked}<PlanChange {planner} />{/if}
  </section>
  <PlanSheets
    {planner}
    {may}
    asked={{ load: loadId, driver: driverId, unit: unitKey, move }}
    onask={(more) => setQuery({ ...only, ...more })}
    onchanged={load}
  />
</div>
