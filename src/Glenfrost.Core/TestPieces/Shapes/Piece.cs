using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using Glenfrost.Core.Gcode.Writing;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces.Shapes;

/// <summary>
/// A connected part of a layer. The same instance stands in every layer that has the same shape there: neighbours are
/// compared by reference, and toolpaths are made once.
/// </summary>
/// <param name="shape">Its closed outline with holes, mm.</param>
/// <param name="id">Counts the shapes of a piece.</param>
/// <param name="mark">The same for equal shapes of any piece.</param>
public sealed class Island(Polygon shape, int id, string mark)
{
    /// <summary>The same for equal shapes of any piece, and for no others.</summary>
    public string Mark { get; } = mark;

    /// <summary>Counts the shapes of a piece.</summary>
    public int Id { get; } = id;

    /// <summary>Its closed outline with holes, mm.</summary>
    public Polygon Shape { get; } = shape;
}

/// <summary>A wall of exactly one line, given by its centre.</summary>
/// <param name="Centre">Centre line, mm; closed where first and last point agree.</param>
public sealed record SingleWall(LineString Centre);

/// <summary>
/// How the nozzle goes from line to line in a layer, where that is the factor under test; null keeps what the settings say. Lengths in mm, speeds in mm/s.
/// </summary>
/// <param name="LengthMm">Retraction.</param>
/// <param name="SpeedMmPerS">Its speed; forward again at the same.</param>
/// <param name="WipeMm">Moved back over the line meanwhile.</param>
/// <param name="CoastMm">End of a line that is printed by pressure alone.</param>
/// <param name="HopMm">Lift.</param>
/// <param name="TravelMmPerS">Speed of the travel.</param>
public sealed record TravelWay(
    double? LengthMm = null, double? SpeedMmPerS = null, double? WipeMm = null, double? CoastMm = null, double? HopMm = null, double? TravelMmPerS = null);

/// <summary>
/// Speeds of walls where one of them is the factor under test, mm/s; null keeps what the settings say. A wall with a speed of its own keeps it where a layer is
/// slowed to last long enough: what else is in the layer is slowed the more.
/// </summary>
/// <param name="OuterMmPerS">Of the lines that are seen.</param>
/// <param name="InnerMmPerS">Of those behind them.</param>
public sealed record WallSpeeds(double? OuterMmPerS = null, double? InnerMmPerS = null)
{
    /// <summary>That of a role; null where the settings' holds.</summary>
    public double? Of(PathRole role) => role switch
    {
        PathRole.OuterWall => OuterMmPerS,
        PathRole.InnerWall => InnerMmPerS,
        _ => null,
    };
}

/// <summary>One layer of a piece.</summary>
/// <param name="Number">From 1.</param>
/// <param name="TopMm">Height of its upper face above the bed, mm: where the nozzle stands.</param>
/// <param name="HeightMm">Its thickness, mm.</param>
/// <param name="Section">Section from 0; null for a base.</param>
/// <param name="Islands">Connected parts.</param>
/// <param name="Walls">Single walls.</param>
public sealed record PieceLayer(int Number, double TopMm, double HeightMm, int? Section, IReadOnlyList<Island> Islands, IReadOnlyList<SingleWall> Walls)
{
    /// <summary>True for a layer that lies on the bed though it is not the first: patches at several nozzle offsets, the lowest first.</summary>
    public bool OnBed { get; init; }

    /// <summary>How the nozzle travels in it; null as the settings say.</summary>
    public TravelWay? Way { get; init; }

    /// <summary>Part fan where it is the factor under test, %, bridges too; null as the settings say.</summary>
    public double? FanPercent { get; init; }

    /// <summary>Least time that it lasts where that is the factor under test, s; null as the settings say.</summary>
    public double? LeastTimeS { get; init; }

    /// <summary>Line width where it is the factor under test, mm; null as the settings say.</summary>
    public double? LineWidthMm { get; init; }

    /// <summary>Speeds of walls where they are the factor under test; null as the settings say.</summary>
    public WallSpeeds? Speeds { get; init; }

