import { api, take, type Schemas } from '../api/client';
import type { Where } from '../companies/find';
import type { Local } from '../time/when';
import { Attempt } from '../state/attempt.svelte';
import { showDone } from '../state/messages.svelte';
import {
  between,
  canMove,
  laterStart,
  legsOf,
  loadIdsOf,
  movesOf,
  rowsOf,
  startOf,
  swaps,
  type Board,
  type By,
  type Leg,
  type Picked,
  type Row,
  type Target,
  type Trip,
} from './plan';

/** Where a leg is to be split, as far as it is entered. */
export interface SplitDraft {
  legId: number;
  where: Where | null;
  at: Local | null;
  method: Schemas['TransferMethod'];
  /** The load of a truck that meets ours there and swaps trailers; null for none. */
  swapWith: number | null;
}

/** The plan and the change that is being tried on it. Nothing is changed until it is made. */
export class Planner {
  board = $state<Board | null>(null);
  by = $state<By>('drivers');
  group = $state('');
  /** What has the focus: a line, and a trip or a leg on it. */
  at = $state<{ row: string; trip?: number } | null>(null);
  /** Open legs that are selected together. */
  selected = $state<number[]>([]);
  picked = $state<Picked | null>(null);
  target = $state<Target | null>(null);
  /** What is entered to split the picked trip. */
  split = $state<SplitDraft | null>(null);
  preview = $state<Schemas['PlanPreview'] | null>(null);
  /** Drivers who can take what is picked, best first. */
  ranked = $state<Schemas['DriverOffer'][]>([]);
  attempt = new Attempt();
  #turn = 0;
  /** Where trucks and trailers are; read when their lines are shown. */
  #units = $state<Schemas['UnitLocations'] | null>(null);

  constructor(private readonly reload: () => Promise<void>) {}

  readonly rows = $derived(this.board ? rowsOf(this.board, this.by, this.group, this.preview?.drivers) : []);
  readonly plain = $derived(this.board ? rowsOf(this.board, this.by, this.group) : []);
  readonly legs = $derived(this.board?.open ?? []);
  readonly groups = $derived([...new Set(this.board?.drivers.map((d) => d.group).filter((g) => g !== null))].sort());

