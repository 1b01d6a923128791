import type { Schemas } from '$lib/api/client';
import { hours } from '../time/when';

/** The order of visits after one of them is moved; unchanged at the ends, and where what was reached stays. */
export function moved(visits: Pick<Schemas['TripVisit'], 'id' | 'reached'>[], from: number, to: number): number[] {
  const ids = visits.map((v) => v.id);
  if (!visits[from] || !visits[to] || visits[from].reached || visits[to].reached) return ids;
  ids.splice(to, 0, ...ids.splice(from, 1));
  return ids;
}

/** Inches as feet and inches: 23 ft 4 in. */
export const feet = (inches: number) =>
  inches % 12 === 0 ? `${inches / 12} ft` : `${Math.floor(inches / 12)} ft ${inches % 12} in`;

/** Miles and minutes added or saved, as words: 42 mi and 1 h 10 more. */
export function difference(miles: number, minutes: number): string {
  const way =
    miles === 0 ? 'no extra miles' : `${Math.abs(miles).toLocaleString('en-US')} mi ${miles > 0 ? 'more' : 'less'}`;
  return minutes === 0 ? way : `${way}, ends ${hours(Math.abs(minutes))} ${minutes > 0 ? 'later' : 'earlier'}`;
}

/** What a trip's trailer holds besides weight: gallons, decks, or feet of floor. */
export function capacity(sheet: Pick<Schemas['TripSheet'], 'loading' | 'lengthIn'>): string {
  const places = sheet.loading[0]?.places ?? [];
  const gallons = places.reduce((sum, p) => sum + (p.gallons ?? 0), 0);
  return gallons
    ? `${gallons.toLocaleString('en-US')} gal`
    : places.length
      ? `${places.length} ${places.length === 1 ? 'deck' : 'decks'}`
      : feet(sheet.lengthIn);
}

/** A trip's trailers by their unit numbers: trailer 5312, or trailers 2801 and 2802. */
export const trailersOf = (trip: Pick<Schemas['TripSheet'], 'trailers'>) => {
  const units = trip.trailers.map((t) => t.unit);
  return units.length < 2
    ? units.map((u) => `trailer ${u}`).join('')
    : `trailers ${units.slice(0, -1).join(', ')} and ${units[units.length - 1]}`;
};

/** What is on board, in a few words. */
export function aboard(on: Schemas['OnBoard']): string {
  if (on.loads.length === 0) return 'empty';
  return [`${on.weightLb.toLocaleString('en-US')} lb`, on.pallets ? `${on.pallets} pallets` : '']
    .filter(Boolean)
    .join(' · ');
}
