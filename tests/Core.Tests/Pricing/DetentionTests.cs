using CsCheck;
using NodaTime;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Pricing;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Pricing;

public class DetentionTests
{
    private static readonly DetentionTerms TwoHours = new(120, Money.Usd(60), Money.Usd(300));

    /// <summary>A stop with an appointment in one hour, for so many hours.</summary>
    private static PlannedStop Stop(double arrived, double? left, double window = 0, StopKind kind = StopKind.Pickup) =>
        new(7, kind, Some.Creamery.Point, new Span(Some.In(1), Some.In(1 + window)), Some.In(arrived), left is { } l ? Some.In(l) : null);

    [Theory]
    // Early: the clock starts at the appointment. Three hours, two of them free.
    [InlineData(0, 4, 60.0)]
    [InlineData(1, 4, 60.0)]
    // Late: it starts with the arrival.
    [InlineData(2, 5, 60.0)]
    // Within free time, and a quarter hour that was only begun.
    [InlineData(0, 3, null)]
    [InlineData(0, 3.2, null)]
    [InlineData(0, 3.25, 15.0)]
    [InlineData(0, 4.9, 105.0)]
    // No more than the cap.
    [InlineData(0, 12, 300.0)]
    public void Waiting_counts_from_arrival_or_appointment_whichever_is_later(double arrived, double left, double? amount) =>
        Assert.Equal(amount, (double?)Detention.At(Stop(arrived, left), TwoHours, Some.In(20))?.Amount.Amount);

    [Fact]
    public void A_window_starts_the_clock_where_it_opens()
    {
        var open = Detention.At(Stop(0, 5, window: 8), TwoHours, Some.In(20))!;
        Assert.Equal((Some.In(1), Some.In(5), Duration.FromHours(2), false), (open.From, open.Until, open.Charged, open.ArrivedLate));
    }

    [Fact]
    public void A_truck_still_there_waits_until_now_and_a_late_one_is_marked()
    {
        var waiting = Detention.At(Stop(2, null), TwoHours, Some.In(6))!;
        Assert.True(waiting is { Running: true, ArrivedLate: true });
        Assert.Equal(Money.Usd(120), waiting.Amount);
        Assert.Null(Detention.At(Stop(2, null), new DetentionTerms(120), Some.In(6)));
        Assert.Null(Detention.At(Stop(2, null) with { Arrived = null }, TwoHours, Some.In(6)));
    }

    [Fact]
    public void A_delivery_without_a_departure_ends_when_it_was_delivered()
    {
        var delivered = Stop(1, null, kind: StopKind.Delivery) with { Delivered = Some.In(4) };
        Assert.Equal(Money.Usd(60), Detention.At(delivered, TwoHours, Some.In(20))!.Amount);
    }

    [Fact]
    public void Waiting_longer_never_costs_less_and_more_free_time_never_more() =>
        Gen.Select(Gen.Int[0, 600], Gen.Int[0, 300], Gen.Int[0, 2000], Gen.Int[1, 20_000])
            .Sample(
                (free, late, stay, cents) =>
                {
                    decimal Of(int minutes, int freeMinutes) =>
                        Detention
                            .At(
                                Stop(1 + (late / 60.0), 1 + ((late + minutes) / 60.0)),
                                new DetentionTerms(freeMinutes, Money.Usd(cents / 100m)),
                                Some.In(99)
                            )
                            ?.Amount.Amount
                        ?? 0;
                    Assert.True(Of(stay + 15, free) >= Of(stay, free));
                    Assert.True(Of(stay, free + 15) <= Of(stay, free));
                    Assert.True(Of(stay, free) <= cents / 100m * Math.Max(0, stay - free) / 60m + 0.01m);
                    Assert.Equal(Of(stay, free), Math.Round(Of(stay, free), 2));
                }
            );

    [Fact]
    public void A_stop_is_proposed_once_until_a_charge_names_it()
    {
        var butte = (Stop(1, 4) with { Id = 1 }, "Butte MT");
        var fargo = (Stop(1, 5) with { Id = 2 }, "Fargo ND");
        IEnumerable<long> Left(params string?[] charged) =>
            Detention.NotCharged([butte, fargo], TwoHours, charged, Some.In(20)).Select(d => d.StopId);
        Assert.Equal([1, 2], Left());
        Assert.Equal([1], Left("Fargo ND, Tue Nov 24 08:00 to 12:00, 2 h after free time"));
        Assert.Equal([2], Left([null]));
        Assert.Empty(Left(null, "as agreed"));
    }

    [Fact]
    public void It_is_described_with_its_times_and_offered_in_one_sentence()
    {
        var zone = DateTimeZoneProviders.Tzdb["America/Denver"];
        var charged = Detention.At(Stop(1, 4), TwoHours, Some.In(20))!;
        Assert.StartsWith("Butte MT, ", charged.Describe("Butte MT", zone), StringComparison.Ordinal);
        Assert.EndsWith(", 1 h after free time", charged.Describe("Butte MT", zone), StringComparison.Ordinal);
        Assert.Equal(
            "Detention: $60.00 per hour after 2 h free at each stop, from arrival or appointment, whichever is later; at most $300.00 per stop.",
            TwoHours.Format()
        );
        Assert.Equal("Detention is paid only if approved in writing in advance.", DetentionTerms.None.Format());
        var validation = new Validation();
        new DetentionTerms(-1, null, Money.Usd(5)).Check(validation, "detention.");
        Assert.Equal(["detention.freeMinutes", "detention.perHour"], validation.Problems.Select(p => p.Field));
    }
}
