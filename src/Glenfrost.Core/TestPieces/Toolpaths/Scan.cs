using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces.Toolpaths;

/// <summary>Fills regions with parallel lines.</summary>
public static class Scan
{
    private readonly record struct Chord(double From, double To);

    /// <summary>
    /// Fills each polygon with parallel lines whose distance is stretched so that a whole number of them fits; lines that lie
    /// side by side are joined into one. What the chords miss or exceed of the area by their ends goes into the distance, so
    /// that length × spacing is the area (up to a quarter; a speck beyond that keeps its own).
    /// </summary>
    /// <param name="region">What to fill, mm.</param>
    /// <param name="spacing">Distance between lines that is aimed at, mm.</param>
    /// <param name="angleDeg">Direction of the lines, degrees from x; a polygon under three lines wide is filled along its length.</param>
    /// <param name="role">Role of the lines.</param>
    /// <param name="keepAngle">True where the direction must stay also in narrow polygons (bridges).</param>
    public static List<PathLine> Fill(Geometry region, double spacing, double angleDeg, PathRole role, bool keepAngle = false)
    {
        var lines = new List<PathLine>();
        foreach (var polygon in Plane.Polygons(region))
        {
            if (polygon.Area < 0.1 * spacing * spacing || 2 * polygon.Area / polygon.Length < 0.06 * spacing)
                continue;
            FillOne(polygon, spacing, keepAngle ? angleDeg : AlongIfNarrow(polygon, spacing) ?? angleDeg, role, lines);
        }

        return lines;
    }

    private static double? AlongIfNarrow(Polygon p, double spacing)
    {
        var e = p.EnvelopeInternal;
        if (p.Area > 9 * spacing * spacing && Math.Min(e.Width, e.Height) > 4 * spacing && p.Area / p.Length > 1.2 * spacing)
            return null;
        // The long side of the smallest upright or slanted box.
        var box = NetTopologySuite.Algorithm.MinimumAreaRectangle.GetMinimumRectangle(p);
        var c = box.Coordinates;
        if (c.Length < 4)
            return null;
        var (a, b) = (c[1].Distance(c[0]), c[2].Distance(c[1]));
        if (Math.Min(a, b) > 3 * spacing)
            return null;
        var (from, to) = a >= b ? (c[0], c[1]) : (c[1], c[2]);
        return Math.Atan2(to.Y - from.Y, to.X - from.X) * 180 / Math.PI;
    }

    private static void FillOne(Polygon polygon, double spacing, double angleDeg, PathRole role, List<PathLine> lines)
    {
        var (sin, cos) = Math.SinCos(angleDeg * Math.PI / 180);
        var rings = Rings(polygon, sin, cos);
        var (low, high) = (rings.Min(r => r.Min(p => p.Y)), rings.Max(r => r.Max(p => p.Y)));
        var count = Math.Max(1, (int)Math.Round((high - low) / spacing));
        var step = (high - low) / count;
        var made = new List<(List<(double X, double Y)> Points, int Row)>();
        var length = 0.0;
        for (var row = 0; row < count; row++)
        {
            var y = low + (row + 0.5) * step;
            var before = made.Where(m => m.Row == row - 1).ToList();
            foreach (var chord in Chords(rings, y))
            {
                var trim = Math.Min(step / 2, (chord.To - chord.From) * 0.25);
                var (a, b) = (chord.From + trim, chord.To - trim);
                if (b - a < spacing * 0.05)
                    continue;
                // Joined where the line before ends nearby; the link lies in the region, since both chords reach its edge.
                var joined = before.FindIndex(m => Near(m.Points[^1], a, b, y, step));
                if (joined >= 0)
                {
                    var m = before[joined];
                    before.RemoveAt(joined);
                    var fromLeft = Math.Abs(m.Points[^1].X - a) <= Math.Abs(m.Points[^1].X - b);
                    m.Points.Add((fromLeft ? a : b, y));
                    m.Points.Add((fromLeft ? b : a, y));
                    made[made.FindIndex(x => ReferenceEquals(x.Points, m.Points))] = (m.Points, row);
                }
                else
                {
                    made.Add(([(a, y), (b, y)], row));
                }
            }
        }

        foreach (var (points, _) in made)
        {
            for (var i = 1; i < points.Count; i++)
                length += Math.Sqrt(Math.Pow(points[i].X - points[i - 1].X, 2) + Math.Pow(points[i].Y - points[i - 1].Y, 2));
        }

        if (length <= 0)
            return;
        var filled = Math.Clamp(polygon.Area / length, Math.Min(step, spacing) * 0.6, Math.Max(step, spacing) * (length < 3 * step ? 2.5 : 1.25));
        foreach (var (points, _) in made)
            lines.Add(new(role, [.. points.Select(p => Plane.On(p.X * cos - p.Y * sin, p.X * sin + p.Y * cos))], filled));
    }

    private static bool Near((double X, double Y) end, double a, double b, double y, double step) =>
        Math.Abs(end.Y - y) < step * 1.01 && Math.Min(Math.Abs(end.X - a), Math.Abs(end.X - b)) < step * 1.6;

    private static List<(double X, double Y)[]> Rings(Polygon p, double sin, double cos)
    {
        var rings = new List<(double X, double Y)[]>();
        void Add(LineString ring) => rings.Add([.. ring.Coordinates.Select(c => (c.X * cos + c.Y * sin, -c.X * sin + c.Y * cos))]);
        Add(p.ExteriorRing);
        foreach (var hole in p.InteriorRings)
            Add(hole);
        return rings;
    }

    private static List<Chord> Chords(List<(double X, double Y)[]> rings, double y)
    {
        var xs = new List<double>();
        foreach (var ring in rings)
        {
            for (var i = 1; i < ring.Length; i++)
            {
                var (p, q) = (ring[i - 1], ring[i]);
                if (p.Y <= y != q.Y <= y)
                    xs.Add(p.X + (y - p.Y) / (q.Y - p.Y) * (q.X - p.X));
            }
        }

        xs.Sort();
        var chords = new List<Chord>();
        for (var i = 0; i + 1 < xs.Count; i += 2)
            chords.Add(new(xs[i], xs[i + 1]));
        return chords;
    }

    /// <summary>The chords of a polygon in a direction, as pairs of end points, at the given distance from each other.</summary>
    public static IEnumerable<(Coordinate From, Coordinate To)> Chords(Polygon polygon, double angleDeg, double step)
    {
        var (sin, cos) = Math.SinCos(angleDeg * Math.PI / 180);
        var rings = Rings(polygon, sin, cos);
        var (low, high) = (rings.Min(r => r.Min(p => p.Y)), rings.Max(r => r.Max(p => p.Y)));
        var count = Math.Max(1, (int)Math.Round((high - low) / step));
        for (var row = 0; row < count; row++)
        {
            var y = low + (row + 0.5) * (high - low) / count;
            foreach (var c in Chords(rings, y))
                yield return (new(c.From * cos - y * sin, c.From * sin + y * cos), new(c.To * cos - y * sin, c.To * sin + y * cos));
        }
    }
}
