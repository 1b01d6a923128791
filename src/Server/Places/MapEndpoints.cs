using System.IO.Compression;
using System.Text.Json;
using NodaTime;
using Npgsql;
using SteadyLark.Core.Basics;
using SteadyLark.Core.Loads;
using SteadyLark.Core.People;
using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;
using SteadyLark.Core.Trips;
using SteadyLark.Formats.Places;
using SteadyLark.Server.Basics;
using SteadyLark.Server.Loads;
using SteadyLark.Server.People;
using SteadyLark.Store.Loads;
using SteadyLark.Store.Places;
using SteadyLark.Store.Tracking;

namespace SteadyLark.Server.Places;

/// <param name="At">Longitude and latitude, as in GeoJSON (RFC 7946, section 3.1.1).</param>
/// <param name="Done">The truck has passed it.</param>
public sealed record MapStop(StopKind Kind, string Place, string Town, double[] At, bool Done);

/// <summary>A load on the map.</summary>
/// <param name="At">The truck's last known position, or null.</param>
/// <param name="Line">Its route, as longitude and latitude.</param>
public sealed record MapLoad(
    long Id,
    string Number,
    LoadState State,
    string Lane,
    string? Who,
    string Status,
    Urgency Urgency,
    IReadOnlyList<MapStop> Stops,
    double[]? At,
    Instant? SeenAt,
    string? SeenWhere,
    IReadOnlyList<double[]> Line
);

/// <param name="Kind">An uncovered load, a load's truck, or a place.</param>
/// <param name="Miles">By road; along a route, the extra miles.</param>
/// <param name="Where">In words, such as 22 mi NW of Butte MT.</param>
public sealed record NearView(string Kind, long Id, string Name, string Where, double Miles, int Minutes, double[] At);

/// <param name="From">As it was resolved.</param>
/// <param name="To">For a search along a route.</param>
public sealed record NearAnswer(string From, string? To, double[] At, IReadOnlyList<double[]> Line, IReadOnlyList<NearView> Found);

/// <summary>Map data.</summary>
public static class MapEndpoints
{
    private static readonly Lazy<byte[]> Base = new(MakeBase);

    public static void MapMap(this RouteGroupBuilder api)
    {
        // The same for everyone as long as the program runs.
        api.MapGet("/map/base", (HttpContext http) =>
            {
                http.Response.Headers.ContentEncoding = "gzip";
                http.Response.Headers.CacheControl = "private, max-age=86400";
                return TypedResults.Bytes(Base.Value, "application/json");
            })
            .Needs(Right.SessionOwn)
            .ExcludeFromDescription();

        api.MapGet("/map/loads", async (CallerReads reads, IClock clock, BusinessZone zone) =>
            {
                await using var db = await reads.Open();
                var now = clock.GetCurrentInstant();
                var rows = await LoadReads.InStates(db, [LoadState.Covered, LoadState.Rolling], null, 1000);
                return await Loads(db, rows, now, zone.Zone);
            })
            .Needs(Right.LoadsSee)
            .WithName("getMapLoads");

        api.MapGet(
                "/map/near",
                async Task<IResult> (
                    string? at,
                    string? to,
                    double? miles,
                    string? region,
                    CallerReads reads,
                    IClock clock,
                    BusinessZone zone
                ) =>
                {
                    var max = miles ?? 100;
                    var validation = new Validation();
                    if (!(max is >= 1 and <= 3000))
                    {
                        validation.Add("out.of.range", "The radius must be 1 to 3,000 miles.", "miles");
                    }

                    Candidate? Sure(string? text, string field, string what)
                    {
                        var answer = Routing.Gazetteer.Resolve(text ?? "");
                        if (answer.Sure is null)
                        {
                            validation.Add("place.doubtful", $"{what}: {answer.Why}", field);
                        }
                        else if (Routing.Router.Unreached(answer.Sure.Point) is { } unreached)
                        {
                            validation.Add("outside", $"{answer.Sure.Label} {unreached}.", field);
                        }

                        return answer.Sure;
                    }

                    var from = Sure(at, "at", "Where");
                    var until = string.IsNullOrWhiteSpace(to) ? null : Sure(to, "to", "To");
                    if (!validation.Ok)
                    {
                        return Answers.Refused(validation.Problems);
                    }

                    await using var db = await reads.Open();
                    var regions = Regions.Zone(region);
                    var all = (await Candidates(db, clock.GetCurrentInstant(), zone.Zone))
                        .Where(c => regions is null || regions.Contains(c.Region))
                        .ToList();
                    var index = new NearIndex(Routing.Router, all.Select(c => c.Point).ToList());
                    var near = until is null ? index.Within(from!.Point, max) : index.Along(from!.Point, until.Point, max);
                    var line = until is null ? null : Routing.Router.Route(from!.Point, until.Point)?.Line;
                    return TypedResults.Ok(
                        new NearAnswer(
                            from!.Label,
                            until?.Label,
                            [from.Point.Longitude, from.Point.Latitude],
                            (line ?? []).Select(Routing.Position).ToList(),
                            near.Take(500)
                                .Select(n => new NearView(
                                    all[n.Index].Kind,
                                    all[n.Index].Id,
                                    all[n.Index].Name,
                                    Whereabouts.Format(all[n.Index].Point, from.Label, from.Point),
                                    Math.Round(n.Miles, 1),
                                    (int)Math.Round(n.Minutes),
                                    Routing.Position(all[n.Index].Point)
                                ))
                                .ToList()
                        )
                    );
                }
            )
            .Needs(Right.LoadsSee)
            .Produces<NearAnswer>()
            .ProducesProblem(422)
            .WithName("getNear");
    }

