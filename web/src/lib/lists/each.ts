import { Refused } from '../api/client';
import { showDone, showError } from '../state/messages.svelte';

/** Runs an action on each selected row; reports how many succeeded, and why others were refused. */
export async function doEach(keys: number[], act: (id: number) => Promise<unknown>, done: (n: number) => string) {
  const refusals = new Map<string, number>();
  let n = 0;
  for (const id of keys) {
    try {
      await act(id);
      n++;
    } catch (e) {
      if (!(e instanceof Refused)) {
        showError(e);
        break;
      }
      refusals.set(e.message, (refusals.get(e.message) ?? 0) + 1);
    }
  }
  if (n) showDone(done(n));
  for (const [why, times] of refusals) showError(new Refused(times > 1 ? `${times} failed: ${why}` : why, 422, []));
}
