using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class HandoverTests
{
    private static readonly GeoPoint Missoula = new(46.8721, -113.994);
    private static readonly LoadWork Rolling = new(LoadState.Rolling, "6151", "R. Begaye");

    private static List<PlannedStop> UnderWay() =>
        [Some.Stop(1, StopKind.Pickup, Some.Creamery, -6, arrived: -6, left: -5), Some.Stop(2, StopKind.Delivery, Some.ColdStore, 4, 6)];

    [Fact]
    public void Only_a_trip_of_ours_that_has_started_is_handed_over()
    {
        Assert.Null(Handover.Refuses(Rolling, byCarrier: false, onOurTruck: true, UnderWay()));
        Assert.StartsWith(
            "R. Begaye is assigned to this load and dispatches its own trucks.",
            Handover.Refuses(Rolling, byCarrier: true, onOurTruck: false, UnderWay())!.Message
        );
        var waiting = UnderWay().Select(s => s with { Arrived = null, Left = null }).ToList();
        Assert.Equal(
            "The trip has not started: reassign the load instead.",
            Handover.Refuses(Rolling with { State = LoadState.Covered }, false, true, waiting)!.Message
        );
        Assert.Equal(
            "Load 6151 is not rolling on one of our trucks.",
            Handover.Refuses(Rolling with { State = LoadState.Delivered }, false, true, UnderWay())!.Message
        );
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
            Handover.CheckTime(Some.In(hours), UnderWay(), Some.Now, validation);
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
        var plan = Handover.Plan(Some.Roads, UnderWay(), null, Missoula, Some.In(-1), Some.Now);
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
        var plan = Handover.Plan(
            Some.Roads,
            [.. UnderWay().Take(1), UnderWay()[1]],
            began: Missoula,
            new GeoPoint(47.2, -115.1),
            Some.In(-1),
            Some.Now
        );
        Assert.Equal(Some.Roads.Along([Missoula, Some.Creamery.Point, new GeoPoint(47.2, -115.1)]).WholeMiles, plan.MilesDone);
    }

    /// <summary>Wherever and whenever it happens, the new crew is booked from the handover to some time after it.</summary>
    [Fact]
    public void The_new_booking_is_never_empty() =>
        Gen.Select(Gen.Double[45, 49], Gen.Double[-119, -108], Gen.Double[-5, 0])
            .Sample(
                (latitude, longitude, hours) =>
                {
                    var plan = Handover.Plan(Some.Roads, UnderWay(), null, new GeoPoint(latitude, longitude), Some.In(hours), Some.Now);
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
        Assert.True(Handover.After(UnderWay()[0], Some.In(-5.5)));
        Assert.False(Handover.After(UnderWay()[0], Some.In(-5)));
    }
}