    private static async Task<List<MapLoad>> Loads(NpgsqlConnection db, List<LoadRow> rows, Instant now, DateTimeZone zone)
    {
        var lines = (await LoadViews.Lines(db, rows, now, zone)).ToDictionary(l => l.Load.Id);
        var seen = await PositionStore.Last(
            db,
            rows.Where(r => r is { State: LoadState.Rolling, TripId: not null }).Select(r => r.TripId!.Value),
            now - LoadViews.SeenWithin
        );
        return rows.Where(r => r.Stops.Count >= 2 && r.Stops.All(s => s.Latitude is not null))
            .Select(r =>
            {
                var points = new List<GeoPoint>();
                foreach (var (s, i) in r.Stops.Select((s, i) => (s, i)))
                {
                    points.AddRange(i == 0 ? [] : (s.Via ?? []).Select(v => v.Point));
                    points.Add(s.Point);
                }

                var last = r.TripId is { } trip ? seen.GetValueOrDefault(trip) : null;
                var line = lines[r.Id];
                return new MapLoad(
                    r.Id,
                    r.Number,
                    r.State,
                    $"{r.Stops[0].Town} to {r.Stops[^1].Town}",
                    r.Who,
                    line.Status,
                    line.Urgency,
                    r.Stops.Select(s => new MapStop(
                            s.Kind,
                            s.Place ?? "",
                            $"{s.Town} {s.Region}",
                            Routing.Position(s.Point),
                            s.LeftAt is not null || s.DeliveredAt is not null || s.RefusedAt is not null
                        ))
                        .ToList(),
                    last is null ? null : Routing.Position(last.Point),
                    last?.At,
                    last is null ? null : Routing.Where(last.Point),
                    Routing.Line(points).Select(Routing.Position).ToList()
                );
            })
            .ToList();
    }

