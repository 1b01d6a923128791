import type { Schemas } from '$lib/api/client';
import { options } from '$lib/words';

/** Why something is written off, as shown. */
export const shortPayKinds: Record<NonNullable<Schemas['ShortPayReason']>, string> = {
  concession: 'concession',
  claim: 'freight claim',
  uncollectible: 'credit loss',
};
export const shortPayOptions = options(shortPayKinds);

/** Why a customer is credited, as shown. */
export const creditReasons: Record<NonNullable<Schemas['CreditReason']>, string> = {
  concession: 'concession',
  claim: 'freight claim',
  billing_error: 'billing error',
};
export const creditOptions = options(creditReasons);
