using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.QuickCheck;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>One quantity of the reference piece over time.</summary>
/// <param name="Name">What it is.</param>
/// <param name="Unit">Its unit; empty for scores.</param>
/// <param name="Chart">With the limits of its own history.</param>
public sealed record PulseChart(string Name, string Unit, ControlChart Chart)
{
    /// <summary>The limits as they can be read: a score lies between 0 and 4. Nulls while there are none.</summary>
    public (double? Low, double? High) Limits =>
        Unit.Length > 0 ? (Chart.Low, Chart.High) : (Chart.Low is { } low ? Math.Max(0, low) : null, Chart.High is { } high ? Math.Min(4, high) : null);
}

/// <summary>Whether a machine is as it was, by its reference piece.</summary>
public enum PulseSays
{
    /// <summary>No reference piece was chosen.</summary>
    NotChosen,

    /// <summary>Too few were printed for limits.</summary>
    TooFew,

    /// <summary>The newest piece lies within the limits of those before it: look at the filament.</summary>
    AsItWas,

    /// <summary>It lies beyond them: the machine has changed.</summary>
    Changed,
}

/// <summary>The pulse of a machine.</summary>
/// <param name="Printer">With toolheads and parts.</param>
/// <param name="Pulse">What the reference piece is; null for none.</param>
/// <param name="Pairing">What it is printed with; null for none.</param>
/// <param name="Runs">Its runs that are read, the newest first.</param>
/// <param name="Charts">Walls and strings over time.</param>
/// <param name="Says">Whether it is as it was.</param>
/// <param name="Since">What was fitted or changed since the last piece that lay within: what may have done it.</param>
/// <param name="Marks">All that was fitted or changed, the oldest first.</param>
/// <param name="Due">True where the next one is due.</param>
public sealed record PulseView(
    Printer Printer, PulseOf? Pulse, Pairing? Pairing, IReadOnlyList<Run> Runs, IReadOnlyList<PulseChart> Charts, PulseSays Says, IReadOnlyList<Part> Since,
    IReadOnlyList<(DateTime At, string Label)> Marks, bool Due)
{
    /// <summary>A wall that differs by more than this share is a fault that a tester would look for; limits wider than that acquit nobody.</summary>
    private const double Telling = 0.1;

    private ControlChart? Walls => Charts.FirstOrDefault(c => c.Unit == "mm" && c.Chart.Mean is not null)?.Chart;

    private bool Tells => Walls is { High: { } high, Mean: { } mean } && high - mean <= Telling * mean;

    private string Slips => Walls is { High: { } high, Mean: { } mean } ? $": a wall would have to differ by {Words.N(high - mean, 3)} mm to show" : "";

    private IReadOnlyList<string> Beyond => [.. Charts.Where(c => c.Chart.Points is [.., { Outside: true }]).Select(c => c.Name)];

    /// <summary>In a sentence or two.</summary>
    public string Sentence => Says switch
    {
        PulseSays.NotChosen => "No reference piece is chosen yet: the same piece of the same spool, printed when in doubt, tells the machine from the " +
            "filament.",
        PulseSays.TooFew => $"{Words.Plural(Runs.Count, "piece is", "pieces are")} read; limits need {ControlChart.Fewest + 1}.",
        PulseSays.AsItWas => $"The machine is as it was, as far as these pieces tell{Slips}. " + (Tells
            ? "Where a profile fails, look at the filament."
            : "Too little to acquit it: print some more before you look at the filament."),
        _ => $"The machine has changed: {string.Join(" and ", Beyond)} of the newest piece {(Beyond.Count == 1 ? "lies" : "lie")} beyond the limits of those " +
            "before it. " + (Since.Count == 0
            ? "Nothing is recorded as changed since: look at nozzle, feed and belts, and at the reference spool's dryness."
            : $"Since the last one that lay within: {string.Join(", ", Since.Select(s => $"{s.Description} ({Words.ShortDay(s.FittedAt)})"))}."),
    };
}

/// <summary>The reference piece of a printer, and whether the machine is as it was.</summary>
public sealed class PulseBook(WorkContext work, PrinterBook printers)
{
    private const int MostRuns = 60;

    /// <summary>The piece: single walls and two posts, a quarter of an hour.</summary>
    public const string Kind = QuickCheckTrial.Word;

