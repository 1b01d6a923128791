using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Covering;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using Xunit;

namespace SteadyLark.Core.Tests.Covering;

public class CarrierFitnessTests
{
    private static readonly CarrierRecord Fit = new("Two Forks Trucking", true, Some.Today.PlusDays(30), Some.Today.PlusDays(30), null);

    private static string? Summary(CarrierRecord carrier, LocalDate today) =>
        CarrierFitness.Summary(carrier, CarrierRequirements.Legal, today);

    private static Problems Check(CarrierRecord carrier, LocalDate deliveredOn, CarrierRequirements? asked = null, bool hazmat = false) =>
        CarrierFitness.Check(carrier, asked ?? CarrierRequirements.Legal, new CarriedFreight(deliveredOn, hazmat));

    [Fact]
    public void What_keeps_a_carrier_from_loads_is_said_in_a_few_words()
    {
        Assert.Null(Summary(Fit, Some.Today));
        Assert.Null(Summary(Fit with { CargoUntil = Some.Today }, Some.Today));
        Assert.Equal("insurance expired", Summary(Fit with { CargoUntil = Some.Today.PlusDays(-1) }, Some.Today));
        Assert.Equal("no insurance on file", Summary(Fit with { LiabilityUntil = null }, Some.Today));
        Assert.Equal("no authority", Summary(Fit with { AuthorityActive = false, CargoUntil = null }, Some.Today));
        Assert.Equal("do not use", Summary(Fit with { AuthorityActive = false, DoNotUse = "late twice" }, Some.Today));
    }

    [Fact]
    public void An_eligible_carrier_can_have_the_load() => Assert.Empty(Check(Fit, Some.Today));

    [Fact]
    public void Insurance_covers_its_last_day_and_not_the_next()
    {
        Assert.Empty(Check(Fit with { CargoUntil = Some.Today }, Some.Today));
        Assert.Equal("carrier.cargo", Assert.Single(Check(Fit with { CargoUntil = Some.Today }, Some.Today.PlusDays(1))).Code);
    }

    /// <summary>49 CFR 387.9: $750,000 for property, $1,000,000 with hazardous materials.</summary>
    [Theory]
    [InlineData(750_000.0, false, null)]
    [InlineData(749_999.99, false, "carrier.liability.limit")]
    [InlineData(750_000.0, true, "carrier.liability.limit")]
    [InlineData(1_000_000.0, true, null)]
    [InlineData(null, false, null)]
    [InlineData(null, true, "carrier.liability.limit")]
    public void Liability_insurance_reaches_the_legal_minimum(double? limit, bool hazmat, string? refused)
    {
        var carrier = Fit with { Liability = limit is { } l ? Money.Usd((decimal)l) : null };
        Assert.Equal(refused, Check(carrier, Some.Today, hazmat: hazmat).SingleOrDefault()?.Code);
    }

