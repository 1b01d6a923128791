using System.Globalization;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>A bill to pay, as read for a payment.</summary>
/// <param name="Payee">Who is paid: the vendor, or the factor it has assigned its receivables to.</param>
/// <param name="Approved">The approved amount; null while it is not approved.</param>
/// <param name="Paid">What earlier payments settled of it, discounts included.</param>
/// <param name="QuickPayDiscount">What is deducted when it is paid in full, by its quick-pay terms; zero without.</param>
/// <param name="Hold">Why it may not be paid now, such as a remit-to that is not confirmed; null when it may.</param>
public sealed record BillToPay(
    long Id,
    long VendorId,
    string Payee,
    BillState State,
    Money? Approved,
    Money Paid,
    Money QuickPayDiscount,
    long? ApprovedBy,
    Problem? Hold = null
)
{
    /// <summary>What is still open of it, the discount included.</summary>
    public Money Open => (Approved ?? Money.Zero(Paid.Currency)) - Paid;
}

/// <summary>A part of a vendor payment: what it settles of one bill.</summary>
/// <param name="Amount">In cash.</param>
/// <param name="Discount">Quick-pay discount taken with it.</param>
public sealed record PaidBill(long BillId, Money Amount, Money Discount)
{
    public Money Settled => Amount + Discount;
}

/// <summary>One check, or one ACH credit, to one payee for several of its bills.</summary>
public sealed record VendorPayment(long VendorId, string Payee, string? Reference, IReadOnlyList<PaidBill> Bills)
{
    public Money Amount => Money.Sum(Bills.Select(b => b.Amount));
}

/// <summary>A bill chosen for payment, with the amount wanted; all that is open when null.</summary>
public sealed record BillChoice(long BillId, Money? Amount);

/// <summary>What can be done with a vendor payment.</summary>
public sealed record VendorPaymentState(string Payee, bool IsReversed)
{
    /// <summary>Why it cannot be reversed; null when it can.</summary>
    public Problem? ReverseRefusal => IsReversed ? new Problem("payment.reversed", $"This payment to {Payee} was already reversed.") : null;
}

/// <summary>Payments to vendors, one for each payee.</summary>
public static class PaymentBatch
{
    public const int MaxBills = 500;

    /// <summary>
    /// Plans the payments of a batch: one for each payee, in the order in which the bills were chosen. A discount is taken with the payment
    /// that pays the bill in full. Check numbers count up from the first.
    /// </summary>
    /// <param name="bills">The bills that were found, by key.</param>
    /// <param name="payer">The user who pays; null for the system.</param>
    /// <param name="twoPeople">Whether the person who approved may not pay.</param>
    /// <returns>The payments, or every problem, each with the bill's field.</returns>
    /// <example>Bills of $900 and $600 of one carrier paid by check 1041, and one of $400 of another: checks 1041 for $1,500 and 1042.</example>
    public static Outcome<IReadOnlyList<VendorPayment>> Plan(
        IReadOnlyList<BillChoice> chosen,
        IReadOnlyDictionary<long, BillToPay> bills,
        Payout payout,
        long? payer,
        bool twoPeople
    )
    {
        var validation = new Validation();
        if (chosen.Count is 0 or > MaxBills)
        {
            validation.Add("missing", $"Choose the bills to pay: up to {MaxBills} at a time.", "bills");
        }

        if (chosen.GroupBy(c => c.BillId).FirstOrDefault(g => g.Count() > 1) is { } twice)
        {
            validation.Add(
                "bill.twice",
                "A bill was chosen twice.",
                $"bills[{chosen.ToList().FindLastIndex(c => c.BillId == twice.Key)}].billId"
            );
        }

        var parts = new List<(BillToPay Bill, PaidBill Part)>();
        for (var i = 0; i < chosen.Count && validation.Problems.Count < 20; i++)
        {
            if (!bills.TryGetValue(chosen[i].BillId, out var bill))
            {
                validation.Add("unknown", "This bill was not found.", $"bills[{i}].billId");
                continue;
            }

            var part = Part(bill, chosen[i].Amount, $"bills[{i}].amount");
            var refused = bill.State.PayRefusal ?? TwoPeople.Refuses(bill.ApprovedBy, payer, twoPeople) ?? bill.Hold;
            validation.AddRange(
                refused is { } no ? [no]
                : part.Ok ? []
                : part.Problems
            );
            if (refused is null && part.Ok)
            {
                parts.Add((bill, part.Value));
            }
        }

        if (parts.Select(p => p.Part.Amount.Currency).Distinct().Count() > 1)
        {
            validation.Add("currency.mixed", "Pay bills in US dollars and in Canadian dollars in separate batches.", "bills");
        }
        else if (payout.Method == "ach" && parts.FirstOrDefault(p => p.Part.Amount.Currency != Currency.USD).Bill is { } foreign)
        {
            validation.Add(
                "currency.ach",
                $"ACH pays US dollars only: pay {foreign.Payee} by check or wire from the account in Canadian dollars.",
                "method"
            );
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        return parts
            .GroupBy(p => (p.Bill.VendorId, p.Bill.Payee))
            .Select((g, i) => new VendorPayment(g.Key.VendorId, g.Key.Payee, Reference(payout, i), g.Select(p => p.Part).ToList()))
            .ToList();
    }

    /// <summary>What a payment settles of a bill.</summary>
    /// <param name="wanted">In cash; all that is open less the discount when null.</param>
    public static Outcome<PaidBill> Part(BillToPay bill, Money? wanted, string field)
    {
        var validation = new Validation { Currency = bill.Open.Currency };
        validation.Dollars(wanted, field, "The amount to pay", required: false);
        if (!validation.Ok)
        {
            return validation.Problems;
        }

        var full = bill.Open - bill.QuickPayDiscount;
        var amount = wanted ?? full;
        return amount > full
            ? new Problem("over.open", $"Only {full.Formatted} is open on bill {bill.State.Number}.", field)
            : new PaidBill(bill.Id, amount, amount == full ? bill.QuickPayDiscount : Money.Zero());
    }

    /// <summary>The reference of the payment at a place in the batch: check numbers count up, any other reference is the same for all.</summary>
    private static string? Reference(Payout payout, int place) =>
        payout.Method == "check" && long.TryParse(payout.Reference, NumberStyles.None, CultureInfo.InvariantCulture, out var first)
            ? (first + place).ToString(CultureInfo.InvariantCulture)
            : payout.Reference;
}

/// <summary>Whether a batch can be sent as an ACH file.</summary>
public static class AchPayment
{
    /// <param name="ourBank">Whether our tax ID and bank account are on file.</param>
    /// <param name="payees">The batch's ACH payments, each with whether the payee's bank account is on file.</param>
    public static Problems Refusals(bool ourBank, IReadOnlyList<(string Payee, bool HasBank)> payees)
    {
        var validation = new Validation();
        if (payees.Count == 0)
        {
            validation.Add("ach.none", "None of these payments is by ACH.");
        }

        if (!ourBank)
        {
            validation.Add("ach.ours", "Enter our tax ID and bank account in Setup, Company, before making ACH files.");
        }

        var missing = payees.Where(p => !p.HasBank).Select(p => p.Payee).Distinct().ToList();
        if (missing.Count > 0)
        {
            validation.Add(
                "ach.payee",
                $"No bank account is on file for {string.Join(", ", missing.Take(5))}{(missing.Count > 5 ? $" and {missing.Count - 5} more" : "")}: enter a remit-to for each, or pay by check."
            );
        }

        return validation.Problems;
    }
}
