using CsCheck;
using SteadyLark.Core.Basics;
using SteadyLark.Core.People;
using Xunit;

namespace SteadyLark.Core.Tests.People;

public class AmountsTests
{
    private static Access With(params Right[] rights) => new(new HashSet<Right>(rights));

    /// <summary>Whatever amount stands in a sentence, and in whatever currency, no digit of it remains.</summary>
    [Fact]
    public void No_part_of_an_amount_remains_in_a_sentence() =>
        Gen.Select(Gen.Long[-9_999_999_999, 9_999_999_999], Gen.Bool)
            .Sample(
                (cents, canadian) =>
                {
                    var amount = new Money(cents / 100m, canadian ? Currency.CAD : Currency.USD).Formatted;
                    var trimmed = Amounts.Remove($"Assigned to Two Forks Trucking for {amount}, over the agreed {amount}.");
                    return !trimmed.Any(char.IsAsciiDigit)
                        && trimmed.StartsWith("Assigned to Two Forks Trucking for ", StringComparison.Ordinal)
                        && trimmed.EndsWith("$–.", StringComparison.Ordinal);
                }
            );

    [Fact]
    public void Numbers_that_are_not_amounts_stay() =>
        Assert.Equal(
            "6131: 22 pallets, 43,800 lb, 786 mi, due Nov 24, 14:30",
            Amounts.Remove("6131: 22 pallets, 43,800 lb, 786 mi, due Nov 24, 14:30")
        );

    [Fact]
    public void Amounts_are_shown_with_the_right_and_to_drivers_about_their_own_pay()
    {
        const string sentence = "Rate for 6131 changed to $2,570.00";
        Assert.Equal(sentence, Amounts.Trim(With(Right.RatesSee, Right.MarginsSee), sentence));
        Assert.Equal(sentence, Amounts.Trim(With(Right.TripsOwn), sentence));
        foreach (var access in new[] { With(Right.RatesSee), With(Right.MarginsSee), With(Right.LoadsSee), Access.Nobody })
        {
            Assert.Equal("Rate for 6131 changed to $–", Amounts.Trim(access, sentence));
        }
    }
}
