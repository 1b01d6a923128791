using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class EnterBillTests
{
    private static readonly List<Account> Chart = [.. Accounts.All, .. Accounts.ToBeginWith];

    private static readonly BillVendor Carrier = new("Two Forks Transport", 30, null);
    private static readonly BilledLeg Leg = new(9, "6151", Money.Usd(1850), IsBilled: false);

    private static BillOrder Order(decimal amount = 1850, bool expense = false, IReadOnlyList<BillLineOrder>? lines = null) =>
        new("TF-204", Some.Today, Money.Usd(amount), null, lines, null, expense);

    private static Outcome<EnteredBill> Enter(BillOrder order, BilledLeg? leg, BillVendor? vendor) =>
        VendorBill.Enter(order, leg, vendor, Some.Today, Chart, new Validation());

    [Fact]
    public void A_carriers_bill_needs_no_lines_and_is_due_by_its_terms()
    {
        var bill = Enter(Order(), Leg, Carrier).Value;
        var line = Assert.Single(bill.Lines);
        Assert.Equal((Accounts.PurchasedTransportation.Code, Money.Usd(1850), 9L), (line.Account, line.Amount, line.LoadId!.Value));
        Assert.Equal(new LocalDate(2026, 12, 23), bill.DueOn);
    }

    [Fact]
    public void Whatever_is_wrong_is_said_at_once()
    {
        var problems = Enter(
            new BillOrder(" ", new LocalDate(1926, 11, 23), new Money(10, Currency.CAD), null, null, null, false),
            Leg with
            {
                IsBilled = true,
            },
            Carrier with
            {
                Same = (Money.Usd(900), Some.Today),
            }
        ).Problems;
        Assert.Equal(["missing", "currency", "date.far", "leg.billed", "bill.twice"], problems.Select(p => p.Code));
        Assert.Equal(["number", "amount", "billedOn", "legId", "number"], problems.Select(p => p.Field));
    }

    [Fact]
    public void The_same_number_again_names_the_earlier_bill() =>
        Assert.Equal(
            "Two Forks Transport already sent bill TF-204 for $900.00, dated Nov 2, 2026: check for a duplicate.",
            Enter(Order(), Leg, Carrier with { Same = (Money.Usd(900), new LocalDate(2026, 11, 2)) }).Problems.Single().Message
        );

    [Theory]
    [InlineData(1850, true)]
    [InlineData(1850.01, false)]
    public void An_expense_for_a_leg_never_exceeds_the_agreement(double amount, bool ok)
    {
        var entered = Enter(Order((decimal)amount, expense: true), Leg, Carrier);
        Assert.Equal(ok, entered.Ok);
        Assert.True(ok || entered.Problems.Single().Code == "over.agreed");
        Assert.True(Enter(Order((decimal)amount), Leg, Carrier).Ok);
    }

    [Fact]
    public void Any_other_vendor_needs_lines_that_add_up()
    {
        Assert.Equal("lines", Enter(Order(), null, Carrier).Problems.Single().Field);
        var off = Enter(Order(lines: [new BillLineOrder("5200", "diesel", Money.Usd(1849.99m), null, null, null)]), null, Carrier);
        Assert.Equal("The lines total $1,849.99 and the bill $1,850.00: $0.01 short.", off.Problems.Single().Message);
        Assert.Equal("vendorId", Enter(Order(), null, null).Problems.Single().Field);
    }

    [Theory]
    [InlineData(1850, "as agreed")]
    [InlineData(1890, "$40.00 over the agreed amount")]
    [InlineData(1800, "$50.00 under the agreed amount")]
    public void A_bill_is_compared_with_the_agreement(decimal billed, string text) =>
        Assert.Equal(text, BillMatch.Of(Money.Usd(1850), Money.Usd(billed)).Formatted);

    /// <summary>However lines are written, a bill that is stored has lines that add up to its amount exactly.</summary>
    [Fact]
    public void Stored_lines_add_up() =>
        Gen.Decimal[0.01m, 5000m]
            .List[1, 8]
            .Sample(parts =>
            {
                var lines = parts
                    .Select(p => new BillLineOrder("5200", null, Money.Usd(decimal.Round(p, 2) + 0.01m), null, null, null))
                    .ToList();
                var sum = Money.Sum(lines.Select(l => l.Amount!.Value));
                var bill = Enter(Order(sum.Amount, lines: lines), null, Carrier).Value;
                Assert.Equal(bill.Amount, Money.Sum(bill.Lines.Select(l => l.Amount)));
            });

    [Fact]
    public void Money_going_out_names_its_method_and_a_plausible_date()
    {
        var validation = new Validation();
        Payout.Check(new LocalDate(2016, 1, 1), "barter", new string('x', 81), Some.Today, validation, "spent.");
        Assert.Equal(["spent.reference", "spent.paidOn", "spent.method"], validation.Problems.Select(p => p.Field));
        var ok = new Validation();
        Assert.Equal(new Payout(Some.Today, "ach", "1182"), Payout.Check(null, "ach", " 1182 ", Some.Today, ok));
        Assert.True(ok.Ok);
    }
}
