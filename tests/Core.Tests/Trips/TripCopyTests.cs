using NodaTime;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Trips;

public class TripCopyTests
{
    private static readonly LocalDate Monday = new(2026, 11, 23);

    private static string? Refused(LocalDate? on, params (string, bool, bool)[] loads) =>
        TripCopy.Refusal("T7", loads, Monday, on, Monday.PlusDays(1))?.Message;

    [Fact]
    public void A_trip_is_copied_to_another_day_unless_its_loads_depend_on_more_than_it()
    {
        Assert.Null(Refused(Monday.PlusDays(7), ("6151", false, false)));
        Assert.Null(Refused(Monday.PlusDays(-20), ("6151", false, false)));
        Assert.Contains("no loads", Refused(Monday.PlusDays(7)), StringComparison.Ordinal);
        Assert.Contains(
            "6152 is a move",
            Refused(Monday.PlusDays(7), ("6151", false, false), ("6152", false, true)),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "Load 6152 is split",
            Refused(Monday.PlusDays(7), ("6151", false, false), ("6152", true, false)),
            StringComparison.Ordinal
        );
        Assert.Contains("Choose the day", Refused(null, ("6151", false, false)), StringComparison.Ordinal);
        Assert.Contains("another day", Refused(Monday, ("6151", false, false)), StringComparison.Ordinal);
        Assert.Contains("within a year", Refused(Monday.PlusDays(400), ("6151", false, false)), StringComparison.Ordinal);
    }

    [Fact]
    public void The_copy_goes_in_the_same_order_without_what_it_does_not_have() =>
        Assert.Equal(
            [11, 12, 14],
            TripCopy.Order(
                [1, 2, 3, 4],
                new Dictionary<long, long>
                {
                    [4] = 14,
                    [1] = 11,
                    [2] = 12,
                }
            )
        );

    [Fact]
    public void A_copied_load_keeps_nothing_that_is_of_one_load_only()
    {
        var from = Monday.At(new LocalTime(8, 0));
        var order = new LoadOrder(
            4,
            "PO 77",
            Equipment.CarHauler,
            [new(StopKind.Pickup, 1, from, null, null), new(StopKind.Delivery, 2, from.PlusHours(20), from.PlusHours(24), "dock 4")],
            [new("wagon", 1, null, 3_700, null, Vehicle: new VehicleOrder(2019, null, null, "1M8GDM9AXKP042788", "wagon"))],
            [new(ChargeKind.LineHaul, null, 900, Authorization: new ChargeAuthorization("A. Dahl", null, "ok"))],
            "Call ahead.",
            false
        )
        {
            Number = "6151",
            References = [new(ReferenceKind.Seal, "S1"), new(ReferenceKind.PurchaseOrder, "77"), new(ReferenceKind.Appointment, "A9", 2)],
        };
        // Over the end of daylight saving or a month, the clock at the place says the same.
        var copy = LoadCopies.Copy(order, 7);
        Assert.Equal([from.PlusDays(7), from.PlusDays(7).PlusHours(20)], copy.Stops.Select(s => s.From!.Value));
        Assert.Equal([null, from.PlusDays(8)], copy.Stops.Select(s => s.Until));
        Assert.Equal((null, null, "Call ahead."), (copy.Number, copy.Reference, copy.DriverInstructions));
        Assert.Equal(["77"], copy.References.Select(r => r.Value));
        Assert.Null(copy.Freight[0].Vehicle!.Vin);
        Assert.Equal((900m, null), (copy.Charges[0].Amount!.Value, copy.Charges[0].Authorization));
    }

    [Fact]
    public void A_trip_is_closed_when_it_is_over_and_decided_and_archived_when_it_is_closed_or_canceled()
    {
        var ended = new TripClosing("T7", Ended: true, Canceled: false, Closed: false, Archived: false);
        string? Said(TripClosing of, bool closed, bool archived, int undecided = 0) => of.Refusal(closed, archived, undecided)?.Code;
        Assert.Null(Said(ended, true, false));
        Assert.Equal("trip.expenses", Said(ended, true, false, 2));
        Assert.Contains("An expense of trip T7", ended.Refusal(true, false, 1)!.Message, StringComparison.Ordinal);
        Assert.Equal("trip.open", Said(ended with { Ended = false }, true, false));
        Assert.Equal("trip.open", Said(ended, false, true));
        var canceled = ended with { Ended = false, Canceled = true };
        Assert.Equal("trip.canceled", Said(canceled, true, false));
        Assert.Null(Said(canceled, false, true));
        var closed = ended with { Closed = true };
        Assert.Null(Said(closed, true, true));
        Assert.Null(Said(closed, false, false));
        Assert.Equal("trip.open", Said(closed with { Archived = true }, false, true));
        Assert.Equal(
            ["Trip T7 closed", "Trip T7 archived", "Trip T7 reopened", "Trip T7 is out of the archive"],
            [
                ended.Done(true, false),
                closed.Done(true, true),
                closed.Done(false, false),
                (closed with { Archived = true }).Done(true, false),
            ]
        );
    }
}
