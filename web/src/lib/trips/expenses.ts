import type { Money, Schemas } from '../api/client';

/** What an expense on a trip is for. */
export const expenseLabels: Record<Schemas['CostKind'], string> = {
  fuel: 'Fuel',
  reefer_fuel: 'Reefer fuel',
  toll: 'Tolls',
  scale: 'Scale',
  lumper: 'Lumper',
  lodging: 'Lodging',
  parking: 'Parking',
  wash: 'Wash',
  repair: 'Repair',
  other: 'Other',
};

/** Who paid, and so where an expense goes. */
export const paidByLabels: Record<Schemas['PaidBy'], string> = {
  company_card: 'Company card',
  driver: 'Driver, reimbursed',
  on_account: 'On account',
  separately: 'Separate bill',
};

type Unit = NonNullable<Schemas['VolumeUnit']>;

export const isFuel = (kind: Schemas['CostKind']) => kind === 'fuel' || kind === 'reefer_fuel';

const provinces = ['AB', 'BC', 'MB', 'NB', 'NL', 'NS', 'NT', 'NU', 'ON', 'PE', 'QC', 'SK', 'YT'];

/** How a receipt of a state or province is written: in Canada in its dollars and liters. */
export function soldIn(region: string): { currency: Money['currency']; unit: Unit } {
  return provinces.includes(region.trim().toUpperCase())
    ? { currency: 'CAD', unit: 'liters' }
    : { currency: 'USD', unit: 'gallons' };
}

/** A number as typed, with a comma or without; null when there is none. */
export function typedNumber(text: string): number | null {
  const clean = text
    .trim()
    .replace(/^\$/, '')
    .replace(/,(?=\d{3}\b)/g, '')
    .replace(',', '.');
  return /^\d*\.?\d+$|^\d+\.$/.test(clean) ? Number(clean) : null;
}

/** What the third of quantity, price and amount comes to, in words; empty while fewer than two are typed. */
export function thirdFigure(quantity: number | null, price: number | null, amount: Money | null, unit: Unit): string {
  if (quantity && price && !amount) return `comes to ${(quantity * price).toFixed(2)}`;
  if (quantity && amount && !price) return `${(Number(amount.amount) / quantity).toFixed(3)} a ${unit.slice(0, -1)}`;
  if (price && amount && !quantity) return `${(Number(amount.amount) / price).toFixed(1)} ${unit}`;
  return '';
}

/** The quantity of fuel: 102.5 gallons. */
export const quantityOf = (x: { quantity: number | null; unit: Schemas['VolumeUnit'] | null }) =>
  x.quantity ? `${x.quantity} ${x.unit === 'liters' ? 'L' : 'gal'}` : '';
