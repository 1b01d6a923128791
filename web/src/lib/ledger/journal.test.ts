import { expect, test } from 'vitest';
import { asSent, currencyOf, newLine, totals, type Line } from './journal';

const usd = (amount: string) => ({ amount, currency: 'USD' as const });
const line = (account: string, debit: string | null, credit: string | null): Line => ({
  id: 1,
  account,
  debit: debit ? { amount: debit, currency: account === '1010' ? 'CAD' : 'USD' } : null,
  credit: credit ? { amount: credit, currency: account === '1010' ? 'CAD' : 'USD' } : null,
});

test('both sides are added in US dollars, without the line in Canadian ones', () => {
  expect(totals([line('5200', '10.50', null), line('1000', null, '10.50')])).toEqual({
    debit: 1050,
    credit: 1050,
    isTransfer: false,
  });
  expect(totals([line('1010', '1000.00', null), line('1000', null, '735.20')])).toEqual({
    debit: 0,
    credit: 73520,
    isTransfer: true,
  });
});

test('a line has the currency of its account, and is sent with nothing it does not say', () => {
  expect([currencyOf(line('1010', null, null)), currencyOf(newLine(3))]).toEqual(['CAD', 'USD']);
  expect(asSent({ ...newLine(3), debit: usd('5.00') })).toMatchObject({
    account: null,
    debit: usd('5.00'),
    credit: null,
  });
});
