import { expect, test } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { rulesAsSent, rulesOf } from './carrierRules';

const usd = (amount: string) => ({ amount, currency: 'USD' as const });

test('what a company asks of carriers comes back as it was set', () => {
  const set = {
    tenderHours: 2,
    carriers: { liability: usd('1000000.00'), cargo: usd('100000.00'), agreement: true, refuseConditional: true },
    carrierDetention: { freeMinutes: 90, perHour: usd('40.00'), cap: usd('250.00') },
  } as Schemas['CompanySettings'];
  expect(rulesAsSent(rulesOf(set))).toEqual({
    minLiability: 1_000_000,
    minCargo: 100_000,
    agreementRequired: true,
    refuseConditional: true,
    tenderHours: 2,
    carrierFreeMinutes: 90,
    carrierDetention: 40,
    carrierDetentionCap: 250,
  });
});

test('nothing set is the law and two free hours, sent as zero', () => {
  const sent = rulesAsSent(rulesOf({} as Schemas['CompanySettings']));
  expect(sent).toMatchObject({ minLiability: 0, minCargo: 0, carrierDetention: 0, carrierDetentionCap: 0 });
  expect([sent.tenderHours, sent.carrierFreeMinutes]).toEqual([4, 120]);
});

test('what is no whole number is sent as one the server refuses, never as another number', () => {
  const rules = rulesOf({} as Schemas['CompanySettings']);
  for (const typed of ['', '2.5', '-1', 'two', '1e3']) {
    const sent = rulesAsSent({ ...rules, tenderHours: typed, carrierFreeMinutes: typed });
    expect([sent.tenderHours, sent.carrierFreeMinutes]).toEqual([-1, -1]);
  }
  expect(rulesAsSent({ ...rules, tenderHours: ' 24 ' }).tenderHours).toBe(24);
});
