using System.Globalization;
using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of pegs with a waist, mm.</summary>
/// <param name="WaistMm">Diameter of the waist: the section that parts.</param>
/// <param name="HeightMm">Of the whole peg.</param>
/// <param name="LayerHeightMm">Layer height.</param>
/// <param name="NozzleMm">Nozzle: the number scales with it.</param>
/// <param name="Together">Pegs of a row, printed together layer by layer.</param>
public sealed record PegSize(double WaistMm, double HeightMm, double LayerHeightMm, double NozzleMm, int Together)
{
    /// <summary>Width of foot and head.</summary>
    public double WidthMm => Math.Max(14, WaistMm + 6);

    /// <summary>Depth of foot and head, without the number.</summary>
    public double DepthMm => Math.Max(10, WaistMm + 4);

    /// <summary>From one peg's middle to the next one's.</summary>
    public double PitchMm => WidthMm + 6;

    /// <summary>How far the number stands out of the foot.</summary>
    public double NumberMm => 0.6 * Math.Max(1, NozzleMm / 0.4);

    /// <summary>Height of a taper: it leans out by 45° at most.</summary>
    public double TaperMm => (WidthMm - WaistMm) / 2;

    /// <summary>Height of the waist that is equally thin.</summary>
    public double NeckMm => Math.Max(3, 0.75 * WaistMm);

    /// <summary>Height of the foot, and of the head.</summary>
    public double BlockMm => (HeightMm - NeckMm - 2 * TaperMm) / 2;

    /// <summary>Least height that leaves the clamps something to hold.</summary>
    public double LeastHeightMm => NeckMm + 2 * TaperMm + 8;

    /// <summary>Layers of it.</summary>
    public int Layers => (int)Math.Ceiling(HeightMm / LayerHeightMm - 1e-9);

    /// <summary>Lower and upper edge of the waist above the bed.</summary>
    public (double From, double To) Waist => (BlockMm + TaperMm, BlockMm + TaperMm + NeckMm);

    /// <summary>How far a height is out of the waist, 0 in it and 1 in foot and head.</summary>
    public double OutOfWaist(double z) => Math.Clamp(Math.Max(Waist.From - z, z - Waist.To) / TaperMm, 0, 1);
}

/// <summary>
/// Rows of pegs: a foot and a head for the clamps, a round waist between them where a layer parts, tapers that nothing has to hold up, and a number that stands
/// out of the foot's front. Those of a row are printed together, so that a layer has time to cool.
/// </summary>
public static class Peg
{
    /// <summary>Section of a piece that the waist is.</summary>
    public const int WaistSection = 0;

    /// <summary>Builds a row.</summary>
    /// <param name="size">Measures.</param>
    /// <param name="numbers">Numbers of its pegs, from left to right.</param>
    /// <param name="fanPercent">Fan of all of its layers, %; null as the settings say.</param>
    /// <param name="memory">Where it is remembered.</param>
    public static Piece Row(PegSize size, IReadOnlyList<int> numbers, double? fanPercent, PieceMemory memory) =>
        memory.Once(string.Create(CultureInfo.InvariantCulture, $"peg/{size}/{string.Join(',', numbers)}/{fanPercent}"), 200, () =>
        {
            PieceSize.Layers(size.Layers);
            var islands = new Islands();
            var layers = new List<PieceLayer>();
            for (var n = 1; n <= size.Layers; n++)
            {
                var z = (n - 0.5) * size.LayerHeightMm;
                var shape = islands.Of(Plane.Factory.CreateMultiPolygon([.. numbers.Select((number, i) => Section(size, z, number, i * size.PitchMm))]));
                layers.Add(
                    new(
                        n, Math.Round(n * size.LayerHeightMm, 4), size.LayerHeightMm, z >= size.Waist.From && z <= size.Waist.To ? WaistSection : null, shape,
                            [])
                    {
                        FanPercent = fanPercent,
                    });
            }

            return new Piece { Name = $"Pegs {string.Join(", ", numbers)}", Layers = layers, SeamToward = (0, 1) };
        });

    /// <summary>One peg at a height, its middle at <paramref name="x"/>.</summary>
    private static Polygon Section(PegSize size, double z, int number, double x)
    {
        var out1 = size.OutOfWaist(z);
        if (out1 <= 0)
            return Plane.Disc(x, 0, size.WaistMm / 2);
        double Between(double waist, double block) => waist + (block - waist) * out1;
        var (w, d) = (Between(size.WaistMm, size.WidthMm), Between(size.WaistMm, size.DepthMm));
        var r = Math.Min(Math.Min(w, d) / 2 - 1e-3, Between(size.WaistMm / 2, 1));
        var corners = new List<(double, double)>();
        void Corner(double cx, double cy, double from)
        {
            for (var i = 0; i <= 6; i++)
            {
                var (sin, cos) = Math.SinCos((from + i * 15) * Math.PI / 180);
                corners.Add((x + cx + r * cos, cy + r * sin));
            }
        }

        // Counterclockwise from the front left corner; the number stands out of the front between the two front corners.
        Corner(-w / 2 + r, -d / 2 + r, 180);
        if (z < size.BlockMm)
        {
            var row = Row(size, z);
            if (row is { } at)
            {
                var column = Column(size, number);
                var left = x - Digits.Columns(number) * column / 2;
                foreach (var (from, to) in Digits.Row(number, at))
                {
                    corners.AddRange([(left + from * column, -d / 2), (left + from * column, -d / 2 - size.NumberMm)]);
                    corners.AddRange([(left + to * column, -d / 2 - size.NumberMm), (left + to * column, -d / 2)]);
                }
            }
        }

        Corner(w / 2 - r, -d / 2 + r, 270);
        Corner(w / 2 - r, d / 2 - r, 0);
        Corner(-w / 2 + r, d / 2 - r, 90);
        return Plane.Polygon([.. corners]);
    }

    /// <summary>Width of a digit's column, mm.</summary>
    private static double Column(PegSize size, int number) => Math.Min(1.2 * size.NozzleMm / 0.4, (size.WidthMm - 3) / Digits.Columns(number));

    /// <summary>Row of the number at a height, 0 at the bottom; null above and below it. The first layers stay plain.</summary>
    private static int? Row(PegSize size, double z)
    {
        var (from, to) = (2 * size.LayerHeightMm, size.BlockMm - size.LayerHeightMm);
        var row = (int)Math.Floor((z - from) / ((to - from) / 5));
        return z < from || row is < 0 or > 4 ? null : row;
    }
}
