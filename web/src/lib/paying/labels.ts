import type { Schemas } from '../api/client';
import { figure } from '../money';
import { formatDate } from '../time/when';

/** Labels of pay types. */
export const rateLabels: Record<string, string> = {
  per_mile: 'per loaded mile',
  per_empty_mile: 'per empty mile',
  percent_of_line_haul: '% of line haul',
  per_load: 'per load',
  per_extra_stop: 'per extra stop',
  per_hour: 'per hour',
  per_day: 'per day out',
  per_week: 'per week',
};

export const formatRate = (kind: string, rate: number) =>
  kind === 'percent_of_line_haul'
    ? `${rate} %`
    : rate.toFixed(kind === 'per_mile' || kind === 'per_empty_mile' ? 3 : 2).replace(/(\.\d\d)0$/, '$1');

const counted = (n: number, one: string, many = `${one}s`) => `${n} ${n === 1 ? one : many}`;

/** How a pay line is calculated: 357 mi at 0.60. */
export function how(line: Schemas['PayLine']): string {
  const rate = line.kind ? formatRate(line.kind, line.rate) : '';
  switch (line.kind) {
    case 'per_mile':
      return `${line.quantity} mi at ${rate}`;
    case 'per_empty_mile':
      return `${line.quantity} empty mi at ${rate}`;
    case 'percent_of_line_haul':
      return `${rate} of ${figure({ amount: line.quantity.toFixed(2), currency: 'USD' })}`;
    case 'per_hour':
      return `${counted(line.quantity, 'hour')} at ${rate}`;
    case 'per_day':
      return `${counted(line.quantity, 'day')} at ${rate}`;
    case 'per_extra_stop':
      return `${counted(line.quantity, 'extra stop')} at ${rate}`;
    case 'per_load':
      return 'per load';
    default:
      return formatDate(line.on);
  }
}
