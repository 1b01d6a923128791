using NodaTime;
using SteadyLark.Core.Basics;

namespace SteadyLark.Core.Trips;

/// <summary>Cost assumptions for trips.</summary>
/// <param name="MilesPerGallon">Fuel economy, US gallons, above 0.</param>
/// <param name="FuelPrice">Dollars a gallon.</param>
/// <param name="DriverPerMile">Dollars a mile, for a driver without pay rates.</param>
/// <param name="FixedPerMile">Dollars a mile for tires, maintenance and the like.</param>
/// <param name="FixedPerDay">Dollars a day for truck, trailer, insurance and overhead.</param>
/// <param name="TollPerMile">Dollars a mile on toll roads.</param>
public sealed record CostFigures(
    decimal MilesPerGallon,
    decimal FuelPrice,
    decimal DriverPerMile,
    decimal FixedPerMile,
    decimal FixedPerDay,
    decimal TollPerMile
);

/// <summary>A trip's expected cost and profit; each part in whole cents.</summary>
/// <param name="Other">Lodging, scales and the rest, as entered.</param>
/// <param name="Days">From the empty start to the end of the last stop, in quarters of a day, at least one quarter.</param>
/// <param name="Profit">Revenue less all costs.</param>
public sealed record TripCost(
    Money Fuel,
    Money Tolls,
    Money Driver,
    Money Fixed,
    Money Other,
    Money Total,
    decimal Days,
    Money Profit,
    Money? ProfitPerMile,
    Money ProfitPerDay
)
{
    /// <param name="revenue">The trip's revenue.</param>
    /// <param name="miles">Empty and loaded.</param>
    /// <param name="tollMiles">Of them, on toll roads.</param>
    /// <param name="lasts">From start to end.</param>
    /// <param name="wage">Driver pay by their pay rates, or null to use the company's figure.</param>
    /// <param name="known">Amounts entered by kind, expected or actual: they replace calculated fuel and tolls, and add the rest.</param>
    public static TripCost Of(
        CostFigures figures,
        Money revenue,
        double miles,
        double tollMiles,
        Duration lasts,
        Money? wage,
        KnownCosts known
    )
    {
        var m = (decimal)miles;
        var days = Math.Max(0.25m, Math.Ceiling((decimal)lasts.TotalDays * 4) / 4);
        var fuel = known.Fuel ?? Money.Usd(m / figures.MilesPerGallon * figures.FuelPrice).ToCents();
        var tolls = known.Tolls ?? Money.Usd((decimal)tollMiles * figures.TollPerMile).ToCents();
        var driver = wage ?? Money.Usd(m * figures.DriverPerMile).ToCents();
        var still = Money.Usd((m * figures.FixedPerMile) + (days * figures.FixedPerDay)).ToCents();
        var total = Money.Sum([fuel, tolls, driver, still, known.Other]);
        var profit = revenue - total;
        return new TripCost(
            fuel,
            tolls,
            driver,
            still,
            known.Other,
            total,
            days,
            profit,
            miles >= 1 ? Money.Usd(profit.Amount / m).ToCents() : null,
            Money.Usd(profit.Amount / days).ToCents()
        );
    }
}

/// <summary>Costs entered for a trip.</summary>
/// <param name="Fuel">Null when nothing was entered, as is <paramref name="Tolls"/>.</param>
public sealed record KnownCosts(Money? Fuel, Money? Tolls, Money Other)
{
    public static readonly KnownCosts None = new(null, null, Money.Zero());
}
