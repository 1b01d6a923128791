import { describe, expect, it } from 'vitest';
import type { Schemas } from '../../api/client';
import { freightOf, newFreight, untouched, usualFreight } from './freight';
import { copied, newCharge, nothing, typedOf } from './typed';
import { requestOf, toPrice, unreadable } from './request';
import { differing, merged } from './merge';

const usd = (amount: string) => ({ amount, currency: 'USD' as const });
const stop = (kind: string, from: string, until = from) =>
  ({
    id: 1,
    kind,
    placeId: 5,
    place: 'Snowberry Dock',
    town: 'Great Falls',
    region: 'MT',
    zone: 'America/Denver',
    from,
    until,
    note: null,
  }) as unknown as Schemas['StopRow'];
const sheet = (first: string, last: string) =>
  ({
    load: {
      id: 9,
      number: '2041',
      customerId: 3,
      officeId: 2,
      customer: 'Snowberry Creamery',
      reference: 'PO 1',
      equipment: 'reefer',
      features: ['liftgate'],
      stops: [stop('pickup', first), stop('delivery', last, last.replace('17:', '19:'))],
    },
    freight: [
      {
        description: 'butter',
        pieces: null,
        pallets: 18,
        weightLb: 38_400,
        temperatureF: 34,
        lengthIn: null,
        widthIn: null,
        heightIn: null,
        hazmat: false,
        unNumber: null,
      },
    ],
    charges: [
      {
        id: 1,
        kind: 'line_haul',
        description: null,
        basis: 'per_mile',
        rate: 3.1,
        quantity: 344,
        amount: usd('1066.40'),
      },
      { id: 2, kind: 'tarp', description: null, basis: 'flat', rate: null, quantity: null, amount: usd('75.00') },
      {
        id: 3,
        kind: 'detention',
        description: '2 hours',
        basis: 'flat',
        rate: null,
        quantity: null,
        amount: usd('150.00'),
        authorization: { by: 'R. Dahl', on: '2026-11-24', reference: 'email' },
      },
      {
        id: 4,
        kind: 'discount',
        description: null,
        basis: 'percent',
        rate: 5,
        quantity: 1066.4,
        amount: usd('-53.32'),
        minimum: 25,
      },
      { id: 5, kind: 'discount', description: null, basis: 'flat', rate: null, quantity: null, amount: usd('-40.00') },
    ],
    references: [
      { kind: 'seal', value: '88213' },
      { kind: 'pickup_number', value: 'PU-9' },
    ],
    customFields: [{ fieldId: 4, name: 'Season', value: 'Fall' }],
    driverInstructions: 'ring',
    carrierInstructions: null,
    officeId: 2,
  }) as unknown as Schemas['LoadSheet'];

describe('a load in the form', () => {
  it('is sent as it is on its sheet', () => {
    const request = requestOf(typedOf(sheet('2026-11-24T06:00:00', '2026-11-24T17:00:00')), false, '2041');
    expect(request).toMatchObject({
      customerId: 3,
      number: null,
      reference: 'PO 1',
      equipment: 'reefer',
      features: ['liftgate'],
      driverInstructions: 'ring',
      carrierInstructions: null,
      stops: [
        { kind: 'pickup', placeId: 5, from: '2026-11-24T06:00:00', until: null },
        { kind: 'delivery', from: '2026-11-24T17:00:00', until: '2026-11-24T19:00:00' },
      ],
      freight: [
        { description: 'butter', pallets: 18, weightLb: 38_400, temperatureF: 34, pieces: null, hazmat: false },
      ],
      charges: [
        { kind: 'line_haul', basis: 'per_mile', rate: 3.1, amount: null },
        { kind: 'tarp', basis: 'flat', rate: null, amount: usd('75.00'), authorization: null },
        { kind: 'detention', authorization: { by: 'R. Dahl', on: '2026-11-24', reference: 'email' } },
        { kind: 'discount', basis: 'percent', rate: 5, minimum: 25, amount: null },
        // A discount is stored below zero and entered above it.
        { kind: 'discount', basis: 'flat', amount: usd('40.00'), minimum: null },
      ],
      references: [
        { kind: 'seal', value: '88213' },
        { kind: 'pickup_number', value: 'PU-9' },
      ],
      customFields: [{ fieldId: 4, value: 'Fall' }],
    });
  });

  it('sends a typed number, and not the current one', () => {
    const typed = typedOf(sheet('2026-11-24T06:00:00', '2026-11-24T17:00:00'));
    typed.number = 'MT-7';
    expect(requestOf(typed, false, '2041').number).toBe('MT-7');
  });

  it('reports invalid numbers by field', () => {
    const typed = nothing();
    typed.freight = [{ ...newFreight(), weight: 'heavy', pallets: '1,200', temperature: '3.5' }];
    typed.charges = [{ ...newCharge('fuel_surcharge'), rate: 'much', minimum: 'some' }];
    expect(unreadable(typed)?.problems.map((p) => p.field)).toEqual([
      'freight[0].weightLb',
      'freight[0].temperatureF',
      'charges[0].rate',
      'charges[0].minimum',
    ]);
    expect(unreadable(nothing())).toBeNull();
  });

  it('asks the server for the price of what is entered so far', () => {
    const typed = nothing();
    typed.freight = [{ ...newFreight(), weight: '38,400' }, newFreight()];
    typed.charges = [
      { ...newCharge('line_haul'), basis: 'per_mile', rate: '2.5' },
      { ...newCharge('other'), basis: 'percent', rate: 'much' },
      { ...newCharge('other'), basis: 'flat', rate: '7', amount: { amount: '80.00', currency: 'USD' } },
    ];
    const asked = toPrice(typed, 344, null);
    expect(asked.charges?.map((c) => c.rate)).toEqual([2.5, null, null]);
    expect(asked.charges?.map((c) => c.amount?.amount)).toEqual([undefined, undefined, '80.00']);
    expect([asked.miles, asked.freight?.map((f) => f.weightLb)]).toEqual([344, [38_400, null]]);
  });

  it('sends a rate table, a discount and a minimum for a line haul by class, and what its surcharge is', () => {
    const typed = nothing();
    typed.charges = [
      { ...newCharge('line_haul'), basis: 'by_class', classRates: '7', discount: '55.5', minimum: '120', rate: '9' },
      {
        ...newCharge('other'),
        basis: 'flat',
        classRates: '7',
        discount: '5',
        amount: { amount: '5.00', currency: 'USD' },
      },
    ];
    const [haul, other] = requestOf(typed, false, null).charges!;
    expect([haul.classRatesId, haul.discountPercent, haul.minimum, haul.rate]).toEqual([7, 55.5, 120, null]);
    expect([other.classRatesId, other.discountPercent, other.minimum]).toEqual([null, null, null]);

    typed.charges[0].discount = 'half';
    expect(unreadable(typed)?.at('charges[0].discountPercent')).toBe('Enter the discount as a number.');
  });
});

