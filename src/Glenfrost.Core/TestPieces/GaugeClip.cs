using System.Globalization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces;

/// <summary>
/// Measures of the gauge clip, mm: an open ring that snaps onto a rod, on a long thin foot whose ends show whether it lies flat. It stands as it is drawn from
/// above, so that its bore is round in the plane of the layers.
/// </summary>
/// <param name="RodMm">Diameter of the rod that it is made for.</param>
/// <param name="ClearanceMm">How much wider the bore is than the rod.</param>
/// <param name="NozzleMm">Nozzle diameter: walls scale with it.</param>
/// <param name="LayerHeightMm">Layer height.</param>
public sealed record ClipSize(double RodMm = 8, double ClearanceMm = 0.2, double NozzleMm = 0.4, double LayerHeightMm = 0.2)
{
    /// <summary>Diameter of the bore as drawn.</summary>
    public double BoreMm => RodMm + ClearanceMm;

    /// <summary>Scale against a 0.4 mm nozzle.</summary>
    public double Scale => NozzleMm / 0.4;

    /// <summary>Thickness of the ring: stiffer where the rod is thicker, so that it bends as far.</summary>
    public double WallMm => Math.Max(2.4 * Scale, 0.16 * BoreMm);

    /// <summary>Width of the mouth: the rod is wider by a seventh and has to be pushed.</summary>
    public double MouthMm => 0.86 * RodMm;

    /// <summary>Depth of the foot, from front to back.</summary>
    public double FootDepthMm => 1.5 * WallMm;

    /// <summary>Length of the foot: long enough to lift at its ends.</summary>
    public double LengthMm => Math.Max(50, BoreMm + 2 * WallMm + 14);

    /// <summary>Height of all of it.</summary>
    public double HeightMm => Math.Round(Layers * LayerHeightMm, 4);

    /// <summary>Layers of it.</summary>
    public int Layers => Math.Max(8, (int)Math.Round(8 * Math.Max(1, Scale) / LayerHeightMm));

    /// <summary>Middle of the bore from the foot's left front corner.</summary>
    public (double X, double Y) Middle => (LengthMm / 2, FootDepthMm / 2 + WallMm + BoreMm / 2);

    /// <summary>Half of the angle that the mouth takes, radians.</summary>
    public double MouthHalf => Math.Asin(Math.Min(0.95, MouthMm / BoreMm));
}

/// <summary>Builds the gauge clip, the functional piece of the verification print.</summary>
public static class GaugeClip
{
    /// <summary>The thinnest rod that a clip of a nozzle can hold, mm.</summary>
    public static double LeastRodMm(double nozzleMm) => Math.Ceiling(10 * nozzleMm / 0.4) / 2;

    /// <summary>What can't be printed, at its field, with what would fit.</summary>
    public static IReadOnlyList<FieldError> Check(ClipSize size)
    {
        var least = LeastRodMm(size.NozzleMm);
        return size.RodMm < least - 1e-9
            ? [
                new(
                    "rodMm", $"A rod of {Say.N(size.RodMm, 2)} mm is too thin for a clip of a {Say.N(size.NozzleMm)} mm nozzle: at least {Say.N(least, 1)} mm.",
                    [new($"{Say.N(least, 1)} mm", new Dictionary<string, decimal> { ["rodMm"] = (decimal)least })]),
            ]
            : [];
    }

    /// <summary>The clip as closed regions per layer.</summary>
    public static Piece Build(ClipSize size, PieceMemory memory) => memory.Once(
        string.Create(CultureInfo.InvariantCulture, $"clip/{size.RodMm:R}/{size.ClearanceMm:R}/{size.NozzleMm:R}/{size.LayerHeightMm:R}"),
        100, () => Make(size));

    /// <summary>The shape that stands in each layer, seen from above, mm.</summary>
    public static Geometry Outline(ClipSize s)
    {
        var ((x, y), bore, wall) = (s.Middle, s.BoreMm / 2, s.WallMm);
        var (outer, far) = (bore + wall, 3 * (bore + wall));
        var (sin, cos) = Math.SinCos(s.MouthHalf);
        var ring = Plane.Disc(x, y, outer).Difference(Plane.Polygon((x, y), (x + far * sin, y + far * cos), (x - far * sin, y + far * cos)));
        var lip = bore + wall / 2;
        Geometry solid = NetTopologySuite.Operation.Union.UnaryUnionOp.Union([
            ring, Plane.Rectangle(0, 0, s.LengthMm, s.FootDepthMm), Plane.Disc(x + lip * sin, y + lip * cos, 0.62 * wall),
            Plane.Disc(x - lip * sin, y + lip * cos, 0.62 * wall),
        ]);
        // The bore is cut last: neither foot nor lips reach into it.
        return solid.Difference(Plane.Disc(x, y, bore));
    }

    private static Piece Make(ClipSize s)
    {
        PieceSize.Layers(s.Layers);
        var shape = new Islands().Of(Outline(s));
        var (x, y) = s.Middle;
        var reach = s.BoreMm / 2 + s.WallMm;
        return new Piece
        {
            Name = "Gauge clip",
            Layers = [.. Enumerable.Range(1, s.Layers).Select(n => new PieceLayer(n, Math.Round(n * s.LayerHeightMm, 4), s.LayerHeightMm, 0, shape, []))],
            // The bore is measured: seams go to the foot's front.
            Judged = [new(x - reach, x + reach, y - s.BoreMm / 2, y + reach + s.WallMm)],
            SeamToward = (0, -1),
        };
    }
}
