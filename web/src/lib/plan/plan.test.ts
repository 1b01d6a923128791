import { describe, expect, it } from 'vitest';
import {
  between,
  canMove,
  laterStart,
  legsOf,
  staysOn,
  transfersOf,
  loadIdsOf,
  loadsOf,
  partOf,
  sourceOf,
  labelOf,
  changedTrips,
  effect,
  movesOf,
  relays,
  rowsOf,
  stretches,
  swaps,
  worksAt,
  type Board,
  type Driver,
  type Leg,
  type Trip,
} from './plan';

const usd = (amount: string) => ({ amount, currency: 'USD' as const });
const at = (hour: number) => new Date(Date.UTC(2026, 10, 24, hour)).toISOString();

const visit = (
  id: number,
  load: string,
  kind: 'pickup' | 'delivery',
  arrives: number,
  from = arrives,
): Trip['visits'][number] => ({
  id,
  legId: Number(load) * 10,
  loadId: Number(load),
  load,
  kind,
  town: 'Butte MT',
  zone: 'America/Denver',
  from: at(from),
  until: at(from + 4),
  arrives: at(arrives),
  leaves: at(arrives + 1),
  late: 0,
  reached: false,
  done: false,
  loaded: kind === 'delivery',
  own: null,
});
const trip = (id: number, driverId: number, begins: number, more: Partial<Trip> = {}): Trip => ({
  id,
  number: `${600 + id}`,
  name: null,
  lane: 'Butte MT to Boise ID',
  driverId,
  codriverId: null,
  truckId: driverId * 10,
  trailerId: driverId * 100,
  trailers: [{ trailerId: driverId * 100, from: at(begins), until: at(begins + 10) }],
  startedAt: null,
  endedAt: null,
  acceptedAt: null,
  startsAt: null,
  setsOut: at(begins),
  ends: at(begins + 10),
  emptyMiles: 40,
  miles: 420,
  visits: [visit(id * 10, `${id}`, 'pickup', begins + 1), visit(id * 10 + 1, `${id}`, 'delivery', begins + 9)],
  ...more,
});
const driver = (id: number, name: string, group: string | null, trips: Trip[]): Driver => ({
  id,
  name,
  group,
  phone: null,
  homeTown: null,
  homeBy: null,
  off: [],
  freeTown: null,
  freeAt: null,
  truckId: null,
  trailerId: null,
  equipment: 'van',
  homeAt: null,
  homeMiles: null,
  warnings: [],
  trips,
});
const one = trip(1, 1, 0);
const two = trip(2, 2, 5);
const board: Board = {
  from: at(0),
  until: at(96),
  drivers: [
    driver(1, 'Lena Haugen', 'West', [one]),
    driver(2, 'Kai Voss', 'East', [two]),
    driver(3, 'Ida Roe', null, []),
  ],
  trucks: [
    { id: 10, unit: '118', equipment: null },
    { id: 20, unit: '119', equipment: null },
  ],
  trailers: [{ id: 200, unit: '5302', equipment: 'reefer' }],
  open: [],
  standing: [],
};
const leg = (id: number) => ({ legId: id, loadId: id, load: `${id}` }) as Leg;
const row = (by: 'drivers' | 'trucks' | 'trailers', id: number) => rowsOf(board, by, '').find((r) => r.id === id)!;

describe('the lines of the plan', () => {
  it('are drivers, of one group or all, or units with the trips that use them', () => {
    expect(rowsOf(board, 'drivers', '').map((r) => r.name)).toEqual(['Lena Haugen', 'Kai Voss', 'Ida Roe']);
    expect(rowsOf(board, 'drivers', 'East').map((r) => r.name)).toEqual(['Kai Voss']);
    expect(row('trucks', 20).trips.map((t) => t.id)).toEqual([2]);
    expect(row('trucks', 20).drivers).toEqual(['Kai Voss']);
    expect(row('trailers', 200).name).toBe('Trailer 5302');
  });
  it('show drivers as they would be while a change is tried', () => {
    const changed = [
      driver(1, 'Lena Haugen', 'West', []),
      driver(2, 'Kai Voss', 'East', [two, { ...one, driverId: 2 }]),
    ];
    const rows = rowsOf(board, 'drivers', '', changed);
    expect(rows[0].trips).toEqual([]);
    expect(rows[1].trips.map((t) => t.id)).toEqual([2, 1]);
    expect(changedTrips(board, { trip: one }, changed).map((c) => [c.driver, c.trip.id])).toEqual([['Kai Voss', 1]]);
    expect(changedTrips(board, { legs: [leg(2)] }, changed).map((c) => c.trip.id)).toEqual([2, 1]);
  });
});

