using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class VendorPaymentTests
{
    private static readonly Payout ByCheck = new(Some.Today, "check", "1041");

    private static BillToPay Bill(
        long id,
        decimal approved,
        long vendor = 7,
        decimal paid = 0,
        decimal discount = 0,
        long? approvedBy = 2,
        Problem? hold = null
    ) =>
        new(
            id,
            vendor,
            $"Carrier {vendor}",
            new BillState($"B-{id}", IsApproved: true, PaidOn: null, IsVoid: false, IsExpense: false, IsPartlyPaid: paid > 0),
            Money.Usd(approved),
            Money.Usd(paid),
            Money.Usd(discount),
            approvedBy,
            hold
        );

    private static Outcome<IReadOnlyList<VendorPayment>> Plan(
        IEnumerable<BillToPay> bills,
        Payout? payout = null,
        long payer = 3,
        params (long Bill, decimal? Amount)[] chosen
    ) =>
        PaymentBatch.Plan(
            (chosen.Length > 0 ? chosen : bills.Select(b => (b.Id, (decimal?)null)))
                .Select(c => new BillChoice(c.Item1, c.Item2 is { } a ? Money.Usd(a) : null))
                .ToList(),
            bills.ToDictionary(b => b.Id),
            payout ?? ByCheck,
            payer,
            twoPeople: true
        );

    [Fact]
    public void Each_payee_gets_one_check_and_check_numbers_count_up()
    {
        var payments = Plan([Bill(1, 900), Bill(2, 400, vendor: 8), Bill(3, 600)]).Value;
        Assert.Equal(
            [("Carrier 7", "1041", 1500m), ("Carrier 8", "1042", 400m)],
            payments.Select(p => (p.Payee, p.Reference, p.Amount.Amount))
        );
        Assert.Equal(
            ["run 7", "run 7"],
            Plan([Bill(1, 9), Bill(2, 9, vendor: 8)], new Payout(Some.Today, "ach", "run 7")).Value.Select(p => p.Reference)
        );
    }

    [Fact]
    public void A_bill_is_paid_in_parts_and_never_beyond_what_is_open()
    {
        var first = Plan([Bill(1, 900)], chosen: (1, 350m)).Value.Single();
        Assert.Equal(350m, first.Amount.Amount);
        var rest = Bill(1, 900, paid: 350);
        Assert.Equal(550m, Plan([rest]).Value.Single().Amount.Amount);
        var over = Plan([rest], chosen: (1, 550.01m)).Problems.Single();
        Assert.Equal(("over.open", "Only $550.00 is open on bill B-1.", "bills[0].amount"), (over.Code, over.Message, over.Field));
        Assert.Equal("not.positive", Plan([rest], chosen: (1, 0m)).Problems.Single().Code);
    }

    [Fact]
    public void A_quick_pay_discount_is_taken_with_the_payment_that_pays_the_bill_in_full()
    {
        var bill = Bill(1, 1850, discount: 55.50m);
        var whole = Plan([bill]).Value.Single().Bills.Single();
        Assert.Equal((1794.50m, 55.50m), (whole.Amount.Amount, whole.Discount.Amount));
        var part = Plan([bill], chosen: (1, 1000m)).Value.Single().Bills.Single();
        Assert.Equal((1000m, 0m), (part.Amount.Amount, part.Discount.Amount));
        var last = Plan([bill with { Paid = Money.Usd(1000) }]).Value.Single().Bills.Single();
        Assert.Equal((794.50m, 55.50m), (last.Amount.Amount, last.Discount.Amount));
        Assert.Equal("over.open", Plan([bill], chosen: (1, 1800m)).Problems.Single().Code);
    }

    [Fact]
    public void Whoever_approved_a_bill_does_not_pay_it_and_a_bill_on_hold_is_not_paid()
    {
        Assert.Equal("pay.same.person", Plan([Bill(1, 900, approvedBy: 3)]).Problems.Single().Code);
        var held = PayHolds.Of("B-1", "6051", payWhenPaid: true, customerPaid: false, remitToPending: false);
        Assert.Equal(
            ["Bill B-1 is paid when paid: the customer has not paid load 6051 yet."],
            Plan([Bill(1, 900, hold: held), Bill(2, 5)]).Problems.Select(p => p.Message)
        );
    }

    [Theory]
    [InlineData(true, true, false, null)]
    [InlineData(false, false, false, null)]
    [InlineData(true, false, false, "pay.when.paid")]
    [InlineData(false, true, true, "pay.remit.to")]
    [InlineData(true, false, true, "pay.remit.to")]
    public void A_carrier_waits_for_its_terms_and_its_new_bank(bool whenPaid, bool customerPaid, bool remitPending, string? code) =>
        Assert.Equal(code, PayHolds.Of("B-1", "6051", whenPaid, customerPaid, remitPending)?.Code);

    [Fact]
    public void Nothing_but_a_pending_remit_to_holds_the_tire_shop() =>
        Assert.Equal(
            (null, "pay.remit.to"),
            (PayHolds.Of("B-1", null, true, false, false)?.Code, PayHolds.Of("B-1", null, true, false, true)?.Code)
        );

    [Fact]
    public void What_was_chosen_wrongly_is_said_by_its_place()
    {
        Assert.Equal(["bills[1].billId"], Plan([Bill(1, 900)], chosen: [(1, null), (9, null)]).Problems.Select(p => p.Field));
        Assert.Contains(Plan([Bill(1, 900)], chosen: [(1, 5m), (1, 6m)]).Problems, p =>
            p is { Code: "bill.twice", Field: "bills[1].billId" }
        );
        Assert.Equal("bills", Plan([]).Problems.Single().Field);
    }

    /// <summary>Whatever is paid in whatever parts: a bill ends paid exactly, with its discount taken once, and no cent is lost between a
    /// payment and its bills.</summary>
    [Fact]
    public void Parts_add_up_to_the_bill() =>
        Gen.Select(Gen.Int[100, 500_000], Gen.Int[0, 1500], Gen.Int[1, 100].List[0, 6])
            .Sample(
                (cents, discount, parts) =>
                {
                    var bill = Bill(1, cents / 100m, discount: Math.Round(cents * discount / 10_000m / 100m, 2));
                    var paid = new List<PaidBill>();
                    foreach (var percent in parts)
                    {
                        var wanted = Math.Round((bill.Open - bill.QuickPayDiscount).Amount * percent / 200, 2);
                        if (wanted > 0)
                        {
                            paid.AddRange(Plan([bill], chosen: (1, wanted)).Value.Single().Bills);
                            bill = bill with { Paid = Money.Sum(paid.Select(p => p.Settled)) };
                        }
                    }

                    if (bill.Open.Amount > 0)
                    {
                        paid.AddRange(Plan([bill]).Value.Single().Bills);
                    }

                    Assert.Equal(cents / 100m, paid.Sum(p => p.Settled.Amount));
                    Assert.Equal(bill.QuickPayDiscount.Amount, paid.Sum(p => p.Discount.Amount));
                    Assert.All(paid, p => Assert.True(p.Amount.Amount > 0));
                }
            );

    [Fact]
    public void Quick_pay_is_a_percentage_of_what_is_approved_due_in_its_days()
    {
        var terms = new VendorTerms(30, 3m, 2);
        Assert.Equal(new QuickPay(Money.Usd(55.50m), Some.Today.PlusDays(2)), terms.QuickPay(Money.Usd(1850), Some.Today).Value);
        Assert.Equal("quick.pay", new VendorTerms(30).QuickPay(Money.Usd(1850), Some.Today).Problems.Single().Code);
        var validation = new Validation();
        VendorTerms.Check(15.01m, 15, validation);
        Assert.Equal(["quickPayPercent", "quickPayDays"], validation.Problems.Select(p => p.Field));
    }

    [Fact]
    public void A_payment_is_reversed_once()
    {
        Assert.Null(new VendorPaymentState("Two Forks Trucking", false).ReverseRefusal);
        Assert.Equal(
            "This payment to Two Forks Trucking was already reversed.",
            new VendorPaymentState("Two Forks Trucking", true).ReverseRefusal!.Message
        );
    }
}
