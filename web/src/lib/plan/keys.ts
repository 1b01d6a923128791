import { isPlain, listStep } from '$ui/keys';
import { transfersOf, type Trip } from './plan';
import type { Planner } from './planner.svelte';

interface Actions {
  may: boolean;
  open: () => void;
  zoom: (by: number) => void;
  shift: (by: number) => void;
  /** Brings a line into view. */
  show: (row: string) => void;
  /** Begins a new move. */
  move: () => void;
}

/** Chooses the line so many below, and on a line of trips the first one that can still be moved, or the last. */
function walk(planner: Planner, step: number, show: (row: string) => void) {
  const all = [...planner.plain.map((r) => r.key), ...planner.legs.map((l) => `leg-${l.legId}`)];
  const at = all.indexOf(planner.at?.row ?? '');
  const row = all[at < 0 ? 0 : Math.max(0, Math.min(all.length - 1, at + step))];
  if (!row) return;
  const trips = planner.plain.find((r) => r.key === row)?.trips ?? [];
  planner.at = { row, trip: (trips.find((t) => !t.startedAt) ?? trips.at(-1))?.id };
  show(row);
}

/** Chooses the trip so many to the right on the line. */
function along(planner: Planner, step: number) {
  const trips = planner.plain.find((r) => r.key === planner.at?.row)?.trips ?? [];
  const at = trips.findIndex((t) => t.id === planner.at?.trip);
  const next = trips[Math.max(0, Math.min(trips.length - 1, at + step))];
  if (next && planner.at) planner.at = { row: planner.at.row, trip: next.id };
}

function join(planner: Planner, trip: Trip) {
  const transfer = transfersOf(trip)[0];
  if (transfer) planner.join(trip, transfer.id);
}

const sideways = (e: KeyboardEvent) => (e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0);

/**
 * Keys while a change is tried: arrows try another driver, left and right another start of a trip (with Shift by an hour), Enter
 * makes it.
 */
function trying(planner: Planner, e: KeyboardEvent): boolean {
  const step = listStep(e);
  const side = sideways(e);
  const { picked, target } = planner;
  if (step) planner.step(step);
  else if (side && picked?.trip && target?.row && !planner.split) planner.shift(side * (e.shiftKey ? 60 : 15));
  else if (e.key === 'Enter') void planner.make();
  else if (e.key === 'Escape') planner.cancel();
  else if (e.key === 'x' && picked?.trip && !planner.split) planner.beginSplit(picked.trip);
  else if (e.key === 'y' && picked?.trip) join(planner, picked.trip);
  else if (e.key === 's' && planner.swapWith) void planner.try({ row: target!.row, with: planner.swapWith });
  else if (e.key === 't' && planner.addTo) void planner.try({ row: target!.row, with: planner.addTo });
  else return false;
  return true;
}

/**
 * Keys that change what has the focus: m tries another driver for a trip, w another start, u unassigns it, x splits it, y joins its
 * legs.
 */
function changing(planner: Planner, e: KeyboardEvent): boolean {
  const focused = planner.focused;
  const trip = planner.trip(planner.at?.trip);
  if (e.key === 'm' && focused) void planner.pick(focused);
  else if (e.key === 'w' && focused?.trip) void planner.reschedule(focused.trip);
  else if (e.key === 'u' && focused?.trip) void planner.pick(focused, { row: null });
  else if (e.key === 'x' && trip && !trip.endedAt) planner.beginSplit(trip);
  else if (e.key === 'y' && trip) join(planner, trip);
  else return false;
  return true;
}

/** Keys while nothing is tried: arrows choose a line and a trip on it; on an open load Enter tries the best driver; n begins a new move. */
function choosing(planner: Planner, actions: Actions, e: KeyboardEvent): boolean {
  const step = listStep(e);
  const leg = planner.leg(planner.at?.row);
  if (step) walk(planner, step, actions.show);
  else if (sideways(e)) along(planner, sideways(e));
  else if (e.key === 'Enter' && planner.at) {
    if (leg && actions.may && planner.focused) void planner.pick(planner.focused);
    else actions.open();
  } else if (e.key === 'o' && planner.at) actions.open();
  else if (e.key === ' ' && leg) planner.toggle(leg);
  else if (e.key === 'n' && actions.may) actions.move();
  else if (e.key === '+' || e.key === '=') actions.zoom(-1);
  else if (e.key === '-') actions.zoom(1);
  else if (e.key === '[' || e.key === ']') actions.shift(e.key === '[' ? -1 : 1);
  else return actions.may && changing(planner, e);
  return true;
}

/** The keys of the plan. */
export function planKeys(planner: Planner, actions: Actions) {
  return (e: KeyboardEvent) => {
    if (!isPlain(e) || e.defaultPrevented) return;
    // A focused button or link is pressed by its own Enter.
    const onButton = e.key === 'Enter' && (e.target as HTMLElement).closest('button, a') && !planner.preview;
    if (onButton) return;
    if (planner.picked ? trying(planner, e) : choosing(planner, actions, e)) e.preventDefault();
  };
}
