import type { Schemas } from '$lib/api/client';

/** Why something is written off, as shown. */
export const shortPayKinds: Record<NonNullable<Schemas['ShortPayReason']>, string> = {
  concession: 'concession',
  claim: 'freight claim',
  uncollectible: 'credit loss',
};
export const shortPayOptions = Object.entries(shortPayKinds).map(([value, label]) => ({ value, label }));
