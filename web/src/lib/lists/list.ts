import type { Schemas } from '../api/client';
import type { Topic } from '$lib/state/live.svelte';
import { session } from '../state/session.svelte';
import { localAt, formatDay, formatLocal } from '../time/when';

export type Row = Record<string, string | number | boolean | null> & { id: number };
export type ListName =
  'loads' | 'trips' | 'invoices' | 'payments' | 'claims' | 'bills' | 'expenses' | 'companies' | 'entries' | 'places';
export type Column = Schemas['ListColumn'];
export interface Filter {
  column: string;
  op: string;
  /** Any of them. */
  values: string[];
}
export interface Sort {
  column: string;
  descending: boolean;
}
export type Period = Schemas['GroupPeriod'];
export interface Group {
  column: string;
  period: Period | null;
}
/** A user's settings of a list; saved as a named view. */
export interface Shape {
  text: string;
  filters: Filter[];
  sorts: Sort[];
  groups: Group[];
  columns: string[];
  dense: boolean;
}
/** A question to the server. */
export interface Query {
  text: string | null;
  filters: Filter[];
  sorts: Sort[];
  groups: Group[];
  only: number[] | null;
}

/** The most rows that can be selected. */
export const mostSelected = 20_000;

/** A shape as a question: filters without a value are not asked. */
export const queryOf = (shape: Shape, only: number[] | null = null): Query => ({
  text: shape.text.trim() || null,
  filters: shape.filters
    .map((f) => ({ ...f, values: withoutValues(f.op) ? [] : f.values.filter((v) => v.trim()) }))
    .filter((f) => f.column && (f.values.length > 0 || withoutValues(f.op))),
  sorts: shape.sorts,
  groups: shape.groups.filter((g) => g.column),
  only,
});

/** A shape without the columns that this user does not see, or that are gone. */
export function fitted(shape: Shape, columns: Column[]): Shape {
  const known = (id: string) => columns.some((c) => c.id === id);
  return {
    ...shape,
    filters: shape.filters.filter((f) => known(f.column)),
    sorts: shape.sorts.filter((s) => known(s.column)),
    groups: shape.groups.filter((g) => known(g.column)),
    columns: shape.columns.filter(known),
  };
}

export const withoutValues = (op: string) => op === 'empty' || op === 'filled';
/** Whether a comparison takes several values. */
export const takesMany = (op: string) => op === 'is' || op === 'not' || op === 'has';
export const dated = (c: Column | undefined) => c?.kind === 'date' || c?.kind === 'time';

/** Topics that can change a list's rows or their order. */
export const topics: Record<ListName, Topic[]> = {
  loads: ['loads', 'invoices', 'bills'],
  trips: ['loads', 'fleet'],
  invoices: ['invoices', 'payments'],
  claims: ['claims'],
  payments: ['payments'],
  bills: ['bills'],
  expenses: ['expenses'],
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
      { value: 'not', label: 'is not' },
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
  c.kind === 'money'
    ? '124px'
    : c.kind === 'number'
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

/** A group's value as shown in its head. */
export function formatGroup(value: unknown, c: Column, period: Period | null): string {
  if (value === null || value === undefined || value === '') return `No ${c.title.toLowerCase()}`;
  if (!dated(c))
    return c.kind === 'yes_no' ? `${c.title}: ${value ? 'yes' : 'no'}` : formatCell(value as Row[string], c);
  const [year, month] = String(value).split('-').map(Number);
  switch (period ?? 'month') {
    case 'year':
      return String(year);
    case 'quarter':
      return `Q${Math.ceil(month / 3)} ${year}`;
    case 'month':
      return `${monthNames[month - 1]} ${year}`;
    case 'week':
      return `Week of ${formatDay(String(value))}`;
    default:
      return formatDay(String(value));
  }
}
const monthNames = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** A total as shown under its column. */
export const formatTotal = (value: number | null | undefined, c: Column) =>
  value === null || value === undefined ? '' : formatCell(value, c);
