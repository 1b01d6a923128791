import type { Money, Schemas } from '../api/client';

export type OpeningKind = NonNullable<Schemas['OpeningKind']>;
export type Party = { id: number; name: string; town?: string | null; currency?: Money['currency'] };
/** An open item while it is typed or corrected. */
export type Item = {
  id: number;
  kind: OpeningKind;
  party: Party | null;
  number: string;
  on: string;
  dueOn: string;
  amount: Money | null;
  /** What was wrong with its row in the file. */
  notes: string[];
};

/** The kinds in their order on the page. */
export const kinds: { kind: OpeningKind; title: string; one: string; party: string; number: string }[] = [
  { kind: 'invoice', title: 'Open invoices', one: 'invoice', party: 'Customer', number: 'Invoice number' },
  { kind: 'bill', title: 'Open bills', one: 'bill', party: 'Vendor or carrier', number: 'Bill number' },
  { kind: 'advance', title: 'Driver advances', one: 'advance', party: 'Driver', number: 'Note' },
  { kind: 'credit', title: 'Customer credits', one: 'credit', party: 'Customer', number: 'Reference' },
];

export const hasDates = (kind: OpeningKind) => kind === 'invoice' || kind === 'bill';

/** Rows of a file as items; a party that was not found is left to choose, and says what the file had. */
export const fromRows = (rows: Schemas['OpeningRowView'][], first: number): Item[] =>
  rows.map((r, n) => ({
    id: first + n,
    kind: r.kind!,
    party: r.partyId ? { id: r.partyId, name: r.read!.party } : null,
    number: r.read!.number,
    on: r.read!.on ?? '',
    dueOn: r.read!.dueOn ?? '',
    amount: r.read!.amount,
    notes: [...(r.partyId ? [] : [`Row ${r.read!.row}: “${r.read!.party}” was not found.`]), ...r.read!.problems],
  }));
