import { expect, test, vi } from 'vitest';
import { keepShown, latest } from './latest';

/** A question whose answers come when the test says so. */
function asked() {
  const open: { answer: (n: number) => void; refuse: (e: Error) => void }[] = [];
  return { open, ask: () => new Promise<number>((answer, refuse) => open.push({ answer, refuse })) };
}

test('an older answer never replaces a newer one, and neither does its failure', async () => {
  const { open, ask } = asked();
  const seen: (number | string)[] = [];
  const load = latest(
    ask,
    (n) => seen.push(n),
    (e) => seen.push(String(e)),
  );
  const all = [load(), load(), load()];
  open[2].answer(3);
  open[0].answer(1);
  open[1].refuse(new Error('late'));
  await Promise.all(all);
  expect(seen).toEqual([3]);
});

test('the newest failure is reported, and answers in order are all used', async () => {
  const { open, ask } = asked();
  const seen: (number | string)[] = [];
  const load = latest(
    ask,
    (n) => seen.push(n),
    (e) => seen.push((e as Error).message),
  );
  const first = load();
  open[0].answer(1);
  await first;
  const second = load();
  open[1].refuse(new Error('no connection'));
  await second;
  expect(seen).toEqual([1, 'no connection']);
});

test('a sheet that is shown survives a failed refresh and is asked for again; a first failure is shown', () => {
  vi.useFakeTimers();
  let view: string | null = null;
  const shown: string[] = [];
  let asked = 0;
  const failed = keepShown(
    () => view,
    () => asked++,
    (e) => shown.push((e as Error).message),
  );
  failed(new Error('no connection'));
  view = 'load 7';
  failed(new Error('too many requests'));
  expect([shown, asked]).toEqual([['no connection'], 0]);
  vi.advanceTimersByTime(3000);
  expect(asked).toBe(1);
  vi.useRealTimers();
});
