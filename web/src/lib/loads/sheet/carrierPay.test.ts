import { expect, test } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { asOrders } from './carrierPay';

const usd = (amount: string) => ({ amount, currency: 'USD' as const });
const row = (kind: Schemas['ChargeKind'], amount: string, more: Partial<Schemas['CarrierChargeRow']> = {}) =>
  ({
    id: 1,
    kind,
    description: null,
    amount: usd(amount),
    authorization: null,
    ...more,
  }) as Schemas['CarrierChargeRow'];

test('charges are entered as they are shown, a discount above zero', () => {
  const by = { by: 'R. Dahl', on: null, reference: 'receipt 88' };
  expect(
    asOrders([
      row('line_haul', '1000.00'),
      row('lumper', '85.50', { description: 'dock 4', authorization: by }),
      row('discount', '-40.00'),
    ]),
  ).toEqual([
    { kind: 'line_haul', description: null, amount: usd('1000.00'), authorization: undefined },
    { kind: 'lumper', description: 'dock 4', amount: usd('85.50'), authorization: by },
    { kind: 'discount', description: null, amount: usd('40.00'), authorization: undefined },
  ]);
});

test('an amount that may not be seen stays unknown', () => {
  expect(asOrders([row('line_haul', '1.00', { amount: undefined })])[0].amount).toBeNull();
});
