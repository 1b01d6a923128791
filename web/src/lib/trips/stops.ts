import type { Schemas } from '../api/client';

type Kind = Schemas['TripStopKind'];

/** What a stop of the trip's own is for. */
export const tripStopLabels: Record<Kind, string> = {
  hook: 'Hook trailer',
  drop: 'Drop trailer',
  fuel: 'Fuel',
  scale: 'Scale',
  wash: 'Wash',
  yard: 'Yard',
  border: 'Border',
  waypoint: 'Waypoint',
  start: 'Start',
  end: 'End',
};

/** Whether a trailer is hooked or dropped there. */
export const ofTrailer = (kind: Kind) => kind === 'hook' || kind === 'drop';

/** What a stop is for, with the trailer it is about: Hook trailer 5312. */
export const tripStopLabel = (kind: Kind, trailer: string | null) =>
  ofTrailer(kind) && trailer ? `${tripStopLabels[kind]} ${trailer}` : tripStopLabels[kind];

/** What a driver presses once it is done. */
export const tripStopDone: Record<Kind, string> = {
  hook: 'Trailer hooked',
  drop: 'Trailer dropped',
  fuel: 'Fueled, departing',
  scale: 'Weighed, departing',
  wash: 'Washed, departing',
  yard: 'Departing',
  border: 'Cleared, departing',
  waypoint: 'Passed',
  start: 'Start trip',
  end: 'End trip',
};
