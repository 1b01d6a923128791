import { expect, test } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { fromRows, hasDates, kinds } from './opening';

const usd = (amount: string) => ({ amount, currency: 'USD' as const });
const row = (partyId: number | null, more: object = {}) =>
  ({
    kind: 'bill',
    partyId,
    read: {
      row: 2,
      party: 'Two Forks Fuel',
      number: 'F-1',
      on: '2026-10-05',
      dueOn: null,
      amount: usd('12.50'),
      problems: [],
      ...more,
    },
  }) as unknown as Schemas['OpeningRowView'];

test('a row of a file becomes an item to correct, and says what could not be read', () => {
  const [known, unknown] = fromRows(
    [row(7), row(null, { row: 3, amount: null, problems: ['Amount “x” is not an amount.'] })],
    40,
  );
  expect(known).toMatchObject({
    id: 40,
    kind: 'bill',
    party: { id: 7, name: 'Two Forks Fuel' },
    number: 'F-1',
    on: '2026-10-05',
    dueOn: '',
    amount: usd('12.50'),
    notes: [],
  });
  expect(unknown).toMatchObject({ id: 41, party: null, amount: null });
  expect(unknown.notes).toEqual(['Row 3: “Two Forks Fuel” was not found.', 'Amount “x” is not an amount.']);
});

test('invoices and bills have dates, advances and credits do not', () => {
  expect(kinds.filter((k) => hasDates(k.kind)).map((k) => k.kind)).toEqual(['invoice', 'bill']);
});
