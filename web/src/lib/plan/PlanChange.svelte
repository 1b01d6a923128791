<script lang="ts">
  import { said } from '../money';
  import { equipmentLabels } from '../loads/labels';
  import Button from '$ui/Button.svelte';
  import Key from '$ui/Key.svelte';
  import Select from '$ui/Select.svelte';
  import WhenField from '$ui/WhenField.svelte';
  import { session } from '../state/session.svelte';
  import { formatLocal, formatSoon, hours, instantOf, localAt } from '../time/when';
  import { tripStopLabels } from '../trips/stops';
  import PlanSplit from './PlanSplit.svelte';
  import { changedTrips, effect, splitField, splitFields, staysOn, transfersOf, worksAt } from './plan';
  import type { Planner } from './planner.svelte';

  /** The change that is tried on the plan: what it does, and what else could be done there. */
  let { planner }: { planner: Planner } = $props();
  const picked = $derived(planner.picked!);
  const what = $derived(
    picked.legs ? picked.legs.map((l) => l.load).join(', ') : `Trip ${picked.trip.number}, ${picked.trip.lane},`,
  );
  const row = $derived(planner.target?.row ?? null);
  const offer = $derived(row?.by === 'drivers' ? planner.ranked.find((o) => o.driverId === row.id) : undefined);
  /** Whether legs are split or joined. */
  const regroups = $derived(!!planner.split || !!planner.target?.join);
  /** Whether the form of the split says at a field why it cannot be. */
  const atField = $derived(!!planner.split && splitFields.some((field) => planner.attempt.at(splitField(field))));
  const transfers = $derived(picked.trip && !regroups ? transfersOf(picked.trip) : []);
  /** Whether the trip stays on its line, and only its start changes. */
  const stays = $derived(planner.target ? staysOn(picked, planner.target) : false);
  const start = $derived(
    planner.target?.startsAt !== null && planner.starts ? localAt(planner.starts, session.zone) : null,
  );
  const title = $derived.by(() => {
    const { split, target } = planner;
    if (split) return `Split trip ${picked.trip?.number}, ${picked.trip?.lane}`;
    if (target?.join) return `Join legs of trip ${picked.trip?.number}`;
    if (!target) return `${what} …`;
    if (!target.row) return `${what} unassigned`;
    if (target.with) return `${what} ${picked.legs ? 'added to' : 'swapped with'} trip ${target.with.number}`;
    if (stays) return `${what} ${start ? `to start ${formatLocal(start)}` : 'without a set start'}`;
    return `${what} to ${target.row.name}`;
  });
  const swap = $derived(planner.swapWith);
  const add = $derived(planner.addTo);
  const trips = $derived(
    planner.preview && planner.board ? changedTrips(planner.board, picked, planner.preview.drivers) : [],
  );
  /** What the change takes, when nothing else is chosen. */
  const used = $derived(trips.find((t) => t.trip.driverId === row?.id)?.trip);
  const trucks = $derived(
    (planner.board?.trucks ?? []).map((t) => ({ value: String(t.id), label: `Truck ${t.unit}` })),
  );
  const wanted = $derived(
    picked.legs
      ? picked.legs[0].equipment
      : (planner.board?.trailers.find((t) => t.id === picked.trip.trailerId)?.equipment ?? null),
  );
  // Those of the wanted kind first.
  const trailers = $derived(
    (planner.board?.trailers ?? [])
      .toSorted((a, b) => Number(a.equipment !== wanted) - Number(b.equipment !== wanted))
      .map((t) => ({
        value: String(t.id),
        label: `Trailer ${t.unit}, ${equipmentLabels[t.equipment ?? ''] ?? ''}`,
      })),
  );
  /** How much time is left at a stop. */
  const spare = (v: (typeof trips)[number]['trip']['visits'][number]) =>
    Math.max(0, Math.round((Date.parse(v.until) - Date.parse(v.arrives)) / 60_000));
  const late = $derived((planner.preview?.warnings.length ?? 0) > 0);
</script>

<section
  class="border-lark bg-panel absolute right-3 bottom-3 z-20 w-[34rem] max-w-[calc(100%-2rem)] rounded-lg border p-3 shadow-lg"
  aria-label="Change of the plan"
  aria-live="polite"