describe('a copy', () => {
  it('keeps weekdays and times in the first week whose pickup is ahead, and leaves what belongs to one load', () => {
    // November 24, 2026 is a Tuesday; seen on Monday, December 7, the next Tuesday is the 8th.
    const copy = copied(sheet('2026-11-24T06:00:00', '2026-11-25T17:00:00'), '2026-12-07T10:00:00');
    expect(copy.stops.map((s) => s.from)).toEqual(['2026-12-08T06:00:00', '2026-12-09T17:00:00']);
    expect(copy.stops[1].until).toBe('2026-12-09T19:00:00');
    expect([copy.number, copy.reference]).toEqual(['', '']);
    expect(copy.references.map((r) => r.kind)).toEqual(['pickup_number']);
    expect(copy.charges[2]).toMatchObject({ kind: 'detention', by: '', on: '', reference: '' });
    expect(copy.own).toEqual({ 4: 'Fall' });
  });

  it('of a load still ahead keeps its days', () => {
    const copy = copied(sheet('2026-12-24T06:00:00', '2026-12-25T17:00:00'), '2026-12-07T10:00:00');
    expect(copy.stops[0].from).toBe('2026-12-24T06:00:00');
  });
});

describe('two people editing one load', () => {
  const base = { ...nothing(), reference: 'PO 1', forDriver: 'ring' };
  it('keeps mine, takes theirs, and reports where both changed', () => {
    const mine = { ...base, reference: 'PO 2', forDriver: 'ring twice' };
    const theirs = {
      ...base,
      forDriver: 'dock 4',
      equipment: 'van',
      stops: base.stops.map((s) => ({ ...s, key: 99, note: 'gate' })),
    };
    const { typed, both } = merged(base, mine, theirs);
    expect([typed.reference, typed.forDriver, typed.equipment, typed.stops[0].note]).toEqual([
      'PO 2',
      'ring twice',
      'van',
      'gate',
    ]);
    expect(both).toEqual(['forDriver']);
  });
  it('does not treat row keys as a change', () => {
    expect(differing(base, { ...base, freight: base.freight.map((f) => ({ ...f, key: 1234 })) })).toEqual([]);
  });
});

describe('freight of a kind of its own', () => {
  it('sends liquid by product and volume, and nothing of a vehicle', () => {
    const t = nothing();
    t.freight = [{ ...newFreight('bulk'), product: '7', volume: '5,700', unit: 'liters', own: true }];
    expect(requestOf(t, false, null).freight![0]).toMatchObject({
      bulk: { productId: 7, volume: 5700, unit: 'liters', ownCompartments: true },
      vehicle: null,
      description: null,
      weightLb: null,
    });
    t.freight[0].volume = 'much';
    expect(unreadable(t)?.at('freight[0].bulk.volume')).toBe('Enter the volume as a number.');
  });

  it('sends a vehicle with what was typed of it, and takes it back from the server without its description', () => {
    const t = nothing();
    t.freight = [{ ...newFreight('vehicle'), year: '2021', make: 'Larkspur', body: 'wagon', runs: false }];
    const sent = requestOf(t, false, null).freight![0];
    expect(sent.vehicle).toEqual({
      year: 2021,
      make: 'Larkspur',
      model: null,
      vin: null,
      body: 'wagon',
      runs: false,
      keys: true,
    });
    expect(sent.bulk).toBeNull();
    const back = freightOf({
      description: '2021 Larkspur wagon, does not run',
      pieces: 1,
      lengthIn: 191,
      vehicle: { year: 2021, make: 'Larkspur', model: null, vin: null, body: 'wagon', runs: false, keys: true },
    } as unknown as Schemas['FreightRow']);
    expect([back.what, back.description, back.pieces, back.length, back.runs]).toEqual([
      'vehicle',
      '',
      '',
      '191',
      false,
    ]);
  });

  it('gives an untouched line the kind of its trailer', () => {
    expect(['tanker', 'car_hauler', 'van', ''].map(usualFreight)).toEqual(['bulk', 'vehicle', 'general', 'general']);
    expect(untouched(newFreight('bulk'))).toBe(true);
    expect(untouched({ ...newFreight('bulk'), volume: '5' })).toBe(false);
  });
});
