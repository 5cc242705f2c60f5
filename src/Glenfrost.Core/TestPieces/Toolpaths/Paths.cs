using Glenfrost.Core.Gcode.Writing;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces.Toolpaths;

/// <summary>A line to extrude.</summary>
/// <param name="Role">What it is for.</param>
/// <param name="Points">Its points, mm; of a closed line the last one is the first.</param>
/// <param name="SpacingMm">Cross-section over layer height, mm.</param>
/// <param name="OverAir">For each segment whether it runs over air; null where none does.</param>
public sealed record PathLine(PathRole Role, Coordinate[] Points, double SpacingMm, bool[]? OverAir = null)
{
    /// <summary>True where it ends where it began.</summary>
    public bool Closed => Points.Length > 2 && Points[0].Equals2D(Points[^1]);

    /// <summary>Its length, mm.</summary>
    public double LengthMm
    {
        get
        {
            var sum = 0.0;
            for (var i = 1; i < Points.Length; i++)
                sum += Points[i].Distance(Points[i - 1]);
            return sum;
        }
    }
}

/// <summary>All lines of an island in the order of their groups.</summary>
/// <param name="Walls">Closed walls, outermost first.</param>
/// <param name="Rest">Thin lines, bridges, solid fill, top fill.</param>
public sealed record IslandLines(IReadOnlyList<PathLine> Walls, IReadOnlyList<IReadOnlyList<PathLine>> Rest);
