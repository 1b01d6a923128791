import type { Money } from './api/client';

const plain = (money: Money) =>
  Number(money.amount).toLocaleString('en-US', { minimumFractionDigits: 2, maximumFractionDigits: 2 });

/** As shown in a column: 1,850.00, or CA$1,850.00. */
export function figure(money: Money | null | undefined): string {
  if (!money) return '';
  return money.currency === 'CAD' ? plain(money).replace(/^-?/, (minus) => `${minus}CA$`) : plain(money);
}

/** As it stands in a field, which says the currency itself: 1,850.00. */
export const typedFigure = (money: Money | null | undefined) => (money ? plain(money) : '');

/** As shown in a sentence: $1,850. Cents only when there are any. */
export function said(money: Money | null | undefined): string {
  if (!money) return '';
  const text = plain(money).replace(/^-/, '').replace(/\.00$/, '');
  return (Number(money.amount) < 0 ? '−' : '') + (money.currency === 'CAD' ? 'CA$' : '$') + text;
}

/**
 * Parses an amount as typed: 1850, 1,850.00, $1850.5, 1.9k. Null when invalid or with more than two decimals.
 * Text throughout: an amount is never a floating-point number.
 */
export function parseMoney(text: string, currency: Money['currency'] = 'USD'): Money | null {
  const clean = text
    .trim()
    .replace(/[$\s]/g, '')
    .replace(/^(usd?|cad?)/i, '');
  const k = /^(\d+)(?:\.(\d{1,3}))?k$/i.exec(clean);
  if (k) return { amount: `${BigInt(k[1] + (k[2] ?? '').padEnd(3, '0'))}.00`, currency };
  if (!/^\d{1,3}(,\d{3})+(\.\d{1,2})?$|^\d+(\.\d{1,2})?$|^\.\d{1,2}$/.test(clean)) return null;
  const [whole, cents = ''] = clean.replace(/,/g, '').split('.');
  return { amount: `${BigInt(whole || '0')}.${cents.padEnd(2, '0')}`, currency };
}

/** Cents as an integer, for sums on the page. */
export const cents = (money: Money | null | undefined) => (money ? Math.round(Number(money.amount) * 100) : 0);
export const fromCents = (n: number, currency: Money['currency'] = 'USD'): Money => ({
  amount: (n / 100).toFixed(2),
  currency,
});
/** The sum of amounts in one currency. */
export const sum = (list: (Money | null | undefined)[]): Money =>
  fromCents(
    list.reduce((a, m) => a + cents(m), 0),
    list.find((m) => m)?.currency,
  );

/** Sums of amounts, one for each currency: $1,850 and CA$420. */
export function sums(list: (Money | null | undefined)[], shown: (money: Money) => string = figure): string {
  const all = list.filter((m): m is Money => !!m);
  const currencies = [...new Set(all.map((m) => m.currency))].sort().reverse();
  return currencies.map((c) => shown(sum(all.filter((m) => m.currency === c)))).join(' and ') || shown(fromCents(0));
}
