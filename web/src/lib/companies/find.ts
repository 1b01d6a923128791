import { api, take } from '../api/client';

/** Customers that look like what was typed, for a picker. */
export const findCustomers = async (typed: string) =>
  (await take(api.GET('/api/companies', { params: { query: { q: typed || undefined, customers: true, limit: 12 } } })))
    .rows;

/** Places that look like what was typed, for a picker; those used most when nothing was typed. */
export const findPlaces = (typed: string) =>
  take(api.GET('/api/places', { params: { query: { q: typed || undefined } } }));
