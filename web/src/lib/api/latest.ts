/**
 * Asks and uses the answer, unless a newer question was asked meanwhile: answers may arrive in another order than they were asked, and an
 * older one must not replace a newer one on the screen. Failures of older questions are dropped as well.
 */
export function latest<A extends unknown[], T>(
  ask: (...args: A) => Promise<T>,
  use: (answer: T) => void,
  failed: (error: unknown) => void,
): (...args: A) => Promise<void> {
  let turn = 0;
  return async (...args) => {
    const mine = ++turn;
    try {
      const answer = await ask(...args);
      if (mine === turn) use(answer);
    } catch (e) {
      if (mine === turn) failed(e);
    }
  };
}

/**
 * The failure of a sheet that is refreshed while people type in it: what is shown stays, with the forms open in it, and is asked for again
 * in three seconds; only when nothing is shown yet, the failure is.
 */
export function keepShown(
  shown: () => unknown,
  again: () => void,
  show: (error: unknown) => void,
): (error: unknown) => void {
  return (error) => {
    if (shown()) setTimeout(again, 3000);
    else show(error);
  };
}
