using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;

namespace SteadyLark.Core.Pricing;

/// <summary>How a charge's amount is calculated.</summary>
public enum ChargeBasis
{
    /// <summary>The amount as given.</summary>
    Flat,

    /// <summary>Dollars per mile, times the load's miles.</summary>
    PerMile,

    /// <summary>Dollars per hundredweight (100 lb), times the load's weight.</summary>
    PerCwt,

    /// <summary>Percent of the line haul.</summary>
    Percent,

    /// <summary>Less-than-truckload: a rate table, by freight class, weight and miles; for the line haul.</summary>
    ByClass,
}

/// <summary>A priced charge: its kind, its basis and its amount.</summary>
/// <param name="Rate">Dollars per mile, dollars per hundredweight or percent, to four places; null when flat or by class.</param>
/// <param name="Quantity">Miles, hundredweights (by class, those charged) or dollars of line haul; null when flat.</param>
/// <param name="Amount">Below zero for a discount.</param>
/// <param name="Minimum">What is charged at least, in dollars; null without a minimum and when flat.</param>
/// <param name="Rating">How it came about, when by class.</param>
public sealed record PricedCharge(
    ChargeBasis Basis,
    decimal? Rate,
    decimal? Quantity,
    Money Amount,
    decimal? Minimum = null,
    ClassRating? Rating = null
)
{
    /// <summary>The same with its dollars in another currency: nothing is converted, as rates and amounts are entered in the payer's.</summary>
    public PricedCharge In(Currency currency) => this with { Amount = Amount with { Currency = currency } };
}

/// <summary>A charge as entered.</summary>
/// <param name="Amount">Dollars, when flat.</param>
/// <param name="Rate">As in <see cref="PricedCharge.Rate"/>, when not flat.</param>
/// <param name="Minimum">As in <see cref="PricedCharge.Minimum"/>; by class, null for the rate table's.</param>
/// <param name="ByClass">The rate table and the discount, when by class.</param>
public sealed record ChargeInput(
    ChargeKind? Kind,
    ChargeBasis Basis,
    decimal? Amount,
    decimal? Rate,
    decimal? Minimum = null,
    ByClass? ByClass = null
);

/// <summary>A rate table, as chosen for a charge.</summary>
/// <param name="DiscountPercent">Instead of the table's; null for the table's.</param>
public sealed record ByClass(long? ClassRatesId, decimal? DiscountPercent);

/// <summary>What charges are priced by.</summary>
/// <param name="Miles">The load's miles, when known.</param>
/// <param name="Tables">The rate tables that the charges name.</param>
/// <param name="Currency">Of the load.</param>
public sealed record PricedBy(
    int? Miles,
    IReadOnlyList<ClassFreight> Freight,
    IReadOnlyList<ClassRates> Tables,
    Currency Currency = Currency.USD
)
{
    /// <summary>The total weight in pounds; null when no line has one.</summary>
    public int? WeightLb
    {
        get
        {
            var known = Freight.Select(f => f.WeightLb).OfType<int>().Where(w => w is > 0 and <= 400_000).ToList();
            return known.Count > 0 ? known.Sum() : null;
        }
    }
}

/// <summary>A charge while it is entered.</summary>
/// <param name="Amount">Null when it cannot be priced yet.</param>
/// <param name="Rating">How it came about, when by class: in words.</param>
/// <param name="Why">Why it cannot be priced yet, when by class.</param>
public sealed record PreviewedCharge(Money? Amount, string? Rating = null, string? Why = null);

/// <summary>What a load's charges come to while they are entered.</summary>
/// <param name="Charges">In the order of the charges.</param>
/// <param name="PerMile">Dollars; null without miles or amounts.</param>
/// <param name="IsBelowMinimum">Whether the total is below the load's minimum rate.</param>
public sealed record ChargePreview(IReadOnlyList<PreviewedCharge> Charges, Money Total, decimal? PerMile, bool IsBelowMinimum);

public static class ChargePrices
{
    /// <summary>The code of a percentage of a line haul that is not priced.</summary>
    public const string NoLineHaul = "line.haul";

    /// <summary>The highest rate accepted.</summary>
    public const decimal MaxRate = 100_000m;

