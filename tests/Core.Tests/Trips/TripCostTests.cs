using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

/// <summary>What a leg on our own truck costs, and what a trip leaves.</summary>
public class TripCostTests
{
    private static readonly CostFigures Figures = new(6.5m, 3.90m, 0.62m, 0.21m, 148m, 0.18m);
    private static readonly TruckWork Work = new(550, 100, 40, Duration.FromHours(30));
    private static readonly DriverCost Salaried = new(null, WorkerKind.Employee, 7.65m);

    [Fact]
    public void Each_part_uses_the_cost_assumptions_over_all_miles()
    {
        var cost = LegCost.Of(Figures, Work, Salaried, KnownCosts.None);

        // 650 miles; a day and a quarter, for 30 hours are five quarters of a day.
        Assert.Equal((403.00m, 30.83m), (cost.Driver.Amount, cost.PayrollTax.Amount));
        Assert.Equal((390.00m, 7.20m, 321.50m), (cost.Fuel.Amount, cost.Tolls.Amount, cost.Truck.Amount));
        Assert.Equal(1152.53m, cost.Total.Amount);
        var trip = TripCost.Of(cost, Money.Usd(2400m), Work.AllMiles, Work.Days);
        Assert.Equal((1247.47m, 1.92m, 997.98m), (trip.Profit.Amount, trip.ProfitPerMile!.Value.Amount, trip.ProfitPerDay.Amount));
    }

    [Theory]
    [InlineData(WorkerKind.Employee, 26.78, 390, 7.20, 321.50)]
    [InlineData(WorkerKind.Contractor, 0, 390, 7.20, 321.50)]
    [InlineData(WorkerKind.OwnerOperator, 0, 0, 0, 0)]
    public void Payroll_tax_is_of_employees_and_an_owner_operator_bears_the_truck(
        WorkerKind worker,
        double tax,
        double fuel,
        double tolls,
        double truck
    )
    {
        var cost = LegCost.Of(Figures, Work, new DriverCost(Money.Usd(350m), worker, 7.65m), KnownCosts.None);
        Assert.Equal(350m, cost.Driver.Amount);
        Assert.Equal((decimal)tax, cost.PayrollTax.Amount);
        Assert.Equal(((decimal)fuel, (decimal)tolls, (decimal)truck), (cost.Fuel.Amount, cost.Tolls.Amount, cost.Truck.Amount));
    }

    [Theory]
    [InlineData(23, 350)]
    [InlineData(24, 416)]
    [InlineData(30, 432.50)]
    public void Per_diem_is_expected_for_a_day_or_more_and_not_taxed(int hours, double driver)
    {
        var paid = new DriverCost(Money.Usd(350m), WorkerKind.Employee, 7.65m, 66m);
        var cost = LegCost.Of(Figures, Work with { Lasts = Duration.FromHours(hours) }, paid, KnownCosts.None);
        Assert.Equal(((decimal)driver, 26.78m), (cost.Driver.Amount, cost.PayrollTax.Amount));
    }

    [Fact]
    public void Entered_costs_replace_calculated_ones_and_others_add_up()
    {
        var known = KnownCosts.Of([
            new EnteredCost(CostKind.Fuel, Money.Usd(400m)),
            new EnteredCost(CostKind.Fuel, Money.Usd(20.15m)),
            new EnteredCost(CostKind.Toll, Money.Zero()),
            new EnteredCost(CostKind.Scale, Money.Usd(14m)),
            new EnteredCost(CostKind.Lodging, Money.Usd(75m)),
        ]);
        var cost = LegCost.Of(Figures, Work, Salaried, known);
        Assert.Equal((420.15m, 0m, 89m), (cost.Fuel.Amount, cost.Tolls.Amount, cost.Other.Amount));

        // Each leg of a load handed over bears them by its miles.
        var lodging = new EnteredCost(CostKind.Lodging, Money.Usd(89m));
        Assert.Equal((29.67m, 59.33m), (lodging.Share([1, 2], 0).Amount.Amount, lodging.Share([1, 2], 1).Amount.Amount));
        Assert.Equal(KnownCosts.None, KnownCosts.Of([]));
    }

    [Theory]
    [InlineData(null, false, 50.0)]
    [InlineData(20.0, false, 50.0)]
    [InlineData(70.0, false, 70.0)]
    [InlineData(20.0, true, 20.0)]
    [InlineData(null, true, 50.0)]
    public void What_was_spent_counts_once_the_trip_is_over_and_before_when_it_is_more_than_planned(
        double? spent,
        bool isOver,
        double counts
    )
    {
        EnteredCost[] expenses = spent is { } s
            ? [new(CostKind.Lumper, Money.Usd((decimal)s)), new(CostKind.Toll, Money.Usd((decimal)s))]
            : [];
        var known = KnownCosts.Of([new(CostKind.Lumper, Money.Usd(50m)), new(CostKind.Toll, Money.Usd(50m))], expenses, isOver);
        var cost = LegCost.Of(Figures, Work, Salaried, known);
        Assert.Equal(((decimal)counts, (decimal)counts), (cost.Tolls.Amount, cost.Other.Amount));
        Assert.Equal((50m, 390m), (cost.PlannedTolls.Amount, cost.PlannedFuel.Amount));
    }

