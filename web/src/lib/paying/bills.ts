import { api, moneyKey, take, type Money, type Schemas } from '../api/client';
import { cents, fromCents } from '../money';

/** Approves a bill for what was agreed, or for what was billed if that is less. */
export async function approveAsAgreed(id: number) {
  const { bill } = await take(api.GET('/api/bills/{id}', { params: { path: { id } } }));
  await take(
    api.POST('/api/bills/{id}/approve', {
      params: { path: { id } },
      body: {
        amount: bill.agreed && cents(bill.amount) > cents(bill.agreed) ? bill.agreed : bill.amount,
        reason: null,
        quickPay: false,
      },
      headers: moneyKey(),
    }),
  );
}

/** Pays a bill by ACH, all that is open. */
export const payByAch = (id: number) =>
  take(
    api.POST('/api/vendor-payments', {
      body: { bills: [{ billId: id, amount: null }], paidOn: null, method: 'ach', reference: null, advise: true },
      headers: moneyKey(),
    }),
  );

/** The lines of a carrier’s bill with GST or HST: its freight and the tax; none without, for then it is all freight. */
export function taxedLines(amount: Money | null, tax: Money | null, loadId: number): Schemas['BillLineOrder'][] | null {
  const line = (account: string, of: Money) => ({
    account,
    description: null,
    amount: of,
    loadId,
    truckId: null,
    driverId: null,
  });
  return amount && tax && cents(tax) > 0
    ? [line('5000', fromCents(cents(amount) - cents(tax), amount.currency)), line('2400', tax)]
    : null;
}
