using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Algorithm.Locate;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces.Toolpaths;

/// <summary>What the lines of an island depend on besides its shape.</summary>
/// <param name="SpacingMm">Distance between lines, mm.</param>
/// <param name="RoundEndsMm">What round bead ends take off the width, mm.</param>
/// <param name="Walls">Number of walls, at least 1.</param>
/// <param name="FillAngleDeg">Direction of the fill.</param>
public sealed record LineSettings(double SpacingMm, double RoundEndsMm, int Walls, double FillAngleDeg);

/// <summary>Turns one island into walls, thin lines and fill whose volume is its area times the layer height.</summary>
public static class IslandPaths
{
    private const double Hair = 0.001;

    /// <summary>What depends on the island's shape alone: its walls, its narrow parts, and what is left inside.</summary>
    public sealed record Walled(Polygon Island, IReadOnlyList<PathLine> Walls, IReadOnlyList<PathLine> Thin, Geometry Rest);

    /// <summary>Makes all lines of an island.</summary>
    /// <param name="island">The island's shape, mm.</param>
    /// <param name="s">Settings.</param>
    /// <param name="below">The layer below, mm; null where the island stands fully on it or on the bed.</param>
    /// <param name="above">The layer above, mm; null where it covers the island fully.</param>
    public static IslandLines Make(Polygon island, LineSettings s, Geometry? below, Geometry? above) => Fill(Wall(island, s), s, below, above);

    /// <summary>Walls and narrow parts of an island.</summary>
    public static Walled Wall(Polygon island, LineSettings s)
    {
        var d = s.SpacingMm;
        var walls = new List<PathLine>();
        var thin = new List<PathLine>();
        var rest = s.RoundEndsMm > 0 ? Plane.Inset(island, s.RoundEndsMm / 2) : island;
        for (var i = 0; i < s.Walls && !rest.IsEmpty; i++)
        {
            // The first step is a hair short, so that what is exactly two lines wide has room for two whatever its corners round to.
            var step = i == 0 ? d - Hair : d;
            var inside = Plane.Inset(rest, step);
            // Room for two lines side by side is room for a closed wall; what is narrower becomes a single line.
            var wide = Plane.Outset(inside, step);
            if (rest.Area - wide.Area > 0.05 * d * d)
                Thin(wide.IsEmpty ? rest : rest.Difference(wide), d, thin);
            foreach (var p in Plane.Polygons(Plane.Outset(inside, d / 2 - Hair)))
            {
                var role = i == 0 ? PathRole.OuterWall : PathRole.InnerWall;
                walls.Add(new(role, p.ExteriorRing.Coordinates, d));
                foreach (var hole in p.InteriorRings)
                    walls.Add(new(role, hole.Coordinates, d));
            }

            rest = inside;
        }

        return new(island, walls, thin, Plane.Inset(rest, Hair));
    }

    /// <summary>Fills what the walls leave: bridges over air, top fill where nothing covers it, solid fill.</summary>
    public static IslandLines Fill(Walled walled, LineSettings s, Geometry? below, Geometry? above)
    {
        var (island, walls, thin, rest) = walled;
        var d = s.SpacingMm;
        var bridges = new List<PathLine>();
        if (below is not null && Bridges.Find(island, below, d) is { Count: > 0 } areas)
        {
            foreach (var area in areas)
            {
                // A line and a half onto the support on either side holds the ends.
                var held = Plane.Outset(area.Region, 1.5 * d + 0.6 * d).Intersection(rest);
                bridges.AddRange(Scan.Fill(held, d, area.AngleDeg, PathRole.Bridge, true));
                rest = rest.Difference(held);
            }

            var air = new IndexedPointInAreaLocator(Plane.Together(areas.Select(a => a.Region)));
            var edges = areas.Select(a => a.Region).ToList();
            walls = [.. walls.Select(w => OverAir(w, edges, air))];
        }

        var top = Top(rest, above, d);
        var fill = Scan.Fill(top.IsEmpty ? rest : rest.Difference(top), d, s.FillAngleDeg, PathRole.Fill);
        return new(walls, [thin, bridges, fill, top.IsEmpty ? [] : Scan.Fill(top, d, s.FillAngleDeg, PathRole.Top)]);
    }

    /// <summary>What nothing covers, where that is at least two lines wide.</summary>
    private static Geometry Top(Geometry rest, Geometry? above, double d)
    {
        if (above is null || rest.IsEmpty)
            return Plane.Nothing;
        var bare = rest.Difference(above);
        if (bare.Area < 4 * d * d)
            return Plane.Nothing;
        var wide = Plane.Inset(bare, d);
        return wide.IsEmpty ? wide : Plane.Outset(wide, d).Intersection(rest);
    }

