import { call, Refused, type Schemas } from '$lib/api/client';
import { showError } from '$lib/state/messages.svelte';
import type { ListName, Query, Row } from './list';

/** Reads rows of a list by position. */
export async function readRows(
  list: ListName,
  query: Query,
  columns: string[],
  from: number,
  count: number,
  counted = false,
) {
  const body = { query, columns, from, count, counted };
  const page = await call<Schemas['ListPage']>(`/api/lists/${list}/rows`, body);
  return { rows: page.rows as unknown as Row[], count: page.count };
}

type Totals = Schemas['ListTotals'];
const block = 100;
const none: Totals = { all: { count: 0, totals: {} }, groups: [] };

/** A list's rows, read by position in blocks as they come into view, and its totals. Nothing but what was looked at is held. */
export class ListRows {
  count = $state(0);
  totals = $state.raw<Totals>(none);
  problem = $state('');
  loading = $state(true);
  #rows = $state.raw(new Map<number, Row>());
  #asked = new Set<number>();
  #query: Query | null = null;
  #columns: string[] = [];
  /** Answers to earlier questions are dropped. */
  #turn = 0;
  #timer: ReturnType<typeof setTimeout> | undefined;

  constructor(readonly list: () => ListName) {}

  row = (position: number): Row | undefined => this.#rows.get(position);

  /** Asks anew, after a wait in which another question replaces it. What is shown stays until the answer is there. */
  ask(query: Query, columns: string[], wait: number) {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.#ask(query, columns), wait);
  }

  async #ask(query: Query, columns: string[]) {
    const turn = ++this.#turn;
    try {
      const [page, totals] = await Promise.all([
        this.#page(query, columns, 0, true),
        query.groups.length ? this.#totals(query, columns) : null,
      ]);
      if (turn !== this.#turn) return;
      // Asked again after an event: what is in view stays until its block was read again, and nothing flickers.
      const same = JSON.stringify([query, columns]) === JSON.stringify([this.#query, this.#columns]);
      [this.#query, this.#columns, this.problem] = [query, columns, ''];
      this.#asked = new Set([0]);
      this.#rows = new Map([...(same ? this.#rows : []), ...page.rows.map((r, i): [number, Row] => [i, r])]);
      this.count = page.count ?? 0;
      this.totals = totals ?? { all: { count: this.count, totals: {} }, groups: [] };
      this.loading = false;
      if (!totals) void this.#sum(turn, query, columns);
    } catch (e) {
      if (turn !== this.#turn) return;
      this.problem = e instanceof Refused ? e.message : 'The list could not be loaded.';
      this.loading = false;
    }
  }

  /** Sums come after the rows: over many rows they take longer. */
  async #sum(turn: number, query: Query, columns: string[]) {
    const totals = await this.#totals(query, columns).catch(() => null);
    if (turn === this.#turn && totals) this.totals = totals;
  }

  /** Reads the blocks of these positions that are not there. */
  need(from: number, until: number) {
    const query = this.#query;
    if (!query) return;
    for (let b = Math.floor(from / block); b * block < Math.min(until, this.count); b++) {
      if (this.#asked.has(b)) continue;
      this.#asked.add(b);
      const turn = this.#turn;
      this.#page(query, this.#columns, b * block, false)
        .then((page) => {
          if (turn !== this.#turn) return;
          const next = new Map(this.#rows);
          page.rows.forEach((r, i) => next.set(b * block + i, r));
          this.#rows = next;
        })
        .catch((e) => {
          if (turn !== this.#turn) return;
          this.#asked.delete(b);
          showError(e);
        });
    }
  }

  /** The keys of rows by position, read or not. */
  async keys(from: number, count: number): Promise<number[]> {
    const held = Array.from({ length: count }, (_, i) => this.#rows.get(from + i)?.id);
    if (held.every((id) => id !== undefined)) return held as number[];
    const answer = await call<Schemas['ListKeys']>(`/api/lists/${this.list()}/keys`, {
      query: this.#query,
      from,
      count,
    });
    return answer.keys;
  }

  #page = (query: Query, columns: string[], from: number, counted: boolean) =>
    readRows(this.list(), query, columns, from, block, counted);

  #totals = (query: Query, columns: string[]) => call<Totals>(`/api/lists/${this.list()}/totals`, { query, columns });
}
