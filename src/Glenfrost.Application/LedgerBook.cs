using System.Text.Json;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>One thing that was tried.</summary>
/// <param name="Id">Of the run, finding or file.</param>
/// <param name="PairingId">Of what it was tried on.</param>
/// <param name="At">When it was printed or noted, UTC; when it was planned where it is not printed.</param>
/// <param name="Kind">Key of the trial, or tried, own-file or stepped-file.</param>
/// <param name="What">As it is called.</param>
/// <param name="With">Its plan, or what was done, in a line; null for nothing said.</param>
/// <param name="Differs">What differed from the one of its kind before; null for the first one and for what is no run.</param>
/// <param name="Answer">What came of it, in about five words.</param>
/// <param name="Effect">What it did to the answer.</param>
/// <param name="Minutes">That it took, or is foreseen to take; null where nobody knows.</param>
/// <param name="Grams">Filament; null where nobody knows.</param>
/// <param name="Printed">True where it was printed: only then it cost anything.</param>
/// <param name="Link">Where it is shown.</param>
public sealed record LedgerRow(
    Guid Id, Guid PairingId, DateTime At, string Kind, string What, string? With, string? Differs, string Answer, HuntEffect Effect, int? Minutes,
    double? Grams, bool Printed, string Link)
{
    /// <summary>True for a run of a trial.</summary>
    public bool IsRun => TrialCatalogue.Find(Kind) is not null;

    /// <summary>True for a run of the toolhead, whatever it prints: it stands in the ledger for what it changed, and is none of the hunt's cost.</summary>
    public bool IsOfMachine => TrialCatalogue.Find(Kind) is { Subject: TrialSubject.Toolhead };
}

/// <summary>Everything that was tried on some pairings.</summary>
/// <param name="Pairings">Them.</param>
/// <param name="Rows">The newest first.</param>
/// <param name="More">Entries that are there and not among the rows.</param>
public sealed record Ledger(IReadOnlyList<Pairing> Pairings, IReadOnlyList<LedgerRow> Rows, int More)
{
    /// <summary>Minutes that printing took.</summary>
    public int Minutes => Rows.Where(r => r is { Printed: true, IsOfMachine: false }).Sum(r => r.Minutes ?? 0);

    /// <summary>Filament that was printed, g.</summary>
    public double Grams => Rows.Where(r => r is { Printed: true, IsOfMachine: false }).Sum(r => r.Grams ?? 0);

    /// <summary>Prints, and what was noted as tried: all that could have decided something.</summary>
    public IEnumerable<LedgerRow> Tried => Rows.Where(r => (r.Printed && !r.IsOfMachine) || r.Kind == LedgerBook.TriedKind);

    /// <summary>Those that changed the answer, the oldest first.</summary>
    public IEnumerable<LedgerRow> Deciding => Tried.Where(r => r.Effect == HuntEffect.Changed).OrderBy(r => r.At);

    /// <summary>Which of what was tried decided something, and what the rest cost, in a sentence or two; null where nothing was tried.</summary>
    public string? Says
    {
        get
        {
            var (tried, changed) = (Tried.ToList(), Deciding.Count());
            if (tried.Count == 0)
                return null;
            var confirmed = tried.Count(r => r.Effect == HuntEffect.Confirmed);
            var idle = tried.Where(r => r.Effect == HuntEffect.None).ToList();
            var minutes = idle.Sum(r => r.Minutes ?? 0);
            return $"{changed} of {tried.Count} changed the answer{(confirmed > 0 ? $", {confirmed} confirmed it" : "")}." +
                (idle.Count == 0 || minutes == 0 ? "" : $" The other {(idle.Count == 1 ? "one" : idle.Count)} took {Words.Minutes(minutes)} and " +
                $"{Words.N(idle.Sum(r => r.Grams ?? 0), 0)} g.");
        }
    }
}

/// <summary>The ledger of a hunt: everything that was tried on a pairing, or on several for one complaint.</summary>
public sealed class LedgerBook(WorkContext work, FactorBook factors, TrialRuns runs, AnswerCache answers, WriteGate gate)
{
    /// <summary>Kind of what was noted as tried without a run.</summary>
    public const string TriedKind = "tried";

    /// <summary>Most pairings of one ledger.</summary>
    public const int MostPairings = 8;

