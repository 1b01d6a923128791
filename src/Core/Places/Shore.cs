namespace SteadyLark.Core.Places;

/// <summary>A country, state or province.</summary>
/// <param name="Name">Two letters for our own, as <see cref="Regions"/> knows them; else the country's name.</param>
/// <param name="Rings">A hole is a ring within another; the first point need not be repeated.</param>
public sealed record Outline(string Name, IReadOnlyList<IReadOnlyList<GeoPoint>> Rings);

/// <summary>Coastlines and borders, from the outlines of states and provinces. They are simplified: within two miles of a shore it may be
/// wrong.</summary>
public sealed class Shore
{
    /// <summary>Latitude bands per degree; a point is tested only against the sides that cross its band.</summary>
    private const int Bands = 20;

    /// <summary>Spacing of the points tested for water, in miles.</summary>
    private const double Step = 0.4;

    private readonly Dictionary<int, List<(int Land, double Latitude1, double Longitude1, double Latitude2, double Longitude2)>> _sides =
    [];
    private readonly List<Outline> _lands;

    /// <param name="lands">Our own states and provinces, and what surrounds them.</param>
    public Shore(IEnumerable<Outline> lands)
    {
        _lands = [.. lands];
        for (var land = 0; land < _lands.Count; land++)
        {
            foreach (var ring in _lands[land].Rings)
            {
                for (var i = 0; i < ring.Count; i++)
                {
                    var (a, b) = (ring[i], ring[(i + 1) % ring.Count]);
                    for (var band = Band(Math.Min(a.Latitude, b.Latitude)); band <= Band(Math.Max(a.Latitude, b.Latitude)); band++)
                    {
                        (_sides.TryGetValue(band, out var list) ? list : _sides[band] = []).Add(
                            (land, a.Latitude, a.Longitude, b.Latitude, b.Longitude)
                        );
                    }
                }
            }
        }
    }

    /// <summary>Whether a point is on land in the United States or Canada.</summary>
    public bool Dry(GeoPoint point) => On(point) is { } land && IsOurs(land);

    /// <summary>The country of a point outside the United States and Canada; null when it is in these, within a mile of them, or in the
    /// water.</summary>
    public string? Abroad(GeoPoint point)
    {
        if (On(point) is not { } land || IsOurs(land))
        {
            return null;
        }

        return Around(point, 1, 8).Any(Dry) ? null : land.Name;
    }

    /// <summary>Whether there is no land of ours within so many miles of a point.</summary>
    public bool Offshore(GeoPoint point, double miles) =>
        !Dry(point) && !Around(point, miles / 2, 12).Concat(Around(point, miles, 24)).Any(Dry);

    /// <summary>Miles of a straight line that are not over our land.</summary>
    public double Water(GeoPoint from, GeoPoint to)
    {
        var miles = GreatCircle.Miles(from, to);
        var steps = Math.Max(1, (int)Math.Ceiling(miles / Step));
        var wet = 0;
        for (var i = 0; i < steps; i++)
        {
            wet += Dry(Whereabouts.Between(from, to, (i + 0.5) / steps)) ? 0 : 1;
        }

        return miles * wet / steps;
    }

    /// <summary>Points on a circle.</summary>
    private static IEnumerable<GeoPoint> Around(GeoPoint point, double miles, int count) =>
        Enumerable
            .Range(0, count)
            .Select(k => k * 2 * Math.PI / count)
            .Select(a => new GeoPoint(
                point.Latitude + (miles / 69 * Math.Sin(a)),
                point.Longitude + (miles / 69 * Math.Cos(a) / Math.Cos(point.Latitude * Math.PI / 180))
            ));

    private static bool IsOurs(Outline land) => land.Name.Length == 2;

    /// <summary>The land a point is on, our own first; by the even-odd rule over its rings.</summary>
    private Outline? On(GeoPoint point)
    {
        Span<bool> within = stackalloc bool[_lands.Count];
        foreach (var s in _sides.GetValueOrDefault(Band(point.Latitude)) ?? [])
        {
            if (
                s.Latitude1 > point.Latitude != s.Latitude2 > point.Latitude
                && point.Longitude
                    < s.Longitude1 + ((point.Latitude - s.Latitude1) / (s.Latitude2 - s.Latitude1) * (s.Longitude2 - s.Longitude1))
            )
            {
                within[s.Land] = !within[s.Land];
            }
        }

        Outline? found = null;
        for (var i = 0; i < _lands.Count; i++)
        {
            if (within[i] && (found is null || IsOurs(_lands[i])))
            {
                found = _lands[i];
            }
        }

        return found;
    }

    private static int Band(double latitude) => (int)Math.Floor(latitude * Bands);
}
