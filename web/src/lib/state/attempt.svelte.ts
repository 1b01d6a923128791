import { moneyKey, Refused } from '../api/client';
import { wentWrong } from './messages.svelte';

/**
 * One try to have something done, and what came of it: what every form needs.
 * Its money key is kept until a try goes well, so that a second press after an answer that was lost counts once.
 */
export class Attempt {
  busy = $state(false);
  refused = $state<Refused | null>(null);
  #key = moneyKey();

  /** The sentence for a field, if it was refused. */
  at(field: string): string | undefined {
    return this.refused?.at(field);
  }
  /** Runs a try with its money key. What is refused is kept to be shown; what breaks is told. */
  async run(act: (money: ReturnType<typeof moneyKey>) => Promise<void>) {
    this.busy = true;
    this.refused = null;
    try {
      await act(this.#key);
      this.#key = moneyKey();
    } catch (e) {
      if (e instanceof Refused) this.refused = e;
      else wentWrong(e);
    } finally {
      this.busy = false;
    }
  }
}
