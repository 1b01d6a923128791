using CsCheck;
using NodaTime;
using SteadyLark.Core.Line;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Places;
using SteadyLark.Core.Trips;
using Xunit;

namespace SteadyLark.Core.Tests.Line;

public class StopSentenceTests
{
    private static readonly Instant Now = Instant.FromUtc(2026, 11, 24, 16, 42);
    private static readonly DateTimeZone Mountain = DateTimeZoneProviders.Tzdb["America/Denver"];

    /// <summary>Fifty miles an hour in a straight line.</summary>
    private sealed class Straight : IRoads
    {
        public Drive Between(GeoPoint from, GeoPoint to) => new(GreatCircle.Miles(from, to), GreatCircle.Miles(from, to) / 50 * 60);
    }

    private static StopInTown Stop(
        long id,
        StopKind kind,
        string town,
        double latitude,
        double longitude,
        Instant? arrived = null,
        Instant? left = null,
        Instant? delivered = null
    ) =>
        new(
            new PlannedStop(
                id,
                kind,
                new GeoPoint(latitude, longitude),
                new SteadyLark.Core.Basics.Span(Now, Now + Duration.FromHours(2)),
                arrived,
                left,
                delivered
            ),
            town,
            Mountain
        );

    /// <summary>Kalispell to Billings to Rapid City, the pickup left at a time.</summary>
    private static List<StopInTown> Load(Instant? left) =>
        [
            Stop(1, StopKind.Pickup, "Kalispell", 48.2, -114.31, left - Duration.FromHours(1), left),
            Stop(2, StopKind.Delivery, "Billings", 45.78, -108.5),
            Stop(3, StopKind.Delivery, "Rapid City", 44.08, -103.23),
        ];

    private static StopSentence? Read(string said, List<StopInTown> stops) =>
        StopSentence.Read(Sentences.Read(said), stops, covered: true, Now, new Straight());

    [Theory]
    [InlineData("6145 at stop", 2, null)]
    [InlineData("6145 billings at stop", 2, null)]
    [InlineData("6145 rapid city at stop", 3, "Stop 2 is not complete yet: record its departure first.")]
    [InlineData("6145 rapid delivered", 3, "Stop 2 is not complete yet: record its departure first.")]
    [InlineData("kalispell delivered", 2, null)]
    [InlineData("6145 kalispell at stop", 1, "The arrival here is already recorded.")]
    [InlineData("kalispell billings at stop", 2, null)]
    [InlineData("6145 at billings", 2, null)]
    [InlineData("6145 at rapid city", 3, "Stop 2 is not complete yet: record its departure first.")]
    public void A_named_town_is_the_stop(string said, long stop, string? problem)
    {
        var read = Read(said, Load(Now - Duration.FromHours(12)));
        Assert.NotNull(read);
        Assert.Equal((stop, problem), (read.Stop.Id, read.Problem));
    }

    [Theory]
    [InlineData("6145 at tacoma")]
    [InlineData("6145 in bil")]
    [InlineData("6145")]
    public void A_town_where_the_load_does_not_stop_records_nothing(string said) =>
        Assert.Null(Read(said, Load(Now - Duration.FromHours(12))));

    [Fact]
    public void An_arrival_sooner_than_the_roads_allow_is_doubted_but_can_be_recorded()
    {
        var doubtful = Read("6145 at stop", Load(Now - Duration.FromHours(2)));
        Assert.NotNull(doubtful);
        Assert.Null(doubtful.Problem);
        Assert.StartsWith("It left Kalispell at 07:42, 32", doubtful.Doubt, StringComparison.Ordinal);
        Assert.Contains("Billings is not possible before Tue Nov 24, 12:", doubtful.Doubt, StringComparison.Ordinal);
        Assert.NotNull(doubtful.Change);
        Assert.Null(Read("6145 at stop", Load(Now - Duration.FromHours(7)))!.Doubt);

        // Who insisted on the arrival is not asked again at the delivery.
        var there = Load(Now - Duration.FromHours(2));
        there[1] = there[1] with { Stop = there[1].Stop with { Arrived = Now - Duration.FromMinutes(3) } };
        Assert.Equal((null, null), (Read("6145 delivered", there)!.Problem, Read("6145 delivered", there)!.Doubt));
    }

    [Fact]
    public void Doubt_ends_at_the_fastest_drive_wherever_the_stops_are()
    {
        var point = Gen.Select(Gen.Double[30, 48], Gen.Double[-120, -75]);
        Gen.Select(point, point, Gen.Int[-300, 300])
            .Sample(
                (from, to, minutes) =>
                {
                    var left = Now - Duration.FromDays(4);
                    List<StopInTown> stops =
                    [
                        Stop(1, StopKind.Pickup, "Here", from.Item1, from.Item2, left, left),
                        Stop(2, StopKind.Delivery, "There", to.Item1, to.Item2),
                    ];
                    var fastest = Math.Floor(
                        new Straight().Between(stops[0].Stop.Point, stops[1].Stop.Point).Minutes * StopSentence.FastestShare
                    );
                    Assert.Equal(
                        minutes < 0,
                        StopSentence.DoubtAt(stops, 1, left + Duration.FromMinutes(fastest + minutes), new Straight()) is not null
                    );
                }
            );
    }

    [Fact]
    public void A_shortage_is_reported_even_after_the_delivery_was_recorded()
    {
        var delivered = Load(Now - Duration.FromHours(20));
        delivered[1] = delivered[1] with
        {
            Stop = delivered[1].Stop with
            {
                Arrived = Now - Duration.FromHours(10),
                Delivered = Now - Duration.FromHours(10),
                Left = Now - Duration.FromHours(9),
            },
        };
        delivered[2] = delivered[2] with
        {
            Stop = delivered[2].Stop with { Arrived = Now - Duration.FromHours(2), Delivered = Now - Duration.FromHours(2) },
        };
        var planned = delivered.Select(s => s.Stop).ToList();

        Sentence After(string said)
        {
            var sentence = Sentences.Read(said);
            return StopSentence.AfterTheFact(sentence, StopSentence.Read(sentence, delivered, covered: true, Now, new Straight()), planned);
        }

        var late = After("6145 delivered, 3 cases short, signed R. Dahl");
        Assert.Equal((null, ReportKind.Short, 3, "signed by R. Dahl"), (late.Event, late.Report, late.Pieces, late.Reason));
        var signed = After("6145 signed by R. Dahl");
        Assert.Equal((null, ReportKind.Note, "signed by R. Dahl"), (signed.Event, signed.Report, signed.Reason));

        // On a load still rolling the delivery itself is recorded with it.
        var rolling = Sentences.Read("6145 delivered, 3 cases short, signed R. Dahl");
        Assert.Equal(
            rolling,
            StopSentence.AfterTheFact(
                rolling,
                Read("6145 delivered, 3 cases short, signed R. Dahl", Load(Now - Duration.FromHours(20))),
                Load(null).Select(s => s.Stop).ToList()
            )
        );
    }
}
