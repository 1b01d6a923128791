import type { Money, Schemas } from '$lib/api/client';
import { cents, sum } from '$lib/money';
import { bankCad } from './accounts.svelte';

/** A debit or a credit to an account, while it is typed. */
export type Line = { id: number; account: string; debit: Money | null; credit: Money | null };

export const newLine = (id: number): Line => ({ id, account: '', debit: null, credit: null });

/** The currency of a line: that of its account. */
export const currencyOf = (line: Line) => (line.account === bankCad ? 'CAD' : 'USD');

/** Cents of US dollars on both sides; a line in Canadian dollars is worth what the others are apart. */
export function totals(lines: Line[]) {
  const usd = lines.filter((l) => currencyOf(l) === 'USD');
  return {
    debit: cents(sum(usd.map((l) => l.debit))),
    credit: cents(sum(usd.map((l) => l.credit))),
    isTransfer: usd.length < lines.length,
  };
}

export const asSent = (l: Line): Schemas['JournalLineRequest'] => ({
  account: l.account || null,
  debit: l.debit,
  credit: l.credit,
  loadId: null,
  customerId: null,
  driverId: null,
  truckId: null,
});