    private const int MostJudged = 8;

    private const int MostNamed = 3;

    private static readonly TimeSpan BeforeTheHunt = TimeSpan.FromDays(7);

    private static readonly TimeSpan Remembered = TimeSpan.FromMinutes(10);

    /// <summary>Everything that was tried on some pairings; null where one of them is not there, or worlds would mix.</summary>
    /// <param name="ids">One to <see cref="MostPairings"/>.</param>
    /// <param name="most">Rows wanted, the newest; null for all.</param>
    public async Task<Ledger?> OfAsync(IReadOnlyList<Guid> ids, int? most = null)
    {
        // What was tried is a function of what was written.
        var key = $"ledger {string.Join(' ', ids)} {most} {gate.Writes}";
        if (answers.TryGet(key, out Ledger? known))
            return known;
        return await MakeAsync(ids, most) is { } made ? answers.Put(key, 10 + made.Rows.Count / 4, made, Remembered) : null;
    }

    private async Task<Ledger?> MakeAsync(IReadOnlyList<Guid> ids, int? most)
    {
        var db = work.Db;
        var pairings = await db.Pairings.AsNoTracking().Full().Where(p => ids.Contains(p.Id) && p.RemovedAt == null).ToListAsync();
        if (pairings.Count == 0 || pairings.Count != ids.Distinct().Count() || pairings.Count > MostPairings || pairings.Any(p => p.World != pairings[0].World))
            return null;
        var outlines = await db.Runs.AsNoTracking().Where(r => r.PairingId != null && ids.Contains(r.PairingId.Value) && r.RemovedAt == null)
            .Select(r => new { r.Id, PairingId = r.PairingId!.Value, r.Kind, r.Number, At = r.PrintedAt ?? r.CreatedAt }).ToListAsync();
        // What was measured of the toolhead since the hunt began, or shortly before, is part of the whole; a short list has no room for it.
        var begun = outlines.Select(o => o.At).DefaultIfEmpty(work.Now).Min() - BeforeTheHunt;
        var heads = pairings.Select(p => p.ToolheadId).Distinct().ToList();
        outlines.AddRange(
            (await db.Runs.AsNoTracking()
                .Where(r => most == null && r.PairingId == null && r.ToolheadId != null && heads.Contains(r.ToolheadId.Value)
                    && r.RemovedAt == null && r.World == pairings[0].World
                    && r.Stage != RunStages.Planned && (r.PrintedAt ?? r.CreatedAt) >= begun)
                .Select(r => new { r.Id, r.ToolheadId, r.Kind, r.Number, At = r.PrintedAt ?? r.CreatedAt }).ToListAsync())
            .Select(r => new { r.Id, PairingId = pairings.First(p => p.ToolheadId == r.ToolheadId).Id, r.Kind, r.Number, r.At }));
        var files = await db.GcodeFiles.AsNoTracking().Where(f => f.PairingId != null && ids.Contains(f.PairingId.Value) && f.RemovedAt == null).ToListAsync();
        var tries = await db.Findings.AsNoTracking()
            .Where(f => f.RemovedAt == null && f.Tag.StartsWith(FindingWords.TriedPrefix) && f.PairingId != null && ids.Contains(f.PairingId.Value))
            .ToListAsync();
        var all = outlines.Where(o => TrialCatalogue.Find(o.Kind) is not null).Select(o => (o.Id, o.At)).Concat(files.Select(f => (f.Id, f.At)))
            .Concat(tries.Select(f => (f.Id, f.At))).OrderByDescending(x => x.At).ThenByDescending(x => x.Id).Select(x => x.Id).ToList();
        var wanted = all.Take(most ?? int.MaxValue).ToHashSet();
        // What differed needs the one before, also where that one is not shown.
        var before = outlines.GroupBy(o => (o.PairingId, o.Kind))
            .SelectMany(g => g.OrderBy(o => o.Number).Zip(g.OrderBy(o => o.Number).Skip(1), (a, b) => (b.Id, Before: a.Id)))
            .ToDictionary(x => x.Id, x => x.Before);
        var loaded = wanted.Concat(wanted.Where(before.ContainsKey).Select(w => before[w])).ToHashSet();
        var full = await db.Runs.AsNoTracking().Include(r => r.Decisions).Include(r => r.FactorEntries).Include(r => r.Files).AsSplitQuery()
            .Where(r => loaded.Contains(r.Id)).ToDictionaryAsync(r => r.Id);
        var stood = await StoodAsync(ids);
        var rows = new List<LedgerRow>();
        var judged = 0;
        foreach (var run in full.Values.Where(r => wanted.Contains(r.Id)).OrderByDescending(r => r.PrintedAt ?? r.CreatedAt))
        {
            rows.Add(
                await OfAsync(
                    run, pairings.First(p => run.PairingId is { } own ? p.Id == own : p.ToolheadId == run.ToolheadId),
                    before.TryGetValue(run.Id, out var b) ? full.GetValueOrDefault(b) : null, stood,
                    run.Stage == RunStages.Read && judged++ < MostJudged));
        }

        rows.AddRange(tries.Where(f => wanted.Contains(f.Id)).Select(Of));
        rows.AddRange(files.Where(f => wanted.Contains(f.Id)).Select(Of));
        return new(
            [.. ids.Distinct().Select(i => pairings.First(p => p.Id == i))],
            [.. rows.OrderByDescending(r => r.At).ThenByDescending(r => r.Id)], all.Count - wanted.Count);
    }

