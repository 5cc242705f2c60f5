using Glenfrost.Core.Factors;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>One factor of several runs.</summary>
/// <param name="Factor">The factor.</param>
/// <param name="Values">A value each, in the order of the runs; null where it is not known.</param>
/// <param name="Swept">True where one of them goes through it on purpose.</param>
/// <param name="Turned">What was turned at the printer while one printed, and in which; null for other differences.</param>
public sealed record ComparedFactor(FactorDefinition Factor, IReadOnlyList<FactorValue?> Values, bool Swept, (int Run, FactorEntryValue What)? Turned = null);

/// <summary>The one print that would tell two differences apart.</summary>
/// <param name="Factor">What is taken back in it.</param>
/// <param name="Words">In a few words: "the same again with spool G-01".</param>
/// <param name="Link">Where it is planned, with what can be taken over filled in.</param>
/// <param name="Filled">False where the plan can't hold it: then it is the tester's to see to.</param>
/// <param name="Cost">What it costs; null where nobody can say.</param>
public sealed record SeparatingRun(FactorDefinition Factor, string Words, string Link, bool Filled, StepCost? Cost);

/// <summary>What may be concluded of one run beside the first.</summary>
/// <param name="Run">Its place among the runs.</param>
/// <param name="Says">The conclusion; null where they are of different trials or subjects, which have no common number.</param>
/// <param name="Sentence">In words.</param>
/// <param name="Separate">The one print that would tell more; null where none is needed.</param>
public sealed record ConcludedRun(int Run, Attribution? Says, string Sentence, SeparatingRun? Separate);

/// <summary>What a run took and cost.</summary>
/// <param name="Foreseen">Minutes, as its plan had them; null where it said none.</param>
/// <param name="Reestimated">Minutes, reckoned again after a change; null where they were not.</param>
/// <param name="Took">Minutes that it took; null where nobody said.</param>
/// <param name="Grams">Filament, g; null where it is not known.</param>
/// <param name="Tally">How often it was printed again, and what one costs.</param>
public sealed record RunCost(int? Foreseen, int? Reestimated, int? Took, double? Grams, Tally Tally);

/// <summary>Two to four runs side by side: what differs, what was read, what may be concluded.</summary>
/// <param name="Runs">In the order asked for.</param>
/// <param name="Differs">What differs between any two of them.</param>
/// <param name="Unknown">What somebody should know and one of them at least does not say.</param>
/// <param name="Same">How many things are the same.</param>
/// <param name="Read">Aspects that at least two of them read.</param>
/// <param name="Concluded">Each beside the first.</param>
public sealed record RunsCompared(
    IReadOnlyList<TrialRunView> Runs, IReadOnlyList<ComparedFactor> Differs, IReadOnlyList<ComparedFactor> Unknown, int Same,
    IReadOnlyList<ComparedAspect> Read, IReadOnlyList<ConcludedRun> Concluded)
{
    /// <summary>Of what differs, how much is known of every one of them.</summary>
    public int DifferKnown => Differs.Count(f => f.Turned is null && f.Values.All(v => v is not null));

    /// <summary>What each took and cost, in the order of the runs.</summary>
    public IReadOnlyList<RunCost> Costs { get; init; } = [];

    /// <summary>
    /// Which makes a good part for less, as far as their tallies tell it: their intervals must lie apart. Null where fewer than two were printed again, or in
    /// two currencies.
    /// </summary>
    public string? Cheaper
    {
        get
        {
            var told = Costs.Select((c, i) => (Run: i, c.Tally.GoodMinor, c.Tally.Currency)).Where(c => c.GoodMinor is not null).ToList();
            if (told.Count < 2 || told.Select(c => c.Currency).Distinct().Count() > 1)
                return null;
            var best = told.MinBy(c => c.GoodMinor!.Value.Each ?? double.PositiveInfinity);
            var apart = told.Where(c => c.Run != best.Run).All(c => c.GoodMinor!.Value.Low > best.GoodMinor!.Value.High);
            return apart ? $"A good part costs least as {Called(best.Run)}: the intervals of all others lie above it."
                : "Which makes a good part for less is not told yet: their intervals overlap. More prints of each narrow them.";
        }
    }

    /// <summary>How a run is called beside the others: by its number where they are of one trial and subject.</summary>
    public string Called(int i)
    {
        var (v, first) = (Runs[i], Runs[0]);
        var name = Runs.All(r => r.Trial.Kind == first.Trial.Kind) ? $"run {v.Run.Number}" : v.Called;
        return Runs.All(r => r.Name == first.Name) ? name : $"{name} on {v.Name}";
    }

    /// <summary>From where to where a run goes through a factor on purpose; null where it does not, or its parts do not say.</summary>
    public string? SweptOver(ComparedFactor f, int i)
    {
        var v = Runs[i];
        if (!v.Factors.Swept.Contains(f.Factor.Key) || v.Parts.Count < 2)
            return null;
        if (f.Factor.Key == "nozzleTemperatureC" && v.Parts.Min(p => p.NozzleC) is { } low && v.Parts.Max(p => p.NozzleC) is { } high && high > low)
            return $"{Words.N(low, 1)} to {Words.N(high, 1)}";
        // Parts bear the values of what is swept; of two things at once nobody knows whose they are.
        return v.Factors.Swept.Count == 1 ? $"{v.Parts[0].Label} to {v.Parts[^1].Label}" : null;
    }

    /// <summary>Differences that were asked for, and those that beat their noise.</summary>
    public (int Asked, int Beaten) Marked => (Read.Sum(a => a.Places.Count(p => p.IsAsked)), Read.Sum(a => a.Places.Count(p => p.Beats)));
}

