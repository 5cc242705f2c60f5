using System.Globalization;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of rows of reeds, mm.</summary>
/// <param name="PostMm">Diameter of a reed: thin, since wide ones hide fine strings.</param>
/// <param name="NarrowMm">Clear gap between the first and the second.</param>
/// <param name="WideMm">Clear gap between the second and the third.</param>
/// <param name="SectionLayers">Layers of each section.</param>
/// <param name="LayerHeightMm">Layer height.</param>
/// <param name="NozzleMm">Nozzle: the pad scales with it.</param>
/// <param name="Rows">Rows behind each other, printed together layer by layer; as far apart as the wide gap.</param>
public sealed record ReedSize(double PostMm, double NarrowMm, double WideMm, int SectionLayers, double LayerHeightMm, double NozzleMm, int Rows = 1)
{
    /// <summary>From a row's middle to the next one's, mm.</summary>
    public double PitchMm => PostMm + WideMm;

    /// <summary>Layers of the pad.</summary>
    public int PadLayers => Math.Max(3, (int)Math.Round(0.8 * NozzleMm / 0.4 / LayerHeightMm));

    /// <summary>Rim of the pad around the reeds, mm.</summary>
    public double RimMm => 2.5 * NozzleMm / 0.4;

    /// <summary>Length of the pad, mm.</summary>
    public double LengthMm => 3 * PostMm + NarrowMm + WideMm + 2 * RimMm;

    /// <summary>Depth of the pad, mm.</summary>
    public double DepthMm => PostMm + (Rows - 1) * PitchMm + 2 * RimMm;
}

/// <summary>How a section of reeds is printed.</summary>
/// <param name="Way">How the nozzle travels in it.</param>
/// <param name="FanPercent">Part fan, %; null as the settings say.</param>
/// <param name="Flow">Times the feed that the settings ask for.</param>
public sealed record ReedSection(TravelWay Way, double? FanPercent = null, double Flow = 1);

/// <summary>
/// A row of three thin reeds on a pad, at two spacings: every layer crosses both gaps, and what oozes on the way hangs between them. More rows of the same give
/// each layer the time to cool. Sections by height have their own way to travel; a collar on the first reed marks where one begins, teeth in the pad's front
/// edge count pieces of a plate.
/// </summary>
public static class Reeds
{
    /// <summary>Builds it; the same measures and ways give the same instance.</summary>
    /// <param name="size">Measures.</param>
    /// <param name="ways">How each section is printed, from the bottom up.</param>
    /// <param name="teeth">Teeth in the front edge.</param>
    public static Piece Build(ReedSize size, IReadOnlyList<ReedSection> ways, PieceMemory memory, int teeth = 0) =>
        memory.Once(string.Create(CultureInfo.InvariantCulture, $"reeds/{size}/{string.Join(';', ways)}/{teeth}"), 500, () =>
        {
            var islands = new Islands();
            var (rim, r) = (size.RimMm, size.PostMm / 2);
            var y = rim + r;
            double[] at = [rim + r, rim + 3 * r + size.NarrowMm, rim + 5 * r + size.NarrowMm + size.WideMm];
            IReadOnlyList<Island> Posts(double collar) =>
                islands.Of(Plane.Factory.CreateMultiPolygon(
                    [
                        .. Enumerable.Range(0, size.Rows).SelectMany(row =>
                            at.Select((x, i) => Plane.Disc(x, y + row * size.PitchMm, i == 0 ? r + collar : r))),
                    ]));
            var corners = new List<(double X, double Y)> { (0, 0) };
            for (var k = 0; k < teeth; k++)
            {
                var x = rim + 2.4 * k * size.NozzleMm / 0.4;
                if (x + 1.2 > size.LengthMm - 1)
                    break;
                corners.AddRange([(x, 0), (x, -1.2), (x + 1.2, -1.2), (x + 1.2, 0)]);
            }

            corners.AddRange([(size.LengthMm, 0), (size.LengthMm, size.DepthMm), (0, size.DepthMm)]);
            var pad = islands.Of(Plane.Polygon([.. corners]));
            var (plain, collared) = (Posts(0), Posts(0.25 * size.PostMm));
            PieceSize.Layers(size.PadLayers + (long)ways.Count * size.SectionLayers);
            var layers = new List<PieceLayer>();
            var n = 0;
            void Add(int? section, IReadOnlyList<Island> shape, ReedSection? way) =>
                layers.Add(new(++n, Math.Round(n * size.LayerHeightMm, 4), size.LayerHeightMm, section, shape, [])
                {
                    Way = way?.Way, FanPercent = way?.FanPercent,
                });
            for (var i = 0; i < size.PadLayers; i++)
                Add(null, pad, null);
            foreach (var (way, section) in ways.Select((w, i) => (w, i)))
            {
                for (var i = 0; i < size.SectionLayers; i++)
                    Add(section, section > 0 && i < 2 ? collared : plain, way);
            }

            return new Piece
            {
                Name = "Reeds", Layers = layers, SeamToward = (0, 1),
                Flows = [.. ways.Select((w, i) => new FlowZone(w.Flow, i)).Where(z => z.Factor != 1)],
            };
        });
}
