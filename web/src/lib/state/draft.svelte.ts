import { tick, untrack } from 'svelte';
import { session } from './session.svelte';

/** How long a draft is kept, in milliseconds. */
const draftLifetime = 7 * 24 * 3_600_000;

interface Kept<T> {
  /** When it was typed, by the server's clock. */
  at: number;
  value: T;
}

/** Reads a saved draft; null when there is none, or it is too old or unreadable. */
export function readDraft<T>(text: string | null, now: number): Kept<T> | null {
  if (!text) return null;
  try {
    const kept = JSON.parse(text) as Kept<T>;
    return typeof kept.at === 'number' && now - kept.at < draftLifetime && kept.value ? kept : null;
  } catch {
    return null;
  }
}

/** A draft on offer. */
export interface OfferedDraft {
  readonly waiting: { at: number } | null;
  take(): void;
  discard(): void;
}

/**
 * Saves what is typed into a form in this browser, for its user, until it is submitted: leaving the page, going back, reloading,
 * closing the tab
 * or signing out loses nothing. The next time the form opens, the draft is offered (DraftNotice).
 */
export class Draft<T extends object> implements OfferedDraft {
  /** The draft on offer, until restored or discarded. */
  waiting = $state.raw<Kept<T> | null>(null);
  #key: string;
  #read: () => T;
  #write: (value: T) => void;
  /** The form before anything was typed. */
  #begin: string | null = null;

  /**
   * @param form The form's name, with the record it edits.
   * @param read Returns the current input.
   * @param write Restores a draft into the form.
   * @param ready Whether the form has loaded its record: until then nothing counts as typed.
   */
  constructor(form: () => string, read: () => T, write: (value: T) => void, ready: () => boolean = () => true) {
    const named = () => `lark-draft ${session.current?.userId ?? 0} ${form()}`;
    this.#key = untrack(named);
    this.#read = read;
    this.#write = write;
    this.waiting = readDraft<T>(localStorage.getItem(this.#key), session.now);
    $effect(() => {
      const key = named();
      const now = JSON.stringify(read());
      const isReady = ready();
      if (key !== this.#key) {
        // The form now shows another record.
        this.#key = key;
        this.#begin = null;
        this.waiting = untrack(() => readDraft<T>(localStorage.getItem(key), session.now));
      }
      if (!isReady) return;
      this.#begin ??= now;
      if (now === this.#begin) return;
      try {
        localStorage.setItem(this.#key, `{"at":${untrack(() => session.now)},"value":${now}}`);
      } catch {
        // Storage is full: the form itself still has the input.
      }
    });
  }
  /** Restores the draft into the form. */
  take() {
    if (this.waiting) this.#write(this.waiting.value);
    this.waiting = null;
  }
  discard() {
    localStorage.removeItem(this.#key);
    this.waiting = null;
  }
  /** The form was submitted: nothing is left to offer. */
  done() {
    this.discard();
    this.#begin = null;
    void tick().then(() => (this.#begin = JSON.stringify(this.#read())));
  }
}
