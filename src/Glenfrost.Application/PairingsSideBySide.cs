using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerBond;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>One pairing of a comparison.</summary>
/// <param name="Pairing">With filament, toolhead and printer.</param>
/// <param name="Settings">Its newest profile, by key.</param>
/// <param name="Pieces">What was scored at the temperature in force.</param>
/// <param name="Runs">The runs that its evidence rests on, by id, as they are called.</param>
public sealed record PairingColumn(
    Pairing Pairing, IReadOnlyDictionary<string, ProfileSetting> Settings, IReadOnlyList<GoalPiece> Pieces, IReadOnlyDictionary<Guid, string> Runs)
{
    /// <summary>What broken pegs say; null where none were broken.</summary>
    public NewestVerdict? Bond { get; init; }
}

/// <summary>One curve of one pairing.</summary>
/// <param name="Column">Which pairing, as the columns stand.</param>
/// <param name="Title">The run that it is from.</param>
/// <param name="RunId">Its id.</param>
/// <param name="Points">Readings in the order of x.</param>
public sealed record ComparedCurve(int Column, string Title, Guid RunId, IReadOnlyList<ChartPoint> Points);

/// <summary>Curves of the same trial over the same axes.</summary>
/// <param name="Name">Of the trial.</param>
/// <param name="XLabel">Name and unit.</param>
/// <param name="YLabel">Name and unit.</param>
/// <param name="Curves">Two or more.</param>
public sealed record ComparedCurves(string Name, string XLabel, string YLabel, IReadOnlyList<ComparedCurve> Curves);

/// <summary>Pairings beside each other: on evidence, on curves, and what each is best for.</summary>
/// <param name="Columns">Them, in the order asked for.</param>
/// <param name="Curves">What was measured over the same axes on two or more of them.</param>
/// <param name="Answers">What testers ask of several pairings.</param>
public sealed record PairingComparison(
    IReadOnlyList<PairingColumn> Columns, IReadOnlyList<ComparedCurves> Curves, IReadOnlyList<BestForAnswer> Answers)
{
    /// <summary>None.</summary>
    public static PairingComparison None { get; } = new([], [], []);
}

/// <summary>Sets pairings side by side on what was measured on them, and answers from it what each is best for.</summary>
public sealed class PairingsSideBySide(WorkContext work, PairingBook book, GoalBook goals, TrialRuns runs, ScoreNoises noises, NewestVerdicts newest)
{
    /// <summary>Most pairings of one comparison.</summary>
    public const int Most = 4;

    /// <summary>Looks of at least that: most would accept the part.</summary>
    public const double GoodLooks = 3;

    /// <summary>Half of the 95 % interval of a flow limit of which nobody knows one, of its value: as far as ways of finding it differ.</summary>
    public const double UsualFlowShare = 0.15;

    /// <summary>The same of an extrusion multiplier.</summary>
    public const double UsualMultiplier = 0.02;

    // What is drawn over each other where two pairings have it; newest run of each.
    private static readonly string[] CurveKinds = ["temperature-tower", "retraction-sweep", "flow-limit-weighed", "foaming-flow"];

    /// <summary>The comparison of some pairings; the first one's world counts.</summary>
    /// <param name="ids">Two to <see cref="Most"/>; others are left out.</param>
    public async Task<PairingComparison> OfAsync(IReadOnlyList<Guid> ids)
    {
        var side = await book.SideBySideAsync([.. ids.Distinct().Take(Most)]);
        if (side.Count < 2)
            return PairingComparison.None;
        var columns = new List<PairingColumn>();
        foreach (var (p, settings) in side)
        {
            var from = settings.Values.Select(s => s.RunId).OfType<Guid>().Distinct().ToList();
            var called = await work.Db.Runs.AsNoTracking().Where(r => from.Contains(r.Id)).Select(r => new { r.Id, r.Kind, r.Number }).ToListAsync();
            columns.Add(
                new(
                    p, settings, await goals.PiecesAsync(p, settings.GetValueOrDefault("nozzleTemperatureC"), false),
                    called.ToDictionary(r => r.Id, r => $"{Words.Lower(TrialCatalogue.Find(r.Kind)?.Name ?? r.Kind)} {r.Number}"))
                {
                    Bond = await newest.BondAsync(p.Id),
                });
        }

        var known = await noises.AllAsync();
        var noise = known.Count > 0 ? known.Values.Average(n => n.Sd) : ScoreNoise.Default;
        return new(
            columns, await CurvesAsync([.. columns.Select(c => c.Pairing.Id)], 2),
            [.. Enum.GetValues<BestForQuestion>().Select(q => BestForAnswer.Of(q, [.. columns.Select(c => Of(q, c, noise))]))]);
    }