    /// <summary>Prices a charge. Amounts are rounded to the cent, half away from zero.</summary>
    /// <param name="amount">Dollars, when flat.</param>
    /// <param name="rate">As in <see cref="PricedCharge.Rate"/>, when not flat.</param>
    /// <param name="miles">The load's miles, when known.</param>
    /// <param name="weightLb">The load's total weight, when known.</param>
    /// <param name="lineHaul">The line haul amount; null while the line haul itself is priced.</param>
    /// <param name="minimum">As in <see cref="PricedCharge.Minimum"/>.</param>
    /// <returns>The charge, or why it cannot be priced; fields are relative to the charge.</returns>
    /// <example>2.10 a mile over 60 miles with a minimum of 250 is 250.00.</example>
    public static Outcome<PricedCharge> Price(
        ChargeBasis basis,
        decimal? amount,
        decimal? rate,
        int? miles,
        int? weightLb,
        Money? lineHaul,
        decimal? minimum = null
    )
    {
        if (basis == ChargeBasis.Flat)
        {
            return amount is < 0 or > Money.Limit
                ? new Problem("amount", $"the amount must be between zero and {Money.Usd(Money.Limit).Formatted}", "amount")
                : new PricedCharge(basis, null, null, Money.Usd(amount ?? 0m));
        }

        if (rate is null)
        {
            return new Problem("missing", "a rate is required", "rate");
        }

        if (rate <= 0 || rate > MaxRate || decimal.Round(rate.Value, 4) != rate)
        {
            return new Problem(
                "rate",
                $"the rate must be more than zero and at most {MaxRate:#,##0}, with up to four decimal places",
                "rate"
            );
        }

        if (MinimumRefusal(minimum) is { } tooLow)
        {
            return tooLow;
        }

        (decimal? quantity, string lacking) = basis switch
        {
            ChargeBasis.PerMile => (miles, "the miles are unknown until both places are set: enter a flat amount or the places"),
            ChargeBasis.PerCwt => (
                weightLb is { } lb ? lb / 100m : null,
                "the weight is unknown: enter it on a freight line or use a flat amount"
            ),
            _ => (lineHaul?.Amount, "line haul cannot be a percentage of line haul"),
        };
        if (quantity is null)
        {
            return new Problem("quantity", lacking, "rate");
        }

        var total = Math.Round(rate.Value * quantity.Value / (basis == ChargeBasis.Percent ? 100m : 1m), 2, MidpointRounding.AwayFromZero);
        return total > Money.Limit
            ? new Problem("too.large", $"totals more than {Money.Usd(Money.Limit).Formatted}; check the rate", "rate")
            : new PricedCharge(basis, rate, quantity, Money.Usd(Math.Max(total, minimum ?? 0)), minimum);
    }

    /// <summary>Prices the charges of a load in their order. Percentages are of all line hauls that could be priced.</summary>
    public static IReadOnlyList<Outcome<PricedCharge>> PriceAll(IReadOnlyList<ChargeInput> charges, PricedBy by)
    {
        Outcome<PricedCharge> Priced(ChargeInput c, Money? lineHaul)
        {
            Outcome<PricedCharge> price =
                c.Basis == ChargeBasis.ByClass ? PriceByClass(c, by)
                : c.Basis == ChargeBasis.Percent && c.Kind != ChargeKind.LineHaul && lineHaul is null
                    ? new Problem(NoLineHaul, "the line haul is not priced yet", "rate")
                : Price(c.Basis, c.Amount, c.Rate, by.Miles, by.WeightLb, lineHaul, c.Minimum);
            return price.Ok && c.Kind == ChargeKind.Discount ? price.Value with { Amount = -price.Value.Amount } : price;
        }

        var hauls = charges.Where(c => c.Kind == ChargeKind.LineHaul).Select(c => Priced(c, null)).ToList();
        var priced = hauls.Where(h => h.Ok).Select(h => h.Value.Amount).ToList();
        Money? lineHaul = priced.Count > 0 ? Money.Sum(priced) : null;
        var next = 0;
        return charges.Select(c => c.Kind == ChargeKind.LineHaul ? hauls[next++] : Priced(c, lineHaul)).ToList();
    }

    private static Problem? MinimumRefusal(decimal? minimum) =>
        minimum is { } least && (least <= 0 || least > Money.Limit || decimal.Round(least, 2) != least)
            ? new Problem("minimum", "the minimum must be more than zero, in dollars and cents", "minimum")
            : null;

    /// <summary>Prices a charge by a rate table; its fields are relative to the charge.</summary>
    private static Outcome<PricedCharge> PriceByClass(ChargeInput charge, PricedBy by)
    {
        if (charge.Kind != ChargeKind.LineHaul)
        {
            return new Problem("class.line.haul", "only the line haul is rated by class", "basis");
        }

        if (by.Tables.FirstOrDefault(t => t.Id == charge.ByClass?.ClassRatesId) is not { } table)
        {
            return new Problem("missing", "choose the rate table", "classRatesId");
        }

        if (table.Currency != by.Currency)
        {
            return new Problem(
                "currency",
                $"the rate table {table.Name} is in {table.Currency.Format()}, and this load is billed in {by.Currency.Format()}: choose another",
                "classRatesId"
            );
        }

        if (MinimumRefusal(charge.Minimum) is { } tooLow)
        {
            return tooLow;
        }

        var rated = table.Rate(by.Miles, by.Freight, charge.ByClass!.DiscountPercent, charge.Minimum);
        return !rated.Ok ? rated.Problems
            : rated.Value.Net > Money.Limit
                ? new Problem("too.large", $"totals more than {Money.Usd(Money.Limit).Formatted}; check the weight", "classRatesId")
            : new PricedCharge(
                ChargeBasis.ByClass,
                null,
                rated.Value.ChargedLb / 100m,
                Money.Usd(rated.Value.Net),
                charge.Minimum,
                rated.Value
            );
    }