/// <summary>Lays two to four runs side by side.</summary>
public sealed class RunsSideBySide(RunComparison comparison, TallyBook tallies)
{
    /// <summary>Most runs side by side.</summary>
    public const int MostRuns = 4;

    /// <summary>The runs side by side; null where one is not there, they are fewer than two or more than four, or worlds would mix.</summary>
    public async Task<RunsCompared?> OfAsync(IReadOnlyList<Guid> ids)
    {
        if (ids.Distinct().Count() is < 2 or > MostRuns)
            return null;
        var runs = new List<TrialRunView>();
        foreach (var id in ids.Distinct())
        {
            if (await comparison.LoadAsync(id) is not { } v || (runs.Count > 0 && v.Run.World != runs[0].Run.World))
                return null;
            runs.Add(v);
        }

        var (differs, unknown, same) = Factors(runs);
        var found = new RunsCompared(runs, differs, unknown, same, Read(runs), []);
        var concluded = new List<ConcludedRun>();
        for (var i = 1; i < runs.Count; i++)
            concluded.Add(await ConcludeAsync(found, i));
        var costs = new List<RunCost>();
        foreach (var v in runs)
            costs.Add(
                new(
                    v.Run.ForeseenMinutes ?? (v.Plan.Estimate.Minutes > 0 ? v.Plan.Estimate.Minutes : null), v.Run.ReestimatedMinutes, v.Run.ActualMinutes,
                    v.Run.MassUg is { } mass ? mass / 1e6 : v.Plan.Estimate.MassG, await tallies.OfAsync(v)));
        return found with { Concluded = concluded, Costs = costs };
    }

    private static readonly FactorDefinition PrintedOf = new("filament", "filament", "", FactorKind.Thing, FactorGroup.Spool),
        PrintedOn = new("toolhead", "printer", "", FactorKind.Thing, FactorGroup.Machine);

    private static (List<ComparedFactor> Differs, List<ComparedFactor> Unknown, int Same) Factors(List<TrialRunView> runs)
    {
        var (differs, unknown, same) = (new List<ComparedFactor>(), new List<ComparedFactor>(), 0);
        FactorDefinition? Define(string key) => runs.Select(r => r.Trial.Define(key)).FirstOrDefault(d => d is not null);
        var pairs = runs.SelectMany((a, i) => runs.Skip(i + 1).Select(b => FactorComparison.Of(a.Factors, b.Factors, Define))).ToList();
        foreach (var group in pairs.SelectMany(p => p).Where(d => d.Turned is null && d.Factor.Key != FactorRegistry.File).GroupBy(d => d.Factor.Key))
        {
            var row = new ComparedFactor(
                group.First().Factor, [.. runs.Select(r => r.Factors[group.Key])], runs.Any(r => r.Factors.Swept.Contains(group.Key)));
            var told = group.Where(FoundWith.IsTold).ToList();
            // What is swept has no one value; where it has, and it is the same in all, it differs in nothing.
            if ((row.Swept && row.Values.Any(v => v is null)) || told.Any(d => d.State == Sameness.Differs))
                differs.Add(row);
            else if (told.Any(d => d.State == Sameness.Unknown))
                unknown.Add(row);
            else if (told.Any(d => d.Now is { Applies: true } && (d.Now.Number is not null || d.Now.Thing is not null || d.Now.Text
                is not ("as it came" or null))))
                same++;
        }

        // What they were printed of and on stands in the pairing, and is known of each.
        foreach (var (factor, thing) in new (FactorDefinition, Func<TrialRunView, (Guid, string)?>)[]
        {
            (PrintedOf, v => v.Pairing is { Filament: { } f } ? (f.Id, Facts.FilamentName(v.Pairing)) : null),
            (PrintedOn, v => (v.Toolhead.Id, v.Toolhead.FullName)),
        })
        {
            var things = runs.Select(thing).ToList();
            if (things.All(t => t is not null) && things.Select(t => t!.Value.Item1).Distinct().Count() > 1)
                differs.Insert(0, new(factor, [.. things.Select(t => FactorValue.Of(t!.Value.Item1, t.Value.Item2, FactorSource.Record))], false));
        }

        differs.AddRange(
            runs.SelectMany((r, i) => r.Factors.Turned.Select(t => new ComparedFactor(
                FactorRegistry.Find(t.Factor) ?? new(t.Factor, t.Factor, "", FactorKind.Word, FactorGroup.Setting),
                [.. runs.Select((_, n) => n == i ? t.Value : null)], false, (i, t)))));
        // What was meant to differ comes last: it is known.
        return ([.. differs.OrderBy(d => d.Swept).ThenBy(d => d.Factor.Group)], [.. unknown.OrderBy(d => d.Factor.Group)], same);
    }

