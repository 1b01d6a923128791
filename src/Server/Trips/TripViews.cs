using NodaTime;
using Npgsql;
using SteadyLark.Core.Loads;
using SteadyLark.Core.Paying;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;
using SteadyLark.Core.Trips;
using SteadyLark.Formats.Routes;
using SteadyLark.Server.Loads;
using SteadyLark.Server.Places;
using SteadyLark.Store.Basics;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Trips;

namespace SteadyLark.Server.Trips;

/// <summary>The route to a stop from the one before it, or the empty route to the first.</summary>
/// <param name="StopId">Null for the empty route.</param>
/// <param name="RoadMiles">Road miles through the via points, in tenths.</param>
/// <param name="Miles">The miles that count: manual, or by road.</param>
/// <param name="MilesSet">The manual miles with reason, user and time; null without an override.</param>
/// <param name="Estimated">True off our road network: the straight line times a road factor.</param>
/// <param name="Line">Longitude and latitude of the route's points.</param>
public sealed record StretchView(
    long? StopId,
    string From,
    string To,
    double RoadMiles,
    double Miles,
    int Minutes,
    int? MilesSet,
    string? MilesWhy,
    string? MilesBy,
    Instant? MilesAt,
    IReadOnlyList<ViaRequest> Via,
    bool Estimated,
    IReadOnlyList<double[]> Line
);

/// <summary>A trip by road: its miles, its route, and its expected cost and profit.</summary>
/// <param name="Empty">Where its truck comes from; null while no driver of ours has it, or when this is their first.</param>
/// <param name="ByState">Empty and loaded miles by state and province, in route order.</param>
/// <param name="TollMiles">Of the total, on toll roads.</param>
/// <param name="Steps">Directions over all stretches.</param>
/// <param name="Cost">Null for a load hauled by a carrier, which bears its own costs.</param>
public sealed record TripView(
    long LoadId,
    string Number,
    StretchView? Empty,
    IReadOnlyList<StretchView> Stretches,
    double EmptyMiles,
    double LoadedMiles,
    int Minutes,
    double TollMiles,
    IReadOnlyDictionary<string, double> ByState,
    IReadOnlyList<RouteStep> Steps,
    [property: SeenWith(Right.MarginsSee)] TripCost? Cost,
    [property: SeenWith(Right.MarginsSee)] IReadOnlyList<TripCostRow> Costs
);

/// <summary>Trips by road.</summary>
public static class TripViews
{
    /// <summary>A point of the way: a stop, or a transfer where a leg begins or ends.</summary>
    private sealed record Waypoint(string Name, GeoPoint Point, StopRow? Stop);

