import type { Money, Schemas } from '$lib/api/client';
import { sum } from '../money';

type Load = Schemas['MyLoad'];
/** One thing to do on a trip. */
export interface Visit {
  load: Load;
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
        at: begins.visit,
        place: begins.place,
        town: begins.town,
        kind: 'take over',
        done: !!begins.takenAt,
      });
    if (ends && ends.visit !== null)
      visits.push({ load, at: ends.visit, place: ends.place, town: ends.town, kind: 'hand over', done: !!ends.leftAt });
  }
  return visits.sort((a, b) => a.at - b.at);
}

/** The load of the driver's next visit: on the trip under way, or else on the first one ahead. */
export function currentOf(ahead: Load[]): Load | null {
  const first = ahead.find((l) => l.state === 'rolling') ?? ahead[0];
  if (!first) return null;
  return visitsOf(ahead, first.trip).find((v) => !v.done)?.load ?? first;
}

/** What a trip pays: all its loads together. */
export const payOf = (loads: Load[], trip: string): Money =>
  sum(loads.filter((l) => l.trip === trip).map((l) => l.pay));
