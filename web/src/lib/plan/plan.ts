import type { Schemas } from '../api/client';

export type Board = Schemas['PlanBoard'];
export type Driver = Schemas['PlanDriver'];
export type Trip = Schemas['PlanTrip'];
export type Leg = Schemas['PlanLeg'];
export type Move = Schemas['PlanMove'];
export type By = 'drivers' | 'trucks' | 'trailers';

/** A line of the plan: a driver, a truck or a trailer, with its trips. */
export interface Row {
  key: string;
  by: By;
  id: number;
  name: string;
  equipment: Driver['equipment'];
  driver: Driver | null;
  trips: Trip[];
  /** Who drives the trips, for trucks and trailers. */
  drivers: string[];
}

/** What is picked to be moved. */
export type Picked = { legs: Leg[]; trip?: undefined } | { trip: Trip; legs?: undefined };

/** Where it goes: a line, one of the trips there, or nowhere, which unassigns it. */
export interface Target {
  row: Row | null;
  /** Legs are added to it; a trip swaps with it. */
  with?: Trip;
  /** Chosen instead of those the driver had last. */
  truckId?: number;
  trailerId?: number;
  /** When a trip is to start; null for no set time. */
  startsAt?: string | null;
  /** A leg of the trip is split; the rest goes to the driver of the line, if it is another one. */
  split?: NonNullable<Move['split']>;
  /** Legs are joined at this transfer. */
  join?: number;
}

/**
 * The lines of the plan.
 * @param changed Drivers as they would be, which replace those of the board.
 */
export function rowsOf(board: Board, by: By, group: string, changed: Driver[] = []): Row[] {
  const drivers = board.drivers.map((d) => changed.find((c) => c.id === d.id) ?? d);
  if (by === 'drivers')
    return drivers
      .filter((d) => !group || d.group === group)
      .map((d) => ({
        key: `drivers-${d.id}`,
        by,
        id: d.id,
        name: d.name,
        equipment: d.equipment,
        driver: d,
        trips: d.trips,
        drivers: [],
      }));
  const units = by === 'trucks' ? board.trucks : board.trailers;
  return units.map((unit) => {
    const trips = drivers
      .flatMap((d) =>
        ledBy(d).map((trip) => ({ trip, name: [d.name, mateOf(drivers, trip)].filter(Boolean).join(' / ') })),
      )
      .filter(({ trip }) =>
        by === 'trucks' ? trip.truckId === unit.id : trip.trailers.some((t) => t.trailerId === unit.id),
      )
      .map((t) => (by === 'trucks' ? t : { ...t, trip: partOf(t.trip, unit.id) }))
      .sort((a, b) => Date.parse(a.trip.setsOut) - Date.parse(b.trip.setsOut));
    return {
      key: `${by}-${unit.id}`,
      by,
      id: unit.id,
      name: `${by === 'trucks' ? 'Truck' : 'Trailer'} ${unit.unit}`,
      equipment: unit.equipment,
      driver: null,
      trips: trips.map((t) => t.trip),
      drivers: [...new Set(trips.map((t) => t.name))],
    };
  });
}

/** A trip while it has a trailer: from where that is hooked to where it is dropped. */
export function partOf(trip: Trip, trailer: number): Trip {
  const part = trip.trailers.find((t) => t.trailerId === trailer);
  const at = (v: Schemas['PlanVisit']) => Date.parse(v.arrives);
  const visits = part
    ? trip.visits.filter((v) => at(v) >= Date.parse(part.from) && at(v) < Date.parse(part.until))
    : trip.visits;
  return !part || visits.length === 0 || visits.length === trip.visits.length
    ? trip
    : {
        ...trip,
        setsOut: Date.parse(part.from) > Date.parse(trip.setsOut) ? part.from : trip.setsOut,
        ends: Date.parse(part.until) < Date.parse(trip.ends) ? part.until : trip.ends,
        emptyMiles: visits[0] === trip.visits[0] ? trip.emptyMiles : null,
        visits,
      };
}

/** A driver's trips without those on which they are the co-driver, so that a team's trip counts once. */
const ledBy = (d: Driver) => d.trips.filter((t) => t.driverId === d.id);

/** The other driver of a team; undefined for a driver alone. */
export const mateOf = (drivers: Driver[], trip: Trip, of = trip.driverId): string | undefined =>
  trip.codriverId
    ? drivers.find((d) => d.id === (of === trip.driverId ? trip.codriverId : trip.driverId))?.name
    : undefined;