    [Fact]
    public void The_company_may_ask_for_more_than_the_law_and_never_for_less()
    {
        var asked = new CarrierRequirements(Money.Usd(1_000_000), Money.Usd(100_000), Agreement: true, RefuseConditional: true);
        Assert.Equal(
            ["carrier.agreement", "carrier.liability.limit", "carrier.cargo.limit"],
            Check(Fit, Some.Today, asked).Select(p => p.Code)
        );
        var good = Fit with { Liability = Money.Usd(1_000_000), Cargo = Money.Usd(100_000), AgreementOn = Some.Today.PlusYears(-1) };
        Assert.Empty(Check(good, Some.Today, asked));
        Assert.Equal("insurance too low", CarrierFitness.Summary(good with { Cargo = Money.Usd(99_999) }, asked, Some.Today));
        Assert.Equal("no agreement", CarrierFitness.Summary(good with { AgreementOn = null }, asked, Some.Today));
        Assert.Equal("carrier.safety", Check(good with { Safety = SafetyRating.Conditional }, Some.Today, asked).Single().Code);
        Assert.Empty(Check(good with { Safety = SafetyRating.Conditional }, Some.Today));
        // Nobody may use a carrier with an unsatisfactory rating (49 CFR 385.13).
        Assert.Equal("carrier.safety", Check(good with { Safety = SafetyRating.Unsatisfactory }, Some.Today).Single().Code);
        var low = new CarrierRequirements(Money.Usd(100_000));
        Assert.Contains(
            "$750,000",
            Check(Fit with { Liability = Money.Usd(500_000) }, Some.Today, low).Single().Message,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void All_reasons_are_reported_at_once()
    {
        var codes = Check(new CarrierRecord("Rimrock Relay", false, null, Some.Today.PlusDays(-1), "left a load standing"), Some.Today)
            .Select(p => p.Code);
        Assert.Equal(["carrier.do.not.use", "carrier.authority", "carrier.liability", "carrier.cargo"], codes);
    }
}

public class AvailabilityTests
{
    [Fact]
    public void Adjacent_bookings_do_not_overlap_and_overlapping_ones_are_named()
    {
        var outlook = new Commitment(CommitmentKind.Driver, 1, "M. Okafor", "611", "2041", new Span(Some.In(0), Some.In(8)));
        Assert.Empty(Availability.Check([outlook], new Span(Some.In(8), Some.In(12)), Some.Mountain));
        var busy = Assert.Single(Availability.Check([outlook], new Span(Some.In(7.9), Some.In(12)), Some.Mountain));
        Assert.Equal("driverId", busy.Field);
        Assert.Contains("load 2041 (trip 611)", busy.Message, StringComparison.Ordinal);
    }

    [Fact]
    public void Nobody_is_available_during_their_own_booking() =>
        Gen.Select(Gen.Int[0, 100], Gen.Int[1, 50], Gen.Int[-50, 150], Gen.Int[1, 50])
            .Sample(
                (from, length, other, otherLength) =>
                {
                    var promised = new Span(Some.In(from), Some.In(from + length));
                    var wanted = new Span(Some.In(other), Some.In(other + otherLength));
                    var shared = Enumerable
                        .Range(-60, 300)
                        .Any(h => h >= from && h < from + length && h >= other && h < other + otherLength);
                    return shared
                        == Availability
                            .Check([new Commitment(CommitmentKind.Truck, 1, "Truck 118", "1", "2", promised)], wanted, DateTimeZone.Utc)
                            .Any();
                }
            );

    [Theory]
    [InlineData(5150, 4350, 800, 15.5)]
    [InlineData(1000, 1200, -200, -20.0)]
    public void Margin_is_revenue_less_cost_and_its_percentage(decimal revenue, decimal cost, decimal left, double percent)
    {
        var margin = Margin.Of(Money.Usd(revenue), Money.Usd(cost));
        Assert.Equal(left, margin.Amount.Amount);
        Assert.Equal((decimal)percent, margin.Percent);
    }

    [Fact]
    public void Margin_without_revenue_has_no_percentage() => Assert.Null(Margin.Of(Money.Zero(), Money.Usd(5)).Percent);
}

public class RoundTests
{
    private static readonly GeoPoint Missoula = new(46.8721, -113.994);
    private static readonly GeoPoint Spokane = new(47.6597, -117.4291);
    private static readonly GeoPoint Seattle = new(47.6062, -122.3321);
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 23, 16, 0);

    private static RoundTripLoad Load(long id, GeoPoint from, GeoPoint to, double begins, double hours, decimal left) =>
        new(
            id,
            $"{id}",
            "",
            from,
            to,
            Now + Duration.FromHours(begins),
            Now + Duration.FromHours(begins + 2),
            Duration.FromHours(hours),
            Money.Usd(left)
        );

    [Fact]
    public void A_load_back_worth_its_time_is_chosen_and_an_unreachable_one_is_not()
    {
        var away = Load(1, Missoula, Spokane, 4, 6, 500);
        var round = RoundTrips.Best(
            Some.Roads,
            Now,
            Missoula,
            away,
            [Load(2, Spokane, Missoula, 16, 6, 600), Load(3, Seattle, Missoula, 11, 12, 5000), Load(4, Spokane, Seattle, 14, 9, 10)],
            Missoula,
            RoundTripCosts.None
        );
        Assert.Equal(2, round.Back!.LoadId);
        Assert.True(round.EmptyMiles < 40);
        Assert.Equal(Now + Duration.FromHours(22), round.BackEnds);
        Assert.Null(
            RoundTrips.Best(Some.Roads, Now, Missoula, away, [Load(4, Spokane, Seattle, 30, 9, 10)], Missoula, RoundTripCosts.None).Back
        );
    }

    [Fact]
    public void A_load_back_never_lowers_the_margin_per_day() =>
        Gen.Select(Gen.Double[44, 49], Gen.Double[-122, -104], Gen.Double[0, 60], Gen.Int[0, 3000])
            .List[0, 8]
            .Sample(list =>
            {
                var away = Load(1, Missoula, Spokane, 4, 6, 400);
                var open = list.Select((x, i) => Load(i + 2, new GeoPoint(x.Item1, x.Item2), Missoula, x.Item3, 8, x.Item4)).ToList();
                var (best, straight) = (
                    RoundTrips.Best(Some.Roads, Now, Missoula, away, open, Missoula, RoundTripCosts.None),
                    RoundTrips.Best(Some.Roads, Now, Missoula, away, [], Missoula, RoundTripCosts.None)
                );
                return best.PerDay >= straight.PerDay
                    && (best.Back is null || best.BackBegins <= best.Back.PickupUntil)
                    && best.HomeAt >= best.OutEnds;
            });
}
