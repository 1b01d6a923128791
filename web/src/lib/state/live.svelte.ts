import { api, take, type Schemas } from '../api/client';

export type Done = Schemas['EventRow'];

/** What others do, as it happens; and what needs attention today, which the spine counts. */
class LiveState {
  today = $state<Schemas['TodayView'] | null>(null);
  /** Whether the page hears of changes at the moment. */
  hearing = $state(true);
  /** Loads that somebody has just changed, for the faint tint. */
  changed = $state<Record<number, number>>({});
  #listeners = new Set<(event: Done | null) => void>();
  #source: EventSource | null = null;
  #todayTimer: ReturnType<typeof setTimeout> | undefined;

  start() {
    if (this.#source) return;
    this.#source = new EventSource('/api/events/stream');
    this.#source.addEventListener('hello', () => {
      // Back after a silence: what was missed follows, and lists are asked for again.
      if (!this.hearing) this.#tell(null);
      this.hearing = true;
    });
    this.#source.addEventListener('done', (e) => this.#tell(JSON.parse((e as MessageEvent).data) as Done));
    // The server could not send all that happened: whatever is shown is asked for again.
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

  /** Asks anew for what needs attention; throws what was refused. */
  async refresh() {
    this.today = await take(api.GET('/api/today'));
  }

  /**
   * The same by itself, for all who ask at once: what fails is tried again, and nobody is sent away from what they are typing.
   * @returns whether it is known now
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

  /** Runs `again` a moment after anything that `concerns` it, many changes as one. For `$effect`: returns how to stop. */
  follow(again: () => void, concerns: (event: Done) => boolean = () => true): () => void {
    let timer: ReturnType<typeof setTimeout> | undefined;
    const listener = (event: Done | null) => {
      if (event && !concerns(event)) return;
      clearTimeout(timer);
      timer = setTimeout(again, 120);
    };
    this.#listeners.add(listener);
    // Time passes too: what was in time may be late by now.
    const minute = setInterval(again, 60_000);
    return () => {
      this.#listeners.delete(listener);
      clearTimeout(timer);
      clearInterval(minute);
    };
  }
}
export const live = new LiveState();
