using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.TestPieces;

/// <summary>
/// A square column on a foot, its sections told apart by a groove all round, each with a least layer time of its own. It is so thin that it can be slowed to
/// the longest of them, and so little is laid in a layer that the shortest is a shortening still.
/// </summary>
/// <param name="SideMm">Side of the column, mm.</param>
/// <param name="Layers">Its layers.</param>
public sealed record TimedColumn(double SideMm, TowerLayers Layers)
{
    /// <summary>How deep the groove is, mm.</summary>
    public const double GrooveMm = 0.4;

    /// <summary>Layers of a groove.</summary>
    public const int GrooveLayers = 2;

    /// <summary>How far the foot reaches beyond the column, mm.</summary>
    public const double FootMm = 5;

    /// <summary>Smallest and largest column, mm.</summary>
    public const double LeastMm = 5, MostMm = 40;

    /// <summary>Side of the foot, mm.</summary>
    public double WidthMm => SideMm + 2 * FootMm;

    /// <summary>Plastic of a section, mm³.</summary>
    public double SectionVolumeMm3 => SideMm * SideMm * Layers.LayersPerSection * Layers.LayerHeightMm;

    /// <summary>Plastic of the foot, mm³.</summary>
    public double FootVolumeMm3 => WidthMm * WidthMm * Layers.BaseLayers * Layers.LayerHeightMm;

    /// <summary>The thinnest column, in halves of a millimetre, whose layers can be slowed to a time, mm. Those of a groove may be a little shorter.</summary>
    /// <param name="longestS">The time, s.</param>
    /// <param name="s">What it is laid with.</param>
    public static double SideFor(double longestS, PrintSettings s)
    {
        // Its lines at the slowest speed: walls, and what they leave for the fill.
        double Lines(double side)
        {
            var (sum, left) = (0.0, side);
            for (var i = 0; i < s.Walls && left > s.LineWidthMm; i++, left -= 2 * s.LineWidthMm)
                sum += 4 * (left - s.LineWidthMm);
            return sum + Math.Max(0, left) * Math.Max(0, left) / s.LineWidthMm;
        }

        var side = LeastMm;
        while (side < MostMm && Lines(side) < 1.05 * longestS * s.MinPrintSpeedMmPerS)
            side += 0.5;
        return side;
    }

    /// <summary>What a layer of the column lasts at the speeds in force, as it is planned, s: the longest of three, whose fill lies in turn.</summary>
    /// <param name="s">What it is laid with.</param>
    /// <param name="memory">Remembers it.</param>
    public double UnslowedS(PrintSettings s, PieceMemory memory) =>
        memory.Once(("unslowed column", SideMm, Layers.LayerHeightMm, s with { Sources = [] }), 1, () =>
        {
            var few = this with { Layers = Layers with { Sections = 1, LayersPerSection = GrooveLayers + 4, BaseLayers = 1 } };
            return new Planner(s, memory).Plan([new(few.Build([0]), 0, 0)]).TakeLast(3).Max(l => l.Seconds);
        });

    /// <summary>The piece, its sections from the bottom up with these least times, s.</summary>
    public Piece Build(IReadOnlyList<double> times)
    {
        var islands = new Islands();
        IReadOnlyList<Island> Square(double side)
        {
            var edge = (WidthMm - side) / 2;
            return islands.Of(Plane.Rectangle(edge, edge, edge + side, edge + side));
        }

        var (foot, groove, full) = (Square(WidthMm), Square(SideMm - 2 * GrooveMm), Square(SideMm));
        var layers = new List<PieceLayer>(Layers.Total);
        for (var n = 1; n <= Layers.BaseLayers; n++)
            layers.Add(new(n, Layers.Top(n), n == 1 ? Layers.FirstLayerHeightMm : Layers.LayerHeightMm, null, foot, []));
        for (var k = 0; k < Layers.Sections; k++)
        {
            for (var i = 0; i < Layers.LayersPerSection; i++)
            {
                var number = Layers.BaseLayers + k * Layers.LayersPerSection + i + 1;
                layers.Add(new(number, Layers.Top(number), Layers.LayerHeightMm, k, i < GrooveLayers ? groove : full, []) { LeastTimeS = times[k] });
            }
        }

        return new Piece { Name = "Layer time in steps", Layers = layers, SeamToward = (0, 1) };
    }
}
