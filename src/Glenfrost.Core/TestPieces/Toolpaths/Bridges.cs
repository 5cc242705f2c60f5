using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Algorithm.Locate;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces.Toolpaths;

/// <summary>A part of a layer over air, and the direction in which it is best spanned.</summary>
/// <param name="Region">What lies over air, mm.</param>
/// <param name="AngleDeg">Direction of its lines, degrees from x.</param>
public sealed record BridgeArea(Polygon Region, double AngleDeg);

/// <summary>Finds what has to be bridged.</summary>
public static class Bridges
{
    /// <summary>
    /// Parts that stick out over the layer below by more than a leaning wall may (0.6 of a line) and that hold at least
    /// a few lines. The direction is the one in which most lines find support at both ends, then the one with the shortest.
    /// </summary>
    /// <param name="shape">The island, mm.</param>
    /// <param name="below">The layer below, mm.</param>
    /// <param name="spacing">Distance of lines, mm.</param>
    public static IReadOnlyList<BridgeArea> Find(Polygon shape, Geometry below, double spacing)
    {
        var areas = new List<BridgeArea>();
        // Most layers stick out by a leaning wall at most: seen without growing the layer below.
        var bare = shape.Difference(below);
        if (bare.Area < 6 * spacing * spacing || Plane.Inset(bare, 0.4 * spacing).IsEmpty)
            return areas;
        var over = bare.Difference(Plane.Outset(below, 0.6 * spacing));
        foreach (var p in Plane.Polygons(Plane.AtLeast(over, spacing)))
        {
            if (p.Area > 6 * spacing * spacing)
                areas.Add(new(p, Direction(p, below, spacing)));
        }

        return areas;
    }

    private static double Direction(Polygon p, Geometry below, double spacing)
    {
        var held = new IndexedPointInAreaLocator(Plane.Outset(below, 0.7 * spacing));
        var candidates = Enumerable.Range(0, 12).Select(i => i * 15.0).Concat(EdgeAngles(p)).Distinct();
        return candidates.Select(angle =>
        {
            var chords = Scan.Chords(p, angle, Math.Max(spacing, Math.Sqrt(p.Area) / 20)).ToList();
            var reach = 0.3 * spacing;
            var both = chords.Count(c =>
            {
                var length = Math.Max(1e-9, c.From.Distance(c.To));
                var (ux, uy) = ((c.To.X - c.From.X) / length, (c.To.Y - c.From.Y) / length);
                return held.Locate(new Coordinate(c.From.X - ux * reach, c.From.Y - uy * reach)) != Location.Exterior
                    && held.Locate(new Coordinate(c.To.X + ux * reach, c.To.Y + uy * reach)) != Location.Exterior;
            });
            return (angle, Held: Math.Round((double)both / chords.Count, 2), Length: Math.Round(chords.Average(c => c.From.Distance(c.To)), 2));
        }).OrderByDescending(x => x.Held).ThenBy(x => x.Length).ThenBy(x => x.angle).First().angle;
    }

    private static IEnumerable<double> EdgeAngles(Polygon p)
    {
        var c = p.ExteriorRing.Coordinates;
        for (var i = 1; i < c.Length && i < 20; i++)
        {
            if (c[i].Distance(c[i - 1]) > 2)
                yield return Math.Round(((Math.Atan2(c[i].Y - c[i - 1].Y, c[i].X - c[i - 1].X) * 180 / Math.PI) + 180) % 180, 1);
        }
    }
}