    /// <summary>What can be near: uncovered loads, trucks in transit, and address-book places.</summary>
    private static async Task<List<(string Kind, long Id, string Name, string Region, GeoPoint Point)>> Candidates(
        NpgsqlConnection db,
        Instant now,
        DateTimeZone zone
    )
    {
        var found = new List<(string, long, string, string, GeoPoint)>();
        foreach (
            var load in (await LoadReads.InStates(db, [LoadState.Booked], null, 5000)).Where(l =>
                l.Stops.Count > 0 && l.Stops[0].Latitude is not null
            )
        )
        {
            found.Add(
                (
                    "load",
                    load.Id,
                    $"{load.Number} {load.Stops[0].Town} to {load.Stops[^1].Town}{(load.FirstAt is { } at ? $", {at.Format(zone)}" : "")}",
                    load.Stops[0].Region!,
                    load.Stops[0].Point
                )
            );
        }

        var rolling = (await LoadReads.InStates(db, [LoadState.Rolling], null, 1000))
            .Where(l => l.TripId is not null)
            .GroupBy(l => l.TripId!.Value)
            .ToDictionary(t => t.Key, t => t.ToList());
        foreach (var seen in (await PositionStore.Last(db, rolling.Keys, now - LoadViews.SeenWithin)).Values)
        {
            found.Add(
                (
                    "truck",
                    rolling[seen.TripId][0].Id,
                    $"{rolling[seen.TripId][0].Who} with {string.Join(" and ", rolling[seen.TripId].Select(l => l.Number))}",
                    Routing.Gazetteer.Nearest(seen.Point)?.Region ?? "",
                    seen.Point
                )
            );
        }

        found.AddRange(
            (await PlaceStore.Like(db, "", 20_000)).Select(p => ("place", p.Id, $"{p.Name}, {p.Town} {p.Region}", p.Region, p.Point))
        );
        return found;
    }

    /// <summary>Land, roads and towns in thousandths of a degree, packed. Roads of one name and kind are chained into as few lines as
    /// possible.</summary>
    private static byte[] MakeBase()
    {
        static int[] Line(IEnumerable<GeoPoint> points)
        {
            var (x, y) = (0, 0);
            return points
                .SelectMany(p =>
                {
                    var (u, v) = ((int)Math.Round(p.Longitude * 1000), (int)Math.Round(p.Latitude * 1000));
                    int[] step = [u - x, v - y];
                    (x, y) = (u, v);
                    return step;
                })
                .ToArray();
        }

        using var land = Atlas.Land();
        using var document = JsonDocument.Parse(land.ReadToEnd());
        var network = Routing.Router.Network;
        var roads = network
            .Edges.Where(e => e.Road >= 0)
            .GroupBy(e => (network.Roads[e.Road], e.Class))
            .SelectMany(g =>
                Chains(g.ToList())
                    .Select(c => new
                    {
                        n = g.Key.Item1,
                        k = (int)g.Key.Class,
                        l = Line(c.Select(v => network.Nodes[v].Point)),
                    })
            );
        var towns = Routing
            .Towns.Where(t => t.Population >= 2500)
            .OrderByDescending(t => t.Population)
            .Select(t =>
                new object[]
                {
                    t.Name,
                    t.Region,
                    (int)Math.Round(t.Point.Longitude * 1000),
                    (int)Math.Round(t.Point.Latitude * 1000),
                    t.Population,
                }
            );
        using var packed = new MemoryStream();
        using (var zip = new GZipStream(packed, CompressionLevel.SmallestSize))
        {
            JsonSerializer.Serialize(
                zip,
                new
                {
                    regions = document.RootElement.GetProperty("regions"),
                    around = document.RootElement.GetProperty("around"),
                    roads,
                    towns,
                }
            );
        }

        return packed.ToArray();
    }

    private static IEnumerable<List<int>> Chains(List<RoadEdge> edges)
    {
        var at = edges.SelectMany(e => new[] { (e.A, e), (e.B, e) }).ToLookup(x => x.Item1, x => x.e);
        var used = new HashSet<(int, int)>();
        foreach (var start in edges.OrderBy(e => Math.Min(at[e.A].Count(), at[e.B].Count())))
        {
            if (!used.Add((start.A, start.B)))
            {
                continue;
            }

            var chain = new LinkedList<int>([start.A, start.B]);
            while (Next(chain.Last!.Value) is { } next)
            {
                chain.AddLast(next);
            }

            while (Next(chain.First!.Value) is { } next)
            {
                chain.AddFirst(next);
            }

            yield return [.. chain];
        }

        int? Next(int node)
        {
            foreach (var e in at[node])
            {
                if (used.Add((e.A, e.B)))
                {
                    return e.A == node ? e.B : e.A;
                }
            }

            return null;
        }
    }
}
