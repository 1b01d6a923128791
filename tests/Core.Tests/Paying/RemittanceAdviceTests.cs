using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class RemittanceAdviceTests
{
    private static readonly Payout Check1041 = new(new LocalDate(2026, 11, 24), "check", "1041");

    private static AdvisedBill Bill(decimal billed, decimal approved, decimal discount, decimal paid, params decimal[] earlier) =>
        new(
            "TF-88",
            new LocalDate(2026, 11, 12),
            "8841",
            Money.Usd(billed),
            RemittanceAdvice.Before(
                Money.Usd(billed),
                Money.Usd(approved),
                earlier.Select(e => (new LocalDate(2026, 11, 3), "ach", (string?)null, Money.Usd(e), (string?)null))
            ),
            Money.Usd(discount),
            Money.Usd(paid)
        );

    [Fact]
    public void It_names_each_bill_and_all_that_was_taken_from_it()
    {
        var memo = RemittanceAdvice.Before(
            Money.Usd(940),
            Money.Usd(900),
            [
                (new LocalDate(2026, 11, 3), "check", "1030", Money.Usd(300), null),
                (new LocalDate(2026, 11, 9), DebitMemo.Method, "DM-1001", Money.Usd(40), "2 cases short"),
            ]
        );
        var bill = new AdvisedBill("TF-88", new LocalDate(2026, 11, 12), "8841", Money.Usd(940), memo, Money.Usd(9), Money.Usd(501));
        Assert.Equal(Money.Usd(50), bill.Open);
        Assert.Equal(
            """
            Larkspur Receivables,

            We paid $501.00 by check 1041 on Tue Nov 24, 2026 for bills of Two Forks Trucking. It pays this bill:

            Bill TF-88 of Nov 12, 2026, our load 8841
              billed: $940.00
              not approved: -$40.00
              paid Nov 3 by check 1030: -$300.00
              debit memo DM-1001, 2 cases short: -$40.00
              quick-pay discount: -$9.00
              to be paid later: -$50.00
              paid now: $501.00

            Total paid: $501.00

            Please call 406-555-0100 if something does not agree.
            Tamarack Bend Freight
            """,
            RemittanceAdvice.Text("Two Forks Trucking", "Larkspur Receivables", Check1041, [bill], "Tamarack Bend Freight", "406-555-0100")
        );
    }

    [Fact]
    public void A_bill_paid_as_billed_has_two_lines_and_the_total_is_of_all_bills()
    {
        var text = RemittanceAdvice.Text(
            "Two Forks Trucking",
            "Two Forks Trucking",
            new Payout(Check1041.On, "ach", null),
            [Bill(700, 700, 0, 700), Bill(412.07m, 412.07m, 0, 412.07m)],
            "Tamarack Bend Freight",
            "406-555-0100"
        );
        Assert.StartsWith(
            "Two Forks Trucking,\n\nWe paid $1,112.07 by ACH on Tue Nov 24, 2026. It pays these 2 bills:",
            text,
            StringComparison.Ordinal
        );
        Assert.Contains("our load 8841\n  billed: $412.07\n  paid now: $412.07\n\nTotal paid: $1,112.07", text, StringComparison.Ordinal);
    }

    /// <summary>The lines of a bill always come to what is paid of it.</summary>
    [Fact]
    public void Billed_less_all_lines_is_what_is_paid() =>
        Gen.Select(Gen.Int[1, 100_000], Gen.Int[0, 100], Gen.Int[0, 100], Gen.Int[0, 100], Gen.Int[0, 3])
            .Sample(
                (cents, approvedPart, earlierPart, paidPart, discountPart) =>
                {
                    var billed = cents / 100m;
                    var approved = Math.Round(billed * approvedPart / 100, 2);
                    var earlier = Math.Round(approved * earlierPart / 100, 2);
                    var discount = Math.Round((approved - earlier) * discountPart / 100, 2);
                    var paid = Math.Round((approved - earlier - discount) * paidPart / 100, 2);
                    var bill = Bill(billed, approved, discount, paid, earlier);
                    Assert.Equal(Money.Usd(approved - earlier - discount - paid), bill.Open);
                    Assert.True(bill.Open.Amount >= 0);
                }
            );
}
