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

/**
 * The keys of the plan. Arrows choose a line and a trip on it; on an open load Enter tries the best driver, m tries one for a trip, w
 * another start, u unassigns it, x splits it, y joins its legs, n begins a new move. While a change is tried, arrows try another driver, left and right another start
 * of a trip (with Shift by an hour), and Enter makes it.
 */
export function planKeys(planner: Planner, actions: Actions) {
  const order = () => [...planner.plain.map((r) => r.key), ...planner.legs.map((l) => `leg-${l.legId}`)];

  function walk(step: number) {
    const all = order();
    const at = all.indexOf(planner.at?.row ?? '');
    const row = all[at < 0 ? 0 : Math.max(0, Math.min(all.length - 1, at + step))];
    if (!row) return;
    // Of a line of trips, the first one that can still be moved, or the last.
    const trips = planner.plain.find((r) => r.key === row)?.trips ?? [];
    planner.at = { row, trip: (trips.find((t) => !t.startedAt) ?? trips.at(-1))?.id };
    actions.show(row);
  }
  function along(step: number) {
    const trips = planner.plain.find((r) => r.key === planner.at?.row)?.trips ?? [];
    const at = trips.findIndex((t) => t.id === planner.at?.trip);
    const next = trips[Math.max(0, Math.min(trips.length - 1, at + step))];
    if (next && planner.at) planner.at = { row: planner.at.row, trip: next.id };
  }
  function join(trip: Trip | undefined) {
    const transfer = trip && transfersOf(trip)[0];
    if (trip && transfer) planner.join(trip, transfer.id);
  }
  /** Keys while a change is tried. */
  function trying(e: KeyboardEvent): boolean {
    const step = listStep(e);
    if (step) planner.step(step);
    else if (
      planner.picked?.trip &&
      planner.target?.row &&
      !planner.split &&
      (e.key === 'ArrowLeft' || e.key === 'ArrowRight')
    )
      planner.shift((e.key === 'ArrowLeft' ? -1 : 1) * (e.shiftKey ? 60 : 15));
    else if (e.key === 'Enter') void planner.make();
    else if (e.key === 'Escape') planner.cancel();
    else if (e.key === 'x' && planner.picked?.trip && !planner.split) planner.beginSplit(planner.picked.trip);
    else if (e.key === 'y' && planner.picked?.trip) join(planner.picked.trip);
    else if (e.key === 's' && planner.swapWith) void planner.try({ row: planner.target!.row, with: planner.swapWith });
    else if (e.key === 't' && planner.addTo) void planner.try({ row: planner.target!.row, with: planner.addTo });
    else return false;
    return true;
  }
  function choosing(e: KeyboardEvent): boolean {
    const step = listStep(e);
    const focused = planner.focused;
    const leg = planner.leg(planner.at?.row);
    const trip = planner.trip(planner.at?.trip);
    if (step) walk(step);
    else if (e.key === 'ArrowLeft' || e.key === 'ArrowRight') along(e.key === 'ArrowLeft' ? -1 : 1);
    else if (e.key === 'Enter' && planner.at) {
      if (leg && actions.may && focused) void planner.pick(focused);
      else actions.open();
    } else if (e.key === 'o' && planner.at) actions.open();
    else if (e.key === ' ' && leg) planner.toggle(leg);
    else if (e.key === 'm' && actions.may && focused) void planner.pick(focused);
    else if (e.key === 'w' && actions.may && focused?.trip) void planner.reschedule(focused.trip);
    else if (e.key === 'u' && actions.may && focused?.trip) void planner.pick(focused, { row: null });
    else if (e.key === 'x' && actions.may && trip && !trip.endedAt) planner.beginSplit(trip);
    else if (e.key === 'y' && actions.may && trip) join(trip);
    else if (e.key === 'n' && actions.may) actions.move();
    else if (e.key === '+' || e.key === '=') actions.zoom(-1);
    else if (e.key === '-') actions.zoom(1);
    else if (e.key === '[' || e.key === ']') actions.shift(e.key === '[' ? -1 : 1);
    else return false;
    return true;
  }
  return (e: KeyboardEvent) => {
    if (!isPlain(e) || e.defaultPrevented) return;
    // A focused button or link is pressed by its own Enter.
    const onButton = e.key === 'Enter' && (e.target as HTMLElement).closest('button, a') && !planner.preview;
    if (onButton) return;
    if (planner.picked ? trying(e) : choosing(e)) e.preventDefault();
  };
}