describe('moves', () => {
  it('assign loads, add them to a trip, or unassign a trip', () => {
    expect(movesOf({ legs: [leg(7), leg(8)] }, { row: row('drivers', 3) })).toEqual([{ legIds: [7, 8], driverId: 3 }]);
    expect(movesOf({ legs: [leg(7)] }, { row: row('drivers', 2), with: two })).toEqual([{ legIds: [7], tripId: 2 }]);
    expect(movesOf({ legs: [leg(7)] }, { row: null })).toEqual([]);
    expect(movesOf({ trip: one }, { row: null })).toEqual([{ tripId: 1 }]);
  });
  it('bring a trip to another driver, truck or trailer, and name the driver it had', () => {
    const same = { tripId: 1, wasDriverId: 1 };
    expect(movesOf({ trip: one }, { row: row('drivers', 3) })).toEqual([{ ...same, driverId: 3 }]);
    expect(movesOf({ trip: one }, { row: row('trucks', 20) })).toEqual([
      { ...same, driverId: 1, truckId: 20, trailerId: 100 },
    ]);
    expect(movesOf({ trip: one }, { row: row('trailers', 200) })).toEqual([
      { ...same, driverId: 1, truckId: 10, trailerId: 200 },
    ]);
  });
  it('swap two trips with their trucks', () => {
    expect(swaps(one, row('drivers', 2)).map((t) => t.id)).toEqual([2]);
    expect(swaps(one, row('trucks', 20))).toEqual([]);
    expect(swaps(trip(3, 3, 40), row('drivers', 2))).toEqual([]);
    expect(movesOf({ trip: one }, { row: row('drivers', 2), with: two })).toEqual([
      { tripId: 1, driverId: 2, wasDriverId: 1, truckId: 20 },
      { tripId: 2, driverId: 1, wasDriverId: 2, truckId: 10 },
    ]);
  });
  it('bring a trip to another start, on its line or with another driver', () => {
    const own = row('drivers', 1);
    expect(staysOn({ trip: one }, { row: own, startsAt: at(5) })).toBe(true);
    expect(movesOf({ trip: one }, { row: own, startsAt: at(5) })).toEqual([
      { tripId: 1, wasDriverId: 1, startsAt: at(5) },
    ]);
    expect(movesOf({ trip: one }, { row: own, startsAt: null })).toEqual([
      { tripId: 1, wasDriverId: 1, anyTime: true },
    ]);
    expect(movesOf({ trip: one }, { row: row('drivers', 3), startsAt: at(5) })).toEqual([
      { tripId: 1, driverId: 3, wasDriverId: 1, startsAt: at(5) },
    ]);
    // Without a time, its own line is no way to unassign it.
    expect(movesOf({ trip: one }, { row: own })).toEqual([{ tripId: 1, driverId: 1, wasDriverId: 1 }]);
    expect(laterStart(Date.parse('2026-11-24T10:07:00Z'), 15)).toBe('2026-11-24T10:15:00.000Z');
    expect(laterStart(Date.parse('2026-11-24T10:08:00Z'), -60)).toBe('2026-11-24T09:15:00.000Z');
  });
  it('split a leg for the driver of another line, or nobody yet, and join legs', () => {
    const split = { legId: 10, placeId: 4, townId: null, at: '2026-11-24T10:00', method: 'drop' as const };
    expect(movesOf({ trip: one }, { row: row('drivers', 1), split })).toEqual([{ split }]);
    expect(movesOf({ trip: one }, { row: row('drivers', 3), split })).toEqual([{ split, driverId: 3 }]);
    expect(movesOf({ trip: one }, { row: row('trucks', 20), split })).toEqual([{ split }]);
    // The driver of the other load has the rest.
    const relay = { ...split, method: 'swap' as const, swapWithLoadId: 2 };
    expect(movesOf({ trip: one }, { row: row('drivers', 3), split: relay })).toEqual([{ split: relay }]);
    expect(relays(board, one).map((r) => `${r.driver} ${r.loadId}`)).toEqual(['Kai Voss 2']);
    const shared = { ...trip(9, 3, 0), visits: two.visits };
    expect(
      relays({ ...board, drivers: [...board.drivers, driver(4, 'Di Orr', null, [{ ...shared, driverId: 4 }])] }, one),
    ).toEqual([]);
    expect(movesOf({ trip: one }, { row: row('drivers', 1), join: 44 })).toEqual([{ joinTransferId: 44 }]);
  });
  it('find the legs ahead of a trip, and where its freight goes on with another', () => {
    const leaves = trip(4, 1, 0, { visits: [visit(1, '7', 'pickup', 1), { ...visit(-44, '7', 'delivery', 5) }] });
    const takes = trip(5, 2, 6, { visits: [{ ...visit(-44, '7', 'pickup', 7) }, visit(2, '7', 'delivery', 12)] });
    expect(legsOf(leaves)).toEqual([{ legId: 70, loadId: 7, load: '7' }]);
    expect(legsOf({ ...leaves, visits: leaves.visits.map((v) => ({ ...v, done: true })) })).toEqual([]);
    expect(transfersOf(leaves)).toEqual([{ id: 44, load: '7', town: 'Butte MT' }]);
    expect(between(takes, leaves)?.id).toBe(44);
    expect(between(one, leaves)).toBeUndefined();
    expect(transfersOf({ ...leaves, visits: leaves.visits.map((v) => ({ ...v, reached: true })) })).toEqual([]);
  });
  it('leave alone what has begun', () => {
    expect(canMove(one)).toBe(true);
    expect(canMove({ ...one, startedAt: at(1) })).toBe(false);
    expect(swaps(one, { ...row('drivers', 2), trips: [{ ...two, startedAt: at(1) }] })).toEqual([]);
  });
});

