import { describe, expect, it } from 'vitest';
import { aboard, capacity, difference, feet, moved, trailersOf } from './visits';

const visits = [
  { id: 1, reached: true },
  { id: 2, reached: false },
  { id: 3, reached: false },
  { id: -4, reached: false },
];

describe('the order of a trip’s visits', () => {
  it('changes by one visit at a time, and what was reached stays', () => {
    expect(moved(visits, 1, 3)).toEqual([1, 3, -4, 2]);
    expect(moved(visits, 3, 1)).toEqual([1, -4, 2, 3]);
    expect(moved(visits, 1, 0)).toEqual([1, 2, 3, -4]);
    expect(moved(visits, 0, 2)).toEqual([1, 2, 3, -4]);
    expect(moved(visits, 3, 4)).toEqual([1, 2, 3, -4]);
  });
});

describe('words of a trip', () => {
  it('say what an order adds or saves', () => {
    expect(difference(42, 70)).toBe('42 mi more, ends 1 h 10 later');
    expect(difference(-1204, -5)).toBe('1,204 mi less, ends 0 h 05 earlier');
    expect(difference(0, 0)).toBe('no extra miles');
  });
  it('say what is on board', () => {
    const nothing = {
      loads: [],
      wholeTrailer: null,
      pieces: 0,
      pallets: 0,
      weightLb: 0,
      floorIn: 0,
      roomIn: 630,
      roomLb: 43_000,
    };
    expect(aboard(nothing)).toBe('empty');
    expect(aboard({ ...nothing, loads: ['8842'], pallets: 14, weightLb: 21_000, floorIn: 280 })).toBe(
      '21,000 lb · 14 pallets',
    );
    expect(aboard({ ...nothing, loads: ['8842'], weightLb: 900, floorIn: null })).toBe('900 lb');
    expect(feet(24)).toBe('2 ft');
  });
});

it('says what a trailer holds: gallons, decks, or feet of floor', () => {
  const place = { name: '1', gallons: null, lengthIn: 600, heightIn: 70, payloadLb: 14_000 };
  const trailer = (places: object[] | null) =>
    ({ lengthIn: 636, loading: places ? [{ places, after: [], problems: [] }] : [] }) as unknown as Parameters<
      typeof capacity
    >[0];
  expect(capacity(trailer(null))).toBe('53 ft');
  expect(capacity(trailer([place]))).toBe('1 deck');
  expect(capacity(trailer([place, place]))).toBe('2 decks');
  expect(capacity(trailer([{ gallons: 1_900 }, { gallons: 1_300 }]))).toBe('3,200 gal');
});

it('names the trailers of a trip', () => {
  const trip = (...units: string[]) =>
    ({ trailers: units.map((unit, id) => ({ id, unit, equipment: 'van' })) }) as Parameters<typeof trailersOf>[0];
  expect(trailersOf(trip())).toBe('');
  expect(trailersOf(trip('5312'))).toBe('trailer 5312');
  expect(trailersOf(trip('2801', '2802'))).toBe('trailers 2801 and 2802');
  expect(trailersOf(trip('2801', '2802', '5312'))).toBe('trailers 2801, 2802 and 5312');
});
