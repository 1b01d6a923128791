import type { Schemas } from '$lib/api/client';
import { options } from '$lib/words';

export const claimKinds: Record<Schemas['ClaimKind'], string> = {
  shortage: 'Shortage',
  damage: 'Damage',
  refused: 'Refused freight',
  loss: 'Loss',
  delay: 'Delay',
};
export const claimOutcomes: Record<NonNullable<Schemas['ClaimOutcome']>, string> = {
  paid: 'Paid as claimed',
  settled: 'Settled for less',
  declined: 'Declined',
  withdrawn: 'Withdrawn',
};
/** Where a claim stands, as shown. */
export const claimState = (c: Schemas['ClaimRow']) => (c.outcome ? claimOutcomes[c.outcome].toLowerCase() : c.status);
export const kindOptions = options(claimKinds);
export const outcomeOptions = options(claimOutcomes);
