using SteadyLark.Core.Basics;
using SteadyLark.Core.Billing;
using SteadyLark.Core.Paying;
using Xunit;

namespace SteadyLark.Core.Tests.Paying;

public class RemitToTests
{
    /// <summary>The weights 3, 7, 1 by hand: 9×3 + 9×7 + 0 + 0 + 0 + 1×1 + 0 + 0 + 9 = 100.</summary>
    [Theory]
    [InlineData("990001009", true)]
    [InlineData("990001008", false)]
    [InlineData("900901009", false)]
    [InlineData("99000100", false)]
    [InlineData("99000100a", false)]
    [InlineData("000000000", false)]
    [InlineData(null, false)]
    public void A_routing_numbers_last_digit_must_fit(string? routing, bool ok) => Assert.Equal(ok, BankAccount.IsRouting(routing));

    [Fact]
    public void One_wrong_digit_is_always_noticed()
    {
        const string right = "990001009";
        for (var i = 0; i < 9; i++)
        {
            for (var digit = '0'; digit <= '9'; digit++)
            {
                var typed = right[..i] + digit + right[(i + 1)..];
                Assert.Equal(typed == right, BankAccount.IsRouting(typed));
            }
        }
    }

    private static IEnumerable<string?> Wrong(RemitToOrder order)
    {
        var validation = new Validation();
        _ = RemitTo.Check(order, a => a.Contains('@', StringComparison.Ordinal), validation);
        return validation.Problems.Select(p => p.Field);
    }

    [Fact]
    public void A_factor_needs_its_notice_of_assignment_and_money_needs_somewhere_to_go()
    {
        Assert.Equal(["notice"], Wrong(new RemitToOrder("Larkspur Receivables", "PO Box 1", null, null, null, null)));
        Assert.Equal(["address"], Wrong(new RemitToOrder(null, " ", null, null, null, null)));
        Assert.Equal(["email"], Wrong(new RemitToOrder(null, "PO Box 1", null, null, null, null, "remit at larkspur")));
        Assert.Equal(["routing"], Wrong(new RemitToOrder(null, null, "990001008", "441700", null, null)));
        Assert.Equal(["routing", "account"], Wrong(new RemitToOrder(null, null, null, "12", null, null)));
        Assert.Empty(
            Wrong(new RemitToOrder("Larkspur Receivables", "PO Box 1", "990001009", "4417-00", BankAccountType.Savings, "Nov 2 letter"))
        );
    }

    [Fact]
    public void A_bank_account_is_shown_by_its_last_digits() =>
        Assert.Equal("savings ending in 4417", new BankAccount("990001009", "100224417", BankAccountType.Savings).Masked);

    [Theory]
    [InlineData(RemitToState.Proposed, 2L, 3L, "Lena, 406-555-0144", true, null)]
    [InlineData(RemitToState.Proposed, 2L, 2L, "Lena, 406-555-0144", true, "remit.same.person")]
    [InlineData(RemitToState.Proposed, 2L, 2L, "Lena, 406-555-0144", false, null)]
    [InlineData(RemitToState.Proposed, 2L, 3L, "  ", true, "missing")]
    [InlineData(RemitToState.Confirmed, 2L, 3L, "Lena", true, "remit.state")]
    [InlineData(RemitToState.Declined, 2L, 3L, "Lena", true, "remit.state")]
    public void A_change_is_confirmed_by_another_person_who_called_back(
        RemitToState state,
        long proposer,
        long user,
        string note,
        bool twoPeople,
        string? code
    ) => Assert.Equal(code, RemitToChange.Confirm(state, proposer, user, note, twoPeople).FirstOrDefault()?.Code);

    [Fact]
    public void Our_own_details_are_whole_or_empty()
    {
        IEnumerable<string?> Fields(PaymentDetails d)
        {
            var validation = new Validation();
            _ = d.Check(validation);
            return validation.Problems.Select(p => p.Field);
        }

        Assert.Empty(Fields(PaymentDetails.None));
        Assert.Equal(["taxId"], Fields(new PaymentDetails(null, "12-34567", null, null, null)));
        Assert.Equal(["gstNumber"], Fields(PaymentDetails.None with { GstNumber = "12345678 RT0001" }));
        Assert.Empty(Fields(PaymentDetails.None with { GstNumber = "123456789 rt0001" }));
        Assert.Equal(["bankName"], Fields(new PaymentDetails(null, null, null, "990001009", "100200300")));
        Assert.Equal(["routing"], Fields(new PaymentDetails(null, null, "Tamarack Savings", null, null)));
        var kept = new PaymentDetails(null, "12-3456789", "Tamarack Savings", "990001009", "100200300").Check(new Validation());
        Assert.Equal(("123456789", "12-3456789"), (kept.TaxId, kept.TaxIdFormatted));
    }

    [Fact]
    public void An_ach_file_needs_every_bank_account()
    {
        Assert.False(AchPayment.Refusals(true, [("Two Forks Trucking", true)]).Any);
        Assert.Equal(["ach.none"], AchPayment.Refusals(true, []).Select(p => p.Code));
        Assert.Equal(
            ["ach.ours", "ach.payee"],
            AchPayment.Refusals(false, [("Two Forks Trucking", false), ("Sixmile Haulage", true)]).Select(p => p.Code)
        );
    }
}
