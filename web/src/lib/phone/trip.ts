import type { Money, Schemas } from '$lib/api/client';
import { sum } from '../money';
import { tripStopLabels } from '../trips/stops';

type Load = Schemas['MyLoad'];
/** One thing to do on a trip. */
export interface Visit {
  load: Load;
  /** A stop of the trip's own, which is of no load. */
  own: Schemas['MyTripStop'] | null;
  /** Its place in the trip's order, from 1. */
  at: number;
  place: string;
  town: string;
  kind: string;
  done: boolean;
}

/** The visits of a trip that carries several loads, in order; none of a trip with one load. */
export function visitsOf(loads: Load[], trip: string): Visit[] {
  const visits: Visit[] = [];
  for (const load of loads.filter((l) => l.trip === trip)) {
    for (const s of load.stops)
      if (s.visit !== null)
        visits.push({
          load,
          own: null,
          at: s.visit,
          place: s.place,
          town: s.town,
          kind: s.kind,
          done: !!(s.leftAt || s.deliveredAt),
        });
    const { begins, ends } = load;
    if (begins && begins.visit !== null)
      visits.push({
        load,
        own: null,
        at: begins.visit,
        place: begins.place,
        town: begins.town,
        kind: 'take over',
        done: !!begins.takenAt,
      });
    if (ends && ends.visit !== null)
      visits.push({
        load,
        own: null,
        at: ends.visit,
        place: ends.place,
        town: ends.town,
        kind: 'hand over',
        done: !!ends.leftAt,
      });
  }
  // They are the same with each load of the trip.
  const load = loads.find((l) => l.trip === trip);
  for (const own of load?.tripStops ?? [])
    visits.push({
      load: load!,
      own,
      at: own.visit,
      place: own.place,
      town: own.town,
      kind: tripStopLabels[own.kind].toLowerCase(),
      done: !!own.leftAt,
    });
  return visits.sort((a, b) => a.at - b.at);
}

/** The stop of its own that a trip's truck makes next; null when something of a load comes first. */
export function ownStop(loads: Load[], trip: string, passed: number[]): Schemas['MyTripStop'] | null {
  return visitsOf(loads, trip).find((v) => !v.done && !(v.own && passed.includes(v.own.id)))?.own ?? null;
}

/** The load of the driver's next visit: on the trip under way, or else on the first one ahead. */
export function currentOf(ahead: Load[]): Load | null {
  const first = ahead.find((l) => l.state === 'rolling') ?? ahead[0];
  if (!first) return null;
  return visitsOf(ahead, first.trip).find((v) => !v.done && !v.own)?.load ?? first;
}

/** What a trip pays: all its loads together. */
export const payOf = (loads: Load[], trip: string): Money =>
  sum(loads.filter((l) => l.trip === trip).map((l) => l.pay));
