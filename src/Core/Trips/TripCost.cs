using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;

namespace SteadyLark.Core.Trips;

/// <summary>Cost assumptions for our own trucks.</summary>
/// <param name="MilesPerGallon">Fuel economy, US gallons, above 0.</param>
/// <param name="FuelPrice">Dollars a gallon.</param>
/// <param name="DriverPerMile">Dollars a mile, empty miles included, for a driver whose pay rates are not by the load.</param>
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

/// <summary>What our truck does for a leg.</summary>
/// <param name="Miles">Loaded, whole miles.</param>
/// <param name="EmptyMiles">From where the truck was free to where it takes the freight; whole miles.</param>
/// <param name="TollMiles">Of both, on toll roads.</param>
/// <param name="Lasts">The trip, from leaving empty to leaving the last stop.</param>
/// <param name="Part">The leg's part of the trip's days when its truck carries other freight too; null when the trip is all its own.</param>
public sealed record TruckWork(int Miles, int EmptyMiles, double TollMiles, Duration Lasts, decimal? Part = null)
{
    /// <summary>In quarters of a day, rounded up, at least one quarter; or the leg's part of them.</summary>
    public decimal Days => Part ?? Quarters(Lasts);

    /// <summary>A length of time in quarters of a day, rounded up, at least one quarter.</summary>
    public static decimal Quarters(Duration length) => Math.Max(0.25m, Math.Ceiling((decimal)length.TotalDays * 4) / 4);

    /// <summary>Empty and loaded.</summary>
    public int AllMiles => Miles + EmptyMiles;
}

/// <summary>What a driver earns for a leg, and what else that costs.</summary>
/// <param name="ByLeg">Pay by rates per mile, percent, load and stop; null when the driver is paid by the hour, day or week only.</param>
/// <param name="TaxPercent">Employer payroll tax, for an employee.</param>
/// <param name="PerDiem">Dollars a day out; not taxed. Expected for the days of a leg that lasts a day or longer.</param>
/// <param name="Part">A team driver's part of the leg; all of it when null.</param>
public sealed record DriverCost(Money? ByLeg, WorkerKind Worker, decimal TaxPercent, decimal PerDiem = 0, CrewPart? Part = null)
{
    /// <summary>By the driver's pay rates of the day the leg ends or will end.</summary>
    /// <param name="lineHaul">The leg's share of it.</param>
    /// <param name="stops">Of the leg.</param>
    public static DriverCost Of(
        DriverAgreement agreement,
        WorkerKind worker,
        decimal taxPercent,
        TruckWork work,
        Money lineHaul,
        int stops,
        LocalDate on,
        CrewPart? part = null
    ) =>
        new(
            agreement.LegPay(work.Miles, lineHaul, stops, on, work.EmptyMiles, part),
            worker,
            taxPercent,
            agreement.At(PayKind.PerDay, on),
            part
        );

    /// <summary>What the driver earns for a leg, with per diem, and the employer's payroll tax on it. A driver whose pay rates are not by the load
    /// costs what is assumed by the mile.</summary>
    internal (Money Pay, Money Tax) For(CostFigures figures, TruckWork work)
    {
        var pay = ByLeg ?? Money.Usd((Part ?? CrewPart.All).Of(work.AllMiles) * figures.DriverPerMile).ToCents();
        var away = ByLeg is not null && work.Lasts >= Duration.FromDays(1) ? work.Days * PerDiem : 0;
        return (pay + Money.Usd(away).ToCents(), Worker == WorkerKind.Employee ? (pay * (TaxPercent / 100m)).ToCents() : Money.Zero());
    }
}

/// <summary>
/// What a leg on our own truck costs, expected or entered, so that it compares with a carrier's price: driver and payroll tax, fuel,
/// tolls, truck and the empty miles before it. An owner-operator bears fuel, tolls and truck (49 CFR 376.12(e) leaves that to the
/// lease; ours says so). Each part is rounded to cents.
/// </summary>
/// <param name="Driver">Pay and per diem.</param>
/// <param name="Truck">By the mile and by the day.</param>
/// <param name="Other">Lodging, scales and the rest, as entered.</param>
/// <example>650 miles, 40 of them toll, a day and a quarter, at 6.5 mpg and $3.90, $0.62, $0.21, $148 a day, $0.18: driver 403.00, fuel
/// 390.00, tolls 7.20, truck 321.50; with 7.65 % payroll tax 30.83.</example>
public sealed record LegCost(Money Driver, Money PayrollTax, Money Fuel, Money Tolls, Money Truck, Money Other)
{
    /// <summary>The part of the drivers' pay that is the co-driver's; zero without one.</summary>
    public Money Codriver { get; init; } = Money.Zero();

