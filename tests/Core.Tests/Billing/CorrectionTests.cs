using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Ledger;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Billing;

/// <summary>Credit memos and late charges, and what they post.</summary>
public class CorrectionTests
{
    private static readonly LocalDate Today = Some.Today;

    private static readonly InvoiceState Invoice = new("I-1101", IsVoid: false, Money.Usd(300), Money.Usd(600));

    private static Outcome<CreditMemo> Memo(decimal amount, CreditReason? reason, string? why = "a day late", LocalDate? on = null) =>
        CreditMemo.Decide(new CreditMemoOrder(Money.Usd(amount), reason, why, on), Invoice, Money.Usd(900), Today);

    [Fact]
    public void A_memo_reduces_what_is_open_and_the_rest_is_credit()
    {
        Assert.Equal(
            (Money.Usd(100), Today),
            (Memo(100, CreditReason.Concession).Value.Applied, Memo(100, CreditReason.Concession).Value.IssuedOn)
        );
        Assert.Equal(Money.Usd(600), Memo(900, CreditReason.BillingError).Value.Applied);
        // Freight is worth more than its freight bill.
        Assert.Equal(Money.Usd(600), Memo(31_000, CreditReason.Claim).Value.Applied);
    }

    [Fact]
    public void A_memo_beyond_the_invoice_without_a_reason_in_the_future_or_on_a_void_invoice_is_refused()
    {
        Assert.Equal("over.invoice", Memo(900.01m, CreditReason.Concession).Problems[0].Code);
        Assert.Equal(["issuedOn", "why", "reason"], Memo(1, null, " ", Today.PlusDays(1)).Problems.Select(p => p.Field));
        Assert.Equal(
            "invoice.void",
            CreditMemo
                .Decide(
                    new CreditMemoOrder(Money.Usd(1), CreditReason.Claim, "x", null),
                    Invoice with
                    {
                        IsVoid = true,
                    },
                    Money.Usd(900),
                    Today
                )
                .Problems[0]
                .Code
        );
    }

    [Theory]
    [InlineData(CreditReason.Concession, "4900")]
    [InlineData(CreditReason.Claim, "4910")]
    [InlineData(CreditReason.BillingError, "4200")]
    public void A_memo_reduces_the_account_of_its_reason_each_load_by_its_share(CreditReason reason, string account)
    {
        var memo = new CreditMemo(Money.Usd(100), Money.Usd(100), reason, "x", Today, ChargeKind.Detention);
        var entry = Postings.Credited(Today, "CM-1", 7, "I-1101", 3, memo, [(1, Money.Usd(300)), (2, Money.Usd(600))]);
        Assert.Equal(
            [(account, 33.33m, 1L), (account, 66.67m, 2L)],
            entry.Lines.Where(l => l.Debit > 0).Select(l => (l.Account, l.Debit, l.For.LoadId!.Value))
        );
        Assert.Equal(("2300", 100m, 7L), entry.Lines.Where(l => l.Credit > 0).Select(l => (l.Account, l.Credit, l.ItemId!.Value)).Single());
    }

    [Fact]
    public void Late_charges_are_for_billed_loads_and_say_who_authorized_them()
    {
        Outcome<IReadOnlyList<BookedCharge>> Late(LoadState state, params FlatChargeOrder[] charges) =>
            AddedCharges.Decide(state, "6151", charges, 2, Today, late: true);
        var detention = new FlatChargeOrder(
            ChargeKind.Detention,
            "2 hours",
            Money.Usd(150),
            new ChargeAuthorization("R. Dahl", Today, " email ")
        );
        var added = Late(LoadState.Closed, detention).Value.Single();
        Assert.Equal((Money.Usd(150), "email"), (added.Amount, added.Authorization!.Reference));
        Assert.Equal("load.state", Late(LoadState.Delivered, detention).Problems[0].Code);
        Assert.Equal("charges", Late(LoadState.Billed).Problems[0].Field);
        Assert.Equal("discount", Late(LoadState.Billed, detention with { Kind = ChargeKind.Discount }).Problems[0].Code);
        Assert.Equal(
            ["charges[0].amount", "charges[0].description", "charges[0].authorization.on", "charges[0].authorization.by"],
            Late(
                LoadState.Billed,
                new FlatChargeOrder(ChargeKind.Other, null, null, new ChargeAuthorization(null, Today.PlusDays(1), null))
            )
                .Problems.Select(p => p.Field)
        );
        // Before it is billed, the same charge goes on the load itself.
        Outcome<IReadOnlyList<BookedCharge>> OnTheLoad(LoadState state) =>
            AddedCharges.Decide(state, "6151", [detention], 2, Today, late: false);
        Assert.Equal(Money.Usd(150), OnTheLoad(LoadState.Rolling).Value.Single().Amount);
        Assert.Equal("Load 6151 is billed: add a late charge to its invoice.", OnTheLoad(LoadState.Billed).Problems[0].Message);
        Assert.Equal("Load 6151 is tendered: edit the load to change its charges.", OnTheLoad(LoadState.Tendered).Problems[0].Message);
        Assert.Equal(
            "too.many",
            AddedCharges.Decide(LoadState.Billed, "6151", [detention], Booking.MaxLines, Today, late: true).Problems[0].Code
        );
    }
}
