using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Paying;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class TeamTests
{
    private static readonly LocalDate Day = new(2026, 11, 12);
    private static readonly DriverAgreement Agreement = new([
        new PayRate(PayKind.PerMile, 0.60m, new LocalDate(2026, 1, 1)),
        new PayRate(PayKind.PerEmptyMile, 0.45m, new LocalDate(2026, 1, 1)),
        new PayRate(PayKind.PercentOfLineHaul, 3m, new LocalDate(2026, 1, 1)),
        new PayRate(PayKind.PerExtraStop, 35m, new LocalDate(2026, 1, 1)),
    ]);
    private static readonly CostFigures Figures = new(6.5m, 3.90m, 0.62m, 0.21m, 148m, 0.18m);

    [Theory]
    [InlineData(50, 325.50, 325.50)]
    [InlineData(33.33, 216.98, 434.02)]
    [InlineData(0, 0, 651)]
    [InlineData(100, 651, 0)]
    public void Miles_are_shared_without_rest(double share, double codriver, double driver)
    {
        Assert.Equal((decimal)codriver, new CrewPart((decimal)share, true).Of(651));
        Assert.Equal((decimal)driver, new CrewPart((decimal)share, false).Of(651));
    }

    [Fact]
    public void Two_drivers_are_paid_for_all_of_the_work_and_no_more() =>
        Gen.Select(Gen.Int[0, 10_000], Gen.Int[0, 3_000], Gen.Int[0, 900], Gen.Int[0, 900_000], Gen.Int[2, 9])
            .Sample(
                (share, miles, empty, cents, stops) =>
                {
                    var (codriver, driver) = (new CrewPart(share / 100m, true), new CrewPart(share / 100m, false));
                    var haul = Money.Usd(cents / 100m);
                    var lines = new[] { codriver, driver }
                        .SelectMany(p => Agreement.ForLeg(miles, haul, stops, Day, empty, p))
                        .ToLookup(l => l.Kind);
                    foreach (var alone in Agreement.ForLeg(miles, haul, stops, Day, empty))
                    {
                        Assert.Equal(alone.Quantity, lines[alone.Kind].Sum(l => l.Quantity));
                        // Each line is rounded to cents.
                        Assert.InRange(lines[alone.Kind].Sum(l => l.Amount.Amount) - alone.Amount.Amount, -0.01m, 0.01m);
                    }

                    Assert.Equal(miles, codriver.Of(miles) + driver.Of(miles));
                }
            );

    [Fact]
    public void A_team_costs_two_drivers_and_one_truck()
    {
        var work = new TruckWork(650, 60, 40, Duration.FromHours(30));
        DriverCost Earns(CrewPart? part) => DriverCost.Of(Agreement, WorkerKind.Employee, 7.65m, work, Money.Usd(1_950), 2, Day, part);
        var alone = LegCost.Of(Figures, work, Earns(null), KnownCosts.None);
        var team = LegCost.Of(Figures, work, Earns(new CrewPart(40m, false)), KnownCosts.None, Earns(new CrewPart(40m, true)));
        // 650 at 0.60, 60 at 0.45, 3 % of 1,950.00.
        Assert.Equal(Money.Usd(390m + 27m + 58.50m), alone.Driver);
        Assert.Equal(alone.Driver, team.Driver);
        Assert.Equal(Money.Usd(156m + 10.80m + 23.40m), team.Codriver);
        Assert.Equal((alone.Fuel, alone.Tolls, alone.Truck), (team.Fuel, team.Tolls, team.Truck));
        Assert.Equal(Money.Zero(), alone.Codriver);
        // Legs add up with the co-driver's part.
        Assert.Equal(Money.Usd(380.40m), (team + team).Codriver);
    }

    [Fact]
    public void A_settlement_pays_each_driver_their_part_at_their_own_rates()
    {
        var monday = new LocalDate(2026, 11, 9);
        var dearer = new DriverAgreement([new PayRate(PayKind.PerMile, 0.70m, new LocalDate(2026, 1, 1))]);
        WorkedLeg Leg(CrewPart part) => new(1, 1, "2001", 118, "Missoula to Boise", 651, Day, 2, Money.Usd(1_000), 0, part);
        var driver = DriverSettlement.Settle(monday, Agreement, [Leg(new CrewPart(50, false))], [new DaysOut(Day, Day)], []);
        var codriver = DriverSettlement.Settle(monday, dearer, [Leg(new CrewPart(50, true))], [new DaysOut(Day, Day)], []);
        Assert.Equal((195.30m, 15m), (driver.Lines[0].Amount.Amount, driver.Lines[1].Amount.Amount));
        Assert.Equal(Money.Usd(227.85m), codriver.Net);
        Assert.Equal((325.50m, 326), (codriver.Lines[0].Quantity, codriver.Miles));
        // Each is out all of the day.
        Assert.Equal((1, 1), (driver.DaysOut, codriver.DaysOut));
    }

    [Theory]
    [InlineData("Trip 412 is canceled: its drivers can no longer be changed.", 2L, 50.0, true, null)]
    [InlineData("Kai Voss is paid for trip 412 already: its drivers can no longer be changed.", 2L, 50.0, false, "Kai Voss")]
    [InlineData("Trip 412 has no co-driver.", null, null, false, null)]
    [InlineData("Kai Voss drives trip 412 already: choose another driver.", 1L, 50.0, false, null)]
    [InlineData("The share is a percentage from 0 to 100 with at most two decimals.", 2L, 100.5, false, null)]
    [InlineData("The share is a percentage from 0 to 100 with at most two decimals.", 2L, 33.333, false, null)]
    [InlineData(null, 2L, 33.33, false, null)]
    [InlineData(null, 2L, null, false, null)]
    public void What_is_wrong_with_a_co_driver_is_said(string? says, long? driver, double? share, bool canceled, string? paid)
    {
        var trip = new CrewedTrip("412", 1, "Kai Voss", null, canceled, paid);
        Assert.Equal(says, Team.Check(trip, driver, (decimal?)share).SingleOrDefault()?.Message);
    }

    [Fact]
    public void A_trip_is_planned_for_its_driver_before_its_co_driver_goes_on_from_there() =>
        Gen.Select(Gen.Int[1, 8], Gen.Select(Gen.Int[1, 8], Gen.Int[1, 8]).List[0, 8])
            .Sample(
                (count, pairs) =>
                {
                    var drivers = Enumerable.Range(1, count).Select(d => (long)d).ToList();
                    var teams = pairs.Where(p => p.Item1 < p.Item2).Select(p => ((long)p.Item1, (long)p.Item2)).ToList();
                    var order = Team.InOrder(drivers, teams).ToList();
                    Assert.Equal(drivers, order.Order());
                    foreach (var (driver, codriver) in teams.Where(t => t.Item2 <= count))
                    {
                        Assert.True(order.IndexOf(driver) < order.IndexOf(codriver));
                    }
                }
            );

    [Fact]
    public void Drivers_who_wait_for_each_other_are_all_planned() => Assert.Equal([3L, 1L, 2L], Team.InOrder([1, 2, 3], [(1, 2), (2, 1)]));
}
