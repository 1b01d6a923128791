import { api, take, type Schemas } from '../api/client';
import { Attempt } from '../state/attempt.svelte';
import { showDone } from '../state/messages.svelte';
import {
  canMove,
  loadIdsOf,
  movesOf,
  rowsOf,
  swaps,
  type Board,
  type By,
  type Leg,
  type Picked,
  type Row,
  type Target,
  type Trip,
} from './plan';

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
    const others = this.plain.filter((r) => r.by !== 'drivers' || r.id !== this.picked?.trip?.driverId);
    const rank = (r: Row) => {
      const at = this.ranked.findIndex((o) => o.driverId === r.id);
      return r.by === 'drivers' && at >= 0 ? at + (this.ranked[at].blocked ? 10_000 : 0) : 20_000;
    };
    return others.toSorted((a, b) => rank(a) - rank(b));
  }

  /** Tries the next candidate, or the one before. */
  step(by: number) {
    const list = this.candidates();
    const at = list.findIndex((r) => r.key === this.target?.row?.key);
    const next = list[Math.max(0, Math.min(list.length - 1, at + by))];
    if (next && next.key !== this.target?.row?.key) void this.try({ row: next });
  }

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
    this.picked = this.target = this.preview = null;
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
