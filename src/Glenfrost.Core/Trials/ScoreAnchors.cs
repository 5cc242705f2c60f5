namespace Glenfrost.Core.Trials;

/// <summary>What the scores of an aspect look like.</summary>
/// <param name="Key">Fixed word: what own photos of it are kept under.</param>
/// <param name="Four">What 4 is.</param>
/// <param name="Two">What 2 is: it passes, just.</param>
/// <param name="Zero">What 0 is.</param>
public sealed record ScoreAnchors(string Key, string Four, string Two, string Zero)
{
    /// <summary>A bridge between two posts.</summary>
    public static ScoreAnchors Bridge { get; } = new("bridge", "flat and taut beneath", "sags by a line or two, no loop", "loops hang, or it tore");

    /// <summary>A wall that leans outward.</summary>
    public static ScoreAnchors Overhang { get; } =
        new("overhang", "smooth beneath, edge straight", "rough beneath, edge slightly curled", "curled up, drooping or missing lines");

    /// <summary>Strings between posts.</summary>
    public static ScoreAnchors Strings { get; } =
        new("strings", "none, not even a hair", "a few hairs that a flame or a brush takes off", "a cobweb, or blobs on the posts");

    /// <summary>The look of a wall.</summary>
    public static ScoreAnchors Surface { get; } =
        new("surface", "even lines, one sheen all over", "sheen or lines uneven in places", "blobs, gaps, scorched or matt patches");

    /// <summary>How layers hold together, broken by hand.</summary>
    public static ScoreAnchors Bond { get; } =
        new("bond", "breaks across the layers, or not by hand", "breaks along a layer with some force", "splits along a layer at a touch");

    /// <summary>A zone of somebody's own part, as its user would take it.</summary>
    public static ScoreAnchors Part { get; } =
        new("part", "as it was meant, nothing to do", "usable once it is trimmed or sanded", "useless: missing, broken or the wrong shape");

    /// <summary>A clip on its rod.</summary>
    public static ScoreAnchors Snap { get; } =
        new("snap", "snaps on by hand and holds, again and again", "goes on with force, or turns loosely", "breaks, or falls off");

    /// <summary>A gap between reeds that the nozzle crosses.</summary>
    public static ScoreAnchors Gap { get; } = Strings;

    /// <summary>A corner, or a line that changes its speed.</summary>
    public static ScoreAnchors Even { get; } =
        new("even", "one width throughout, corners sharp", "slightly thick or thin where the speed changes", "bulges, or gaps and thin ends");

    /// <summary>Lines of a first layer beside each other, by eye.</summary>
    public static ScoreAnchors Gaps { get; } =
        new("gaps", "closed, no light between lines", "hair lines of light in places", "lines lie apart and come off one by one");

    /// <summary>What a thumb feels on a first layer.</summary>
    public static ScoreAnchors Ridges { get; } = new("ridges", "smooth as paper", "ridges can be felt", "ridges scratch, plastic pushed up or torn");

    /// <summary>How a first layer holds on the bed.</summary>
    public static ScoreAnchors Grip { get; } =
        new("grip", "holds until it is bent off", "comes off with a nail under its edge", "slides, or was dragged along");

    /// <summary>A corner of a first layer, everything together.</summary>
    public static ScoreAnchors Corner { get; } = new("corner", "closed, smooth and flat", "slightly open or ridged", "open, torn or lifted");

    /// <summary>Corners of a thin column.</summary>
    public static ScoreAnchors Corners { get; } =
        new("corners", "sharp from bottom to top", "rounded, but still corners", "bulged, dragged along or melted away");

    /// <summary>Walls of a thin column.</summary>
    public static ScoreAnchors Walls { get; } = new("walls", "straight, each line like the other", "waves that a nail feels", "sagged, bent or shining patches");

    /// <summary>Tip of a cone.</summary>
    public static ScoreAnchors Tip { get; } =
        new("tip", "round and firm to its last layer", "blunt or leaning, still round", "a melted lump, curled or missing");

    /// <summary>A top face by eye.</summary>
    public static ScoreAnchors Eye { get; } = new("eye", "closed, one sheen", "dull or thin lines in places", "gaps, torn or missing lines");

    /// <summary>A top face by thumb.</summary>
    public static ScoreAnchors Thumb { get; } = new("thumb", "smooth", "lines can be felt", "rough, ridges pushed up");

    /// <summary>All of them, each once.</summary>
    public static IReadOnlyList<ScoreAnchors> All { get; } =
        [Bridge, Overhang, Strings, Surface, Bond, Part, Even, Gaps, Ridges, Grip, Corner, Corners, Walls, Tip, Eye, Thumb, Snap];

    /// <summary>
    /// Columns that were probably scored the wrong way round: at most 1 nearly everywhere while all others are at 3 or better in the same rows. 4 is the best
    /// of every aspect, so no strings are a 4.
    /// </summary>
    /// <param name="grid">What is read.</param>
    /// <param name="readings">What stands.</param>
    public static IReadOnlyList<GridColumn> Inverted(ReadingGrid grid, RunReadings readings)
    {
        var columns = grid.Columns.Where(c => c.Kind == CellKind.Score).ToList();
        return [.. columns.Where(c =>
        {
            var rows = grid.Rows.Select(r => (Own: readings.Value(r.Section, c.Aspect), Others: Others(r.Section, c)))
                .Where(r => r is { Own: not null, Others: not null }).ToList();
            return rows.Count >= LeastRows
                && rows.Average(r => r.Own!.Value) <= 1
                && rows.Count(r => r.Own <= 1) >= 0.8 * rows.Count
                && rows.Average(r => r.Others!.Value) >= 3;
        })];

        double? Others(int section, GridColumn own)
        {
            var read = columns.Where(c => c != own).Select(c => readings.Value(section, c.Aspect)).OfType<double>().ToList();
            return read.Count == 0 ? null : read.Average();
        }
    }

    // Fewer rows show no pattern.
    private const int LeastRows = 3;
}