    /// <summary>Marks the segments of a wall that run over air; they are cut where support begins.</summary>
    private static PathLine OverAir(PathLine wall, List<Polygon> areas, IndexedPointInAreaLocator air)
    {
        var points = new List<Coordinate> { wall.Points[0] };
        var over = new List<bool>();
        for (var i = 1; i < wall.Points.Length; i++)
        {
            var (a, b) = (wall.Points[i - 1], wall.Points[i]);
            var cuts = new List<double> { 1 };
            foreach (var ring in areas.Select(p => p.ExteriorRing.Coordinates))
            {
                for (var j = 1; j < ring.Length; j++)
                {
                    if (Crossing(a, b, ring[j - 1], ring[j]) is { } t)
                        cuts.Add(t);
                }
            }

            cuts.Sort();
            var from = 0.0;
            foreach (var t in cuts.Where(t => t - from > 1e-6 || t == 1))
            {
                var middle = (from + t) / 2;
                var is_over = air.Locate(new Coordinate(a.X + (b.X - a.X) * middle, a.Y + (b.Y - a.Y) * middle)) == Location.Interior;
                points.Add(t == 1 ? b : Plane.On(a.X + (b.X - a.X) * t, a.Y + (b.Y - a.Y) * t));
                over.Add(is_over);
                from = t;
            }
        }

        return over.Contains(true) ? wall with { Points = [.. points], OverAir = [.. over] } : wall;
    }

    private static double? Crossing(Coordinate a, Coordinate b, Coordinate c, Coordinate d)
    {
        var (rx, ry, sx, sy) = (b.X - a.X, b.Y - a.Y, d.X - c.X, d.Y - c.Y);
        var cross = rx * sy - ry * sx;
        if (Math.Abs(cross) < 1e-12)
            return null;
        var t = ((c.X - a.X) * sy - (c.Y - a.Y) * sx) / cross;
        var u = ((c.X - a.X) * ry - (c.Y - a.Y) * rx) / cross;
        return t is > 1e-9 and < 1 - 1e-9 && u is >= 0 and <= 1 ? t : null;
    }

    /// <summary>A ring narrower than two lines: closed lines along its middle, as wide as it is, 2 × area ÷ (outer + inner length).</summary>
    private static void Ring(Polygon p, double d, List<PathLine> lines)
    {
        var middle = Plane.Inset(Plane.Factory.CreatePolygon(p.Shell), p.Area / p.Length);
        var made = Plane.Polygons(middle).Select(m => new PathLine(PathRole.ThinLine, m.ExteriorRing.Coordinates, d)).ToList();
        var length = made.Sum(l => l.LengthMm);
        lines.AddRange(made.Select(l => l with { SpacingMm = Math.Clamp(p.Area / length, 0.3 * d, 2.5 * d) }));
    }

    /// <summary>
    /// Parts narrower than two lines as single lines along their middle: the middles of cuts across their length, with a
    /// cross-section that makes up their area. A speck smaller than a fifth of a line's square is left out.
    /// </summary>
    private static void Thin(Geometry region, double d, List<PathLine> lines)
    {
        foreach (var p in Plane.Polygons(region))
        {
            if (p.Area < 0.2 * d * d || 2 * p.Area / p.Length < 0.06 * d)
                continue;
            if (p.NumInteriorRings > 0)
            {
                Ring(p, d, lines);
                continue;
            }

            var box = NetTopologySuite.Algorithm.MinimumAreaRectangle.GetMinimumRectangle(p).Coordinates;
            if (box.Length < 4)
                continue;
            var (a, b) = (box[1].Distance(box[0]), box[2].Distance(box[1]));
            var along = a >= b ? (box[0], box[1]) : (box[1], box[2]);
            var angle = Math.Atan2(along.Item2.Y - along.Item1.Y, along.Item2.X - along.Item1.X) * 180 / Math.PI;
            var length = Math.Max(a, b);
            var chords = Scan.Chords(p, angle + 90, Math.Max(d, length / 40)).ToList();
            if (Math.Min(a, b) > 1.5 * d && p.Area > 0.7 * a * b)
            {
                // Two narrower lines side by side.
                lines.AddRange(Scan.Fill(p, d, angle, PathRole.ThinLine, true));
                continue;
            }

            if (p.Area < 0.7 * a * b && chords.Count > 2 && chords.Any(c => c.From.Distance(c.To) > 2.5 * d))
            {
                // Bent: it has no one middle across its length. Short lines across it hold its area all the same.
                lines.AddRange(Scan.Fill(p, d, angle + 45, PathRole.ThinLine, true));
                continue;
            }

            var middles = chords.Select(c => Plane.On((c.From.X + c.To.X) / 2, (c.From.Y + c.To.Y) / 2)).ToList();
            if (middles.Count == 1)
            {
                // A dot: a short line along its longer side.
                var (ux, uy) = (Math.Cos(angle * Math.PI / 180), Math.Sin(angle * Math.PI / 180));
                var half = Math.Max(0.25 * d, (length - d) / 2);
                middles = [Plane.On(middles[0].X - ux * half, middles[0].Y - uy * half), Plane.On(middles[0].X + ux * half, middles[0].Y + uy * half)];
            }

            var line = new PathLine(PathRole.ThinLine, [.. middles], d);
            if (line.LengthMm > 0)
                lines.Add(line with { SpacingMm = Math.Clamp(p.Area / line.LengthMm, 0.05 * d, 2.5 * d) });
        }
    }
}
