import { describe, expect, it } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { currentOf, ownStop, visitsOf } from './trip';

const stop = (visit: number | null, kind: 'pickup' | 'delivery', done = false) =>
  ({
    visit,
    kind,
    place: `${kind} ${visit}`,
    town: 'Missoula MT',
    leftAt: done ? '2026-11-24T10:00:00Z' : null,
    deliveredAt: null,
  }) as Schemas['MyStop'];
const load = (number: string, trip: string, state: string, ...stops: Schemas['MyStop'][]) =>
  ({ number, trip, state, stops, begins: null, ends: null }) as unknown as Schemas['MyLoad'];

describe('the driver’s next visit', () => {
  const first = load('8841', '10', 'rolling', stop(1, 'pickup', true), stop(4, 'delivery'));
  const second = load('8842', '10', 'covered', stop(2, 'pickup'), stop(3, 'delivery'));
  const later = load('8850', '11', 'covered', stop(null, 'pickup'), stop(null, 'delivery'));

  it('is of whichever load of the trip comes next', () => {
    expect(currentOf([first, second, later])).toBe(second);
    expect(visitsOf([first, second, later], '10').map((v) => `${v.load.number} ${v.kind}`)).toEqual([
      '8841 pickup',
      '8842 pickup',
      '8842 delivery',
      '8841 delivery',
    ]);
  });
  it('is of the load itself on a trip with one, and of nothing without trips', () => {
    expect(visitsOf([later], '11')).toEqual([]);
    expect(currentOf([later])).toBe(later);
    expect(currentOf([])).toBeNull();
  });
  it('counts transfers as visits', () => {
    const relay = {
      ...load('8860', '12', 'covered', stop(2, 'delivery')),
      begins: { visit: 1, place: 'Yard', town: 'Butte MT', takenAt: null },
    } as unknown as Schemas['MyLoad'];
    expect(visitsOf([relay], '12').map((v) => v.kind)).toEqual(['take over', 'delivery']);
    expect(currentOf([relay])).toBe(relay);
  });
  it('may be a stop of the trip’s own, until it was made or the driver passes it', () => {
    const own = (id: number, visit: number, leftAt: string | null = null) =>
      ({ id, visit, kind: 'fuel', place: 'Missoula', town: 'Missoula MT', leftAt }) as Schemas['MyTripStop'];
    const trip = (...tripStops: Schemas['MyTripStop'][]) =>
      [
        { ...load('8870', '13', 'rolling', stop(1, 'pickup', true), stop(4, 'delivery')), tripStops },
        { ...load('8871', '13', 'covered', stop(3, 'pickup'), stop(5, 'delivery')), tripStops },
      ] as Schemas['MyLoad'][];
    const loads = trip(own(90, 2));
    // It is listed once, whichever load of the trip brings it, and belongs to none of them.
    expect(visitsOf(loads, '13').map((v) => v.kind)).toEqual(['pickup', 'fuel', 'pickup', 'delivery', 'delivery']);
    expect(currentOf(loads)).toBe(loads[1]);
    expect(ownStop(loads, '13', [])?.id).toBe(90);
    expect(ownStop(loads, '13', [90])).toBeNull();
    expect(ownStop(trip(own(90, 2, '2026-11-24T10:00:00Z')), '13', [])).toBeNull();
    // The pickup comes first.
    expect(ownStop(trip(own(90, 6)), '13', [])).toBeNull();
  });
});
