using System.Globalization;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of the flat plate with upstanding ends, mm.</summary>
/// <param name="LengthMm">From end to end: the longer, the more it lifts.</param>
/// <param name="WidthMm">Across.</param>
/// <param name="ThickMm">Of the plate.</param>
/// <param name="EndMm">How far the ends stand above the plate.</param>
/// <param name="LayerHeightMm">Layer height.</param>
/// <param name="NozzleMm">Nozzle: the ends are as thick as some of its lines.</param>
public sealed record FlatPlateSize(double LengthMm, double WidthMm, double ThickMm, double EndMm, double LayerHeightMm, double NozzleMm)
{
    /// <summary>Thickness of the ends.</summary>
    public double EndThickMm => Math.Min(LengthMm / 6, 3 * Math.Max(1, NozzleMm / 0.4));

    /// <summary>Layers of the plate.</summary>
    public int PlateLayers => Math.Max(1, (int)Math.Round(ThickMm / LayerHeightMm));

    /// <summary>Layers of all of it.</summary>
    public int Layers => PlateLayers + Math.Max(0, (int)Math.Round(EndMm / LayerHeightMm));
}

/// <summary>
/// A long flat plate whose ends stand up: the ends shrink above the plate and pull its corners off the bed, as real parts do, and a calliper has something to
/// close on.
/// </summary>
public static class FlatPlate
{
    /// <summary>Builds it.</summary>
    /// <param name="size">Measures.</param>
    /// <param name="fanPercent">Fan of its layers, %; null as the settings say.</param>
    /// <param name="memory">Where it is remembered.</param>
    public static Piece Build(FlatPlateSize size, double? fanPercent, PieceMemory memory) =>
        memory.Once(string.Create(CultureInfo.InvariantCulture, $"flat plate/{size}/{fanPercent}"), 100, () =>
        {
            PieceSize.Layers(size.Layers);
            var islands = new Islands();
            var plate = islands.Of(Plane.Rectangle(0, 0, size.LengthMm, size.WidthMm));
            var ends = islands.Of(Plane.Factory.CreateMultiPolygon(
            [
                Plane.Rectangle(0, 0, size.EndThickMm, size.WidthMm),
                Plane.Rectangle(size.LengthMm - size.EndThickMm, 0, size.LengthMm, size.WidthMm),
            ]));
            return new Piece
            {
                Name = "Flat plate",
                Layers =
                [
                    .. Enumerable.Range(1, size.Layers).Select(n => new PieceLayer(
                        n, Math.Round(n * size.LayerHeightMm, 4), size.LayerHeightMm, n <= size.PlateLayers ? null : 0, n <= size.PlateLayers ? plate : ends,
                            [])
                    {
                        FanPercent = fanPercent,
                    }),
                ],
                SeamToward = (0, 1),
            };
        });
}