  /** Where the truck or trailer of a line is; null for a driver, and when nobody knows. */
  unitAt = (row: Row) => (row.by === 'drivers' ? null : this.#units?.[row.by].find((u) => u.id === row.id)) ?? null;
  async locate() {
    if (this.by !== 'drivers') this.#units = await take(api.GET('/api/fleet/locations'));
  }

  /** A trip of the board as it is. */
  trip = (id: number | undefined) => this.plain.flatMap((r) => r.trips).find((t) => t.id === id);
  leg = (key: string | undefined) => this.legs.find((l) => `leg-${l.legId}` === key);

  /** Picks legs or a trip, and tries the best driver for them. */
  async pick(picked: Picked, target?: Target) {
    this.cancel();
    this.picked = picked;
    if (target) return this.try(target);
    const turn = ++this.#turn;
    await this.attempt.run(async () => {
      const leg = picked.legs?.[0];
      const load = leg?.loadId ?? loadIdsOf(picked.trip!)[0];
      const choices = await take(
        api.GET('/api/loads/{id}/choices', { params: { path: { id: load }, query: { leg: leg?.legId } } }),
      );
      if (turn !== this.#turn) return;
      this.ranked = choices.drivers;
    });
    const best = this.candidates()[0];
    if (turn === this.#turn && best) await this.try({ row: best });
  }

  /** Lines the picked can go to, best first. */
  candidates(): Row[] {
    const others = this.plain.filter((r) => !r.trips.some((t) => t.id === this.picked?.trip?.id));
    const rank = (r: Row) => {
      const at = this.ranked.findIndex((o) => o.driverId === r.id);
      return r.by === 'drivers' && at >= 0 ? at + (this.ranked[at].blocked ? 10_000 : 0) : 20_000;
    };
    return others.toSorted((a, b) => rank(a) - rank(b));
  }

  /** Tries the next candidate, or the one before. */
  step(by: number) {
    if (this.target?.join) return;
    const list = this.candidates();
    const at = list.findIndex((r) => r.key === this.target?.row?.key);
    const next = list[Math.max(0, Math.min(list.length - 1, at + by))];
    if (!next || next.key === this.target?.row?.key) return;
    if (this.split) this.splitting({}, next);
    else void this.try({ row: next, ...(this.target?.startsAt ? { startsAt: this.target.startsAt } : {}) });
  }

  /** Tries another start of the picked trip, so many minutes later. */
  shift(minutes: number) {
    if (this.picked?.trip) this.startAt(laterStart(this.starts!, minutes));
  }

  /** Tries a start of the picked trip; null for no set time. */
  startAt(at: string | null) {
    const trip = this.picked?.trip;
    const row = this.target?.row ?? (trip ? this.rowOf(trip) : null);
    if (row) void this.try({ ...this.target, row, with: undefined, startsAt: at });
  }

  /** When the picked trip starts: as tried, or as it is. */
  get starts(): number | null {
    const trip = this.picked?.trip;
    if (!trip) return null;
    const tried = this.preview?.drivers.flatMap((d) => d.trips).find((t) => t.id === trip.id) ?? trip;
    return this.target?.startsAt ? Date.parse(this.target.startsAt) : startOf(tried);
  }

  /** Picks a trip to start at another time, on its own line. */
  async reschedule(trip: Trip, startsAt?: string) {
    const row = this.rowOf(trip);
    if (row) await this.pick({ trip }, { row, startsAt: startsAt ?? laterStart(startOf(trip), 0) });
  }

  /** Tries what a trip does that is dropped on a line, or on a trip there, so many minutes right of where it was taken. */
  dropTrip(trip: Trip, target: Target, minutes: number) {
    const meets = target.with && between(trip, target.with);
    // A trip that goes on with another one's freight is joined with it.
    if (meets) return this.join(trip, meets.id);
    const own = target.row?.trips.some((t) => t.id === trip.id);
    if (!own || (target.with && target.with.id !== trip.id)) void this.pick({ trip }, target);
    // Along its own line a trip moves to another time; a click that slipped is none.
    else if (Math.abs(minutes) >= 8) void this.reschedule(trip, laterStart(startOf(trip), minutes));
  }

  /** Begins to split a trip, with the line that is tried as the next driver's. */
  beginSplit(trip: Trip) {
    const leg = legsOf(trip)[0];
    if (!leg) return;
    const row = (this.picked?.trip?.id === trip.id ? this.target?.row : null) ?? this.rowOf(trip);
    this.cancel();
    this.picked = { trip };
    this.target = row ? { row } : null;
    this.split = { legId: leg.legId, where: null, at: null, method: 'drop', swapWith: null };
  }

  /** What is entered changes; it is tried once it says where and when. */
  splitting(change: Partial<SplitDraft>, row = this.target?.row ?? null) {
    this.split = { ...this.split!, ...change };
    const { where, at, legId, method } = this.split;
    const swapWithLoadId = method === 'swap' ? this.split.swapWith : null;
    this.target = { row };
    this.preview = null;
    // An answer on its way belongs to what was entered before.
    this.#turn++;
    if (where && at)
      void this.try({
        row,
        split: { legId, placeId: where.placeId, townId: where.townId, at, method, swapWithLoadId },
      });
  }

  /** Who has the rest of the leg that is split; the trip's own driver for nobody yet. */
  nextDriver(id: number) {
    this.splitting({}, rowsOf(this.board!, 'drivers', '').find((r) => r.id === id) ?? null);
  }

  /** Tries to join the legs at a transfer of a trip. */
  join(trip: Trip, transfer: number) {
    void this.pick({ trip }, { row: this.rowOf(trip), join: transfer });
  }

  private rowOf = (trip: Trip) => this.plain.find((r) => r.trips.some((t) => t.id === trip.id)) ?? null;

  /** Shows what a change would do. */
  async try(target: Target) {
    if (!this.picked) return;
    // What is shown belongs to the target that is named.
    this.preview = null;
    this.target = target;
    const turn = ++this.#turn;
    const moves = movesOf(this.picked, target);
    await this.attempt.run(async () => {
      const preview = await take(api.POST('/api/plan/preview', { body: { moves, allowLate: true } }));
      if (turn === this.#turn) this.preview = preview;
    });
  }

  /** Makes the change that is shown. */
  async make() {
    if (!this.picked || !this.target || !this.preview || this.attempt.busy) return;
    const moves = movesOf(this.picked, this.target);
    await this.attempt.run(async () => {
      const done = await take(api.POST('/api/plan/moves', { body: { moves, allowLate: true } }));
      showDone(`${done.summary}.`, () =>
        take(api.POST('/api/plan/moves', { body: { moves: done.undo, allowLate: true } })).then(() => this.reload()),
      );
      this.cancel();
      this.selected = [];
      await this.reload();
    });
  }

  cancel() {
    this.#turn++;
    this.picked = this.target = this.preview = this.split = null;
    this.ranked = [];
    this.attempt.refused = null;
  }

  /** A leg with the others selected, or alone when it is not among them. */
  withSelected(leg: Leg): Picked {
    const all = this.legs.filter((l) => this.selected.includes(l.legId));
    return { legs: all.some((l) => l.legId === leg.legId) ? all : [leg] };
  }

  /** What the focus is on: a leg with the others selected, or a trip that has not begun. */
  get focused(): Picked | null {
    const leg = this.leg(this.at?.row);
    if (leg) return this.withSelected(leg);
    const trip = this.trip(this.at?.trip);
    return trip && canMove(trip) ? { trip } : null;
  }

  toggle(leg: Leg) {
    this.selected = this.selected.includes(leg.legId)
      ? this.selected.filter((id) => id !== leg.legId)
      : [...this.selected, leg.legId];
  }

  /** The trip the picked one could swap with at its target. */
  get swapWith(): Trip | null {
    const row = this.plain.find((r) => r.key === this.target?.row?.key);
    return this.picked?.trip && row && !this.target?.with ? (swaps(this.picked.trip, row)[0] ?? null) : null;
  }

  /** The trip the picked legs could be added to at their target. */
  get addTo(): Trip | null {
    const row = this.plain.find((r) => r.key === this.target?.row?.key);
    const from = this.picked?.legs?.[0];
    return row && from && !this.target?.with
      ? (row.trips.find((t) => !t.endedAt && Date.parse(t.ends) > Date.parse(from.from)) ?? null)
      : null;
  }
}
