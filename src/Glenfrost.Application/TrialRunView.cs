using Glenfrost.Core.Statistics;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>An earlier run that is not judged along.</summary>
/// <param name="Run">The run.</param>
/// <param name="Answer">What keeps them apart.</param>
/// <param name="Days">Days between the two where that is too many; null where it is not.</param>
public sealed record ApartRun(Run Run, PoolingAnswer Answer, int? Days = null);

/// <summary>Runs before one that may be judged along with it.</summary>
/// <param name="Together">Those that are.</param>
/// <param name="Apart">Those that are not.</param>
/// <param name="FromMemory">What somebody remembered to be the same.</param>
public sealed record RunsAlong(IReadOnlyList<Run> Together, IReadOnlyList<ApartRun> Apart, IReadOnlyList<FactorDifference> FromMemory)
{
    /// <summary>None.</summary>
    public static RunsAlong None { get; } = new([], [], []);
}

/// <summary>A run as its page needs it: what it is of, what is read of it, and today's verdict.</summary>
public sealed record TrialRunView(
    Run Run, Trial Trial, ITrialPlan Plan, Pairing? Pairing, Toolhead Toolhead, FactorSet Factors,
    IReadOnlyDictionary<(int Section, string Aspect), Reading> Cells, RunReadings Readings, Lazy<TrialVerdict> Judged) : IRunView
{
    /// <summary>Today's verdict; computed when it is first asked for.</summary>
    public TrialVerdict Verdict => Judged.Value;

    /// <summary>What the partials of its trial see.</summary>
    public RunView ForPartials => Trial.View(new(Plan, Readings, Judged)
    {
        Price = Pairing?.Filament is { PriceMinor: { } price, NetMassUg: > 0 and var net } f ? new(price / 100.0 / (net / 1e9), f.Currency ?? "") : null,
        RunId = Run.Id, ReadingIds = Cells.ToDictionary(c => c.Key, c => c.Value.Id),
    });

    /// <summary>Parts that are read.</summary>
    public IReadOnlyList<PlanPart> Parts { get; } = Plan.Parts;

    /// <summary>Rows and columns of readings.</summary>
    public ReadingGrid Grid { get; } = Trial.Grid(Plan);

    /// <summary>What became of each part.</summary>
    public IReadOnlyList<SectionState> States { get; } = Trial.States(Plan, Readings);

    /// <summary>Cells that still wait for a reading.</summary>
    public IReadOnlyList<(int Section, string Aspect)> Empty { get; } = [.. Trial.Waiting(Plan, Readings)];

    /// <summary>Earlier runs that this one follows and that differ in nothing that matters: they are judged together, as repeats.</summary>
    public IReadOnlyList<TrialRunView> Earlier { get; init; } = [];

    /// <summary>Earlier runs that it follows and that are not taken together with it, with the reason.</summary>
    public IReadOnlyList<ApartRun> Apart { get; init; } = [];

    /// <summary>What somebody remembered, so that earlier runs are taken together with it.</summary>
    public IReadOnlyList<FactorDifference> FromMemory { get; init; } = [];

    /// <summary>True where a value that is known good in practice stands beside what it settles.</summary>
    public bool PracticeNoted { get; init; }

    /// <summary>All readings that the verdict rests on.</summary>
    public IEnumerable<Guid> ReadingIds => Cells.Values.Select(r => r.Id).Concat(Earlier.SelectMany(e => e.ReadingIds)).Order();

    /// <summary>What it is carried out on, as it is called in sentences.</summary>
    public string Name => Pairing is null ? Toolhead.FullName : Facts.NameOf(Pairing);

    /// <summary>The same for heads, with the nozzle.</summary>
    public string Subject => Pairing is null ? $"{Toolhead.FullName}, whatever is loaded" : Facts.SubjectOf(Pairing);

    /// <summary>Where what it is carried out on has its page.</summary>
    public string Home => Pairing is null ? $"/printers/{Toolhead.PrinterId}" : $"/pairings/{Pairing.Id}";

    /// <summary>Where its plan is changed or made anew.</summary>
    public string PlanAddress => TrialRuns.PlanAddress(Trial, Pairing?.Id, Toolhead.Id);

    /// <summary>Name and number, as a sentence begins with it.</summary>
    public string Title => $"{Trial.Name} {Run.Number}";

    /// <summary>The same within a sentence.</summary>
    public string Called => $"{char.ToLowerInvariant(Title[0])}{Title[1..]}";

    /// <summary>Label of a part; null for the whole piece.</summary>
    public string? Label(int? section) => section is { } i && i >= 0 && i < Parts.Count ? Parts[i].Label : null;

    /// <summary>The run that a row of the verdict was printed in; rows beyond this run's parts belong to those before it.</summary>
    public (Run Run, PlanPart Part) Printed(int row)
    {
        foreach (var v in Earlier.Prepend(this))
        {
            if (row < v.Parts.Count)
                return (v.Run, v.Parts[row]);
            row -= v.Parts.Count;
        }

        throw new ArgumentOutOfRangeException(nameof(row));
    }

    /// <summary>The scores of a part by aspect.</summary>
    public IReadOnlyDictionary<string, double> Scores(int section) =>
        Grid.Columns.Where(c => c.Kind == CellKind.Score && Readings.Value(section, c.Aspect) is not null)
            .ToDictionary(c => c.Aspect, c => Readings.Value(section, c.Aspect)!.Value);

    /// <summary>Numbers and scores that were read.</summary>
    public int ReadCount => Grid.Columns.Where(c => c.Kind != CellKind.Word).Sum(c => Grid.Rows.Count(r => Readings.Value(r.Section, c.Aspect) is not null));

    /// <summary>Scores given twice by those who read this run, from which its noise was learned; 0 where the default is taken.</summary>
    public int LearnedPairs { get; init; }

    /// <summary>Standard deviation of one score that the verdict takes.</summary>
    public double ScoreNoise { get; init; } = Core.Statistics.ScoreNoise.Default;

    /// <summary>What stands in a cell, as it was entered; empty where nothing does.</summary>
    public string Text(int section, string aspect) => Cells.TryGetValue((section, aspect), out var r) ? r.Entered : "";

    /// <summary>The reading that stands in a cell; null where none does.</summary>
    public Guid? ReadingId(int section, string aspect) => Cells.TryGetValue((section, aspect), out var r) ? r.Id : null;
}
