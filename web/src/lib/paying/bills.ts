import { api, moneyKey, take } from '../api/client';
import { cents } from '../money';

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
