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
};

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
};
