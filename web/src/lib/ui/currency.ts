import { getContext, setContext } from 'svelte';
import type { Money } from '$lib/api/client';

export type Currency = Money['currency'];
const key = Symbol('currency');

/** The amount fields below are in this currency: the one of the load, invoice, bill or company they belong to. */
export const inCurrency = (of: () => Currency | null | undefined) => setContext(key, of);

/** The currency of the amount fields here; US dollars where nothing else was said. */
export function currencyHere(): () => Currency {
  const of = getContext<(() => Currency | null | undefined) | undefined>(key);
  return () => of?.() ?? 'USD';
}