    /// <summary>What charges come to while they are entered: those that can be priced, their total, and the total per mile to the cent,
    /// half away from zero.</summary>
    /// <param name="minimum">The minimum rate of the load, when known.</param>
    /// <example>2.50 a mile over 344 miles and 12.5 % of it: 860.00, 107.50, together 967.50, 2.81 a mile.</example>
    public static ChargePreview Preview(IReadOnlyList<ChargeInput> charges, PricedBy by, Money? minimum)
    {
        var previewed = PriceAll(charges, by)
            .Select(
                (p, i) =>
                    p.Ok
                        ? new PreviewedCharge(p.Value.In(by.Currency).Amount, p.Value.Rating?.Described)
                        : new PreviewedCharge(
                            null,
                            Why: charges[i].Basis == ChargeBasis.ByClass ? $"{p.Problems[0].Message.Capitalized()}." : null
                        )
            )
            .ToList();
        var total = Money.Sum(previewed.Select(p => p.Amount).OfType<Money>(), by.Currency);
        return new ChargePreview(
            previewed,
            total,
            by.Miles > 0 && total.Amount > 0 ? Math.Round(total.Amount / by.Miles.Value, 2, MidpointRounding.AwayFromZero) : null,
            total.Amount > 0 && total < minimum
        );
    }

    /// <summary>A load's charges repriced for other miles: those by the mile, then percentages of the new line haul. Flat charges and those
    /// by weight or class keep their amounts: a stop on the way does not change a class rate.</summary>
    /// <param name="charges">All charges of the load, in any order.</param>
    /// <param name="miles">The load's miles, at least 0.</param>
    /// <returns>The charges in the given order. One that cannot be priced for these miles keeps its amount.</returns>
    public static IReadOnlyList<StoredCharge> ForMiles(IReadOnlyList<StoredCharge> charges, int miles)
    {
        StoredCharge Priced(StoredCharge c, Money? lineHaul) =>
            c.Basis is ChargeBasis.PerMile or ChargeBasis.Percent
            && Price(c.Basis, null, c.Rate, miles, null, lineHaul, c.Minimum) is { Ok: true } price
            && price.Value.In(c.Amount.Currency) is { } priced
                ? c with
                {
                    Quantity = priced.Quantity,
                    Amount = c.Kind == ChargeKind.Discount ? -priced.Amount : priced.Amount,
                }
                : c;

        var lineHauls = charges.Where(c => c.Kind == ChargeKind.LineHaul).ToDictionary(c => c.Id, c => Priced(c, null));
        var lineHaul = Money.Sum(lineHauls.Values.Select(c => c.Amount));
        return charges.Select(c => lineHauls.GetValueOrDefault(c.Id) ?? Priced(c, lineHaul)).ToList();
    }
}

/// <summary>What charges by the mile would come to once a stop was added: proposed, because the customer agrees to it first.</summary>
/// <param name="ChargedMiles">The miles that are charged now.</param>
/// <param name="Before">All charges now.</param>
/// <param name="After">All charges at the new miles.</param>
public sealed record MileProposal(
    int ChargedMiles,
    int Miles,
    [property: SeenWith(Right.RatesSee)] Money Before,
    [property: SeenWith(Right.RatesSee)] Money After
)
{
    /// <summary>The proposal; null where nothing is charged by the mile, or the miles are those charged.</summary>
    /// <param name="miles">The load's miles now; null when a place is missing.</param>
    public static MileProposal? Of(IReadOnlyList<StoredCharge> charges, int? miles)
    {
        if (miles is not { } m || charges.FirstOrDefault(c => c.Basis == ChargeBasis.PerMile) is not { Quantity: { } charged })
        {
            return null;
        }

        var (before, after) = (
            Money.Sum(charges.Select(c => c.Amount)),
            Money.Sum(ChargePrices.ForMiles(charges, m).Select(c => c.Amount))
        );
        return before == after ? null : new MileProposal((int)charged, m, before, after);
    }

    /// <summary>Why a load's charges cannot be changed to it; null when they can.</summary>
    public static Problem? Refusal(LoadState state, string number, MileProposal? proposal) =>
        state is LoadState.Billed or LoadState.Closed or LoadState.Cancelled or LoadState.Draft
            ? new Problem("load.billed", $"{number} is {state.ToString().ToLowerInvariant()}: add a late charge instead.")
        : proposal is null ? new Problem("miles.same", $"The charges of {number} are for its miles already.")
        : null;
}

/// <summary>A charge of a load, as stored.</summary>
/// <param name="Rate">As in <see cref="PricedCharge"/>, as is <paramref name="Quantity"/>.</param>
public sealed record StoredCharge(
    long Id,
    ChargeKind Kind,
    ChargeBasis Basis,
    decimal? Rate,
    decimal? Quantity,
    Money Amount,
    decimal? Minimum = null
);
