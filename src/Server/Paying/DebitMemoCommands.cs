using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Claims;
using SteadyLark.Store.Ledger;
using SteadyLark.Store.Paying;

namespace SteadyLark.Server.Paying;

/// <param name="ClaimId">The claim it recovers, or null.</param>
public sealed record DebitMemoRequest(Money? Amount, string? Why, long? ClaimId = null);

/// <summary>Debit memos on vendors' bills.</summary>
public static class DebitMemoCommands
{
    /// <summary>Deducts from a vendor's bill what it owes us, for a claim or otherwise.</summary>
    public static async Task<Outcome<BillRow>> Debit(CommandContext w, long billId, DebitMemoRequest request)
    {
        if (await BillStore.Get(w.Db, billId, locked: true) is not { } bill)
        {
            return Problem.Missing("This bill");
        }

        var claim = request.ClaimId is { } c ? await ClaimStore.Get(w.Db, c, locked: true) : null;
        if (request.ClaimId is not null && claim?.CarrierId != bill.VendorId)
        {
            return new Problem("unknown", "This claim is not against the carrier of the bill.", "claimId");
        }

        var decided = DebitMemo.Decide((await VendorPaymentStore.ToPay(w.Db, [billId], locked: true))[billId], request.Amount, request.Why);
        if (!decided.Ok)
        {
            return decided.Problems;
        }

        var (part, why) = decided.Value;
        var number = await VendorPaymentStore.NextDebitMemo(w);
        var payout = new Payout(w.Today, DebitMemo.Method, number);
        var on = await OpenItemStore.FirstDay(w, Accounts.Payable, billId, w.Today, part.Settled);
        var batch = await VendorPaymentStore.AddBatch(w, payout);
        var payment = new VendorPayment(bill.VendorId, bill.Vendor, number, [part]);
        var id = await VendorPaymentStore.Add(w, batch, payment, payout, on, why);
        var line = (await BillStore.Lines(w.Db, billId))[0];
        await LedgerStore.Post(
            w,
            Postings.VendorDebited(
                on,
                bill.Vendor,
                number,
                id,
                part,
                await BillCommands.Of(w, bill),
                claim is null ? line.Account : Accounts.ClaimsRecovered.Code,
                why
            )
        );
        if (claim is not null)
        {
            await ClaimStore.AddRecovery(w, claim.Id, payout, on, part.Settled, id);
            w.Record(
                EventKinds.ClaimChanged,
                claim.Id,
                $"Claim {claim.Number}: {part.Settled.Formatted} deducted from bill {bill.Number} of {bill.Vendor}",
                loadId: claim.LoadId
            );
        }

        w.Record(
            EventKinds.BillDebited,
            billId,
            $"Debit memo {number} of {part.Settled.Formatted} on bill {bill.Number} from {bill.Vendor}: {why}",
            loadId: bill.LoadId
        );
        await BillCommands.Settle(w, bill.LoadId);
        return (await BillStore.Get(w.Db, billId))!;
    }
}
