import type { Schemas } from '../api/client';
import { session } from '../state/session.svelte';
import { clockAt, formatDay, formatLocal, formatTime } from '../time/when';

type Load = Schemas['LoadRow'];
type Stop = Schemas['StopRow'];

export const lane = (load: Load) =>
  load.stops.length > 1
    ? `${load.stops[0].town ?? '?'} → ${load.stops.at(-1)!.town ?? '?'}`
    : `${load.stops[0]?.town ?? 'No stops yet'}`;

/** Width of a row's status in pixels: "tomorrow 12:30 PM" needs more than "tomorrow 12:30". */
export const statusWidth = () => (session.current?.clock === 'twelve_hour' ? 126 : 112);

/** Tue Nov 24, 14:30, or 07:00 – 10:00 for a window. */
export function windowOf(stop: { from: string | null; until: string | null }): string {
  if (!stop.from) return 'no appointment yet';
  if (!stop.until || stop.until === stop.from) return formatLocal(stop.from);
  return stop.from.slice(0, 10) === stop.until.slice(0, 10)
    ? `${formatDay(stop.from)}, ${formatTime(stop.from)} – ${formatTime(stop.until)}`
    : `${formatLocal(stop.from)} – ${formatLocal(stop.until)}`;
}

/** Arrival and departure in the stop's time: 04:52 – 05:41. */
export function happened(stop: Stop): string {
  const zone = stop.zone ?? 'UTC';
  const left = stop.leftAt ?? stop.deliveredAt;
  if (!stop.arrivedAt) return left ? clockAt(left, zone) : '';
  return (
    clockAt(stop.arrivedAt, zone) + (left && left !== stop.arrivedAt ? ` – ${clockAt(left, zone)}` : left ? '' : ' –')
  );
}

/** How a receiver pays a driver on delivery. */
export const codMethods: Record<NonNullable<Schemas['CodMethod']>, string> = {
  cash: 'Cash',
  check: 'Check',
  money_order: 'Money order',
  electronic: 'Electronic payment',
};
export const equipmentLabels: Record<string, string> = {
  van: 'van',
  reefer: 'reefer',
  flatbed: 'flatbed',
  tanker: 'tanker',
  car_hauler: 'car hauler',
};
export const chargeLabels: Record<string, string> = {
  line_haul: 'Line haul',
  fuel_surcharge: 'Fuel surcharge',
  extra_stop: 'Extra stop',
  detention: 'Detention',
  lumper: 'Lumper',
  layover: 'Layover',
  tarp: 'Tarp',
  other: 'Other',
  truck_ordered_not_used: 'Truck ordered not used',
  discount: 'Discount',
};
export const referenceLabels: Record<string, string> = {
  purchase_order: 'Purchase order',
  bill_of_lading: 'Bill of lading',
  pickup_number: 'Pickup number',
  delivery_number: 'Delivery number',
  order_number: 'Order number',
  appointment: 'Appointment confirmation',
  seal: 'Seal',
  customs_broker: 'Customs broker',
  customs_entry: 'Customs entry',
  other: 'Other',
};
/** How freight changes trucks. */
export const transferLabels: Record<Schemas['TransferMethod'], string> = {
  drop: 'Drop trailer',
  swap: 'Swap trailers',
  transload: 'Transload',
};
type ByTransfer = Record<'left' | 'taken', Record<Schemas['TransferMethod'], string>>;
/** What a driver is to do at a transfer. */
export const transferTask: ByTransfer = {
  left: { drop: 'Drop the loaded trailer', swap: 'Swap trailers', transload: 'Hand the freight over' },
  taken: { drop: 'Hook the loaded trailer', swap: 'Swap trailers', transload: 'Take the freight over' },
};
/** What is recorded when a truck leaves freight there, and when the next one takes it. */
export const transferDone: ByTransfer = {
  left: { drop: 'Trailer dropped', swap: 'Left here', transload: 'Unloaded here' },
  taken: { drop: 'Trailer hooked', swap: 'Trailers swapped', transload: 'Freight taken' },
};
/** Whether nothing more happens at a stop. */
export const isDone = (stop: Pick<Stop, 'leftAt' | 'deliveredAt' | 'refusedAt'>) =>
  !!(stop.leftAt || stop.deliveredAt || stop.refusedAt);
export const freightTermLabels: Record<string, string> = {
  prepaid: 'Prepaid',
  collect: 'Collect',
  third_party: 'Third party',
};
export const basisLabels: Record<string, string> = {
  flat: '',
  per_mile: 'per mile',
  per_cwt: 'per cwt',
  percent: '% of line haul',
  by_class: 'by class',
};
export const holdLabels: Record<string, string> = {
  credit: 'Over credit limit',
  document: 'Missing document',
  dispute: 'In dispute',
  billing: 'Returned to dispatch',
};
export const reportLabels: Record<string, string> = {
  delay: 'Delay',
  breakdown: 'Breakdown',
  refused: 'Freight refused',
  short: 'Shortage',
  damaged: 'Damage',
  note: 'Note',
};
export const documentLabels: Record<string, string> = {
  pod: 'POD',
  bol: 'BOL',
  rate_confirmation: 'Rate confirmation',
  carrier_bill: 'Carrier bill',
  scale_ticket: 'Scale ticket',
  lumper_receipt: 'Lumper receipt',
  photo: 'Photo',
  other: 'Other',
};
export const methodLabels: Record<string, string> = {
  check: 'Check',
  ach: 'ACH',
  wire: 'Wire',
  card: 'Card',
  cash: 'Cash',
};
/** All methods that stand among payments: memos do, too. */
export const methodNames: Record<string, string> = {
  ...methodLabels,
  credit_memo: 'Credit memo',
  opening_balance: 'Opening balance',
  debit_memo: 'Debit memo',
};

/** Freight in a line: butter · 38,400 lb · 34 °F. */
export const freightLine = (load: Load) =>
  [
    load.freight,
    load.weightLb ? `${load.weightLb.toLocaleString('en-US')} lb` : null,
    load.temperatureF !== null ? `${load.temperatureF} °F` : null,
    load.reference,
  ]
    .filter(Boolean)
    .join(' · ');
