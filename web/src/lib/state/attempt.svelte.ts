import { moneyKey, Refused } from '../api/client';
import { showError } from './messages.svelte';

/**
 * One submission and its outcome: what every form needs.
 * Its idempotency key is kept until a try succeeds, so that a retry after a lost response counts once.
 */
export class Attempt {
  busy = $state(false);
  refused = $state<Refused | null>(null);
  #key = moneyKey();

  /** The error of a field, if it was refused. */
  at(field: string): string | undefined {
    return this.refused?.at(field);
  }
  /** Submits with the idempotency key. Refusals are kept for display; failures are reported. */
  async run(act: (money: ReturnType<typeof moneyKey>) => Promise<void>) {
    this.busy = true;
    this.refused = null;
    try {
      await act(this.#key);
      this.#key = moneyKey();
    } catch (e) {
      if (e instanceof Refused) this.refused = e;
      else showError(e);
    } finally {
      this.busy = false;
    }
  }
}