    /// <summary>The pulse of a printer; null where there is none.</summary>
    public async Task<PulseView?> OfAsync(Guid id)
    {
        if (await printers.ViewAsync(id) is not { } p)
            return null;
        var marks = p.Parts.Where(x => x.RemovedAt is null && x.PairingId is null && x.FilamentId is null).OrderBy(x => x.FittedAt).ToList();
        var pulse = p.PulseJson is { } json ? Json.Read<PulseOf>(json) : null;
        var pairing = pulse is null ? null : await work.Db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(x => x.Id == pulse.PairingId
            && x.RemovedAt == null);
        IReadOnlyList<(DateTime, string)> Marks() =>
            [.. marks.Select(m => (m.FittedAt, $"{PartSlot.Find(m.Slot)?.Label ?? AgeingRules.Find(m.Slot)?.Label ?? m.Slot}: {m.Description}"))];
        if (pairing is null)
            return new(p, null, null, [], [], PulseSays.NotChosen, [], Marks(), false);
        var runs = await work.Db.Runs.AsNoTracking().Include(r => r.Readings)
            .Where(r => r.PairingId == pairing.Id && r.Kind == Kind && r.RemovedAt == null && r.PrintedAt != null && r.ReadAt != null)
            .OrderByDescending(r => r.PrintedAt).Take(MostRuns).ToListAsync();
        var (walls, strings) = (new List<(DateTime, double)>(), new List<(DateTime, double)>());
        foreach (var run in runs)
        {
            var (wall, score) = MeansOf(run, pairing);
            if (wall is { } w)
                walls.Add((run.PrintedAt!.Value, w));
            if (score is { } s)
                strings.Add((run.PrintedAt!.Value, s));
        }

        var masses = runs.Where(r => r.MassUg > 0).Select(r => (r.PrintedAt!.Value, r.MassUg!.Value / 1e6)).ToList();
        List<PulseChart> charts = [new("wall", "mm", ControlChart.Of(walls, 0.01)), new("strings", "", ControlChart.Of(strings, 1))];
        // The same piece of the same plastic weighs what was pushed out: the whole feed in one number, where somebody weighed it.
        if (masses.Count > 0)
            charts.Add(new("mass", "g", ControlChart.Of(masses, StepOf(masses.Select(m => m.Item2)))));
        var newest = charts.Select(c => c.Chart.Points is [.., var last] ? last.Outside : null).ToList();
        var says = newest.Any(o => o == true) ? PulseSays.Changed : newest.Any(o => o == false) ? PulseSays.AsItWas : PulseSays.TooFew;
        var within = runs.Skip(1).FirstOrDefault(r => charts.All(c => c.Chart.Points.FirstOrDefault(x => x.At == r.PrintedAt)?.Outside is not true))?.PrintedAt;
        var due = pulse!.EveryDays is { } every && (work.Now - (runs.FirstOrDefault()?.PrintedAt ?? DateTime.MinValue)).TotalDays > every;
        return new(
            p, pulse, pairing, runs, charts, says, says == PulseSays.Changed ? [.. marks.Where(m => m.FittedAt > within && m.FittedAt <= runs[0].PrintedAt)]
                : [],
            Marks(), due);
    }

    /// <summary>Printers whose reference piece is due, with the days since the last one (null for none yet) and how often it was asked for.</summary>
    public static async Task<IReadOnlyList<(Printer Printer, int? Days, int Every)>> DueAsync(WorkContext work)
    {
        var due = new List<(Printer, int?, int)>();
        foreach (var p in await work.Db.Printers.AsNoTracking().Where(p => p.RemovedAt == null && p.World == Worlds.Real && p.PulseJson != null).ToListAsync())
        {
            if (Json.Read<PulseOf>(p.PulseJson!) is not { EveryDays: { } every } pulse)
                continue;
            var last = await work.Db.Runs.Where(r => r.PairingId == pulse.PairingId && r.Kind == Kind && r.RemovedAt == null).MaxAsync(r => r.PrintedAt);
            if (!(last >= work.Now.AddDays(-every)))
                due.Add((p, last is { } at ? (int)(work.Now - at).TotalDays : null, every));
        }

        return due;
    }

    /// <summary>The step of the scale, as far as its readings tell: a tenth of a gram, a hundredth or a thousandth.</summary>
    private static double StepOf(IEnumerable<double> grams) =>
        new[] { 0.1, 0.01 }.FirstOrDefault(step => grams.All(g => Math.Abs((g / step) - Math.Round(g / step)) < 1e-6), 0.001);

    /// <summary>Mean wall and mean score of a piece; nulls where they were not read, or its plan can't be.</summary>
    private static (double? Wall, double? Score) MeansOf(Run run, Pairing pairing)
    {
        try
        {
            var v = TrialRuns.View(TrialCatalogue.Get(Kind), run, pairing, pairing.Toolhead!, new Dictionary<Guid, ScoreNoise>());
            double? Of(CellKind kind) => v.Grid.Columns.Where(c => c.Kind == kind)
                .SelectMany(c => v.Grid.Rows.Select(r => v.Readings.Value(r.Section, c.Aspect))).Average();
            return (Of(CellKind.Number), Of(CellKind.Score));
        }
        // One run that can't be drawn keeps nobody from the others.
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return (null, null);
        }
    }

    /// <summary>Pairings that the piece may be printed with.</summary>
    public async Task<IReadOnlyList<KeyValuePair<string, string>>> PairingsAsync(Guid printer) =>
        [
            .. (await work.Db.Pairings.AsNoTracking().Full().Where(p => p.Toolhead!.PrinterId == printer && p.RemovedAt == null).ToListAsync())
                .Where(p => TrialCatalogue.Get(Kind).Suits(p.Filament!.Family)).Select(p => KeyValuePair.Create(p.Id.ToString(), Facts.NameOf(p)))
                .OrderBy(p => p.Value, StringComparer.Ordinal),
        ];
}
