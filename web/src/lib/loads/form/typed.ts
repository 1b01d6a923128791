import { freightOf, newFreight, type Freight } from './freight';
import { nextKey, text } from './key';
import type { Money, Schemas } from '../../api/client';
import { cents, fromCents } from '../../money';
import type { Local } from '../../time/when';

/** A load in the form: as typed, including what cannot be parsed yet. */
export type Place = Pick<Schemas['PlaceRow'], 'id' | 'name' | 'town' | 'region' | 'zone' | 'bookingNote'>;
export type Company = Pick<Schemas['CompanyRow'], 'id' | 'name' | 'town' | 'currency'>;
export interface Stop {
  key: number;
  kind: string;
  place: Place | null;
  from: Local | null;
  until: Local | null;
  note: string;
  window: boolean;
  /** The route override from the stop before, and the places it is for: another place removes it. */
  route?: { miles: number | null; milesWhy: string | null; via: Schemas['ViaRequest'][]; between: string } | null;
}
export interface Charge {
  key: number;
  kind: string;
  description: string;
  basis: string;
  rate: string;
  minimum: string;
  amount: Money | null;
  /** By class: the rate table, as a string for the select, and a discount instead of the table's. */
  classRates: string;
  discount: string;
  by: string;
  on: string;
  reference: string;
  /** Whether the minimum and the authorization are shown. */
  more: boolean;
}
export interface Reference {
  key: number;
  kind: string;
  value: string;
  /** Its stop, from 1, as a string for the select; empty for the whole load. */
  stop: string;
}
export interface Typed {
  customer: Company | null;
  /** Whom it is billed to, where that is not the customer. */
  billTo: Company | null;
  terms: string;
  number: string;
  reference: string;
  equipment: string;
  /** What its trailer must have. */
  features: string[];
  /** What the driver collects on delivery. */
  cod: Money | null;
  /** The key of its office, as a string for the select. */
  office: string;
  stops: Stop[];
  freight: Freight[];
  charges: Charge[];
  references: Reference[];
  own: Record<number, string>;
  forDriver: string;
  forCarrier: string;
}

export const newStop = (kind: string): Stop => ({
  key: nextKey(),
  kind,
  place: null,
  from: null,
  until: null,
  note: '',
  window: false,
});
export const newCharge = (kind: string): Charge => ({
  key: nextKey(),
  kind,
  description: '',
  basis: kind === 'fuel_surcharge' ? 'per_mile' : 'flat',
  rate: '',
  minimum: '',
  amount: null,
  classRates: '',
  discount: '',
  by: '',
  on: '',
  reference: '',
  more: false,
});
export const chargeOf = (c: Schemas['ChargeRow']): Charge => ({
  key: nextKey(),
  kind: c.kind ?? 'other',
  description: c.description ?? '',
  basis: c.basis ?? 'flat',
  rate: text(c.rate),
  minimum: text(c.minimum),
  // A discount is entered as an amount above zero.
  amount:
    c.basis !== 'flat' || !c.amount
      ? null
      : c.kind === 'discount'
        ? fromCents(-cents(c.amount), c.amount.currency)
        : c.amount,
  classRates: text(c.rating?.tableId),
  discount: text(c.rating?.discountPercent),
  by: c.authorization?.by ?? '',
  on: c.authorization?.on ?? '',
  reference: c.authorization?.reference ?? '',
  more: !!(c.minimum || c.authorization),
});
export const newReference = (): Reference => ({ key: nextKey(), kind: 'purchase_order', value: '', stop: '' });

export const nothing = (): Typed => ({
  customer: null,
  billTo: null,
  terms: '',
  number: '',
  reference: '',
  equipment: '',
  features: [],
  cod: null,
  office: '',
  stops: [newStop('pickup'), newStop('delivery')],
  freight: [newFreight()],
  charges: [newCharge('line_haul')],
  references: [],
  own: {},
  forDriver: '',
  forCarrier: '',
});

const placeOf = (s: Schemas['StopRow']): Place | null =>
  s.placeId
    ? {
        id: s.placeId,
        name: s.place ?? '',
        town: s.town ?? '',
        region: s.region ?? '',
        zone: s.zone ?? '',
        bookingNote: s.bookingNote,
      }
    : null;

const routeOf = (s: Schemas['StopRow'], before?: Schemas['StopRow']): Stop['route'] =>
  before && (typeof s.milesSet === 'number' || s.via?.length)
    ? {
        miles: s.milesSet ?? null,
        milesWhy: s.milesWhy ?? null,
        via: (s.via ?? []).map((v) => ({ name: v.name, latitude: v.point.latitude!, longitude: v.point.longitude! })),
        between: `${before.placeId} ${s.placeId}`,
      }
    : null;

