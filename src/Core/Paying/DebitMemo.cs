using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Paying;

/// <summary>A debit memo: what a vendor owes us is deducted from its bill, such as a claim or a charge for a missed pickup.</summary>
public static class DebitMemo
{
    /// <summary>How it stands among the payments of a bill, without being one.</summary>
    public const string Method = "debit_memo";

    /// <summary>Checks a debit memo for a bill: never more than a payment could settle. A hold on the bill does not keep it from being
    /// deducted from.</summary>
    /// <returns>The part of the bill it settles, and why.</returns>
    public static Outcome<(PaidBill Part, string Why)> Decide(BillToPay bill, Money? amount, string? why)
    {
        if (bill.State.PayRefusal is { } refused)
        {
            return refused;
        }

        var validation = new Validation { Currency = bill.Open.Currency };
        var text = validation.Text(why, "why", "The explanation", 200, required: true);
        validation.Dollars(amount, "amount", "The amount deducted");
        return validation.Ok ? PaymentBatch.Part(bill, amount, "amount").Then(part => (part, text!)) : validation.Problems;
    }
}
