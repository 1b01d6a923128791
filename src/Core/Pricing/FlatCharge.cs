using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Pricing;

/// <summary>A charge of a fixed amount, checked.</summary>
/// <param name="Amount">Below zero only for a discount.</param>
public sealed record FlatCharge(ChargeKind Kind, string? Description, Money Amount, ChargeAuthorization? Authorization = null);

/// <summary>A charge of a fixed amount, as entered: every amount above zero, a discount too.</summary>
public sealed record FlatChargeOrder(ChargeKind? Kind, string? Description, Money? Amount, ChargeAuthorization? Authorization = null)
{
    /// <summary>Checks charges; the fields are <c>charges[0].kind</c> and so on.</summary>
    /// <returns>The charges with amounts as entered. Valid only while <paramref name="validation"/> has no problems.</returns>
    public static IReadOnlyList<FlatCharge> Check(IReadOnlyList<FlatChargeOrder?> orders, LocalDate today, Validation validation)
    {
        var charges = new List<FlatCharge>();
        for (var i = 0; i < orders.Count; i++)
        {
            var (order, at) = (orders[i], $"charges[{i}]");
            var name = order?.Kind?.Format() ?? $"Charge {i + 1}";
            if (order?.Kind is null)
            {
                validation.Add("missing", $"{name}: choose a charge type.", $"{at}.kind");
            }

            validation.Dollars(order?.Amount, $"{at}.amount", $"{name}: the amount");
            var description = validation.Text(
                order?.Description,
                $"{at}.description",
                $"{name}: the description",
                200,
                required: order?.Kind == ChargeKind.Other
            );
            var authorization = ChargeAuthorization.Check(order?.Authorization, today, at, name, validation);
            if (order is { Kind: { } kind, Amount: { } amount })
            {
                charges.Add(new FlatCharge(kind, description, amount, authorization));
            }
        }

        return charges;
    }
}
