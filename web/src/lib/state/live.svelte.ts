import { api, take, type Schemas } from '../api/client';
import { inReadersFormat } from '../time/when';

export type Done = Schemas['EventRow'];
/** What an event can change; pages reload by it. */
export type Topic = Schemas['Topic'];

/** Others' changes as they happen; and what needs attention today, which the spine counts. */
class LiveState {
  today = $state<Schemas['TodayView'] | null>(null);
  /** Whether the page is receiving changes. */
  hearing = $state(true);
  /** Loads that someone just changed, for the faint tint. */
  changed = $state<Record<number, number>>({});
  #listeners = new Set<(event: Done | null) => void>();
  #source: EventSource | null = null;
  #todayTimer: ReturnType<typeof setTimeout> | undefined;

  start() {
    if (this.#source) return;
    this.#source = new EventSource('/api/events/stream');
    this.#source.addEventListener('hello', () => {
      // Reconnected: missed events follow, and lists are reloaded.
      if (!this.hearing) this.#tell(null);
      this.hearing = true;
    });
    this.#source.addEventListener('done', (e) =>
      this.#tell(inReadersFormat(JSON.parse((e as MessageEvent).data) as Done)),
    );
    // The server could not send everything that happened: everything on screen is reloaded.
    this.#source.addEventListener('reload', () => this.#tell(null));
    this.#source.onerror = () => (this.hearing = false);
    void this.glance();
    setInterval(() => void this.glance(), 60_000);
  }

  #tell(event: Done | null) {
    if (event?.loadId) {
      this.changed[event.loadId] = Date.now();
      const id = event.loadId;
      setTimeout(() => delete this.changed[id], 2200);
    }
    for (const listener of this.#listeners) listener(event);
    clearTimeout(this.#todayTimer);
    this.#todayTimer = setTimeout(() => void this.glance(), 250);
  }

  get counts() {
    return this.today?.counts ?? null;
  }

  /** Reloads what needs attention; throws refusals. */
  async refresh() {
    this.today = await take(api.GET('/api/today'));
  }

  /**
   * The same in the background, shared by all callers: failures are retried, and nobody is signed out while typing.
   * @returns whether it is loaded
   */
  glance(): Promise<boolean> {
    this.#glancing ??= api
      .GET('/api/today')
      .then(({ data }) => {
        if (data) this.today = data;
        return !!data;
      })
      .catch(() => false)
      .finally(() => (this.#glancing = null));
    return this.#glancing;
  }
  #glancing: Promise<boolean> | null = null;

  /** Runs `again` shortly after events about a topic or that a predicate accepts, once for a burst. For `$effect`: returns the cleanup. */
  follow(again: () => void, concerns: Topic[] | ((event: Done) => boolean)): () => void {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const listener = (event: Done | null) => {
      if (event && !(Array.isArray(concerns) ? event.topics?.some((t) => concerns.includes(t)) : concerns(event)))
        return;
      clearTimeout(timer);
      timer = setTimeout(again, 120);
    };
    this.#listeners.add(listener);
    // Time passes too: what was on time may be late by now.
    const minute = setInterval(again, 60_000);
    return () => {
      this.#listeners.delete(listener);
      clearTimeout(timer);
      clearInterval(minute);
    };
  }
}
export const live = new LiveState();