/** The route override to a stop, while both places are unchanged. */
export function routeTo(stops: readonly Stop[], i: number): Schemas['RouteOverrideRequest'] | null {
  const w = stops[i]?.route;
  return w && w.between === `${stops[i - 1]?.place?.id} ${stops[i].place?.id}`
    ? { miles: w.miles, milesWhy: w.milesWhy, via: w.via }
    : null;
}

export const stopOf = (s: Schemas['StopRow'], before?: Schemas['StopRow']): Stop => ({
  key: nextKey(),
  kind: s.kind,
  place: placeOf(s),
  from: s.from,
  until: s.until === s.from ? null : s.until,
  window: !!s.until && s.until !== s.from,
  note: s.note ?? '',
  route: routeOf(s, before),
});

/** A load's sheet as form values. */
export function typedOf(sheet: Schemas['LoadSheet']): Typed {
  const l = sheet.load;
  const t: Typed = {
    customer: l.customerId
      ? { id: l.customerId, name: l.customer ?? '', town: null, currency: l.billToId ? undefined : l.revenue?.currency }
      : null,
    billTo: l.billToId ? { id: l.billToId, name: l.billTo ?? '', town: null, currency: l.revenue?.currency } : null,
    terms: l.freightTerms ?? '',
    number: l.number,
    reference: l.reference ?? '',
    equipment: l.equipment ?? '',
    features: [...(l.features ?? [])],
    cod: l.cod?.amount ?? null,
    office: text(sheet.officeId),
    stops: l.stops.map((s, i) => stopOf(s, l.stops[i - 1])),
    freight: sheet.freight.map(freightOf),
    charges: sheet.charges.map(chargeOf),
    references: sheet.references.map((r) => ({
      key: nextKey(),
      kind: r.kind ?? 'other',
      value: r.value,
      stop: text(r.stop),
    })),
    own: Object.fromEntries(sheet.customFields.map((o) => [o.fieldId, o.value])),
    forDriver: sheet.driverInstructions ?? '',
    forCarrier: sheet.carrierInstructions ?? '',
  };
  if (t.stops.length === 0) t.stops = [newStop('pickup')];
  if (t.stops.length === 1) t.stops.push(newStop('delivery'));
  if (t.freight.length === 0) t.freight = [newFreight()];
  if (t.charges.length === 0) t.charges = [newCharge('line_haul')];
  return t;
}

const shifted = (at: Local, days: number): Local =>
  new Date(Date.parse(`${at.slice(0, 19)}Z`) + days * 86_400_000).toISOString().slice(0, 19);

/**
 * A copy to book: with a new number, without seal, appointment, customs entry, VINs and customer reference, on the same weekdays in the
 * first week in which the pickup is still ahead.
 */
export function copied(sheet: Schemas['LoadSheet'], today: string): Typed {
  const t = typedOf(sheet);
  const first = t.stops.find((s) => s.from)?.from;
  const day = 86_400_000;
  const behind = first ? Math.floor((Date.parse(today.slice(0, 10)) - Date.parse(first.slice(0, 10))) / day) : 0;
  const shift = behind >= 0 ? (Math.floor(behind / 7) + 1) * 7 : 0;
  return {
    ...t,
    number: '',
    reference: '',
    references: t.references.filter((r) => !['seal', 'appointment', 'customs_entry'].includes(r.kind)),
    // A VIN is of one vehicle.
    freight: t.freight.map((f) => ({ ...f, vin: '' })),
    // A customer authorizes a charge for one load.
    charges: t.charges.map((c) => ({ ...c, by: '', on: '', reference: '' })),
    stops: t.stops.map((s) => ({
      ...s,
      from: s.from && shifted(s.from, shift),
      until: s.until && shifted(s.until, shift),
    })),
  };
}

/** The same with new row keys: those of a saved draft may be taken. */
export const rekeyed = (t: Typed): Typed => ({
  ...t,
  stops: t.stops.map((x) => ({ ...x, key: nextKey() })),
  // A draft saved by an earlier version has no field that is new.
  freight: t.freight.map((x) => ({ ...newFreight(), ...x, key: nextKey() })),
  charges: t.charges.map((x) => ({ ...newCharge(x.kind), ...x, key: nextKey() })),
  references: t.references.map((x) => ({ ...x, key: nextKey() })),
});