describe('a trip as a line', () => {
  it('is called by its name, or by its loads', () => {
    expect(labelOf(one)).toBe('1');
    expect(labelOf({ ...one, visits: [...one.visits, ...two.visits] })).toBe('1 +1');
    expect(labelOf({ ...one, name: 'Friday mail' })).toBe('Friday mail');
  });
  it('is empty on the way to it, loaded between its visits, and thick where it was driven', () => {
    expect(stretches(one, Date.parse(at(-5))).map((s) => s.kind)).toEqual(['empty', 'loaded']);
    const running = { ...one, startedAt: at(1) };
    expect(stretches(running, Date.parse(at(4)))).toEqual([
      { from: Date.parse(at(1)), until: Date.parse(at(9)), kind: 'loaded' },
      { from: Date.parse(at(1)), until: Date.parse(at(4)), kind: 'driven' },
    ]);
    // It ends where the truck was, not now.
    expect(stretches({ ...running, endedAt: at(10) }, Date.parse(at(40))).at(-1)!.until).toBe(Date.parse(at(10)));
  });
  it('has its peg where the place is open', () => {
    expect(worksAt(visit(1, '1', 'pickup', 3, 6))).toBe(Date.parse(at(6)));
    expect(worksAt({ ...visit(1, '1', 'pickup', 3, 6), reached: true })).toBe(Date.parse(at(3)));
  });
});

describe('what a change does', () => {
  const preview = (emptyMiles: number, margin?: string) => ({
    summary: '',
    drivers: [],
    emptyMiles,
    margin: margin ? usd(margin) : undefined,
    late: [],
    warnings: [],
  });
  const money = (m: { amount: string }) => `$${m.amount}`;
  it('is given in miles and money', () => {
    expect(effect(preview(1204, '388.00'), money)).toBe(
      '1,204 more empty miles with the way home, $388.00 more margin',
    );
    expect(effect(preview(-61, '-20.50'), money)).toBe('61 fewer empty miles with the way home, $20.50 less margin');
    expect(effect(preview(0), money)).toBe('no more empty miles');
  });
});

describe('stops of a trip’s own', () => {
  it('are not among its loads', () => {
    const own = { ...visit(9, '7', 'pickup', 4), loadId: null, load: null, own: 'fuel' as const };
    const with9 = trip(1, 1, 3, { visits: [visit(1, '7', 'pickup', 3), own, visit(2, '7', 'delivery', 6)] });
    expect(loadsOf(with9)).toEqual(['7']);
    expect(loadIdsOf(with9)).toEqual([7]);
    expect(labelOf(with9)).toBe('7');
  });
});

describe('how a location is known', () => {
  it('is said', () => {
    const seen = { id: 1, unit: '5312', where: 'Butte MT', at: at(3), source: 'person' as const, trip: null };
    expect(sourceOf(seen)).toBe('entered by a user');
    expect(sourceOf({ ...seen, source: 'device' })).toBe('reported by its device');
    expect(sourceOf({ ...seen, source: 'trip', trip: '412' })).toBe('last stop of trip 412');
  });
});

it('shows a trip in the line of each of its trailers, for its part', () => {
  const change = trip(3, 3, 0, {
    trailers: [
      { trailerId: 300, from: at(0), until: at(5) },
      { trailerId: 301, from: at(5), until: at(10) },
    ],
  });
  const board = {
    drivers: [driver(3, 'Cal', null, [change])],
    trailers: [
      { id: 300, unit: '5300', equipment: 'van' },
      { id: 301, unit: '5301', equipment: 'van' },
      { id: 302, unit: '5302', equipment: 'van' },
    ],
  } as unknown as Board;
  const [first, second, none] = rowsOf(board, 'trailers', '').map((r) => r.trips);
  expect(first.map((t) => [t.visits.map((v) => v.kind), t.ends, t.emptyMiles])).toEqual([[['pickup'], at(5), 40]]);
  expect(second.map((t) => [t.visits.map((v) => v.kind), t.setsOut, t.emptyMiles])).toEqual([
    [['delivery'], at(5), null],
  ]);
  expect(none).toEqual([]);
  // One that has its trailer all the way is shown as it is.
  expect(partOf(one, 100)).toBe(one);
});
