import type { Schemas } from '../../api/client';
import { nextKey, text } from './key';

/** A freight line as typed. */
export interface Freight {
  key: number;
  description: string;
  pieces: string;
  pallets: string;
  weight: string;
  temperature: string;
  length: string;
  width: string;
  height: string;
  stackable: boolean;
  freightClass: string;
  hazmat: boolean;
  un: string;
  /** Proper shipping name, hazard class, packing group and emergency phone of hazmat. */
  name: string;
  hazard: string;
  group: string;
  emergency: string;
  /** Whether size, pieces and hazmat are shown. */
  more?: boolean;
  /** What it is: liquid in bulk and vehicles have fields of their own. */
  what: FreightWhat;
  /** Of liquid in bulk. */
  product: string;
  volume: string;
  unit: 'gallons' | 'liters';
  own: boolean;
  /** Of a vehicle. */
  year: string;
  make: string;
  model: string;
  vin: string;
  body: string;
  runs: boolean;
  keys: boolean;
}

export type FreightWhat = 'general' | 'bulk' | 'vehicle';

/** What freight for a kind of trailer usually is. */
export const usualFreight = (equipment: string): FreightWhat =>
  equipment === 'tanker' ? 'bulk' : equipment === 'car_hauler' ? 'vehicle' : 'general';

/** Whether nothing was typed in a line yet, so that it may become one of another kind. */
export const untouched = (f: Freight) =>
  ![f.description, f.weight, f.pallets, f.pieces, f.product, f.volume, f.make, f.model, f.vin, f.body].some(Boolean);

export const newFreight = (what: FreightWhat = 'general'): Freight => ({
  key: nextKey(),
  description: '',
  pieces: '',
  pallets: '',
  weight: '',
  temperature: '',
  length: '',
  width: '',
  height: '',
  stackable: false,
  freightClass: '',
  hazmat: false,
  un: '',
  name: '',
  hazard: '',
  group: '',
  emergency: '',
  what,
  product: '',
  volume: '',
  unit: 'gallons',
  own: false,
  year: '',
  make: '',
  model: '',
  vin: '',
  body: '',
  runs: true,
  keys: true,
});

export const freightOf = (f: Schemas['FreightRow']): Freight => ({
  ...newFreight(f.bulk ? 'bulk' : f.vehicle ? 'vehicle' : 'general'),
  // Product and vehicle say what it is; the server describes it anew.
  description: f.bulk || f.vehicle ? '' : f.description,
  pieces: f.vehicle ? '' : text(f.pieces),
  pallets: text(f.pallets),
  weight: text(f.weightLb),
  temperature: text(f.temperatureF),
  length: text(f.lengthIn),
  width: text(f.widthIn),
  height: text(f.heightIn),
  stackable: f.stackable,
  freightClass: text(f.freightClass),
  hazmat: f.hazmat,
  un: f.unNumber ?? '',
  name: f.hazmatName ?? '',
  hazard: f.hazardClass ?? '',
  group: f.packingGroup ?? '',
  emergency: f.emergencyPhone ?? '',
  product: text(f.bulk?.productId),
  volume: text(f.bulk?.gallons),
  own: f.bulk?.ownCompartments ?? false,
  year: text(f.vehicle?.year),
  make: f.vehicle?.make ?? '',
  model: f.vehicle?.model ?? '',
  vin: f.vehicle?.vin ?? '',
  body: f.vehicle?.body ?? '',
  runs: f.vehicle?.runs ?? true,
  keys: f.vehicle?.keys ?? true,
  more: !!(f.pieces || f.lengthIn || f.widthIn || f.heightIn || f.stackable || f.freightClass || f.hazmat),
});
