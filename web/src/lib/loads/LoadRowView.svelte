<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import type { Axis } from '$ui/axis';
  import Stopline from '$ui/Stopline.svelte';
  import Status from '$ui/Status.svelte';
  import { session } from '$lib/state/session.svelte';
  import { clockAt, formatLocal, formatTime, localAt } from '$lib/time/when';
  import { equipmentLabels, isDone, lane, statusWidth } from './labels';

  interface Props {
    line: Schemas['LoadLine'];
    axis: Axis;
    /** Whether there is a column for who has it and its next stop. */
    who?: boolean;
    roomy?: boolean;
    /** Whether it is about the leg to be covered. */
    open?: boolean;
  }
  let { line, axis, who = false, roomy = false, open = false }: Props = $props();
  const load = $derived(line.load);
  const status = $derived((open && line.open) || line);
  const goods = $derived(
    [
      load.equipment ? equipmentLabels[load.equipment] : null,
      who ? null : load.freight,
      load.weightLb ? `${load.weightLb.toLocaleString('en-US')} lb` : null,
    ].filter(Boolean),
  );
  /** The next stop, with its appointment; where the truck is at a stop, since when. */
  const next = $derived.by(() => {
    const stop = load.stops.find((s) => !isDone(s));
    if (!stop?.town) return '';
    if (stop.arrivedAt) return `at ${stop.town} since ${clockAt(stop.arrivedAt, stop.zone!)}`;
    const due = stop.until ?? stop.from;
    const today = stop.zone ? localAt(session.now, stop.zone).slice(0, 10) : '';
    return due
      ? `${stop.town} ${due.slice(0, 10) === today ? '' : `${formatLocal(due).slice(0, 3)} `}${formatTime(due)}`
      : stop.town;
  });
</script>

<span class="flex h-11 items-center pr-4 pl-5">
  <span class="fig w-[54px] shrink-0 font-bold">{load.number}</span>
  <span class="min-w-0 flex-1 pr-2">
    <span class="block truncate leading-5 font-bold"
      >{open && line.open && load.transfers.length ? line.open.lane.replace(' to ', ' → ') : lane(load)}</span
    >
    <span class="text-mute block truncate text-sm leading-4"
      >{[
        ...(open && load.transfers.length ? [`leg of ${lane(load)}`] : []),
        load.customer ?? 'no customer yet',
        ...goods,
      ].join(' · ')}</span
    >
  </span>
  {#if who}<span class="{roomy ? 'w-[210px]' : 'w-[158px]'} shrink-0 pr-2 text-sm leading-4">
      <span class="block truncate leading-5">{load.who ?? ''}</span>
      <span class="text-mute block truncate">{next}</span>
    </span>{/if}
  <span class="shrink-0" style:width="{axis.width}px"><Stopline {load} visits={line.visits} {axis} /></span>
  <span class="shrink-0 truncate text-right text-sm" style:width="{statusWidth()}px"
    ><Status urgency={status.urgency}>{status.status}</Status></span
  >
</span>
