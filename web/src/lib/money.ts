import type { Money } from './api/client';

/** As shown in a column: 1,850.00. */
export function figure(money: Money | null | undefined): string {
  if (!money) return '';
  return Number(money.amount).toLocaleString('en-US', { minimumFractionDigits: 2, maximumFractionDigits: 2 });
}

/** As shown in a sentence: $1,850. Cents only when there are any. */
export function said(money: Money | null | undefined): string {
  if (!money) return '';
  const text = figure(money).replace(/^-/, '').replace(/\.00$/, '');
  return (Number(money.amount) < 0 ? '−' : '') + (money.currency === 'CAD' ? 'CA$' : '$') + text;
}

/**
 * Parses an amount as typed: 1850, 1,850.00, $1850.5, 1.9k. Null when invalid or with more than two decimals.
 * Text throughout: an amount is never a floating-point number.
 */
export function parseMoney(text: string): Money | null {
  const clean = text.trim().replace(/[$\s]/g, '').replace(/^usd/i, '');
  const k = /^(\d+)(?:\.(\d{1,3}))?k$/i.exec(clean);
  if (k) return { amount: `${BigInt(k[1] + (k[2] ?? '').padEnd(3, '0'))}.00`, currency: 'USD' };
  if (!/^\d{1,3}(,\d{3})+(\.\d{1,2})?$|^\d+(\.\d{1,2})?$|^\.\d{1,2}$/.test(clean)) return null;
  const [whole, cents = ''] = clean.replace(/,/g, '').split('.');
  return { amount: `${BigInt(whole || '0')}.${cents.padEnd(2, '0')}`, currency: 'USD' };
}

/** Cents as an integer, for sums on the page. */
export const cents = (money: Money | null | undefined) => (money ? Math.round(Number(money.amount) * 100) : 0);
export const fromCents = (n: number): Money => ({ amount: (n / 100).toFixed(2), currency: 'USD' });
export const sum = (list: (Money | null | undefined)[]): Money => fromCents(list.reduce((a, m) => a + cents(m), 0));
