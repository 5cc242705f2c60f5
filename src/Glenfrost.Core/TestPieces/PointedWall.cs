using System.Globalization;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of a pointed wall, mm.</summary>
/// <param name="LengthMm">From its square end to its point.</param>
/// <param name="LineWidthMm">Line width in force: the wall is four such lines thick.</param>
/// <param name="Layers">Its layers.</param>
public sealed record PointedWallSize(double LengthMm, double LineWidthMm, TowerLayers Layers)
{
    /// <summary>Depth, mm: half of the length, so that the point is a right angle.</summary>
    public double DepthMm => LengthMm / 2;

    /// <summary>Length of its longest straight side, mm.</summary>
    public double StraightMm => LengthMm - DepthMm / 2;

    /// <summary>Length around it, mm.</summary>
    public double AroundMm => 2 * StraightMm + DepthMm + 2 * DepthMm / Math.Sqrt(2);

    /// <summary>Plastic of a section, mm³, about.</summary>
    public double SectionVolumeMm3 => AroundMm * 4 * LineWidthMm * Layers.LayersPerSection * Layers.LayerHeightMm;
}

/// <summary>How a section of a wall, or a cone, is laid; null as the settings say.</summary>
/// <param name="FanPercent">Part fan, 0 to 100 %.</param>
/// <param name="Flow">Times the feed that the settings ask for, above 0.</param>
/// <param name="LineWidthMm">Line width, mm.</param>
/// <param name="LeastTimeS">Least layer time, s.</param>
/// <param name="Speeds">Speeds of walls, mm/s.</param>
public sealed record LaidWith(
    double? FanPercent = null, double Flow = 1, double? LineWidthMm = null, double? LeastTimeS = null, WallSpeeds? Speeds = null)
{
    /// <summary>The layer with it.</summary>
    public PieceLayer On(PieceLayer layer) =>
        layer with { FanPercent = FanPercent, LineWidthMm = LineWidthMm, LeastTimeS = LeastTimeS, Speeds = Speeds };
}

/// <summary>
/// A wall of four lines around a room that is square at one end and pointed at the other: two long faces that show waves, two square corners, two blunt ones
/// and a sharp one. Its sections stand on each other, a groove all round between them, each laid in its own way; the seam stands at the back of the square end.
/// </summary>
public static class PointedWall
{
    /// <summary>Layers of a groove.</summary>
    public const int GrooveLayers = 2;

    /// <summary>How deep a groove is, mm.</summary>
    public const double GrooveMm = 0.3;

    /// <summary>How far the foot reaches beyond the wall on either side, mm.</summary>
    public const double FootMm = 3;

    /// <summary>Builds it; the same measures and ways give the same instance.</summary>
    /// <param name="size">Measures.</param>
    /// <param name="sections">How each section is laid, from the bottom up.</param>
    /// <param name="memory">Remembers it.</param>
    public static Piece Build(PointedWallSize size, IReadOnlyList<LaidWith> sections, PieceMemory memory) =>
        memory.Once(string.Create(CultureInfo.InvariantCulture, $"pointed wall/{size}/{string.Join(';', sections)}"), 300, () =>
        {
            var islands = new Islands();
            var (l, d) = (size.LengthMm, size.DepthMm);
            var outline = Plane.Polygon((0, 0), (l - d / 2, 0), (l, d / 2), (l - d / 2, d), (0, d));
            // Four lines are four of the section's own: the room behind them gives way.
            var rooms = sections.Select(w => Plane.Inset(outline, 4 * (w.LineWidthMm ?? size.LineWidthMm))).ToList();
            var full = rooms.Select(room => islands.Of(outline.Difference(room))).ToList();
            var groove = rooms.Select(room => islands.Of(Plane.Inset(outline, GrooveMm).Difference(room))).ToList();
            var foot = islands.Of(Plane.Outset(outline, FootMm).Difference(Plane.Inset(rooms[0], FootMm)));
            PieceSize.Layers(size.Layers.Total);
            var layers = new List<PieceLayer>(size.Layers.Total);
            PieceLayer Layer(int n, int? section, IReadOnlyList<Island> shape) => new(
                n, size.Layers.Top(n), n == 1 ? size.Layers.FirstLayerHeightMm : size.Layers.LayerHeightMm, section, shape, []);
            for (var n = 1; n <= size.Layers.BaseLayers; n++)
                layers.Add(Layer(n, null, foot));
            for (var k = 0; k < size.Layers.Sections; k++)
            {
                for (var i = 0; i < size.Layers.LayersPerSection; i++)
                {
                    var n = size.Layers.BaseLayers + k * size.Layers.LayersPerSection + i + 1;
                    layers.Add(sections[k].On(Layer(n, k, i < GrooveLayers && k > 0 ? groove[k] : full[k])));
                }
            }

            return new Piece
            {
                Name = "Pointed wall", Layers = layers, SeamToward = (-1, 1),
                Flows = [.. sections.Select((w, i) => new FlowZone(w.Flow, i)).Where(z => z.Factor != 1)],
            };
        });
}
