import { api, take } from '../api/client';

/** Customers matching what was typed, for a picker. */
export const findCustomers = async (typed: string) =>
  (await take(api.GET('/api/companies', { params: { query: { q: typed || undefined, customers: true, limit: 12 } } })))
    .rows;

/** Vendors and carriers matching what was typed. */
export const findVendors = async (typed: string) =>
  (await take(api.GET('/api/companies', { params: { query: { q: typed || undefined, limit: 40 } } }))).rows
    .filter((c) => c.isVendor || c.isCarrier)
    .slice(0, 12);

/** Gazetteer towns matching what was typed. */
export const findTowns = async (typed: string) =>
  typed.length < 2 ? [] : take(api.GET('/api/towns', { params: { query: { q: typed } } }));

/** Places matching what was typed, for a picker; the most used when nothing was typed. */
export const findPlaces = (typed: string) =>
  take(api.GET('/api/places', { params: { query: { q: typed || undefined } } }));