    /// <summary>What was planned for fuel, whatever was spent since.</summary>
    public Money PlannedFuel { get; init; } = Money.Zero();

    /// <summary>What was planned for tolls, whatever was spent since.</summary>
    public Money PlannedTolls { get; init; } = Money.Zero();

    public static readonly LegCost None = new(Money.Zero(), Money.Zero(), Money.Zero(), Money.Zero(), Money.Zero(), Money.Zero());

    public Money Total => Money.Sum([Driver, PayrollTax, Fuel, Tolls, Truck, Other]);

    /// <param name="driver">Whose truck it is when an owner-operator drives.</param>
    /// <param name="known">Planned and spent: they replace calculated fuel and tolls, and add the rest.</param>
    /// <param name="codriver">The other driver of a team; null for a driver alone.</param>
    public static LegCost Of(CostFigures figures, TruckWork work, DriverCost driver, KnownCosts known, DriverCost? codriver = null)
    {
        var own = driver.Worker == WorkerKind.OwnerOperator;
        var (pay, tax) = driver.For(figures, work);
        var (with, withTax) = codriver?.For(figures, work) ?? (Money.Zero(), Money.Zero());
        var gallons = work.AllMiles / figures.MilesPerGallon;
        var fuel = known.Fuel.Plan(Ours(gallons * figures.FuelPrice));
        var tolls = known.Tolls.Plan(Ours((decimal)work.TollMiles * figures.TollPerMile));
        return new LegCost(
            pay + with,
            tax + withTax,
            // A tank filled on one trip is burned on the next: what counts is what the miles burn, at the price paid.
            !own && known is { Fuel.Planned: null, FuelPaid: { } paid }
                ? Ours(gallons * paid)
                : known.Fuel.Counted(fuel),
            known.Tolls.Counted(tolls),
            Ours((work.AllMiles * figures.FixedPerMile) + (work.Days * figures.FixedPerDay)),
            known.Other
        )
        {
            Codriver = with,
            PlannedFuel = fuel,
            PlannedTolls = tolls,
        };

        Money Ours(decimal amount) => own ? Money.Zero() : Money.Usd(amount).ToCents();
    }

    public static LegCost operator +(LegCost a, LegCost b) =>
        new(a.Driver + b.Driver, a.PayrollTax + b.PayrollTax, a.Fuel + b.Fuel, a.Tolls + b.Tolls, a.Truck + b.Truck, a.Other + b.Other)
        {
            Codriver = a.Codriver + b.Codriver,
            PlannedFuel = a.PlannedFuel + b.PlannedFuel,
            PlannedTolls = a.PlannedTolls + b.PlannedTolls,
        };
}

/// <summary>A load's margin: revenue less what all its legs cost, on our trucks or with carriers.</summary>
public static class LoadMargin
{
    /// <summary>What our own trucks cost for all legs; null when one is not ours.</summary>
    public static LegCost? Of(IEnumerable<LegCost?> legs)
    {
        var all = legs.ToList();
        return all.Count > 0 && all.All(c => c is not null) ? all.Aggregate(LegCost.None, (sum, c) => sum + c!) : null;
    }

    /// <summary>What the legs cost together; null while one of them has no cost yet.</summary>
    /// <param name="legs">Of each leg: its carrier's bill, else the agreed pay, else what our own truck costs.</param>
    public static Money? Cost(IEnumerable<Money?> legs)
    {
        var all = legs.ToList();
        return all.Count > 0 && all.All(c => c is not null) ? Money.Sum(all.Select(c => c!.Value)) : null;
    }
}

