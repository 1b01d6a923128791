namespace SteadyLark.Core.Places;

/// <summary>Distance and driving time by road between any two points.</summary>
public interface IRoads
{
    /// <summary>A truck's drive. Symmetric; zero from a point to itself.</summary>
    Drive Between(GeoPoint from, GeoPoint to);

    /// <summary>The drive through points in order; zero for fewer than two.</summary>
    Drive Along(IReadOnlyList<GeoPoint> points)
    {
        var sum = default(Drive);
        for (var i = 1; i < points.Count; i++)
        {
            sum += Between(points[i - 1], points[i]);
        }

        return sum;
    }
}
