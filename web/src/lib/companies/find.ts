import { api, take } from '../api/client';

/** Customers that look like what was typed, for a picker. */
export const findCustomers = async (typed: string) =>
  (await take(api.GET('/api/companies', { params: { query: { q: typed || undefined, customers: true, limit: 12 } } })))
    .rows;