    [Fact]
    public void Fuel_counts_as_the_miles_burn_it_at_the_price_paid()
    {
        SpentOnTrip[] spent =
        [
            new(CostKind.Fuel, null, Money.Usd(380m), 100m),
            new(CostKind.Fuel, null, Money.Usd(200m), 50m),
            new(CostKind.ReeferFuel, null, Money.Usd(90m), 20m),
        ];
        var paid = TripSpending.FuelPaid(spent);
        Assert.Equal(3.8667m, Math.Round(paid!.Value, 4));
        Assert.Null(TripSpending.FuelPaid([.. spent, new(CostKind.Fuel, null, Money.Usd(10m), null)]));
        Assert.Null(TripSpending.FuelPaid([]));

        // 650 miles at 6.5 mpg burn 100 gallons, however full the tanks were when it ended.
        var bought = spent.Select(s => new EnteredCost(s.Kind, s.Amount)).ToList();
        var known = KnownCosts.Of([], bought, true, paid);
        var cost = LegCost.Of(Figures, Work, Salaried, known);
        Assert.Equal((386.67m, 390m, 90m), (cost.Fuel.Amount, cost.PlannedFuel.Amount, cost.Other.Amount));

        // What somebody planned, and what is bought for an owner-operator, is compared with what was spent instead.
        Assert.Equal(
            580m,
            LegCost.Of(Figures, Work, Salaried, KnownCosts.Of([new(CostKind.Fuel, Money.Usd(400m))], bought, true, paid)).Fuel.Amount
        );
        Assert.Equal(580m, LegCost.Of(Figures, Work, new DriverCost(Money.Usd(350m), WorkerKind.OwnerOperator, 0), known).Fuel.Amount);
    }

    [Fact]
    public void A_load_has_a_cost_once_each_leg_has_one()
    {
        Assert.Null(LoadMargin.Cost([]));
        Assert.Null(LoadMargin.Cost([Money.Usd(5), null]));
        Assert.Equal(Money.Usd(12), LoadMargin.Cost([Money.Usd(5), Money.Usd(7)]));
        Assert.Null(LoadMargin.Of([LegCost.None, null]));
        Assert.Equal(Money.Zero(), LoadMargin.Of([LegCost.None, LegCost.None])!.Total);
    }

    [Fact]
    public void A_round_trip_counts_empty_miles_and_days()
    {
        // An empty mile: 3.90 / 6.5 + 0.21, and a driver paid $0.30 for it with 7.65 %.
        var paid = new DriverCost(Money.Usd(350m), WorkerKind.Employee, 7.65m);
        var costs = RoundTripCosts.Of(Figures, paid, 0.30m);
        Assert.Equal((1.13295m, 148m), (costs.EmptyMile.Amount, costs.Day.Amount));

        // Their rate is for loaded miles only: nothing for an empty one; the company's figure counts all miles.
        Assert.Equal(0.81m, RoundTripCosts.Of(Figures, paid, 0).EmptyMile.Amount);
        Assert.Equal(0.81m + (0.62m * 1.0765m), RoundTripCosts.Of(Figures, Salaried, 0).EmptyMile.Amount);
        Assert.Equal(
            (0m, 0m),
            RoundTripCosts.Of(Figures, paid with { Worker = WorkerKind.OwnerOperator }, 0) is var o
                ? (o.EmptyMile.Amount, o.Day.Amount)
                : default
        );

        Assert.Equal(214m, RoundTripCosts.Of(Figures, paid with { PerDiem = 66m }, 0).Day.Amount);

        // What a load's own miles leave has neither in it: 2,400 − 350 − 26.78 − 330 − 7.20 − 115.50.
        Assert.Equal(1570.52m, RoundTripCosts.Left(Figures, Money.Usd(2400m), Work, paid).Amount);
    }

    [Fact]
    public void Parts_add_up_and_more_work_never_costs_less() =>
        Gen.Select(Gen.Int[0, 4000], Gen.Int[0, 900], Gen.Double[0, 300], Gen.Int[0, 200], Gen.Enum<WorkerKind>(), Gen.Int[0, 200_000])
            .Sample(
                (miles, empty, tolls, hours, worker, cents) =>
                {
                    var work = new TruckWork(miles, empty, tolls, Duration.FromHours(hours));
                    var driver = new DriverCost(cents % 3 == 0 ? null : Money.Usd(cents / 100m), worker, 7.65m);
                    var cost = LegCost.Of(Figures, work, driver, KnownCosts.None);
                    Assert.Equal(cost.Total, Money.Sum([cost.Driver, cost.PayrollTax, cost.Fuel, cost.Tolls, cost.Truck, cost.Other]));
                    Assert.True(work.Days >= 0.25m && work.Days * 4 == Math.Floor(work.Days * 4) && work.Days * 24 >= hours);
                    foreach (
                        var more in new[]
                        {
                            work with
                            {
                                Miles = miles + 10,
                            },
                            work with
                            {
                                EmptyMiles = empty + 10,
                            },
                            work with
                            {
                                Lasts = work.Lasts + Duration.FromHours(6),
                            },
                        }
                    )
                    {
                        Assert.True(LegCost.Of(Figures, more, driver, KnownCosts.None).Total >= cost.Total);
                    }

                    var trip = TripCost.Of(cost, Money.Usd(1500m), work.AllMiles, work.Days);
                    Assert.Equal(Money.Usd(1500m), trip.Total + trip.Profit);
                    Assert.Equal(work.AllMiles < 1, trip.ProfitPerMile is null);
                }
            );
}
