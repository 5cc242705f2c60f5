using Glenfrost.Core.Gcode.Writing;
using System.Collections.Concurrent;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces.Toolpaths;

/// <content>What goes around a piece, and how long a layer lasts.</content>
public sealed partial class Planner
{
    private void Around(PieceLayer layer, bool skirt)
    {
        var d = s.SpacingMm(layer.HeightMm);
        var foot = Foot(layer, s);
        if (s.BrimWidthMm > 0)
        {
            for (var i = (int)Math.Ceiling(s.BrimWidthMm / d); i >= 1; i--)
                LayRings(Plane.Outset(foot, (i - 0.5) * d), PathRole.Brim, d, layer);
        }
        else if (skirt)
        {
            for (var i = s.SkirtLoops; i >= 1; i--)
                LayRings(Plane.Outset(foot.ConvexHull(), s.SkirtGapMm + (i - 0.5) * d), PathRole.Skirt, d, layer);
        }
    }

    private void LayRings(Geometry g, PathRole role, double d, PieceLayer layer)
    {
        foreach (var p in Plane.Polygons(g))
            LayLine(Seamed(new(role, p.ExteriorRing.Coordinates, d)), layer);
    }

    /// <summary>What the first layer covers, single walls drawn in.</summary>
    public static Geometry Foot(PieceLayer layer, PrintSettings s) =>
        layer.Walls.Count == 0
            ? layer.Region
            : NetTopologySuite.Operation.Union.UnaryUnionOp.Union([
                .. layer.Islands.Select(i => (Geometry)i.Shape),
                .. layer.Walls.Select(w => Plane.Drawn(w.Centre, s.LineWidthMm)),
            ]);

    /// <summary>
    /// Slows what is laid until the layer lasts long enough, never below the slowest speed; bridges, travel, and walls whose speed is the factor under test
    /// excepted.
    /// </summary>
    private (double Seconds, double Factor, bool TooShort) Slow(
        Move[] list, double fromX, double fromY, double fromZ, double least, WallSpeeds? held)
    {
        var seconds = Time(list, fromX, fromY, fromZ, 1, held);
        if (seconds >= least)
            return (seconds, 1, false);
        var (low, tLow, high, tHigh) = (0.0, double.NaN, 1.0, seconds);
        // Most layers are like the one beneath: what was right for that is tried first.
        if (lastSlowed is > 0 and < 1)
        {
            var t = Time(list, fromX, fromY, fromZ, lastSlowed, held);
            if (t >= least)
                (low, tLow) = (lastSlowed, t);
            else
                (high, tHigh) = (lastSlowed, t);
        }

        if (low == 0)
            tLow = Time(list, fromX, fromY, fromZ, 0, held);
        // False position between a factor that lasts long enough and one that does not; time falls steadily with the factor.
        for (var i = 0; i < 12 && tLow - least > 0.02; i++)
        {
            var share = Math.Clamp((tLow - least) / (tLow - tHigh), 0.1, 0.9);
            var middle = low + (high - low) * share * 0.98;
            var t = Time(list, fromX, fromY, fromZ, middle, held);
            if (t >= least)
                (low, tLow) = (middle, t);
            else
                (high, tHigh) = (middle, t);
        }

        lastSlowed = low;
        for (var i = 0; i < list.Length; i++)
            list[i] = list[i] with { Speed = SpeedAt(list[i], low, held) };
        return (tLow, low, low == 0 && tLow < least - 1e-9);
    }

    /// <summary>Factor that the last layer was slowed by; 0 before one was.</summary>
    private double lastSlowed;

    private double SpeedAt(Move m, double factor, WallSpeeds? held) =>
        m.Kind != MoveKind.Extrude || m.Role == PathRole.Bridge || factor >= 1 || held?.Of(m.Role) is not null ? m.Speed
            : Math.Max(Math.Min(m.Speed, s.MinPrintSpeedMmPerS), m.Speed * factor);

    /// <summary>One for all layers: its look-ahead is too large to be made anew for each try.</summary>
    private readonly MotionClock clock = new(s.AccelerationMmPerS2);

    private double Time(Move[] list, double fromX, double fromY, double fromZ, double factor, WallSpeeds? held)
    {
        clock.Restart();
        var (px, py, pz) = (fromX, fromY, fromZ);
        foreach (var m in list)
        {
            if (m.Kind is MoveKind.Fan or MoveKind.Wait)
                continue;
            clock.Add(m.X - px, m.Y - py, m.Z - pz, m.E, SpeedAt(m, factor, held));
            (px, py, pz) = (m.X, m.Y, m.Z);
        }

        clock.Stop();
        return clock.Seconds;
    }
}
