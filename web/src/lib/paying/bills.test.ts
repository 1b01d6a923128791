import { expect, test } from 'vitest';
import { taxedLines } from './bills';

const cad = (amount: string) => ({ amount, currency: 'CAD' as const });

test('a carrier’s bill with tax is freight and tax that add up to it', () => {
  expect(taxedLines(cad('1575.00'), cad('75.00'), 9)?.map((l) => [l.account, l.amount, l.loadId])).toEqual([
    ['5000', cad('1500.00'), 9],
    ['2400', cad('75.00'), 9],
  ]);
});

test('without tax or without an amount there are no lines: it is all freight', () => {
  expect(taxedLines(cad('1575.00'), null, 9)).toBeNull();
  expect(taxedLines(cad('1575.00'), cad('0.00'), 9)).toBeNull();
  expect(taxedLines(null, cad('75.00'), 9)).toBeNull();
});