/** Whether a trip can still go to another driver. */
export const canMove = (trip: Trip) => !trip.startedAt && !trip.endedAt;

/** The moves that bring what is picked to its target. */
export function movesOf(picked: Picked, target: Target): Move[] {
  const units = {
    ...(target.truckId ? { truckId: target.truckId } : {}),
    ...(target.trailerId ? { trailerId: target.trailerId } : {}),
  };
  if (picked.legs) {
    const legIds = picked.legs.map((l) => l.legId);
    return target.with
      ? [{ legIds, tripId: target.with.id }]
      : target.row
        ? [{ legIds, driverId: target.row.id, ...units }]
        : [];
  }
  const { trip } = picked;
  if (target.join) return [{ joinTransferId: target.join }];
  if (target.split) {
    const { row } = target;
    const next = !target.split.swapWithLoadId && row?.by === 'drivers' && row.id !== trip.driverId;
    return [{ split: target.split, ...(next ? { driverId: row.id } : {}) }];
  }
  if (!target.row) return [{ tripId: trip.id }];
  const time = target.startsAt === undefined ? {} : target.startsAt ? { startsAt: target.startsAt } : { anyTime: true };
  if (target.startsAt !== undefined && staysOn(picked, target))
    return [{ tripId: trip.id, wasDriverId: trip.driverId, ...time }];
  const same = { tripId: trip.id, driverId: trip.driverId, wasDriverId: trip.driverId };
  if (target.row.by === 'trucks') return [{ ...same, truckId: target.row.id, trailerId: trip.trailerId ?? undefined }];
  if (target.row.by === 'trailers') return [{ ...same, truckId: trip.truckId, trailerId: target.row.id }];
  const there = target.with;
  return there
    ? [
        { ...same, driverId: there.driverId, truckId: there.truckId },
        { tripId: there.id, driverId: trip.driverId, wasDriverId: there.driverId, truckId: trip.truckId },
      ]
    : [{ ...same, driverId: target.row.id, ...units, ...time }];
}

/** The legs of a trip that are still ahead or under way. */
export const legsOf = (trip: Trip) =>
  trip.visits
    .filter((v) => v.legId !== null && !v.done)
    .filter((v, i, all) => all.findIndex((o) => o.legId === v.legId) === i)
    .map((v) => ({ legId: v.legId!, loadId: v.loadId!, load: v.load! }));

/** Loads of other drivers' trips whose truck could meet a trip and swap trailers, with who has them; none that change trucks already. */
export function relays(board: Board, trip: Trip) {
  const all = board.drivers.flatMap((d) =>
    ledBy(d)
      .filter((t) => !t.endedAt)
      .flatMap((t) =>
        legsOf(t).map((l) => ({
          driver: d.name,
          own: d.id === trip.driverId,
          load: l.load,
          loadId: l.loadId,
          lane: t.lane,
        })),
      ),
  );
  return all.filter((l) => !l.own && all.filter((o) => o.loadId === l.loadId).length === 1);
}

/** Transfers ahead at which a trip takes freight over or hands it over. */
export const transfersOf = (trip: Trip) =>
  trip.visits.filter((v) => v.id < 0 && !v.reached).map((v) => ({ id: -v.id, load: v.load!, town: v.town }));

/** The transfer ahead between two trips; undefined when no load changes from one to the other. */
export const between = (one: Trip, other: Trip) =>
  transfersOf(one).find((t) => transfersOf(other).some((o) => o.id === t.id));

/** Fields of a split at which the server says what is wrong, and what it calls them. */
export const splitFields = ['placeId', 'at', 'method', 'swapWithLoadId'] as const;
export type SplitField = (typeof splitFields)[number];
export const splitField = (field: SplitField) => `moves[0].split.${field}`;

/** Whether a trip stays on its line, and only its start changes. */
export const staysOn = (picked: Picked, target: Target) =>
  !!picked.trip &&
  !target.with &&
  !target.split &&
  !target.join &&
  !!target.row?.trips.some((t) => t.id === picked.trip!.id);

/** When a trip is at its first visit, or leaves its start. */
export const startOf = (trip: Trip) => worksAt(trip.visits[0]);

/** A start so many minutes later, on a whole quarter of an hour. */
export const laterStart = (from: number, minutes: number) =>
  new Date(Math.round((from + minutes * 60_000) / 900_000) * 900_000).toISOString();

