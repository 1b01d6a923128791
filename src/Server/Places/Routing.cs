using SteadyLark.Core.Basics;
using SteadyLark.Core.Places;
using SteadyLark.Core.Places.Roads;
using SteadyLark.Formats.Places;

namespace SteadyLark.Server.Places;

/// <param name="From">A place in any common form, as all of them: a town and its state, a postal code, latitude and longitude.</param>
/// <param name="Via">Via points, in order.</param>
/// <param name="AvoidTolls">Use toll roads only where there is no other way.</param>
/// <param name="Shortest">The fewest miles instead of the fewest minutes.</param>
/// <param name="StayIn">US or CA.</param>
public sealed record RouteRequest(
    string? From,
    string? To,
    IReadOnlyList<string>? Via = null,
    bool AvoidTolls = false,
    bool Shortest = false,
    string? StayIn = null
);

/// <param name="Road">Null for local streets.</param>
/// <param name="To">The town or junction where it ends.</param>
public sealed record RouteStep(string? Road, double Miles, double Minutes, string? To);

/// <param name="Points">The places as resolved.</param>
/// <param name="Miles">Statute miles, in tenths.</param>
/// <param name="Minutes">A truck's driving minutes, without stops or rest.</param>
/// <param name="ByState">Miles in each state and province, in route order.</param>
/// <param name="Line">Longitude and latitude of the route's points, in GeoJSON order (RFC 7946, section 3.1.1).</param>
public sealed record RouteAnswer(
    IReadOnlyList<string> Points,
    double Miles,
    double Minutes,
    double TollMiles,
    IReadOnlyDictionary<string, double> ByState,
    IReadOnlyList<RouteStep> Steps,
    IReadOnlyList<double[]> Line
);

/// <summary>
/// Towns and roads, loaded when first needed. Like time zones they ship with the program and never change while it runs, so they belong to
/// the
/// process and not to a request.
/// </summary>
public static class Routing
{
    private static readonly Lazy<Gazetteer> TheGazetteer = new(Atlas.Gazetteer);
    private static readonly Lazy<RoadRouter> TheRouter = new(() => new RoadRouter(Atlas.Roads(), Atlas.Shore));
    private static readonly Lazy<CachedRoads> TheRoads = new(() => new CachedRoads(TheRouter.Value));

    public static Gazetteer Gazetteer => TheGazetteer.Value;

    public static RoadRouter Router => TheRouter.Value;

    /// <summary>Longitude and latitude, in GeoJSON order (RFC 7946, section 3.1.1), to about a yard.</summary>
    public static double[] Position(GeoPoint p) => [Math.Round(p.Longitude, 5), Math.Round(p.Latitude, 5)];

    /// <summary>A point in words: relative to the nearest town, or as coordinates far from any.</summary>
    public static string Where(GeoPoint point) =>
        Gazetteer.Nearest(point) is { } near
            ? Whereabouts.Format(point, $"{near.Name} {near.Region}", near.Point)
            : $"{point.Latitude:0.000}, {point.Longitude:0.000}";

    /// <summary>The towns of the gazetteer, as the map shows them.</summary>
    public static IReadOnlyList<Town> Towns => TheGazetteer.Value.Towns;

    /// <summary>Drives between any two points, cached.</summary>
    public static IRoads Roads => TheRoads.Value;

    /// <summary>The route through points in order as a line, cached.</summary>
    public static IReadOnlyList<GeoPoint> Line(IReadOnlyList<GeoPoint> points) => TheRoads.Value.Line(points);

    /// <summary>The route between places as written; a sentence for each that is unknown, ambiguous or unreachable.</summary>
    public static Outcome<RouteAnswer> Answer(RouteRequest ask)
    {
        var validation = new Validation();
        var points = new List<(Candidate? Place, string Field)> { (Sure(ask.From, "from", validation), "from") };
        for (var i = 0; i < (ask.Via?.Count ?? 0); i++)
        {
            points.Add((Sure(ask.Via![i], $"via[{i}]", validation), $"via[{i}]"));
        }

        points.Add((Sure(ask.To, "to", validation), "to"));
        if (points.Count > 60)
        {
            validation.Add("too.many", "A route can have at most 58 via points.", "via");
        }

        if (ask.StayIn is not (null or "US" or "CA"))
        {
            validation.Add("country", "Choose US or CA.", "stayIn");
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        foreach (var (place, field) in points)
        {
            if (Router.Unreached(place!.Point) is { } why)
            {
                validation.Add("outside", $"{place.Label} {why}.", field);
            }
        }

        if (!validation.Ok)
        {
            return validation.Problems;
        }

        return
            Router.Route(points.Select(p => p.Place!.Point).ToList(), new RoadOptions(ask.AvoidTolls, ask.Shortest, ask.StayIn))
                is { } route
            ? new RouteAnswer(
                points.Select(p => p.Place!.Label).ToList(),
                Math.Round(route.Miles, 1),
                Math.Round(route.Minutes),
                Math.Round(route.TollMiles, 1),
                route.ByRegion.ToDictionary(r => r.Region, r => Math.Round(r.Miles, 1)),
                Directions.Of(route.Steps).Select(s => new RouteStep(s.Road, Math.Round(s.Miles, 1), Math.Round(s.Minutes), s.To)).ToList(),
                route.Line.Select(Position).ToList()
            )
            : new Problem(
                "no.route",
                $"There is no route from {points[0].Place!.Label} to {points[^1].Place!.Label} with these options.",
                "to"
            );
    }

    private static Candidate? Sure(string? text, string field, Validation validation)
    {
        if (string.IsNullOrWhiteSpace(text))
        {
            validation.Add("missing", "Write a town and its state, a postal code, or latitude and longitude.", field);
            return null;
        }

        var answer = Gazetteer.Resolve(text);
        if (answer.Sure is { } sure)
        {
            return sure;
        }

        validation.Add(answer.Candidates.Count == 0 ? "place.unknown" : "place.doubtful", answer.Why!, field);
        return null;
    }
}
