import { describe, expect, it } from 'vitest';
import type { Schemas } from '$lib/api/client';
import { toBill } from './groups';

const usd = (amount: string) => ({ amount, currency: 'USD' as const });
const load = (loadId: number, more: Partial<Schemas['UnbilledRow']> = {}) =>
  ({ loadId, missing: [], held: null, late: false, revenue: usd('100.00'), ...more }) as Schemas['UnbilledRow'];
const invoice = (id: number, dueOn: string, open: string) => ({ id, dueOn, open: usd(open) }) as Schemas['InvoiceRow'];

describe('what is to bill', () => {
  const { ready, groups } = toBill(
    [load(1), load(2, { missing: ['pod'] }), load(3, { held: 'claim', missing: ['pod'] }), load(4, { late: true })],
    [invoice(7, '2026-11-23', '10.10'), invoice(8, '2026-11-24', '5.00'), invoice(9, '2026-12-01', '2.50')],
    '2026-11-24',
  );
  const ids = (title: string) => groups.find((g) => g.title === title)!.rows.map((r) => r.id);

  it('puts each load in one group: ready, missing documents, or on hold', () => {
    expect(ready.map((u) => u.loadId)).toEqual([1, 4]);
    expect(ids('Ready to bill')).toEqual(['load-1', 'load-4']);
    expect(ids('Missing documents')).toEqual(['load-2']);
    expect(ids('On hold')).toEqual(['load-3']);
  });

  it('counts an invoice as overdue from the day after it is due, and adds up what is open', () => {
    expect(ids('Overdue')).toEqual(['invoice-7']);
    expect(ids('Billed, not due yet')).toEqual(['invoice-8', 'invoice-9']);
    expect(groups.find((g) => g.title === 'Billed, not due yet')!.aside).toBe('7.50');
  });
});
