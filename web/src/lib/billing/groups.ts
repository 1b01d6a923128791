import type { Schemas } from '$lib/api/client';
import { sums } from '$lib/money';

/** A row of what is to bill and to collect. */
export type Row = { id: string; unbilled?: Schemas['UnbilledRow']; invoice?: Schemas['InvoiceRow'] };

const ofLoad = (u: Schemas['UnbilledRow']): Row => ({ id: `load-${u.loadId}`, unbilled: u });
const ofInvoice = (i: Schemas['InvoiceRow']): Row => ({ id: `invoice-${i.id}`, invoice: i });
const openSum = (invoices: Schemas['InvoiceRow'][]) => sums(invoices.map((i) => i.open));

/** Loads and open invoices in the order in which they need somebody; and the loads that can be billed now. */
export function toBill(unbilled: Schemas['UnbilledRow'][], invoices: Schemas['InvoiceRow'][], today: string) {
  const ready = unbilled.filter((u) => u.missing.length === 0 && !u.held);
  const waiting = unbilled.filter((u) => u.missing.length > 0 && !u.held);
  const held = unbilled.filter((u) => u.held);
  const overdue = invoices.filter((i) => i.dueOn < today);
  const rest = invoices.filter((i) => i.dueOn >= today);
  return {
    ready,
    groups: [
      { title: 'Ready to bill', rows: ready.map(ofLoad) },
      { title: 'Missing documents', urgency: 'soon' as const, rows: waiting.map(ofLoad) },
      { title: 'On hold', urgency: 'soon' as const, rows: held.map(ofLoad) },
      { title: 'Overdue', urgency: 'now' as const, aside: openSum(overdue), rows: overdue.map(ofInvoice) },
      { title: 'Billed, not due yet', aside: openSum(rest), rows: rest.map(ofInvoice) },
    ],
  };
}