/// <summary>A trip's expected cost and profit.</summary>
/// <param name="Profit">Revenue less all costs.</param>
public sealed record TripCost(
    Money Driver,
    Money PayrollTax,
    Money Fuel,
    Money Tolls,
    Money Truck,
    Money Other,
    Money Total,
    decimal Days,
    Money Profit,
    Money? ProfitPerMile,
    Money ProfitPerDay
)
{
    /// <param name="cost">Of all its legs.</param>
    /// <param name="miles">Empty and loaded.</param>
    public static TripCost Of(LegCost cost, Money revenue, double miles, decimal days)
    {
        var profit = revenue - cost.Total;
        return new TripCost(
            cost.Driver,
            cost.PayrollTax,
            cost.Fuel,
            cost.Tolls,
            cost.Truck,
            cost.Other,
            cost.Total,
            days,
            profit,
            miles >= 1 ? Money.Usd(profit.Amount / (decimal)miles).ToCents() : null,
            Money.Usd(profit.Amount / days).ToCents()
        );
    }
}

/// <summary>What is spent on a trip.</summary>
public enum CostKind
{
    Fuel,

    /// <summary>For the trailer's refrigeration unit: the truck's miles do not burn it, and fuel tax reports leave it out.</summary>
    ReeferFuel,
    Toll,
    Scale,
    Lumper,
    Lodging,
    Parking,
    Wash,
    Repair,
    Other,
}

/// <summary>An amount planned or spent, by kind.</summary>
public sealed record EnteredCost(CostKind Kind, [property: SeenWith(Right.MarginsSee)] Money Amount)
{
    /// <summary>One leg's share of a load's cost, by miles; the shares of all legs add up.</summary>
    /// <param name="miles">Of all legs of the load, in order.</param>
    /// <param name="leg">Which of them, from zero.</param>
    public EnteredCost Share(IReadOnlyList<int> miles, int leg) => this with { Amount = DriverAgreement.Share(Amount, miles, leg) };
}

/// <summary>What was planned and spent of one kind.</summary>
/// <param name="Planned">As entered; null when it is to be calculated.</param>
/// <param name="Spent">Null when no expense was entered.</param>
/// <param name="IsOver">Whether the trip is over.</param>
public sealed record Spending(Money? Planned = null, Money? Spent = null, bool IsOver = false)
{
    /// <summary>What was planned: as entered, else as calculated.</summary>
    public Money Plan(Money calculated) => Planned ?? calculated;

    /// <summary>What counts as cost: what was spent once the trip is over; until then the plan, or more when more was spent. The plan, where
    /// no expense was entered.</summary>
    /// <example>Fuel planned 390, 250 bought so far: 390 counts. The trip is over: 250 counts.</example>
    public Money Counted(Money plan) =>
        Spent is not { } spent ? plan
        : IsOver || spent > plan ? spent
        : plan;
}

/// <summary>Planned costs and expenses of a leg.</summary>
/// <param name="Other">What counts of all kinds but fuel and tolls.</param>
/// <param name="FuelPaid">Dollars a gallon, on average of the fuel bought on the trip; null when none was, or not all gallons are
/// known.</param>
public sealed record KnownCosts(Spending Fuel, Spending Tolls, Money Other, decimal? FuelPaid = null)
{
    public static readonly KnownCosts None = new(new Spending(), new Spending(), Money.Zero());

    /// <param name="planned">Of the leg, as entered.</param>
    /// <param name="spent">Its share of the trip's expenses, in US dollars.</param>
    /// <param name="isOver">Whether the trip is over.</param>
    /// <param name="fuelPaid">Of the trip, from <see cref="TripSpending.FuelPaid"/>.</param>
    public static KnownCosts Of(
        IEnumerable<EnteredCost> planned,
        IEnumerable<EnteredCost>? spent = null,
        bool isOver = false,
        decimal? fuelPaid = null
    )
    {
        var (plans, expenses) = (planned.ToLookup(c => c.Kind, c => c.Amount), (spent ?? []).ToLookup(c => c.Kind, c => c.Amount));
        return new KnownCosts(
            Of(CostKind.Fuel),
            Of(CostKind.Toll),
            Money.Sum(
                Enum.GetValues<CostKind>()
                    .Where(k => k is not (CostKind.Fuel or CostKind.Toll))
                    .Select(k => Of(k))
                    .Select(s => s.Counted(s.Plan(Money.Zero())))
            ),
            fuelPaid
        );

        Spending Of(CostKind kind) => new(Sum(plans, kind), Sum(expenses, kind), isOver);
    }

    private static Money? Sum(ILookup<CostKind, Money> amounts, CostKind kind) => amounts.Contains(kind) ? Money.Sum(amounts[kind]) : null;
}