/** Trips of a line that a trip could swap with: those at the same time that have not begun. */
export const swaps = (trip: Trip, row: Row): Trip[] =>
  row.by === 'drivers'
    ? row.trips.filter(
        (t) =>
          t.id !== trip.id &&
          canMove(t) &&
          Date.parse(t.setsOut) < Date.parse(trip.ends) &&
          Date.parse(trip.setsOut) < Date.parse(t.ends),
      )
    : [];

export interface Stretch {
  from: number;
  until: number;
  kind: 'empty' | 'loaded' | 'driven';
}

/** When a truck works at a visit: it waits until the place opens. */
export const worksAt = (v: Schemas['PlanVisit']) =>
  v.reached ? Date.parse(v.arrives) : Math.max(Date.parse(v.arrives), Date.parse(v.from));

/** What a trip's line consists of: the empty way to it, loaded and empty stretches, and what was driven up to now. */
export function stretches(trip: Trip, now: number): Stretch[] {
  const all: Stretch[] = [];
  const { visits } = trip;
  if (!trip.startedAt && trip.emptyMiles)
    all.push({ from: Date.parse(trip.setsOut), until: Date.parse(visits[0].arrives), kind: 'empty' });
  for (let i = 1; i < visits.length; i++)
    all.push({ from: worksAt(visits[i - 1]), until: worksAt(visits[i]), kind: visits[i].loaded ? 'loaded' : 'empty' });
  if (trip.startedAt)
    all.push({
      from: Date.parse(visits[0].arrives),
      until: Math.min(now, trip.endedAt ? Date.parse(trip.endedAt) : Date.parse(trip.ends)),
      kind: 'driven',
    });
  return all.filter((s) => s.until > s.from);
}

/** What a trip is called on its line: its name, or its loads. */
export const labelOf = (trip: Trip) => {
  const loads = loadsOf(trip);
  return trip.name ?? (loads.length > 1 ? `${loads[0]} +${loads.length - 1}` : loads[0]);
};

/** Numbers of the loads on a trip. */
export const loadsOf = (trip: Trip) => [...new Set(trip.visits.map((v) => v.load).filter((l) => l !== null))];

/** The loads of a trip as ids, in the order of their pickup. */
export const loadIdsOf = (trip: Trip) => [...new Set(trip.visits.map((v) => v.loadId).filter((l) => l !== null))];

/** How a change reads: "61 more empty miles, $388 more margin". */
export function effect(preview: Schemas['PlanPreview'], money: (m: Schemas['Money']) => string): string {
  const parts: string[] = [];
  const more = (n: number) => (n > 0 ? 'more' : 'fewer');
  parts.push(
    preview.emptyMiles
      ? `${Math.abs(preview.emptyMiles).toLocaleString('en-US')} ${more(preview.emptyMiles)} empty miles with the way home`
      : 'no more empty miles',
  );
  const margin = Number(preview.margin?.amount ?? 0);
  if (preview.margin && margin)
    parts.push(
      `${money({ ...preview.margin, amount: Math.abs(margin).toFixed(2) })} ${margin > 0 ? 'more' : 'less'} margin`,
    );
  return parts.join(', ');
}

/** The trips a change is about, as they would be: those of the picked loads, and those that are at another driver's then. */
export function changedTrips(board: Board, picked: Picked, drivers: Driver[]): { trip: Trip; driver: string }[] {
  const loads = picked.legs ? picked.legs.map((l) => l.loadId) : loadIdsOf(picked.trip);
  const was = new Map(board.drivers.flatMap((d) => d.trips.map((t) => [t.id, t.driverId])));
  return drivers.flatMap((d) =>
    ledBy(d)
      .filter((t) => !t.endedAt && (was.get(t.id) !== t.driverId || loadIdsOf(t).some((l) => loads.includes(l))))
      .map((trip) => ({ trip, driver: d.name })),
  );
}

/** How it is known where a truck or trailer is. */
export const sourceOf = (at: Schemas['UnitAt']) =>
  at.trip ? `last stop of trip ${at.trip}` : at.source === 'device' ? 'reported by its device' : 'entered by a user';

/** The tabs of the plan: its lines by what they are of, and all trips as a list. */
export const planTabs = (board: Board | null) => [
  { id: 'drivers', label: 'Drivers', count: board?.drivers.length },
  { id: 'trucks', label: 'Trucks', count: board?.trucks.length },
  { id: 'trailers', label: 'Trailers', count: board?.trailers.length },
  { id: 'trips', label: 'All trips' },
];
