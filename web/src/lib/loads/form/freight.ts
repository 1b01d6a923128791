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
}

export const newFreight = (): Freight => ({
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
});

export const freightOf = (f: Schemas['FreightRow']): Freight => ({
  key: nextKey(),
  description: f.description,
  pieces: text(f.pieces),
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
  more: !!(f.pieces || f.lengthIn || f.widthIn || f.heightIn || f.stackable || f.freightClass || f.hazmat),
});