    /// <param name="leg">One leg, from 1, between its transfers; null for the whole load.</param>
    /// <returns>Null when there is no such load, or not all its places are known yet.</returns>
    public static async Task<TripView?> Of(NpgsqlConnection db, long loadId, int? leg = null)
    {
        if (
            await LoadReads.Sheet(db, loadId) is not { } sheet
            || sheet.Load.Stops is not { Count: >= 2 } stops
            || stops.Any(s => s.Latitude is null)
        )
        {
            return null;
        }

        var steps = new List<RouteStep>();
        var states = new Dictionary<string, double>();
        var (minutes, toll) = (0d, 0d);
        StretchView? empty = null;
        var way = Way(sheet.Load, leg);
        // A truck that carries other loads too does not come from its previous trip for this one.
        if (
            sheet.Legs.ElementAtOrDefault((leg ?? 1) - 1) is { TripId: { } trip, RidesWith.Count: 0 }
            && await TripStore.ComesFrom(db, trip) is { } from
        )
        {
            empty = Stretch(null, from.Town, way[0].Name, from.Point, [], way[0].Point, null);
        }

        var stretches = new List<StretchView>();
        for (var i = 1; i < way.Count; i++)
        {
            // A route override is for the whole stretch between two stops.
            var whole = way[i - 1].Stop is null ? null : way[i].Stop;
            stretches.Add(Stretch(way[i].Stop?.Id, way[i - 1].Name, way[i].Name, way[i - 1].Point, whole?.Via ?? [], way[i].Point, whole));
        }

        var (emptyMiles, loaded) = (empty?.Miles ?? 0, stretches.Sum(s => s.Miles));
        var costs = await TripStore.Costs(db, loadId);
        var cost =
            sheet.Leg?.CarrierId is not null ? null
            : LoadMargin.Of(sheet.Legs.Select(l => l.Cost)) is { } known
                ? TripCost.Of(known, sheet.Load.RevenueInBooks, emptyMiles + loaded, sheet.Legs.Sum(l => l.TruckDays ?? 0))
            : await Expected();
        return new TripView(
            loadId,
            sheet.Load.Number,
            empty,
            stretches,
            Math.Round(emptyMiles, 1),
            Math.Round(loaded, 1),
            (int)Math.Round(minutes),
            Math.Round(toll, 1),
            states.ToDictionary(s => s.Key, s => Math.Round(s.Value, 1)),
            steps,
            cost,
            costs
        );

        // Before a driver is assigned: by the company's figures.
        async Task<TripCost> Expected()
        {
            var settings = await CompanySettingsStore.Read(db);
            var service = stops.Where(s => s.CanBePlanned).Aggregate(Duration.Zero, (sum, s) => sum + s.Planned().ServiceTime);
            var drive = new Drive(emptyMiles + loaded, minutes);
            var work = new TruckWork(drive.WholeMiles, 0, toll, drive.DoorToDoor + service);
            var driver = new DriverCost(null, WorkerKind.Employee, settings.PayrollTaxPercent);
            return TripCost.Of(
                LegCost.Of(settings.Costs, work, driver, KnownCosts.Of(costs.Select(c => c.Entered))),
                sheet.Load.RevenueInBooks,
                drive.Miles,
                work.Days
            );
        }

        static List<Waypoint> Way(LoadRow load, int? leg)
        {
            IEnumerable<StopRow> stops = leg is { } one ? load.StopsOfLeg(one) : load.Stops;
            return
            [
                .. leg is { } first ? At(load.TransferBefore(first)) : [],
                .. stops.Select(s => new Waypoint(Format(s), s.Point, s)),
                .. leg is { } last ? At(load.TransferAfter(last)) : [],
            ];
        }

        static IEnumerable<Waypoint> At(TransferRow? t) =>
            t is null ? [] : [new Waypoint($"{t.Place}, {t.Town} {t.Region}", new GeoPoint(t.Latitude, t.Longitude), null)];

        StretchView Stretch(long? stop, string a, string b, GeoPoint start, IReadOnlyList<ShapingPoint> via, GeoPoint end, StopRow? row)
        {
            GeoPoint[] points = [start, .. via.Select(v => v.Point), end];
            var route = Routing.Router.Route(points);
            var way = DrivenRoute.Of(route, points, row?.MilesSet, row?.Region ?? "");
            var (drive, counts) = (way.Road, way.Counts);
            minutes += counts.Minutes;
            toll += way.TollMiles;
            foreach (var (region, m) in way.ByRegion)
            {
                states[region] = states.GetValueOrDefault(region) + m;
            }

            steps.AddRange(
                Directions
                    .Of(route?.Steps ?? [new RoadStep(null, drive.Miles, drive.Minutes, b)])
                    .Select(s => new RouteStep(s.Road, Math.Round(s.Miles, 1), Math.Round(s.Minutes), s.To))
            );
            if (steps.Count > 0)
            {
                steps[^1] = steps[^1] with { To = b };
            }

            return new StretchView(
                stop,
                a,
                b,
                Math.Round(drive.Miles, 1),
                Math.Round(counts.Miles, 1),
                (int)Math.Round(counts.Minutes),
                row?.MilesSet,
                row?.MilesWhy,
                row?.MilesBy,
                row?.MilesAt,
                via.Select(v => new ViaRequest(v.Name, v.Point.Latitude, v.Point.Longitude)).ToList(),
                way.Estimated,
                way.Line.Select(Routing.Position).ToList()
            );
        }
    }

    /// <summary>A load's route with its stops, for download.</summary>
    public static RouteFile File(TripView trip, LoadRow load) =>
        new(
            $"Load {load.Number}",
            load.Stops.Select(
                    (s, i) =>
                        new RouteStop(
                            s.Place ?? "",
                            $"{s.Address}, {Format(s)}".TrimStart(',', ' '),
                            s.Kind == StopKind.Pickup ? "pickup" : "delivery",
                            s.Point,
                            s.From is { } when
                                ? $"{when:ddd MMM d, uuuu HH:mm}{(s.Until is { } until && until != when ? $" to {until:ddd MMM d, HH:mm}" : "")}"
                                : null,
                            i == 0 ? null : trip.Stretches[i - 1].Miles,
                            i == 0 ? null : trip.Stretches[i - 1].Minutes
                        )
                )
                .ToList(),
            trip.Stretches.SelectMany((s, i) => i == 0 ? s.Line : s.Line.Skip(1)).Select(p => new GeoPoint(p[1], p[0])).ToList()
        );

    private static string Format(StopRow s) => $"{s.Town} {s.Region}";
}
