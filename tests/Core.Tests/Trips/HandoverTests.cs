using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class HandoverTests
{
    private static readonly GeoPoint Missoula = new(46.8721, -113.994);
    private static readonly LoadWork Rolling = new(LoadState.Rolling, "6151", "R. Begaye");

    private static List<PlannedStop> UnderWay() =>
        [Some.Stop(1, StopKind.Pickup, Some.Creamery, -6, arrived: -6, left: -5), Some.Stop(2, StopKind.Delivery, Some.ColdStore, 4, 6)];

    private static LoadPath Path() => new(UnderWay(), []);

    [Fact]
    public void Our_trip_is_handed_over_once_it_has_started_and_a_carrier_is_replaced_once_it_has_freight()
    {
        Assert.Null(Handover.Refuses(Rolling, byCarrier: false, UnderWay()));
        Assert.Null(Handover.Refuses(Rolling, byCarrier: true, UnderWay()));
        var covered = Rolling with { State = LoadState.Covered };
        var loading = UnderWay().Select(s => s with { Left = null }).ToList();
        Assert.Null(Handover.Refuses(covered, byCarrier: false, loading));
        Assert.Equal(
            "R. Begaye has not picked up load 6151 yet: reassign it instead.",
            Handover.Refuses(covered, byCarrier: true, loading)!.Message
        );
        var waiting = loading.Select(s => s with { Arrived = null }).ToList();
        Assert.Equal("The trip has not started: reassign the load instead.", Handover.Refuses(covered, false, waiting)!.Message);
        Assert.Equal(
            "Load 6151 is delivered: it is not on the way.",
            Handover.Refuses(Rolling with { State = LoadState.Delivered }, true, UnderWay())!.Message
        );
    }

    /// <summary>What a replaced carrier is still paid: at most what it agreed to, in one line; nothing at all; or as before.</summary>
    [Theory]
    [InlineData(null, null, null)]
    [InlineData("700", null, null)]
    [InlineData("450.25", "450.25", null)]
    [InlineData("0", "", null)]
    [InlineData("700.01", null, "over.agreed")]
    [InlineData("-1", null, "not.positive")]
    public void A_replaced_carrier_keeps_at_most_what_it_agreed_to(string? entered, string? charges, string? problem)
    {
        var validation = new Validation();
        Money? pay = entered is null ? null : Money.Usd(decimal.Parse(entered, System.Globalization.CultureInfo.InvariantCulture));
        FlatCharge[] agreed = [new(ChargeKind.LineHaul, null, Money.Usd(650)), new(ChargeKind.FuelSurcharge, null, Money.Usd(50))];
        var kept = Handover.PayOfReplaced(pay, agreed, "Two Forks Trucking", "Drummond", validation);
        Assert.Equal(problem, validation.Problems.SingleOrDefault()?.Code);
        Assert.Equal(charges, kept is null ? null : string.Join(",", kept.Select(c => c.Amount.Amount)));
        Assert.All(kept ?? [], c => Assert.Equal((ChargeKind.LineHaul, "to Drummond"), (c.Kind, c.Description)));
    }

    [Fact]
    public void Its_time_is_after_everything_recorded_and_not_in_the_future()
    {
        Assert.Equal("time.order", Time(-5.5));
        Assert.Equal("time.future", Time(0.2));
        Assert.Null(Time(-5));
        Assert.Null(Time(0));

        static string? Time(double hours)
        {
            var validation = new Validation();
            Handover.CheckTime(Some.In(hours), Path(), Some.Now, validation);
            return validation.Problems.SingleOrDefault()?.Code;
        }
    }

    [Fact]
    public void A_handover_to_the_same_crew_is_refused_and_to_another_trailer_is_not()
    {
        var (same, other) = (new Validation(), new Validation());
        Handover.CheckChange(new LegCrew(1, 2, 3), new LegCrew(1, 2, 3), same);
        Handover.CheckChange(new LegCrew(1, 2, 3), new LegCrew(1, 2, 4), other);
        Assert.Equal(["same"], same.Problems.Select(p => p.Code));
        Assert.True(other.Ok);
    }

    [Fact]
    public void Both_legs_together_pass_through_the_handover()
    {
        var plan = Handover.Plan(Some.Roads, Path(), Missoula, "Missoula", Some.In(-1), Some.Now);
        Assert.Equal(Some.Roads.Between(Some.Creamery.Point, Missoula).WholeMiles, plan.MilesDone);
        Assert.Equal(Some.Roads.Between(Missoula, Some.ColdStore.Point).WholeMiles, plan.MilesAhead);
        Assert.Equal(Some.In(-1), plan.Booking.From);

        // From now, not from the handover: the time since has passed. It waits for the appointment if early, then unloads.
        var arrives = Some.Now + Some.Roads.Between(Missoula, Some.ColdStore.Point).DoorToDoor;
        Assert.Equal(Instant.Max(arrives, Some.In(4)) + TripPlan.ServiceTime, plan.Booking.Until);
    }

    [Fact]
    public void A_second_handover_counts_its_leg_from_the_first_one()
    {
        var once = Path().With(0, Handover.Plan(Some.Roads, Path(), Missoula, "Missoula", Some.In(-3), Some.Now).Transfer);
        var plan = Handover.Plan(Some.Roads, once, new GeoPoint(47.2, -115.1), "Saltese", Some.In(-1), Some.Now);

        // Not back to the pickup, which was before it.
        Assert.Equal(Some.Roads.Between(Missoula, new GeoPoint(47.2, -115.1)).WholeMiles, plan.MilesDone);
    }

    /// <summary>Wherever and whenever it happens, the new crew is booked from the handover to some time after it.</summary>
    [Fact]
    public void The_new_booking_is_never_empty() =>
        Gen.Select(Gen.Double[45, 49], Gen.Double[-119, -108], Gen.Double[-5, 0])
            .Sample(
                (latitude, longitude, hours) =>
                {
                    var plan = Handover.Plan(Some.Roads, Path(), new GeoPoint(latitude, longitude), "there", Some.In(hours), Some.Now);
                    Assert.Equal(Some.In(hours), plan.Booking.From);
                    Assert.True(plan.Booking.Until > plan.Booking.From);
                    Assert.True(plan.MilesDone >= 0 && plan.MilesAhead >= 0);
                }
            );

    [Fact]
    public void It_is_undone_only_while_nothing_stands_on_it()
    {
        Assert.Null(Handover.UndoRefuses("D. Okafor", null, null));
        Assert.Equal(
            "D. Okafor has since been at Northgate Cold Storage: undo that first.",
            Handover.UndoRefuses("D. Okafor", "Northgate Cold Storage", "R. Begaye")!.Message
        );
        Assert.Equal(
            "R. Begaye's approved settlement includes this: reverse its approval first.",
            Handover.UndoRefuses("D. Okafor", null, "R. Begaye")!.Message
        );
        Assert.Equal("Bill TF-9 for this is entered: void it first.", Handover.UndoRefuses("Two Forks", null, null, "TF-9")!.Message);
        Assert.Equal(
            "Claim CL-1001 is against Two Forks: withdraw it before undoing the handover.",
            Handover.UndoRefuses("Two Forks", null, null, null, "CL-1001")!.Message
        );
        Assert.True(Handover.After(UnderWay()[0], Some.In(-5.5)));
        Assert.False(Handover.After(UnderWay()[0], Some.In(-5)));
    }
}
