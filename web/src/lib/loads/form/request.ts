import { Refused, type Money, type Schemas } from '../../api/client';
import type { Freight } from './freight';
import { routeTo, type Charge, type Typed } from './typed';

/** A number as typed; NaN when invalid, null when empty. */
export const number = (t: string) => (t.trim() === '' ? null : Number(t.replace(/[,\s]/g, '')));

/** What cannot be sent because it is not a number. */
export function unreadable(t: Typed): Refused | null {
  const problems: Refused['problems'] = [];
  t.freight.forEach((f, i) => {
    for (const [value, field, name] of [
      [f.pieces, 'pieces', 'Pieces'],
      [f.pallets, 'pallets', 'Pallets'],
      [f.weight, 'weightLb', 'The weight'],
      [f.temperature, 'temperatureF', 'The temperature'],
      [f.length, 'lengthIn', 'The length'],
      [f.width, 'widthIn', 'The width'],
      [f.height, 'heightIn', 'The height'],
      [f.year, 'vehicle.year', 'The model year'],
    ] as const) {
      const n = number(value);
      if (n !== null && !Number.isInteger(n))
        problems.push({ code: 'number', message: `${name} must be a whole number.`, field: `freight[${i}].${field}` });
    }
    if (f.what === 'bulk' && Number.isNaN(number(f.volume)))
      problems.push({ code: 'number', message: 'Enter the volume as a number.', field: `freight[${i}].bulk.volume` });
  });
  t.charges.forEach((c, i) => {
    if (c.basis === 'flat') return;
    for (const [value, field, name] of [
      [c.rate, 'rate', 'rate'],
      [c.minimum, 'minimum', 'minimum'],
      [c.discount, 'discountPercent', 'discount'],
    ] as const)
      if (Number.isNaN(number(value)))
        problems.push({ code: 'number', message: `Enter the ${name} as a number.`, field: `charges[${i}].${field}` });
  });
  return problems.length ? new Refused('Some fields are not valid.', 422, problems) : null;
}

const freightRequest = (f: Freight): Schemas['FreightRequest'] => ({
  bulk:
    f.what === 'bulk'
      ? { productId: Number(f.product) || null, volume: number(f.volume), unit: f.unit, ownCompartments: f.own }
      : null,
  vehicle:
    f.what === 'vehicle'
      ? {
          year: number(f.year),
          make: f.make || null,
          model: f.model || null,
          vin: f.vin || null,
          body: f.body || null,
          runs: f.runs,
          keys: f.keys,
        }
      : null,
  description: f.description || null,
  pieces: number(f.pieces),
  pallets: number(f.pallets),
  weightLb: number(f.weight),
  temperatureF: number(f.temperature),
  lengthIn: number(f.length),
  widthIn: number(f.width),
  heightIn: number(f.height),
  stackable: f.stackable,
  freightClass: Number(f.freightClass) || null,
  hazmat: f.hazmat,
  unNumber: (f.hazmat && f.un) || undefined,
  hazmatName: (f.hazmat && f.name) || undefined,
  hazardClass: (f.hazmat && f.hazard) || undefined,
  packingGroup: (f.hazmat && f.group) || undefined,
  emergencyPhone: (f.hazmat && f.emergency) || undefined,
});

/** A charge with the fields that its basis has. */
const chargeRequest = (c: Charge): Schemas['ChargeRequest'] => {
  const byClass = c.basis === 'by_class';
  return {
    kind: c.kind as Schemas['ChargeKind'],
    description: c.description || null,
    basis: c.basis as Schemas['ChargeBasis'],
    rate: c.basis === 'flat' || byClass ? null : number(c.rate),
    amount: c.basis === 'flat' ? (c.amount ?? null) : null,
    minimum: c.basis === 'flat' ? null : number(c.minimum) || null,
    classRatesId: byClass ? Number(c.classRates) || null : null,
    discountPercent: byClass ? number(c.discount) : null,
    authorization:
      c.by || c.on || c.reference ? { by: c.by || null, on: c.on || null, reference: c.reference || null } : null,
  };
};

/** The request to the server. */
export function requestOf(t: Typed, draft: boolean, keepNumber: string | null): Schemas['LoadRequest'] {
  return {
    customerId: t.customer?.id ?? null,
    officeId: Number(t.office) || null,
    billToId: t.billTo?.id ?? null,
    freightTerms: (t.terms || null) as Schemas['LoadRequest']['freightTerms'],
    number: t.number.trim() && t.number.trim() !== keepNumber ? t.number : null,
    reference: t.reference || null,
    equipment: (t.equipment || null) as Schemas['LoadRequest']['equipment'],
    features: t.features ?? [],
    cod: t.cod ? Number(t.cod.amount) : null,
    stops: t.stops.map((s, i) => ({
      routeOverride: routeTo(t.stops, i),
      kind: s.kind as 'pickup' | 'delivery',
      placeId: s.place?.id ?? null,
      from: s.from,
      until: s.window ? s.until : null,
      note: s.note || null,
    })),
    freight: t.freight.map(freightRequest),
    charges: t.charges.filter((c) => !draft || c.amount || c.rate || c.basis === 'by_class').map(chargeRequest),
    references: t.references
      .filter((r) => r.value.trim())
      .map((r) => ({ kind: r.kind as Schemas['ReferenceKind'], value: r.value, stop: Number(r.stop) || null })),
    customFields: Object.entries(t.own)
      .filter(([, value]) => value.trim())
      .map(([fieldId, value]) => ({ fieldId: Number(fieldId), value })),
    driverInstructions: t.forDriver || null,
    carrierInstructions: t.forCarrier || null,
    draft,
  };
}

/** What the server needs to price the charges entered so far. */
export const toPrice = (t: Typed, miles: number | null, minimum: Money | null): Schemas['PriceRequest'] => ({
  charges: t.charges.map(chargeRequest).map((c) => ({
    ...c,
    // A rate that is not a number yet is no rate.
    rate: c.rate || null,
    description: null,
    authorization: null,
  })),
  miles,
  freight: t.freight.map(freightRequest),
  minimum,
  currency: (t.billTo ?? t.customer)?.currency ?? null,
});
