using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials;

/// <summary>What a cell takes.</summary>
public enum CellKind
{
    /// <summary>0 (unusable) to 4 (clean), or m for missing.</summary>
    Score,

    /// <summary>A number with its unit.</summary>
    Number,

    /// <summary>One of a few words.</summary>
    Word,
}

/// <summary>A column of readings.</summary>
/// <param name="Aspect">Fixed word under which its readings are stored.</param>
/// <param name="Label">Head of the column.</param>
/// <param name="Kind">What it takes.</param>
/// <param name="Wanted">True where the run waits for it.</param>
public sealed record GridColumn(string Aspect, string Label, CellKind Kind, bool Wanted = true)
{
    /// <summary>Unit, range and reason of a number.</summary>
    public Quantity? Quantity { get; init; }

    /// <summary>Words that a word cell takes, the usual one first.</summary>
    public IReadOnlyList<string> Words { get; init; } = [];

    /// <summary>Smallest step of the usual instrument; null for words.</summary>
    public double? Resolution { get; init; }

    /// <summary>Decimals in which a number is stored.</summary>
    public int Digits { get; init; } = 3;

    /// <summary>What the cell is, for its name beside the row's; the head of the column where it is null.</summary>
    public string? Lead { get; init; }

    /// <summary>What its scores look like; null for what is not scored.</summary>
    public ScoreAnchors? Anchors { get; init; }

    /// <summary>A number beyond this range is asked about, and saved all the same.</summary>
    public (double From, double To)? Plausible { get; init; }
}

/// <summary>A row of readings: a section, a side, a repeat.</summary>
/// <param name="Section">From 0.</param>
/// <param name="Label">As it is called on the piece and on the sheet.</param>
/// <param name="Sub">Smaller words beside it.</param>
public sealed record GridRow(int Section, string Label, string Sub = "");

/// <summary>A cell as read: text, number and the step of what read it.</summary>
public sealed record CellReading(double? Value, string Text, double? Resolution = null);

/// <summary>What is read of a run: rows as they stand on the bench, columns in the order of reading.</summary>
/// <param name="Rows">From the top of the table down.</param>
/// <param name="Columns">From left to right.</param>
public sealed record ReadingGrid(IReadOnlyList<GridRow> Rows, IReadOnlyList<GridColumn> Columns)
{
    /// <summary>The words of a state.</summary>
    public static IReadOnlyList<string> States { get; } = ["judged", "failed", "lost"];

    /// <summary>True where the table needs the room of photos and findings for its columns.</summary>
    public bool ManyColumns { get; init; }

    /// <summary>Head of the first column.</summary>
    public string RowHead { get; init; } = "Section";

    /// <summary>True where cells are read across rather than down a column.</summary>
    public bool Across { get; init; }

    /// <summary>The column of that aspect; null where there is none.</summary>
    public GridColumn? Column(string aspect) => Columns.FirstOrDefault(c => c.Aspect == aspect);

    /// <summary>The row of that section; null where there is none.</summary>
    public GridRow? Row(int section) => Rows.FirstOrDefault(r => r.Section == section);

    /// <summary>Cells that the run waits for, in the order of reading.</summary>
    public IEnumerable<(int Section, string Aspect)> Wanted => Across
        ? Rows.SelectMany(r => Columns.Where(c => c.Wanted).Select(c => (r.Section, c.Aspect)))
        : Columns.Where(c => c.Wanted).SelectMany(c => Rows.Select(r => (r.Section, c.Aspect)));

    /// <summary>Reads what was typed into a cell.</summary>
    /// <returns>Number and text to store, or what is wrong and what would be right.</returns>
    public (double? Value, string Text, string? Error) Parse(string aspect, string typed)
    {
        if (Column(aspect) is not { } column)
            return (
                null, "",
                $"\"{(aspect.Length > 40 ? aspect[..40] : aspect)}\" is not an aspect of this run: {string.Join(", ", Columns.Select(c => c.Aspect))} " +
                    $"would be right."
            );
        var text = typed.Trim();
        switch (column.Kind)
        {
            case CellKind.Word:
                var word = text.ToLowerInvariant();
                return word.Length == 0 && aspect != CellAspects.State || column.Words.Contains(word) ? (null, word, null)
                    : (null, "", $"{column.Label} is one of {string.Join(", ", column.Words)}.");
            case CellKind.Score:
                text = text.ToLowerInvariant();
                if (text.Length == 0 || text == "m")
                    return (null, text, null);
                var score = RecordFields.Score.Parse(text);
                return score.Error is null
                    ? ((double)score.Value!.Value, Say.N(score.Value.Value, 2), null)
                    : (null, "", $"{score.Error} m marks a missing one{(Column(CellAspects.State) is null ? "" : ", f a failed section")}.");
            default:
                if (text.Length == 0 || text is "m" or "M")
                    return (null, text.ToLowerInvariant(), null);
                var number = column.Quantity!.Parse(text);
                return number.Error is null
                    ? ((double)Math.Round(number.Value!.Value, 6), Say.N(number.Value.Value, column.Digits), null)
                    : (null, "", number.Error);
        }
    }

}

/// <summary>The air around a print at its start and end, °C; null where nobody measured it.</summary>
public sealed record Surroundings(double? RoomC = null, double? RoomEndC = null, double? ChamberC = null, double? ChamberEndC = null);

/// <summary>The readings of one run as a trial judges them.</summary>
/// <param name="cells">Standing readings by section and aspect.</param>
/// <param name="endedAtLayer">Last layer that stands; null for a whole piece.</param>
public sealed class RunReadings(IReadOnlyDictionary<(int Section, string Aspect), CellReading> cells, int? endedAtLayer = null)
{
    /// <summary>The air around the print, as far as the record knows it.</summary>
    public Surroundings Around { get; init; } = new();

    /// <summary>All standing readings.</summary>
    public IReadOnlyDictionary<(int Section, string Aspect), CellReading> Cells => cells;

    /// <summary>Last layer that stands; null for a whole piece.</summary>
    public int? EndedAtLayer => endedAtLayer;

    /// <summary>The number in a cell; null where there is none.</summary>
    public double? Value(int section, string aspect) => cells.TryGetValue((section, aspect), out var r) ? r.Value : null;

    /// <summary>The text in a cell; empty where there is none.</summary>
    public string Text(int section, string aspect) => cells.TryGetValue((section, aspect), out var r) ? r.Text : "";

    /// <summary>The coarsest step among the instruments that read the given aspects; the usual one where nothing is known.</summary>
    public double Resolution(IReadOnlyCollection<string> aspects, double usual) =>
        cells.Where(c => aspects.Contains(c.Key.Aspect) && c.Value is { Value: not null, Resolution: > 0 }).Select(c => c.Value.Resolution!.Value)
            .DefaultIfEmpty(usual).Max();
}
