import { api, take } from '../api/client';

/** Customers that look like what was typed, for a picker. */
export const findCustomers = async (typed: string) =>
  (await take(api.GET('/api/companies', { params: { query: { q: typed || undefined, customers: true, limit: 12 } } })))
    .rows;

/** Whoever bills us, that looks like what was typed: vendors and carriers. */
export const findVendors = async (typed: string) =>
  (await take(api.GET('/api/companies', { params: { query: { q: typed || undefined, limit: 40 } } }))).rows
    .filter((c) => c.isVendor || c.isCarrier)
    .slice(0, 12);

/** Towns of the gazetteer by what was typed of them. */
export const findTowns = async (typed: string) =>
  typed.length < 2 ? [] : take(api.GET('/api/towns', { params: { query: { q: typed } } }));

/** Places that look like what was typed, for a picker; those used most when nothing was typed. */
export const findPlaces = (typed: string) =>
  take(api.GET('/api/places', { params: { query: { q: typed || undefined } } }));
