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

/** Where something is: a place of the address book, or any town. */
export type Where = {
  key: number;
  placeId: number | null;
  townId: number | null;
  name: string;
  detail: string;
  zone: string;
};

/** A place of the address book, as it is picked. */
export const whereOf = (p: { id: number; name: string; town: string; region: string; zone: string }): Where => ({
  key: p.id,
  placeId: p.id,
  townId: null,
  name: p.name,
  detail: `${p.town} ${p.region}`,
  zone: p.zone,
});

/** Places of the address book first, then any town. */
export async function findWhere(typed: string): Promise<Where[]> {
  const [places, towns] = await Promise.all([findPlaces(typed), findTowns(typed)]);
  return [
    ...places.slice(0, 7).map(whereOf),
    ...towns.slice(0, 5).map((t) => ({
      key: -t.id,
      placeId: null,
      townId: t.id,
      name: `${t.name} ${t.region}`,
      detail: 'town',
      zone: t.zone,
    })),
  ];
}