    /// <summary>All islands as one region.</summary>
    public Geometry Region => Islands.Count == 0 ? Plane.Nothing : Plane.Together(Islands.Select(i => i.Shape));
}

/// <summary>A part of a piece that is laid with more or less plastic than the rest: flow as the factor under test.</summary>
/// <param name="Factor">Times the feed that the settings ask for.</param>
/// <param name="Section">Section that it holds for; null for all.</param>
/// <param name="Box">Seen from above, mm; null for all of the section. Lines are cut at its left and right edges.</param>
/// <param name="FromLayer">First layer that it holds for, from 1.</param>
public sealed record FlowZone(double Factor, int? Section = null, Envelope? Box = null, int FromLayer = 1);

/// <summary>A test piece as closed regions per layer, in its own coordinates.</summary>
public sealed record Piece
{
    /// <summary>What it is, for the file's header.</summary>
    public required string Name { get; init; }

    /// <summary>Layers from the bed up; consecutive and without gaps.</summary>
    public required IReadOnlyList<PieceLayer> Layers { get; init; }

    /// <summary>Boxes in which a seam would spoil what is judged, mm; seen from above, for all layers.</summary>
    public IReadOnlyList<Envelope> Judged { get; init; } = [];

    /// <summary>Direction in which seams are put, where nothing is judged.</summary>
    public (double X, double Y) SeamToward { get; init; } = (0, 1);

    /// <summary>Parts that are laid with another flow; the first that fits counts.</summary>
    public IReadOnlyList<FlowZone> Flows { get; init; } = [];

    /// <summary>Times the feed that the settings ask for, at a place of a layer.</summary>
    public double FlowAt(PieceLayer layer, double x, double y)
    {
        foreach (var f in Flows)
        {
            if (layer.Number >= f.FromLayer && (f.Section is null || f.Section == layer.Section) && (f.Box is null || f.Box.Contains(x, y)))
                return f.Factor;
        }

        return 1;
    }

    /// <summary>Shares of a straight line at which it is cut, the last one 1: where it crosses the left or right edge of a part with another flow.</summary>
    public IEnumerable<double> Cuts(double fromX, double toX)
    {
        IEnumerable<double> shares = Math.Abs(toX - fromX) < 1e-9 ? [] : Flows.Where(f => f.Box is not null).SelectMany(f => new[] { f.Box!.MinX, f.Box.MaxX })
            .Select(edge => (edge - fromX) / (toX - fromX)).Where(t => t is > 1e-6 and < 1 - 1e-6).Distinct().Order();
        return shares.Append(1);
    }

    /// <summary>Height, mm.</summary>
    public double HeightMm => Layers[^1].TopMm;

    /// <summary>What the piece covers, seen from above, mm.</summary>
    public Envelope Footprint
    {
        get
        {
            var e = new Envelope();
            foreach (var layer in Layers)
            {
                foreach (var i in layer.Islands)
                    e.ExpandToInclude(i.Shape.EnvelopeInternal);
                foreach (var w in layer.Walls)
                    e.ExpandToInclude(w.Centre.EnvelopeInternal);
            }

            return e;
        }
    }
}

/// <summary>Keeps one island per shape while a piece is built.</summary>
public sealed class Islands
{
    private readonly Dictionary<string, Island> known = [];

    /// <summary>The islands of a region; equal shapes give the same instances.</summary>
    public IReadOnlyList<Island> Of(Geometry region) => [.. Plane.Polygons(region).Select(One)];

    private Island One(Polygon p)
    {
        p.Normalize();
        var key = Key(p);
        if (!known.TryGetValue(key, out var island))
            known[key] = island = new(p, known.Count, Convert.ToHexString(SHA256.HashData(Encoding.ASCII.GetBytes(key))));
        return island;
    }

    private static string Key(Polygon p) =>
        string.Join(' ', p.Coordinates.Select(c => string.Create(CultureInfo.InvariantCulture, $"{c.X:0.####},{c.Y:0.####}")));
}
