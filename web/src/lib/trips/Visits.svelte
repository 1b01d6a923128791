<script lang="ts">
  import type { Schemas } from '$lib/api/client';
  import { clockAt, formatLocal, formatTime, hours, localAt } from '$lib/time/when';
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronUp from '@lucide/svelte/icons/chevron-up';
  import TripStopActions from './TripStopActions.svelte';
  import { tripStopLabel } from './stops';
  import { aboard, feet, moved } from './visits';

  /** A trip's visits: when, where, which load, and what is on board afterwards. Alt with an arrow, or dragging, moves one. */
  interface Props {
    sheet: Schemas['TripSheet'];
    may: boolean;
    /** Whether this is an order nobody saved yet. */
    changed: boolean;
    onorder: (order: number[]) => void;
    onsave: () => void;
    oncancel: () => void;
    onchanged: () => Promise<void>;
  }
  let { sheet, may, changed, onorder, onsave, oncancel, onchanged }: Props = $props();
  let list = $state<HTMLElement>();
  let dragged = $state<number | null>(null);
  const visits = $derived(sheet.visits);

  function move(from: number, to: number) {
    const id = visits[from]?.id;
    onorder(moved(visits, from, to));
    // The visit that was moved keeps the focus.
    setTimeout(() => list?.querySelector<HTMLElement>(`[data-visit="${id}"]`)?.focus(), 150);
  }
  function key(e: KeyboardEvent, i: number) {
    const step = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0;
    if (step && e.altKey && may) move(i, i + step);
    else if (step && !e.altKey) list?.querySelectorAll<HTMLElement>('[data-visit]')[i + step]?.focus();
    else if (e.key === 'Enter' && changed) onsave();
    else if (e.key === 'Escape' && changed) oncancel();
    else return;
    e.preventDefault();
    e.stopPropagation();
  }
  const window = (v: Schemas['TripVisit']) => {
    if (v.own || !v.until) return '';
    const until = localAt(v.until, v.zone);
    if (!v.from) return `by ${formatLocal(until)}`;
    const from = localAt(v.from, v.zone);
    return from === until
      ? formatLocal(from)
      : `${formatLocal(from)} to ${from.slice(0, 10) === until.slice(0, 10) ? formatTime(until) : formatLocal(until)}`;
  };
  const what = (v: Schemas['TripVisit']) =>
    v.own
      ? tripStopLabel(v.own.kind, v.own.trailer).replace(/^./, (first) => first.toLowerCase())
      : v.id < 0
        ? v.kind === 'pickup'
          ? 'take over'
          : 'hand over'
        : v.kind === 'pickup'
          ? 'pick up'
          : 'deliver';
  const filled = (v: Schemas['TripVisit']) =>
    v.after.floorIn === null
      ? v.after.loads.length
        ? sheet.loading.length || v.trailers.length
          ? Math.min(100, (v.after.weightLb / (v.after.weightLb + Math.max(0, v.after.roomLb))) * 100)
          : 100
        : 0
      : Math.min(100, (v.after.floorIn / sheet.lengthIn) * 100);
</script>

<ol bind:this={list} aria-label="Visits of trip {sheet.trip.number}" class="-mx-2">
  {#each visits as v, i (v.id)}
    <li
      class="border-line grid grid-cols-[3rem_10.5rem_minmax(0,1fr)_13rem] items-baseline gap-x-3 border-b px-2 py-2 {dragged ===
      i
        ? 'opacity-50'
        : ''}"
      draggable={may && !v.reached}
      ondragstart={() => (dragged = i)}
      ondragend={() => (dragged = null)}
      ondragover={(e) => dragged !== null && e.preventDefault()}
      ondrop={(e) => {
        e.preventDefault();
        if (dragged !== null && dragged !== i) move(dragged, i);
        dragged = null;
      }}
    >
      <span class="fig text-mute flex items-center gap-1">
        {i + 1}
        {#if may && !v.reached}
          <span class="flex flex-col">
            <button
              class="text-lark disabled:opacity-30"
              disabled={!visits[i - 1] || visits[i - 1].reached}
              onclick={() => move(i, i - 1)}
              aria-label="Move {what(v)} {v.load ?? ''} in {v.town} earlier"><ChevronUp size={16} /></button
            >
            <button
              class="text-lark disabled:opacity-30"
              disabled={!visits[i + 1]}
              onclick={() => move(i, i + 1)}
              aria-label="Move {what(v)} {v.load ?? ''} in {v.town} later"><ChevronDown size={16} /></button
            >
          </span>
        {/if}
      </span>
      <span class="fig">
        {formatLocal(localAt(v.arrives, v.zone))}
        <span class="block text-sm {v.late > 0 ? 'text-ember-word font-bold' : 'text-mute'}"
          >{v.late > 0
            ? `late ${hours(v.late)}`
            : v.done
              ? 'done'
              : v.reached
                ? 'arrived'
                : v.from && v.arrives < v.from && v.id > 0 && !v.own
                  ? `waits until ${clockAt(v.from, v.zone)}`
                  : 'expected'}</span
        >
      </span>
      <span class="min-w-0">
        <span class="block truncate"
          ><button
            class="font-bold hover:underline"
            data-visit={v.id}
            aria-label="{i + 1}. {what(v)} {v.load ?? ''} in {v.town}"
            onkeydown={(e) => key(e, i)}>{v.town}</button
          >
          <span class="text-mute">{what(v)}</span>
          {#if v.load}<a class="text-lark fig underline" href="/load/{v.loadId}">{v.load}</a>{/if}</span
        >
        <span class="text-mute block truncate text-sm"
          >{v.place}{v.miles ? ` · ${Math.round(v.miles)} mi ${v.empty ? 'empty' : 'loaded'}` : ''}</span
        >
        {#if v.own}<TripStopActions trip={sheet.trip} visit={v} {onchanged} />{:else}<span
            class="text-mute block truncate text-sm">{window(v)}</span
          >{/if}
      </span>
      <span class="text-sm">
        <span class="bg-line block h-2 w-full overflow-hidden rounded-sm" aria-hidden="true"
          ><span class="bg-lark block h-full" style:width="{filled(v)}%"></span></span
        >
        <span class="fig mt-1 block">{aboard(v.after)}</span>
        {#each v.trailers as t (t.trailerId)}<span class="text-mute block"
            ><b class="fig text-ink">{t.unit}</b>
            {aboard(t.on)}{t.on.roomIn !== null && t.on.loads.length
              ? `, ${feet(Math.max(0, t.on.roomIn))} left`
              : ''}</span
          >{/each}
        {#if v.after.loads.length > 0 && v.after.roomIn !== null}<span class="text-mute block"
            >{feet(v.after.floorIn ?? 0)} of floor, {feet(Math.max(0, v.after.roomIn))} left</span
          >{/if}
      </span>
    </li>
  {/each}
</ol>
{#if may && visits.length > 2}<p class="text-mute mt-1 text-sm">
    Drag a visit, or press Alt with an arrow key, to move it. Nothing changes until you save.
  </p>{/if}
