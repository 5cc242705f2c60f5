using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.TestPieces;

/// <summary>Where pieces stand on a bed.</summary>
/// <param name="Pieces">Pieces in the order in which they are printed, placed from the bed's front left corner.</param>
/// <param name="PrimeFromX">Where the prime line begins, mm; null where there is no room for one and the skirt or brim primes.</param>
/// <param name="PrimeToX">Where it ends, mm.</param>
/// <param name="PrimeY">Its y, mm.</param>
public sealed record PlateLayout(IReadOnlyList<Placed> Pieces, double? PrimeFromX, double PrimeToX, double PrimeY);

/// <summary>Places pieces on the bed, or says what is too large.</summary>
public static class Plate
{
    /// <summary>Free rim of the bed, mm.</summary>
    public const double RimMm = 3;

    /// <summary>
    /// Places equal or different pieces: one in the middle; several in rows, printed one after another from the back to the front,
    /// so that the toolhead's carrier never passes over a finished piece, with the toolhead's clearance between them.
    /// </summary>
    /// <param name="pieces">Pieces in the order of printing.</param>
    /// <param name="m">The machine.</param>
    /// <param name="s">Settings: brim and skirt need room too.</param>
    /// <param name="fewer">What would be right where they don't all fit, as a sentence begins with it.</param>
    public static (PlateLayout? Layout, FieldError? Error) Place(IReadOnlyList<Piece> pieces, Machine m, PrintSettings s, string fewer)
    {
        var around = s.BrimWidthMm > 0 ? s.BrimWidthMm : pieces.Count == 1 ? s.SkirtGapMm + s.SkirtLoops * s.LineWidthMm : 0;
        var sizes = pieces.Select(p => p.Footprint).ToList();
        var (w, d) = (sizes.Max(e => e.Width) + 2 * around, sizes.Max(e => e.Height) + 2 * around);
        var (roomX, roomY) = (m.BedXMm - 2 * RimMm, m.BedYMm - 2 * RimMm);
        if (w > roomX || d > roomY)
            return (
                null,
                new(
                    "pieceDepthMm",
                    $"The piece needs {w:0} × {d:0} mm{(around > 0 ? s.BrimWidthMm > 0 ? " with its brim" : " with its skirt" : "")}; the bed of {m.Name} " +
                        $"has {roomX:0} × {roomY:0} mm inside its rim. A smaller depth, span or brim would fit."
                ));
        if (pieces.Max(p => p.HeightMm) > m.HeightMm)
            return (
                null, new("sectionHeightMm", $"The piece stands {pieces.Max(p => p.HeightMm):0.#} mm tall; {m.Name} has {m.HeightMm:0.#} mm above the bed."));
        if (pieces.Count == 1)
        {
            var (x, y) = ((m.BedXMm - sizes[0].Width) / 2 - sizes[0].MinX, (m.BedYMm - sizes[0].Height) / 2 - sizes[0].MinY);
            return (new([new(pieces[0], x, y)], Prime(m, (m.BedYMm - d) / 2), Math.Min(m.BedXMm - 10, 10 + 80), RimMm + 2), null);
        }

        var gap = Math.Max(2, m.ClearanceMm);
        if (pieces.Take(pieces.Count - 1).Max(p => p.HeightMm) > m.GantryHeightMm)
            return (
                null,
                new(
                    "sectionHeightMm",
                    $"Separate pieces are printed one after another below the carrier of the toolhead, {m.GantryHeightMm:0.#} mm above the bed on " +
                        $"{m.Name}; these stand {pieces.Max(p => p.HeightMm):0.#} mm tall. Lower sections or one tower would be right."
                ));
        var columns = Math.Max(1, (int)Math.Floor((roomX + gap) / (w + gap)));
        var rows = (int)Math.Ceiling(pieces.Count / (double)columns);
        var fits = Math.Max(1, (int)Math.Floor((roomY - PrimeStripMm + gap) / (d + gap)));
        if (rows > fits)
            return (
                null,
                new(
                    "coolestC",
                    $"{pieces.Count} pieces of {w:0} × {d:0} mm with {gap:0} mm for the toolhead between them don't fit on the bed of {m.Name}: " +
                        $"{fits * columns} do. {fewer} would be right."
                ));
        columns = (int)Math.Ceiling(pieces.Count / (double)rows);
        var (stepX, stepY) = (w + gap, d + gap);
        var left = (m.BedXMm - (columns * stepX - gap)) / 2;
        var front = PrimeStripMm + RimMm + (roomY - PrimeStripMm - (rows * stepY - gap)) / 2;
        var placed = pieces.Select((p, i) => new Placed(p,
            left + i % columns * stepX + around - sizes[i].MinX,
            front + (rows - 1 - i / columns) * stepY + around - sizes[i].MinY)).ToList();
        return (new(placed, Prime(m, front), Math.Min(m.BedXMm - 10, 10 + 80), RimMm + 2), null);
    }

    private const double PrimeStripMm = 8;

    private static double? Prime(Machine m, double freeY) => freeY >= RimMm + PrimeStripMm && m.BedXMm >= 60 ? 10 : null;
}
