using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of first-layer patches, mm.</summary>
/// <param name="ChangesMm">Nozzle offsets against the present one, the lowest first.</param>
/// <param name="FirstLayerMm">First-layer height.</param>
/// <param name="PatchMm">Side of a patch.</param>
/// <param name="BedXMm">Bed.</param>
/// <param name="BedYMm">Bed.</param>
/// <param name="Corners">True with a group in each corner, to see whether the bed lies parallel.</param>
public sealed record PatchSize(IReadOnlyList<double> ChangesMm, double FirstLayerMm, double PatchMm, double BedXMm, double BedYMm, bool Corners);

/// <summary>
/// Single-layer patches at several nozzle offsets, in the middle of the bed and in its corners. Each offset is a layer of its own on the bed, the lowest first,
/// so that the
/// nozzle only ever rises; all are laid with the plastic of the nominal first layer, as a changed live offset would.
/// </summary>
public static class OffsetPatches
{
    /// <summary>Between patches of a group, mm.</summary>
    public const double GapMm = 2;

    /// <summary>Between a corner group and the edge of the bed, mm.</summary>
    public const double EdgeMm = 14;

    /// <summary>Places in the order of reading: the middle, then the corners.</summary>
    public static IReadOnlyList<string> Places { get; } = ["middle", "front left", "front right", "back left", "back right"];

    /// <summary>Columns of patches in a group.</summary>
    public static int Columns(int count) => (int)Math.Ceiling(count / 2.0);

    /// <summary>Size of a group, mm.</summary>
    public static (double X, double Y) GroupMm(PatchSize s) => (Columns(s.ChangesMm.Count) * (s.PatchMm + GapMm) - GapMm, 2 * s.PatchMm + GapMm);

    /// <summary>True where the groups do not overlap on the bed.</summary>
    public static bool Fits(PatchSize s)
    {
        var (w, h) = GroupMm(s);
        return s.Corners
            ? 2 * w + 2 * EdgeMm + GapMm <= s.BedXMm && 3 * h + 2 * EdgeMm + 2 * GapMm <= s.BedYMm
            : w + 2 * EdgeMm <= s.BedXMm && h + 2 * EdgeMm <= s.BedYMm;
    }

    /// <summary>Front left corner of a patch on the bed, mm.</summary>
    /// <param name="s">Measures.</param>
    /// <param name="place">Index in <see cref="Places"/>.</param>
    /// <param name="index">Which offset, from 0, the lowest first; the front row from left to right, then the back row.</param>
    public static (double X, double Y) At(PatchSize s, int place, int index)
    {
        var (w, h) = GroupMm(s);
        var x = place switch { 0 => (s.BedXMm - w) / 2, 1 or 3 => EdgeMm, _ => s.BedXMm - EdgeMm - w };
        var y = place switch { 0 => (s.BedYMm - h) / 2, 1 or 2 => EdgeMm, _ => s.BedYMm - EdgeMm - h };
        var columns = Columns(s.ChangesMm.Count);
        return (x + index % columns * (s.PatchMm + GapMm), y + index / columns * (s.PatchMm + GapMm));
    }

    /// <summary>Builds it, in the bed's own coordinates; the same measures give the same instance. The patch of the present offset has a cut corner.</summary>
    public static Piece Build(PatchSize s, PieceMemory memory) =>
        memory.Once(
            $"patches/{string.Join(',', s.ChangesMm.Select(c => c.ToString("R", System.Globalization.CultureInfo.InvariantCulture)))}/{s with { ChangesMm = [] }}", 100,
            () =>
            {
                var islands = new Islands();
                Polygon Patch(int place, int i)
                {
                    var (x, y) = At(s, place, i);
                    var (m, cut) = (s.PatchMm, s.PatchMm / 4);
                    return Math.Abs(s.ChangesMm[i]) < 1e-9
                        ? Plane.Factory.CreatePolygon([
                            Plane.On(x, y), Plane.On(x + m, y), Plane.On(x + m, y + m - cut), Plane.On(x + m - cut, y + m), Plane.On(x, y + m), Plane.On(x, y),
                        ])
                        : Plane.Rectangle(x, y, x + m, y + m);
                }

                return new Piece
                {
                    Name = "First-layer patches", Layers =
                    [
                        .. s.ChangesMm.Select(
                            (c, i) =>
                                new PieceLayer(
                                    i + 1, Math.Round(s.FirstLayerMm + c, 4), s.FirstLayerMm, i,
                                    [.. Enumerable.Range(0, s.Corners ? Places.Count : 1).SelectMany(p => islands.Of(Patch(p, i)))], []) { OnBed = i > 0 }),
                    ],
                };
            });
}
