import type { Schemas } from '../api/client';
import { number } from './form/request';

/** A load in parts: which stops and how much of each freight line each of the new loads gets. */
export interface Part {
  /** For each stop of the load, whether the part has it. */
  stops: boolean[];
  /** For each freight line, as typed. */
  amounts: string[];
}
type Freight = Pick<Schemas['FreightRow'], 'bulk' | 'pallets' | 'pieces' | 'weightLb'>;
type Stop = Pick<Schemas['StopRow'], 'kind'>;

/** What a line is divided by, as the server does it; null when it has no quantity. */
export function unitOf(line: Freight): { unit: string; total: number } | null {
  if (line.bulk) return { unit: 'gallons', total: line.bulk.gallons };
  if (line.pallets) return { unit: 'pallets', total: line.pallets };
  if (line.pieces) return { unit: 'pieces', total: line.pieces };
  if (line.weightLb) return { unit: 'lb', total: line.weightLb };
  return null;
}
/** All of a line, as an amount: a line without a quantity counts as one. */
const whole = (line: Freight) => String(unitOf(line)?.total ?? 1);

/** One part for each freight line, with all stops. */
export const byFreight = (stops: Stop[], freight: Freight[]): Part[] =>
  freight.map((_, part) => ({
    stops: stops.map(() => true),
    amounts: freight.map((line, i) => (i === part ? whole(line) : '0')),
  }));

/** One part for each delivery, with all pickups before it; freight that cannot be told apart stays to be entered. */
export function byDelivery(stops: Stop[], freight: Freight[]): Part[] {
  const deliveries = stops.flatMap((s, i) => (s.kind === 'delivery' ? [i] : []));
  const paired = deliveries.length === freight.length;
  return deliveries.map((at, part) => ({
    stops: stops.map((s, i) => i === at || (s.kind === 'pickup' && i < at)),
    amounts: freight.map((line, i) => (paired && i === part ? whole(line) : '0')),
  }));
}

/** Two parts with all stops; the first has everything. */
export const byQuantity = (stops: Stop[], freight: Freight[]): Part[] =>
  [true, false].map((all) => ({
    stops: stops.map(() => true),
    amounts: freight.map((line) => (all ? whole(line) : '0')),
  }));

const amount = (typed: string) => number(typed) || 0;

/** What of a line is on none of the parts yet; below zero when they have too much. */
export const left = (line: Freight, parts: Part[], i: number) =>
  Number(whole(line)) - parts.reduce((sum, p) => sum + amount(p.amounts[i]), 0);

/** The request to the server. */
export const divideRequest = (parts: Part[]): Schemas['DivideRequest'] => ({
  parts: parts.map((p) => ({
    stops: p.stops.flatMap((has, i) => (has ? [i + 1] : [])),
    amounts: p.amounts.map(amount),
  })),
});
