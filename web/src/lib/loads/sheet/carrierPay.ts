import type { Schemas } from '$lib/api/client';

/** A carrier's charges as they are entered: a discount above zero. */
export const asOrders = (charges: Schemas['CarrierChargeRow'][]): Schemas['FlatChargeOrder'][] =>
  charges.map((c) => ({
    kind: c.kind,
    description: c.description,
    amount:
      (c.kind === 'discount' && c.amount ? { ...c.amount, amount: c.amount.amount.replace('-', '') } : c.amount) ??
      null,
    authorization: c.authorization ?? undefined,
  }));
