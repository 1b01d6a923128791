using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips;

/// <summary>Fuel bought.</summary>
/// <param name="Quantity">In its unit, above 0, with up to three decimals.</param>
/// <param name="Price">For a unit, in the currency of the amount, above 0, with up to four decimals.</param>
public sealed record FuelBought(decimal Quantity, VolumeUnit Unit, decimal Price)
{
    /// <summary>More than a truck's tanks hold, in US gallons: two of 150, and a third for the refrigeration unit, filled twice.</summary>
    public const decimal MostGallons = 700;

    /// <summary>A receipt's amount differs from quantity times price by rounding at the pump, at most by so much.</summary>
    public const decimal Rounding = 0.05m;

    /// <summary>US gallons, to a thousandth.</summary>
    public decimal Gallons => Unit == VolumeUnit.Gallons ? Quantity : Volume.Gallons(Quantity, Unit, 3);

    /// <summary>Reads a receipt: of quantity, price and amount, two give the third.</summary>
    /// <param name="unit">US gallons when null.</param>
    /// <returns>What was bought, and what it came to; null with problems.</returns>
    /// <example>102.5 gallons at $3.799 is $389.40. 389.40 for 102.5 gallons is $3.799 each.</example>
    public static (FuelBought Fuel, Money Amount)? Read(
        decimal? quantity,
        VolumeUnit? unit,
        decimal? price,
        Money? amount,
        Validation validation
    )
    {
        var sold = unit ?? VolumeUnit.Gallons;
        var name = sold == VolumeUnit.Gallons ? "gallons" : "liters";
        var most = sold == VolumeUnit.Gallons ? MostGallons : Math.Floor(MostGallons * Volume.LitersPerGallon);
        if (quantity is { } q && (q <= 0 || q > most || decimal.Round(q, 3) != q))
        {
            validation.Add("quantity", $"Enter the {name} as more than 0 and at most {most:#,##0}, with up to three decimals.", "quantity");
        }

        if (price is { } each && (each <= 0 || each > 25 || decimal.Round(each, 4) != each))
        {
            validation.Add("price", "Enter the price as more than 0 and at most 25, with up to four decimals.", "price");
        }

        validation.Dollars(amount, "amount", "The amount", required: false);
        if (!validation.Ok)
        {
            return null;
        }

        switch (quantity, price, amount)
        {
            case ({ } bought, { } cost, { } paid):
                if (Math.Abs((bought * cost) - paid.Amount) > Rounding)
                {
                    validation.Add(
                        "amount.differs",
                        $"{bought:0.###} {name} at {cost:0.00##} come to {paid with { Amount = Math.Round(bought * cost, 2) }}, not {paid}: enter what else is on the receipt apart.",
                        "amount"
                    );
                    return null;
                }

                return (new FuelBought(bought, sold, cost), paid);
            case ({ } bought, { } cost, null):
                return (new FuelBought(bought, sold, cost), new Money(bought * cost, validation.Currency).ToCents());
            case ({ } bought, null, { } paid):
                return (new FuelBought(bought, sold, Math.Round(paid.Amount / bought, 4)), paid);
            case (null, { } cost, { } paid):
                return (new FuelBought(Math.Round(paid.Amount / cost, 3), sold, cost), paid);
            default:
                validation.Add(
                    "missing",
                    $"Enter two of the {name}, the price and the amount; the third follows.",
                    quantity is null ? "quantity" : "amount"
                );
                return null;
        }
    }
}
