import { api, type Schemas } from '../api/client';

export type Done = Schemas['EventRow'];
type Counts = Schemas['Counts'];

/** What others do, as it happens; and the counts on the spine. */
class LiveState {
  counts = $state<Counts | null>(null);
  /** Whether the page hears of changes at the moment. */
  hearing = $state(true);
  /** Loads that somebody has just changed, for the faint tint. */
  changed = $state<Record<number, number>>({});
  #listeners = new Set<(event: Done | null) => void>();
  #source: EventSource | null = null;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #countsTimer: ReturnType<typeof setTimeout> | undefined;

  start() {
    if (this.#source) return;
    this.#source = new EventSource('/api/events/stream');
    this.#source.addEventListener('hello', () => {
      // Back after a silence: what was missed follows, and lists are asked for again.
      if (!this.hearing) this.#tell(null);
      this.hearing = true;
    });
    this.#source.addEventListener('done', (e) => this.#tell(JSON.parse((e as MessageEvent).data) as Done));
    this.#source.onerror = () => (this.hearing = false);
    void this.refreshCounts();
    setInterval(() => void this.refreshCounts(), 60_000);
  }

  #tell(event: Done | null) {
    if (event?.loadId) {
      this.changed[event.loadId] = Date.now();
      const id = event.loadId;
      setTimeout(() => delete this.changed[id], 2200);
    }
    for (const listener of this.#listeners) listener(event);
    clearTimeout(this.#countsTimer);
    this.#countsTimer = setTimeout(() => void this.refreshCounts(), 250);
  }

  async refreshCounts() {
    const { data } = await api.GET('/api/today').catch(() => ({ data: undefined }));
    if (data) this.counts = data.counts;
  }

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
