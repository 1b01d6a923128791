import type { Schemas } from '../api/client';
import type { Topic } from '$lib/state/live.svelte';
import { session } from '../state/session.svelte';
import { localAt, formatDay, formatLocal } from '../time/when';

export type Row = Record<string, string | number | boolean | null> & { id: number };
export type ListName = 'loads' | 'invoices' | 'payments' | 'bills' | 'companies' | 'entries' | 'places';
export type Column = Schemas['ListColumn'];
export interface Filter {
  column: string;
  op: string;
  value: string;
}
export interface Sort {
  column: string;
  descending: boolean;
}
/** A user's settings of a list; saved as a named view. */
export interface Shape {
  text: string;
  filters: Filter[];
  sorts: Sort[];
  columns: string[];
  dense: boolean;
}

/** Topics that can change a list's rows or their order. */
export const topics: Record<ListName, Topic[]> = {
  loads: ['loads', 'invoices', 'bills'],
  invoices: ['invoices', 'payments'],
  payments: ['payments'],
  bills: ['bills'],
  companies: ['companies'],
  entries: ['ledger'],
  places: ['places'],
};

export const numeric = (c: Column) => c.kind === 'number' || c.kind === 'money';

/** Filter operators by column type. */
export function opsFor(c: Column | undefined): { value: string; label: string }[] {
  const some = [
    { value: 'filled', label: 'is not empty' },
    { value: 'empty', label: 'is empty' },
  ];
  if (!c) return some;
  if (c.kind === 'yes_no') return [{ value: 'is', label: 'is' }];
  if (numeric(c) || c.kind === 'date' || c.kind === 'time')
    return [
      { value: 'from', label: c.kind === 'number' || c.kind === 'money' ? 'at least' : 'from' },
      { value: 'until', label: c.kind === 'number' || c.kind === 'money' ? 'at most' : 'up to' },
      { value: 'is', label: 'is' },
      ...some,
    ];
  return [
    ...(c.kind === 'choice' ? [] : [{ value: 'has', label: 'contains' }]),
    { value: 'is', label: 'is' },
    { value: 'not', label: 'is not' },
    ...some,
  ];
}

/** A cell as shown. */
export function formatCell(value: Row[string] | undefined, c: Column): string {
  if (value === null || value === undefined) return '';
  switch (c.kind) {
    case 'money':
      return Number(value).toLocaleString('en-US', { minimumFractionDigits: 2, maximumFractionDigits: 2 });
    case 'number':
      // A number that identifies a row is not an amount.
      if (c.id === 'number' || c.id === 'reverses') return String(value);
      return Number(value).toLocaleString('en-US');
    case 'time':
      // Without an offset it is wall-clock time already: a stop's appointment.
      return formatLocal(
        /(Z|[+-]\d\d:\d\d)$/.test(String(value)) ? localAt(String(value), session.zone) : String(value),
      );
    case 'date':
      return formatDay(String(value));
    case 'yes_no':
      return value ? 'yes' : '';
    default:
      return String(value).replace(/_/g, ' ');
  }
}

/** The share of the width a column gets. */
export const widthOf = (c: Column) =>
  c.kind === 'number' || c.kind === 'money'
    ? '104px'
    : c.kind === 'time'
      ? '140px'
      : c.kind === 'date'
        ? '128px'
        : c.kind === 'choice'
          ? '96px'
          : c.kind === 'yes_no'
            ? '76px'
            : c.id === 'number' || c.id === 'load' || c.id === 'loads' || c.id === 'region'
              ? '84px'
              : 'minmax(110px, 1fr)';

/** The rows in view, with a margin on either side. */
export function inWindow(top: number, height: number, row: number, count: number, spare = 20): [number, number] {
  const first = Math.max(0, Math.floor(top / row) - spare);
  return [first, Math.min(count, Math.ceil((top + height) / row) + spare)];
}