    private static LedgerRow Of(Finding f)
    {
        var outcome = FindingWords.OutcomeOf(f.Tag)!;
        return new(
            f.Id, f.PairingId!.Value, f.At, TriedKind, "Tried", f.Text, null, FindingWords.Outcomes.FirstOrDefault(o => o.Key == outcome).Value ?? outcome,
            outcome == "helped" ? HuntEffect.Changed : HuntEffect.None, null, null, false, $"/pairings/{f.PairingId}#findings");
    }

    private static LedgerRow Of(GcodeFile f) =>
        new(
            f.Id, f.PairingId!.Value, f.At, f.StepJson is null ? "own-file" : "stepped-file", f.StepJson is null ? "Own file" : "Stepped file",
            f.Made is null ? f.Name : $"{f.Name}: {f.Made}", null, "looked at, no readings", HuntEffect.None, null, null, false, $"/gcode/{f.Id}");

    private async Task<LedgerRow> OfAsync(Run run, Pairing p, Run? before, Dictionary<(Guid Revision, string Key), HuntValue?> stood, bool judge)
    {
        var trial = TrialCatalogue.Get(run.Kind);
        var decision = run.Decisions.Where(d => d.UndoneAt is null && d.Choice != DecisionChoices.Elsewhere).MaxBy(d => d.At);
        var (summary, differs, answer, minutes, grams) = ("", (string?)null, "", (int?)null, (double?)null);
        try
        {
            var plan = trial.ReadPlan(run.PlanJson);
            (summary, minutes, grams) = (plan.Summary, plan.Estimate.Minutes, plan.Estimate.MassG);
            if (before is not null && run.Stage != RunStages.Planned)
                differs = await DiffersAsync(run, before, trial, plan, p);
            answer = AnswerOf(run, decision, judge ? await runs.LoadAsync(run.Id) : null);
        }
        // One run that can't be drawn, as an import may bring, keeps nobody from the others; its own page says what is wrong and takes it out.
        catch (Exception e) when (e is not OperationCanceledException)
        {
            (summary, answer) = ("its plan can't be read", "can't be read");
        }

        return new(
            run.Id, p.Id, run.PrintedAt ?? run.CreatedAt, run.Kind, $"{trial.Name} {run.Number}", summary, differs, answer,
            EffectOf(decision, stood), run.ActualMinutes ?? run.ReestimatedMinutes ?? run.ForeseenMinutes ?? minutes,
            run.MassUg is { } mass ? mass / 1e6 : grams, run.Stage != RunStages.Planned, $"/runs/{run.Id}");
    }

    private async Task<string> DiffersAsync(Run run, Run before, Trial trial, ITrialPlan plan, Pairing p)
    {
        var (of, head) = (run.PairingId is null ? null : p, p.Toolhead!);
        var rule = trial.Pools(plan, FactorBook.Situation(run, of, head, plan));
        var (now, then) = (await factors.OfAsync(run, trial, of, head), await factors.OfAsync(before, trial, of, head));
        // What nobody knows is asked for in Compare; here stands what is known to differ.
        var differs = FoundWith.Differences(rule, now, then, trial.Define).Where(d => d.State == Sameness.Differs).ToList();
        var swept = now.Swept.SequenceEqual(then.Swept) ? "" : "other values swept";
        if (differs.Count == 0)
            return swept.Length > 0 ? swept : "nothing known";
        var words = FactorWords.Of(differs.Take(MostNamed), $"run {run.Number}", $"run {before.Number}");
        return differs.Count > MostNamed ? $"{words} and {differs.Count - MostNamed} more" : words;
    }