>
  <p class="font-bold">{title}</p>
  {#if planner.preview}
    <p class="text-sm">{effect(planner.preview, said)}</p>
    {#if offer?.emptyMiles != null && picked.legs && !planner.target?.with}<p class="text-mute text-sm">
        {offer.emptyMiles.toLocaleString('en-US')} empty miles to the pickup
      </p>{/if}
    <div class="max-h-56 overflow-y-auto">
      {#each trips as { trip, driver } (trip.id)}
        <p class="mt-1 text-sm font-bold">{driver}</p>
        <ul class="grid grid-cols-[minmax(0,1fr)_auto_8.5rem] gap-x-3 text-sm">
          {#each trip.visits as v (v.id)}
            <li class="contents">
              <span class="truncate"
                >{v.own ? tripStopLabels[v.own].toLowerCase() : v.kind === 'pickup' ? 'pick up' : 'deliver'}
                {#if v.load}<span class="fig">{v.load}</span>{/if}
                {v.town}</span
              >
              <span class="fig">{formatSoon(localAt(worksAt(v), v.zone))}</span>
              <span class={v.late > 0 ? 'text-ember-word font-bold' : 'text-mute'}
                >{v.reached
                  ? 'reached'
                  : v.own
                    ? ''
                    : v.late > 0
                      ? `late ${hours(v.late)}`
                      : `${hours(spare(v))} slack`}</span
              >
            </li>
          {/each}
        </ul>
      {/each}
    </div>
    {#each planner.preview.warnings as said (said)}<p class="text-ember-word mt-1 text-sm">{said}</p>{/each}
  {:else if planner.attempt.refused && !atField}
    <p class="text-ember-word text-sm">{planner.attempt.refused.message}</p>
  {:else if atField}
    <p class="text-mute text-sm">The load cannot be split like this.</p>
  {:else if planner.split && !planner.target?.split}
    <p class="text-mute text-sm">Enter where and when the next truck takes the freight.</p>
  {:else}<p class="text-mute text-sm">Looking …</p>{/if}
  {#if planner.split}<PlanSplit {planner} />{/if}
  {#if row?.by === 'drivers' && !planner.target?.with && !stays && !regroups && (planner.preview || planner.attempt.refused)}
    <div class="mt-2 flex items-center gap-2 text-sm">
      <Select
        label="Truck"
        class="h-7"
        value={String(planner.target?.truckId ?? used?.truckId ?? '')}
        placeholder="Truck"
        options={trucks}
        onchange={(v: string) => planner.try({ ...planner.target!, truckId: Number(v) })}
      />
      <Select
        label="Trailer"
        class="h-7"
        value={String(planner.target?.trailerId ?? used?.trailerId ?? '')}
        placeholder="Trailer"
        options={trailers}
        onchange={(v: string) => planner.try({ ...planner.target!, trailerId: Number(v) })}
      />
    </div>
  {/if}
  {#if picked.trip && row && !planner.target?.with && !regroups}
    <div class="mt-2 flex items-end gap-2 text-sm">
      <WhenField
        class="w-44"
        label="Start time"
        bind:value={() => start, (at) => at && planner.startAt(instantOf(at, session.zone))}
      />
      {#if planner.target?.startsAt !== null && (planner.target?.startsAt || picked.trip.startsAt)}<Button
          small
          look="quiet"
          onclick={() => planner.startAt(null)}>No set start</Button
        >{/if}
      <span class="text-mute ml-auto pb-1"><Key>←</Key> <Key>→</Key> 15 minutes</span>
    </div>
  {/if}
  <div class="mt-2 flex flex-wrap items-center gap-2">
    {#if planner.preview}
      <Button look="main" small busy={planner.attempt.busy} onclick={() => planner.make()}
        >{late
          ? 'Change anyway'
          : planner.split
            ? 'Split'
            : planner.target?.join
              ? 'Join'
              : row
                ? picked.legs
                  ? 'Assign'
                  : planner.target?.with
                    ? 'Swap'
                    : 'Move'
                : 'Unassign'}
        <Key>Enter</Key></Button
      >
    {/if}
    {#if swap}<Button small onclick={() => planner.try({ row, with: swap })}
        >Swap with trip {swap.number} <Key>s</Key></Button
      >{/if}
    {#if add}<Button small onclick={() => planner.try({ row, with: add })}>Add to trip {add.number} <Key>t</Key></Button
      >{/if}
    {#if picked.trip && row && !regroups && !planner.target?.with}<Button
        small
        onclick={() => planner.beginSplit(picked.trip!)}>Split <Key>x</Key></Button
      >{/if}
    {#each transfers as t (t.id)}<Button small onclick={() => planner.join(picked.trip!, t.id)}
        >Join in {t.town}
        {#if t === transfers[0]}<Key>y</Key>{/if}</Button
      >{/each}
    <Button small look="quiet" onclick={() => planner.cancel()}>Cancel <Key>Esc</Key></Button>
    {#if row && !planner.target?.join}<span class="text-mute ml-auto text-sm"
        ><Key>↓</Key> <Key>↑</Key> another {row.by.slice(0, -1)}</span
      >{/if}
  </div>
</section>
