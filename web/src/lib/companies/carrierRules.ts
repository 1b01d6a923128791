import type { Money, Schemas } from '$lib/api/client';

/** What the company asks of its carriers, as typed. */
export interface CarrierRules {
  minLiability: Money | null;
  minCargo: Money | null;
  agreementRequired: boolean;
  refuseConditional: boolean;
  tenderHours: string;
  carrierFreeMinutes: string;
  carrierDetention: Money | null;
  carrierDetentionCap: Money | null;
}

export const rulesOf = (s: Schemas['CompanySettings']): CarrierRules => ({
  minLiability: s.carriers?.liability ?? null,
  minCargo: s.carriers?.cargo ?? null,
  agreementRequired: s.carriers?.agreement ?? false,
  refuseConditional: s.carriers?.refuseConditional ?? false,
  tenderHours: String(s.tenderHours ?? 4),
  carrierFreeMinutes: String(s.carrierDetention?.freeMinutes ?? 120),
  carrierDetention: s.carrierDetention?.perHour ?? null,
  carrierDetentionCap: s.carrierDetention?.cap ?? null,
});

/** As sent: an empty amount is none, which 0 stands for. What is no number is refused by the server. */
export const rulesAsSent = (r: CarrierRules) => ({
  minLiability: Number(r.minLiability?.amount ?? 0),
  minCargo: Number(r.minCargo?.amount ?? 0),
  agreementRequired: r.agreementRequired,
  refuseConditional: r.refuseConditional,
  tenderHours: whole(r.tenderHours),
  carrierFreeMinutes: whole(r.carrierFreeMinutes),
  carrierDetention: Number(r.carrierDetention?.amount ?? 0),
  carrierDetentionCap: Number(r.carrierDetentionCap?.amount ?? 0),
});

const whole = (typed: string) => (/^\d+$/.test(typed.trim()) ? Number(typed) : -1);
