namespace SteadyLark.Core.Places;

/// <summary>How far and how long it is by road between any two points.</summary>
public interface IRoads
{
    /// <summary>The drive a truck would make. Symmetric; nothing from a point to itself.</summary>
    Drive Between(GeoPoint from, GeoPoint to);

    /// <summary>The drive along points in order; nothing for fewer than two.</summary>
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