    private static List<ComparedAspect> Read(List<TrialRunView> runs)
    {
        var aspects = new List<ComparedAspect>();
        foreach (var column in runs.SelectMany(r => r.Grid.Columns).Where(c => c.Kind != CellKind.Word).DistinctBy(c => (c.Aspect, c.Kind)))
        {
            var with = runs.Select(r => r.Grid.Column(column.Aspect) is { } c && c.Kind == column.Kind && c.Quantity?.Unit == column.Quantity?.Unit ? r : null)
                .ToList();
            // A part that was printed several times in one run stands once for each: their mean has less noise, and tells it.
            Dictionary<string, ComparedReading> Of(TrialRunView r) =>
                r.Grid.Rows.Select(row => (Label: r.Label(row.Section) ?? row.Label, Value: r.Readings.Value(row.Section, column.Aspect)))
                    .Where(x => x.Value is not null).GroupBy(x => x.Label).ToDictionary(g => g.Key, g => Mean(r, column, [.. g.Select(x => x.Value!.Value)]));
            var read = with.Select(r => r is null ? [] : Of(r)).ToList();
            if (read.Count(x => x.Count > 0) < 2)
                continue;
            aspects.Add(
                new(
                    column.Aspect, column.Label, column.Kind == CellKind.Score, column.Quantity?.Unit ?? "",
                    [
                        .. ReadComparison.Axis(read.SelectMany(x => x.Keys))
                            .Select(label => new ComparedPlace(label, [.. read.Select(x => x.GetValueOrDefault(label))])),
                    ]));
        }

        return aspects;
    }

    private static ComparedReading Mean(TrialRunView r, GridColumn column, List<double> values)
    {
        var mean = values.Average();
        if (column.Kind == CellKind.Score)
            return new(mean, r.ScoreNoise / Math.Sqrt(values.Count));
        // A number that was read once does not tell what it scatters; the step of its instrument alone would mark everything.
        if (values.Count < 2)
            return new(mean, null);
        return new(mean, Math.Sqrt(values.Sum(v => (v - mean) * (v - mean)) / (values.Count - 1) / values.Count));
    }

    private async Task<ConcludedRun> ConcludeAsync(RunsCompared all, int i)
    {
        var (first, other) = (all.Runs[0], all.Runs[i]);
        if (await comparison.CompareAsync(first, other.Run.Id) is not { Says: { } says })
            return new(i, null, $"{all.Called(i).AtHead()} is of another trial or subject: the two have no common number.", null);
        return new(
            i, says, FactorWords.Conclude(says, all.Called(0), all.Called(i), FactorWords.ComparedBy(first.Trial)), SeparateOf(all, says, i));
    }

    private static SeparatingRun? SeparateOf(RunsCompared all, Attribution says, int i)
    {
        var first = all.Runs[0];
        var once = says.Verdict == Conclusion.OnlyDifference;
        if (says.Separate.Count == 0 && !once)
            return null;
        var d = once ? says.Differs[0] : says.Differs.First(x => x.Factor.Key == says.Separate[0]);
        // What one piece each can't show, one more of the other's way does.
        var was = d.Before;
        var link = $"{first.PlanAddress}?after={first.Run.Id}";
        var filled = d.Turned is null && was is { Applies: true, Number: { } n } && first.Trial.Fields.ContainsKey(d.Factor.Key);
        if (filled)
            link += $"&{d.Factor.Key}={was!.Number!.Value.ToString(System.Globalization.CultureInfo.InvariantCulture)}";
        var (minutes, mass) = (first.Plan.Estimate.Minutes, first.Plan.Estimate.MassG ?? 0);
        var price = first.Pairing is { } priced ? Facts.PrintCost(priced, mass, minutes).SumMinor : null;
        return new(
            d.Factor, $"{first.Called} again with {d.Factor.Label} {(was is null ? $"as in {all.Called(i)}" : FactorWords.Value(d.Factor, was))}", link, filled,
            new(minutes, mass, price, 1));
    }
}
