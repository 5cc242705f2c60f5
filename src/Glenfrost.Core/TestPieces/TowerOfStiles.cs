using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces;

/// <summary>Layers of a tower, as its plan counts them.</summary>
/// <param name="Sections">Number of sections.</param>
/// <param name="LayersPerSection">Layers of a section.</param>
/// <param name="BaseLayers">Layers of the base, first layer included.</param>
/// <param name="LayerHeightMm">Layer height, mm.</param>
/// <param name="FirstLayerHeightMm">Height of the first layer, mm.</param>
public sealed record TowerLayers(int Sections, int LayersPerSection, int BaseLayers, double LayerHeightMm, double FirstLayerHeightMm)
{
    /// <summary>Upper face of a layer above the bed, mm; layers count from 1.</summary>
    public double Top(int layer) => Math.Round(FirstLayerHeightMm + (layer - 1) * LayerHeightMm, 4);

    /// <summary>All layers.</summary>
    public int Total => PieceSize.Layers(BaseLayers + (long)Sections * LayersPerSection);
}

/// <summary>Builds the tower of stiles, or one of its sections as a piece of its own, as closed regions per layer.</summary>
public static class TowerOfStiles
{
    /// <summary>Below it the hollow of a flare is no hollow, mm.</summary>
    private const double LeastRadiusMm = 0.05;

    /// <summary>The whole tower on one base.</summary>
    public static Piece Build(Stile stile, TowerLayers layers, PieceMemory memory) => Build(stile, layers, 0, layers.Sections, "Tower of stiles", memory);

    /// <summary>One section on a base of its own; numbered as in the tower.</summary>
    /// <param name="index">Section from 0.</param>
    public static Piece BuildOne(Stile stile, TowerLayers layers, int index, PieceMemory memory) =>
        Build(stile, layers with { Sections = 1 }, index, 1, $"Stile {index + 1}", memory);

    private static Piece Build(Stile s, TowerLayers l, int firstIndex, int count, string name, PieceMemory memory) =>
        memory.Once((s, l, firstIndex, count), 500, () => Make(s, l, firstIndex, count, name));

    private static Piece Make(Stile s, TowerLayers l, int firstIndex, int count, string name)
    {
        var islands = new Islands();
        var made = new Dictionary<(string, int), IReadOnlyList<Island>>();
        IReadOnlyList<Island> Once(string what, int layer, Func<Geometry> make)
        {
            if (!made.TryGetValue((what, layer), out var shape))
                made[(what, layer)] = shape = islands.Of(make());
            return shape;
        }

        var result = new List<PieceLayer>(l.Total);
        var foot = islands.Of(Plane.Rectangle(0, 0, s.WidthMm, s.DepthMm));
        for (var n = 1; n <= l.BaseLayers; n++)
            result.Add(new(n, l.Top(n), n == 1 ? l.FirstLayerHeightMm : l.LayerHeightMm, null, foot, []));
        var lintel = LintelLayers(s, l);
        for (var k = 0; k < count; k++)
        {
            for (var i = 0; i < l.LayersPerSection; i++)
            {
                // A layer takes its shape at half its height.
                var z = (i + 0.5) * l.LayerHeightMm;
                IReadOnlyList<Island> shape;
                if (i >= l.LayersPerSection - lintel)
                {
                    shape = Once("lintel", i, () => Union([.. Left(s), Plane.Rectangle(s.WindowX, 0, s.RightPostX, s.DepthMm), .. Right(s, z)]));
                }
                else
                {
                    var cuts = Cuts(s, l, firstIndex + k + 1, z);
                    shape =
                    [
                        .. Once($"left {string.Join(' ', cuts)}", 0, () =>
                            cuts.Count == 0
                                ? Union([.. Left(s)])
                                : Union([.. Left(s)]).Difference(Union([.. cuts.Select(c => (Geometry)Plane.Rectangle(c.From, -1, c.To, s.NotchDepthMm))]))),
                        .. Once("window", i, () => Union([.. InWindow(s, z)])),
                        .. Once("right", i, () => Union([.. Right(s, z)])),
                    ];
                }

                var number = l.BaseLayers + k * l.LayersPerSection + i + 1;
                result.Add(new(number, l.Top(number), l.LayerHeightMm, firstIndex + k, shape, []));
            }
        }

        return new Piece { Name = name, Layers = result, Judged = Judged(s), SeamToward = (0, 1) };
    }

    /// <summary>Layers of the lintel: at least two, at most a quarter of the section.</summary>
    public static int LintelLayers(Stile s, TowerLayers l) =>
        Math.Clamp((int)Math.Round(s.LintelMm / l.LayerHeightMm), Math.Min(2, l.LayersPerSection - 1), Math.Max(1, l.LayersPerSection / 3));

    /// <summary>What is cut from the front of the left post at a height; a notch is open to its side.</summary>
    private static IReadOnlyList<(double From, double To)> Cuts(Stile s, TowerLayers l, int number, double z) =>
    [
        .. s.Notches(number, l.LayerHeightMm).Where(n => n.FromZ <= z && z < n.ToZ)
            .Select(n => n.FromX > s.LeftPostX ? (n.FromX, n.ToX + 0.5) : (n.FromX - 0.5, n.ToX)),
    ];

    private static IEnumerable<Geometry> Left(Stile s) =>
    [
        Plane.HalfDiscLeft(s.LeftPostX, s.DepthMm / 2, s.HalfRoundMm),
        Plane.Rectangle(s.LeftPostX, 0, s.WindowX, s.DepthMm),
    ];

    private static IEnumerable<Geometry> Right(Stile s, double z)
    {
        yield return Plane.Rectangle(s.RightPostX, 0, s.FlareX, s.DepthMm);
        if (s.FlareAt(z) is { } flare)
        {
            var full = Plane.HalfDiscRight(s.FlareX, s.DepthMm / 2, flare.To);
            yield return flare.From < LeastRadiusMm ? full : full.Difference(Plane.HalfDiscRight(s.FlareX, s.DepthMm / 2, flare.From));
        }
    }

    private static IEnumerable<Geometry> InWindow(Stile s, double z)
    {
        if (z < s.ReedHeightMm)
        {
            yield return Plane.Disc(s.ReedX.Left, s.ReedY, s.ReedMm / 2);
            yield return Plane.Disc(s.ReedX.Right, s.ReedY, s.ReedMm / 2);
        }

        if (s.PinRadius(z) is > 0 and var radius)
            yield return Plane.Disc(s.Pin.X, s.Pin.Y, radius);
    }

    private static Geometry Union(Geometry[] parts) =>
        parts.Length == 0 ? Plane.Nothing : parts.Length == 1 ? parts[0] : NetTopologySuite.Operation.Union.UnaryUnionOp.Union(parts);

    /// <summary>The half-round, the window with its reeds, and the flare are judged; the back of the posts is not.</summary>
    private static IReadOnlyList<Envelope> Judged(Stile s) =>
    [
        new(-1, s.LeftPostX + s.NumberPostMm * 0.3, -1, s.DepthMm + 1),
        new(s.WindowX - 0.1, s.RightPostX + 0.1, -1, s.ReedY),
        new(s.FlareX - 0.1, s.WidthMm + 1, -1, s.DepthMm * 0.9),
    ];
}