    /// <summary>What was measured over the same axes, the newest run of each kind of each pairing.</summary>
    /// <param name="pairings">In the order of their columns.</param>
    /// <param name="least">How many must have it.</param>
    public async Task<IReadOnlyList<ComparedCurves>> CurvesAsync(IReadOnlyList<Guid> pairings, int least)
    {
        var drawn = new List<(string Kind, string X, string Y, ComparedCurve Curve)>();
        foreach (var (id, i) in pairings.Select((p, i) => (p, i)))
        {
            var newest = (await work.Db.Runs.AsNoTracking()
                    .Where(r => r.PairingId == id && r.RemovedAt == null && CurveKinds.Contains(r.Kind)
                        && (r.Stage == RunStages.Decided || r.Stage == RunStages.Left))
                    .Select(r => new { r.Id, r.Kind, r.DecidedAt }).ToListAsync())
                .GroupBy(r => r.Kind).Select(g => g.MaxBy(r => r.DecidedAt)!);
            foreach (var run in newest)
            {
                if (await DrawnAsync(run.Id) is { } made)
                    drawn.Add((run.Kind, made.X, made.Y, new(i, made.Title, run.Id, made.Points)));
            }
        }

        return
        [
            .. drawn.GroupBy(d => (d.Kind, d.X, d.Y)).Where(g => g.Count() >= least).OrderBy(g => Array.IndexOf(CurveKinds, g.Key.Kind))
                .Select(g => new ComparedCurves(TrialCatalogue.Get(g.Key.Kind).Name, g.Key.X, g.Key.Y, [.. g.Select(d => d.Curve)])),
        ];
    }

    private async Task<(string X, string Y, string Title, IReadOnlyList<ChartPoint> Points)?> DrawnAsync(Guid id)
    {
        try
        {
            if (await runs.LoadAsync(id) is not { } v)
                return null;
            if (v.Verdict is TowerVerdict tower)
            {
                var sections = tower.Sections.Where(s => s.Desirability is not null).OrderBy(s => s.TemperatureC)
                    .Select(s => new ChartPoint(s.TemperatureC, 4 * s.Desirability!.Value, 4 * s.Low, 4 * s.High)).ToList();
                return sections.Count > 1 ? ("Nozzle temperature, °C", "Score of all aspects, 0 to 4", v.Title, sections) : null;
            }

            return v.Trial.Chart(v.Plan, v.Verdict) is { Points.Count: > 1 } chart
                ? (chart.XLabel, chart.YLabel, v.Title, [.. chart.Points.Where(p => p.Mark != "out").OrderBy(p => p.X)])
                : null;
        }
        // One run that can't be drawn keeps nobody from the others.
        catch (Exception e) when (e is not OperationCanceledException)
        {
            return null;
        }
    }

    private static BestForEntry Of(BestForQuestion question, PairingColumn c, double noise)
    {
        ProfileSetting? Measured(string key) => c.Settings.GetValueOrDefault(key) is { IsEvidence: true, State: not SettingState.Doubtful } s ? s : null;
        string Lacks(string key, string noun) => c.Settings.GetValueOrDefault(key) is { State: SettingState.Doubtful } ? $"its {noun} is doubtful"
            : $"its {noun} was never measured";
        BestForEntry Scored(Func<string, bool> aspect)
        {
            var scores = c.Pieces.SelectMany(p => p.Scores).Where(s => aspect(s.Key)).Select(s => s.Value).ToList();
            return scores.Count == 0 ? new(null, 0, "no piece was scored at its temperature in force")
                : new(scores.Average(), 1.96 * noise / Math.Sqrt(scores.Count));
        }

        switch (question)
        {
            case BestForQuestion.Looks:
                return Scored(a => a != "bond");
            case BestForQuestion.FewestStrings:
                return Scored(a => a == "strings");
            case BestForQuestion.FastestAtLooks:
                if (Measured("maxVolumetricFlowMm3PerS") is not { } flow)
                    return new(null, 0, Lacks("maxVolumetricFlowMm3PerS", "flow limit"));
                var looks = Scored(a => a != "bond");
                return new(
                    flow.Value, flow.Uncertainty ?? UsualFlowShare * flow.Value, looks.Value is null ? $"{looks.Missing}: nobody knows how it looks" : null)
                {
                    Assumed = flow.Uncertainty is null,
                    RuledOut = looks.Value < GoodLooks ? $"its looks are {Words.N(looks.Value!.Value, 1)}, less than {Words.N(GoodLooks)}" : null,
                };
            case BestForQuestion.Cheapest:
                if (Facts.MinorPerGram(c.Pairing.Filament) is not { } price)
                    return new(null, 0, "its price was never typed");
                if (c.Pairing.Filament!.SolidDensityGPerCm3 is not { } density)
                    return new(null, 0, "its density was never typed");
                return Measured("extrusionMultiplier") is { } multiplier
                    ? new(price * density * multiplier.Value, price * density * (multiplier.Uncertainty ?? UsualMultiplier),
                        Assumed: multiplier.Uncertainty is null)
                    : new(null, 0, Lacks("extrusionMultiplier", "extrusion multiplier"));
            default:
                // As printed by its profile where that was among the groups, else the strongest that was seen.
                if (c.Bond?.Verdict is not BondVerdict bond)
                    return new(null, 0, "no peg was broken on it: nobody knows how its layers hold");
                return bond.Groups.FirstOrDefault(g => g.Label == (bond.Own ?? bond.Strongest)) is { MPa: { } mPa, GeometricMean: { } mean, High: { } high } own
                    ? new(mPa, mPa * (high - own.Low) / 2 / mean)
                    : new(null, 0, "its pegs were broken by hand: they say which holds more, not how much");
        }
    }
}