    private static string AnswerOf(Run run, Decision? d, TrialRunView? live) => (run.Stage, d) switch
    {
        (RunStages.Planned, _) => "not printed yet",
        (RunStages.Printed, _) => "not read yet",
        (_, { Choice: "left" }) => $"{Said(d)}, left",
        (_, { Choice: DecisionChoices.Passed }) => "passed",
        (_, { Choice: DecisionChoices.Failed }) => "shown worse",
        (_, { SettingKey: not null }) => $"kept {RunWords.Shown(d)}{(d.Choice == "own choice" ? ", own choice" : "")}",
        _ when live is not null => live.Verdict.Settings is [var first, ..] ? $"says {RunWords.Shown(first)}" : Spoken(live.Verdict.Verdict),
        (RunStages.Left, _) => "nothing to decide",
        _ => "read, not decided",
    };

    /// <summary>What a stored verdict said: its first value, or its fixed word.</summary>
    private static string Said(Decision d)
    {
        using var json = JsonDocument.Parse(d.VerdictJson);
        if (SideBySide.Settings(json.RootElement) is [var first, ..])
            return $"said {RunWords.Shown(first)}";
        return json.RootElement.ValueKind == JsonValueKind.Object && json.RootElement.TryGetProperty("verdict", out var word) && word.GetString() is { } said
            ? Spoken(said)
            : "nothing kept";
    }

    private static string Spoken(string word) => word.Length == 0 ? "nothing to keep" : word.Replace('-', ' ');

    private static HuntEffect EffectOf(Decision? d, Dictionary<(Guid Revision, string Key), HuntValue?> stood) => d switch
    {
        { Choice: DecisionChoices.Passed } => HuntEffect.Confirmed,
        { Choice: DecisionChoices.Failed } => HuntEffect.Changed,
        { RevisionId: { } revision, SettingKey: { } key, Value: { } value } => HuntEffects.Of(
            key, stood.GetValueOrDefault((revision, "before " + key)), stood.GetValueOrDefault((revision, key)) ?? new(value, null, true)),
        _ => HuntEffect.None,
    };

    /// <summary>Of each revision that a decision wrote: the decided value in it, and in the one before it.</summary>
    private async Task<Dictionary<(Guid Revision, string Key), HuntValue?>> StoodAsync(IReadOnlyList<Guid> pairings)
    {
        var keys = TrialCatalogue.All.SelectMany(t => t.Settles.Take(1)).Distinct().ToList();
        var revisions = await work.Db.Revisions.AsNoTracking().Where(r => pairings.Contains(r.PairingId)).OrderBy(r => r.Number)
            .Select(r => new
            {
                r.Id, r.PairingId, r.RunId,
                Settings = r.Settings.Where(s => keys.Contains(s.Key)).Select(s => new { s.Key, s.Value, s.Uncertainty, s.Origin, s.AtC, s.RunId }).ToList(),
            }).ToListAsync();
        var found = new Dictionary<(Guid, string), HuntValue?>();
        foreach (var (now, then) in revisions.GroupBy(r => r.PairingId).SelectMany(g => g.Zip(g.Skip(1), (a, b) => (b, a))).Where(x => x.b.RunId is not null))
        {
            foreach (var put in now.Settings.Where(s => s.RunId == now.RunId))
            {
                found[(now.Id, put.Key)] = new(put.Value, put.Uncertainty, true);
                // A setting may stand once for each temperature that it was found at.
                found[(now.Id, "before " + put.Key)] = then.Settings.Where(s => s.Key == put.Key && EvidenceFold.SameCondition(s.AtC, put.AtC))
                    .Select(s => new HuntValue(s.Value, s.Uncertainty, s.Origin is SettingOrigin.Run or SettingOrigin.Typed)).FirstOrDefault();
            }
        }

        return found;
    }
}
