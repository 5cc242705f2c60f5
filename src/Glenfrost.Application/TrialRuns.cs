using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Reads runs of every trial: with their readings, what they were made with, which earlier ones are judged along, and today's verdict.</summary>
public sealed class TrialRuns(WorkContext work, ScoreNoises noises, FactorBook factors, AnswerCache answers, RunPulse pulse)
{
    /// <summary>Where a plan of a trial is made.</summary>
    public static string PlanAddress(Trial trial, Guid? pairing, Guid toolhead) =>
        trial.Subject == TrialSubject.Toolhead ? $"/toolheads/{toolhead}/{trial.Kind}" : $"/pairings/{pairing}/{trial.Kind}";

    /// <summary>The name of a run's file.</summary>
    public static string FileName(Trial trial, Pairing? p, Toolhead head, ITrialPlan plan, int number) => Pieces.FileName(
        "gcode", trial.Noun, p?.Filament!.Line ?? "", head.FullName, trial.FileWords(plan), $"run {number}");

    /// <summary>
    /// Stage of a run and how many readings it has: readings are never deleted, so their number tells whether any came since. Null for no run.
    /// </summary>
    public Task<(string Stage, int Readings)?> SinceAsync(Guid id) => pulse.OfAsync<(string Stage, int Readings)?>(id, async () =>
        await work.Db.Runs.AsNoTracking().Where(r => r.Id == id).Select(r => new { r.Stage, r.Readings.Count }).FirstOrDefaultAsync() is { } now
            ? (now.Stage, now.Count)
            : null);

    /// <summary>An answer about a run as it stands, made once for all who ask before the next write.</summary>
    /// <typeparam name="T">The kind of answer; one of each is remembered for a run.</typeparam>
    public Task<T> StandingAsync<T>(Guid id, Func<TrialRunView, Task<T>> answer) => pulse.OfAsync(id, async () => await answer((await LoadAsync(id))!));

    /// <summary>Removes a run; what it put in the profile stays.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab changed it in the same moment.</exception>
    public async Task RemoveAsync(TrialRunView v)
    {
        v.Run.RemovedAt = work.Now;
        work.Touch(v.Run);
        await work.LogAsync("run", $"{v.Title} removed: {v.Name}", null, $"run:{v.Run.Id}");
        await work.SaveAsync();
    }

    /// <summary>Removes a run whose page can't be drawn: nothing of its plan is read. False where there is none.</summary>
    public async Task<bool> RemoveUnreadAsync(Guid id)
    {
        if (await work.Db.Runs.FirstOrDefaultAsync(r => r.Id == id && r.RemovedAt == null) is not { } run)
            return false;
        run.RemovedAt = work.Now;
        work.Touch(run);
        await work.LogAsync("run", $"{TrialCatalogue.Find(run.Kind)?.Name ?? run.Kind} {run.Number} removed: its page could not be drawn", null, $"run:{id}");
        await work.SaveAsync();
        return true;
    }

    /// <summary>Loads a run with its readings and today's verdict; null where there is none.</summary>
    public async Task<TrialRunView?> LoadAsync(Guid id)
    {
        var run = await work.Db.Runs.Include(r => r.Readings).Include(r => r.Decisions).Include(r => r.Findings).Include(r => r.Files).Include(r => r.Photos)
            .Include(r => r.FactorEntries).AsSplitQuery()
            .FirstOrDefaultAsync(r => r.Id == id);
        if (run is null || TrialCatalogue.Find(run.Kind) is not { } trial)
            return null;
        var pairing = run.PairingId is { } p ? await work.Db.Pairings.AsNoTracking().Full().FirstAsync(x => x.Id == p) : null;
        var head = pairing?.Toolhead ?? await work.Db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstOrDefaultAsync(t => t.Id == run.ToolheadId);
        if (head is null)
            return null;
        var plan = trial.ReadPlan(run.PlanJson);
        var set = await factors.OfAsync(run, trial, pairing, head);
        return View(
            trial, run, pairing, head, await noises.AllAsync(), await AlongAsync(run, trial, plan, pairing, head, set),
            pairing is null ? null : await PracticeAsync(pairing.Id), set, answers);
    }

    /// <summary>Values of a pairing that are known good in daily use.</summary>
    public async Task<IReadOnlyList<KnownGoodValue>> PracticeAsync(Guid pairing) =>
        [
            .. (
                await work.Db.Findings.AsNoTracking()
                    .Where(f => f.PairingId == pairing && f.RemovedAt == null && f.Tag == Findings.KnownGood && f.SettingKey != null && f.SettingValue != null)
                    .ToListAsync()
            ).Where(f => Core.Settings.SettingRegistry.Find(f.SettingKey) is not null)
            .Select(f => new KnownGoodValue(f.SettingKey!, f.SettingValue!.Value, f.AtC, $"{(f.Text is null ? "" : f.Text + ", ")}noted {Words.Day(f.At)}")),
        ];

    /// <summary>
    /// The runs that one follows, each compared with it and not with the next: those that differ in nothing that matters to the trial are judged along. A
    /// decided run keeps those that it was
    /// decided with.
    /// </summary>
    /// <param name="run">With its factor entries, where <paramref name="own"/> is null.</param>
    /// <param name="own">Its factors; null where they are not put together yet.</param>
    public async Task<RunsAlong> AlongAsync(Run run, Trial trial, ITrialPlan plan, Pairing? pairing, Toolhead head, FactorSet? own = null)
    {
        if (!trial.JudgesTogether || run.Stage == RunStages.Planned || run is not { LinkKind: "follows", LinkedRunId: not null })
            return RunsAlong.None;
        var candidates = new List<Run>();
        // Of another piece: passed by, so that what it follows in its turn is still seen.
        var others = 0;
        for (var now = run; candidates.Count + others < trial.MostTogether && now is { LinkKind: "follows", LinkedRunId: { } id };)
        {
            var before = await work.Db.Runs.AsNoTracking().Include(r => r.Readings).Include(r => r.FactorEntries).AsSplitQuery()
                .FirstOrDefaultAsync(r => r.Id == id && r.PairingId == run.PairingId && r.Kind == run.Kind && r.RemovedAt == null);
            if (before is null || before.Stage is RunStages.Planned or RunStages.Printed || candidates.Any(r => r.Id == before.Id) || before.Id == run.Id)
                break;
            if (trial.ReadPlan(before.PlanJson).IsOfSamePiece(plan))
                candidates.Add(before);
            else
                others++;
            now = before;
        }

        if (candidates.Count == 0)
            return RunsAlong.None;
        if (run.Stage is RunStages.Decided or RunStages.Left
            && await work.Db.Decisions.AsNoTracking().Where(d => d.RunId == run.Id && d.UndoneAt == null && d.Choice != DecisionChoices.Elsewhere)
                .OrderByDescending(d => d.At).Select(d => d.ReadingIdsJson).FirstOrDefaultAsync()
                is { } ids)
        {
            var decidedOn = Json.Read<Guid[]>(ids).ToHashSet();
            return new([.. candidates.Where(r => r.Readings.Any(x => decidedOn.Contains(x.Id)))], [], []);
        }

        own ??= await factors.OfAsync(run, trial, pairing, head);
        var rule = trial.Pools(plan, FactorBook.Situation(run, pairing, head, plan));
        var passed = pairing is null ? new HashSet<Guid>() : await new EvidenceBook(work).CheckedSpoolsAsync(pairing.Id);
        var longest = TimeSpan.FromDays(trial.LongestApartDays);
        var (together, apart, memory) = (new List<Run>(), new List<ApartRun>(), new List<FactorDifference>());
        foreach (var before in candidates)
        {
            var then = await factors.OfAsync(before, trial, pairing, head);
            var answer = Pooling.Ask(rule, own, then, trial.Define, (a, b) => passed.Contains(a) || passed.Contains(b));
            var between = (run.PrintedAt ?? run.CreatedAt) - (before.PrintedAt ?? before.CreatedAt);
            if (answer.Together && between <= longest)
            {
                together.Add(before);
                memory.AddRange(answer.FromMemory);
            }
            else
            {
                apart.Add(new(before, answer, between > longest ? (int)between.TotalDays : null));
            }
        }

        return new(together, apart, [.. memory.DistinctBy(m => m.Factor.Key)]);
    }

    /// <summary>Farther back no repeats are looked for.</summary>
    private const int MostRepeats = 12;

    /// <summary>
    /// What differs from the run before on the same subject and of the same kind, and what may be concluded from it and its repeats; null where there is none.
    /// </summary>
    public async Task<(Run Before, IReadOnlyList<FactorDifference> Differs, Attribution Says)?> DiffersAsync(TrialRunView v)
    {
        var (number, of) = (v.Run.Number, Alike(v));
        var before = await of.Include(r => r.FactorEntries).Where(r => r.Number < number).OrderByDescending(r => r.Number).FirstOrDefaultAsync();
        return before is null ? null : await DiffersAsync(v, before);
    }

    /// <summary>The same against a run that somebody chose, of the same kind on the same subject.</summary>
    public async Task<(Run Before, IReadOnlyList<FactorDifference> Differs, Attribution Says)> DiffersAsync(TrialRunView v, Run before)
    {
        var then = await factors.OfAsync(before, v.Trial, v.Pairing, v.Toolhead);
        var rule = v.Trial.Pools(v.Plan, FactorBook.Situation(v.Run, v.Pairing, v.Toolhead, v.Plan));
        var differs = FoundWith.Differences(rule, v.Factors, then, v.Trial.Define);
        // Repeats of the two can tell more only where one thing differs.
        if (differs is not [{ State: Sameness.Differs }])
            return (before, differs, Attribution.Of(differs, [], []));
        var known = await noises.AllAsync();
        var ids = await Alike(v)
            .Where(r => r.Id != v.Run.Id && r.Id != before.Id && (r.Stage == RunStages.Read || r.Stage == RunStages.Decided || r.Stage == RunStages.Left))
            .OrderByDescending(r => r.Number).Select(r => r.Id).Take(MostRepeats).ToListAsync();
        var rows = await work.Db.Runs.AsNoTracking().Include(r => r.Readings).Include(r => r.FactorEntries).AsSplitQuery()
            .Where(r => ids.Contains(r.Id) || r.Id == before.Id).ToListAsync();
        FoundRun Of(Run r, FactorSet set) =>
            new(
                set,
                () => v.Trial.PieceNumber(View(v.Trial, r, v.Pairing, v.Toolhead, known, answers: answers).Verdict) is { } n
                    ? new(n.Value, n.Uncertainty / 1.96)
                    : null);
        var others = new List<FoundRun>();
        foreach (var r in rows.Where(r => r.Id != before.Id))
            others.Add(Of(r, await factors.OfAsync(r, v.Trial, v.Pairing, v.Toolhead)));
        return (before, differs, FoundWith.Conclude(rule, Of(v.Run, v.Factors), Of(rows.First(r => r.Id == before.Id), then), others, v.Trial.Define));
    }

    /// <summary>Printed runs of the same kind on the same subject.</summary>
    private IQueryable<Run> Alike(TrialRunView v)
    {
        var (pairing, head, kind, world) = (v.Run.PairingId, v.Run.ToolheadId, v.Run.Kind, v.Run.World);
        return work.Db.Runs.AsNoTracking()
            .Where(r =>
                r.PairingId == pairing && r.ToolheadId == head && r.Kind == kind && r.World == world && r.Stage != RunStages.Planned && r.RemovedAt == null);
    }

    /// <summary>The view of a run that is loaded with its readings.</summary>
    public async Task<TrialRunView> ViewAsync(Run run, Pairing? pairing, Toolhead head)
    {
        var trial = TrialCatalogue.Get(run.Kind);
        return View(
            trial, run, pairing, head, await noises.AllAsync(), await AlongAsync(run, trial, trial.ReadPlan(run.PlanJson), pairing, head), answers: answers);
    }

    /// <summary>Puts a view together from loaded records and what is known of how steadily people score.</summary>
    public static TrialRunView View(
        Trial trial, Run run, Pairing? pairing, Toolhead head, IReadOnlyDictionary<Guid, ScoreNoise> noises, RunsAlong? along = null,
        IReadOnlyList<KnownGoodValue>? practice = null, FactorSet? factors = null, AnswerCache? answers = null)
    {
        List<TrialRunView> before = [.. (along?.Together ?? []).Select(r => View(trial, r, pairing, head, noises, answers: answers))];
        var plan = trial.ReadPlan(run.PlanJson);
        var superseded = run.Readings.Select(r => r.SupersedesId).OfType<Guid>().ToHashSet();
        var cells = new Dictionary<(int Section, string Aspect), Reading>();
        foreach (var r in run.Readings.Where(r => !superseded.Contains(r.Id)).OrderBy(r => r.At))
            cells[(r.Section, r.Aspect)] = r;
        var readings = new RunReadings(
            cells.ToDictionary(c => c.Key, c => new CellReading(c.Value.Value, c.Value.Entered, c.Value.Resolution)), run.EndedAtLayer)
        {
            Around = trial.AsksAround ? FactorBook.AroundOf(run) : new(),
        };
        var columns = trial.Grid(plan).Columns.Where(c => c.Kind == CellKind.Score).Select(c => c.Aspect).ToHashSet();
        var readers = cells.Values.Where(r => r.Value is not null && columns.Contains(r.Aspect)).GroupBy(r => r.PersonId ?? Guid.Empty).ToList();
        var noise = ScoreNoise.Together(readers.Select(g => (noises.GetValueOrDefault(g.Key)?.Sd ?? ScoreNoise.Default, g.Count())));
        var context = new JudgeContext
        {
            Limits = Facts.LimitsOf(head),
            AdvisedC = pairing is null ? null : Facts.NozzleRange(pairing.Filament!).Span,
            Use = pairing?.Use ?? "balanced",
            ScoreNoise = noise,
            Seed = run.Seed,
            Dialect = head.Printer!.Dialect,
            DensityGPerCm3 = pairing?.Filament!.SolidDensityGPerCm3,
            Practice = practice ?? [],
            Earlier = [.. before.Select(b => (b.Plan, b.Readings))],
        };
        return new(
            run, trial, plan, pairing, head, factors ?? new() { RunId = run.Id }, cells, readings,
            new(() => Judge(trial, run, plan, readings, context, before, answers))
        )
        {
            ScoreNoise = noise,
            Earlier = before,
            Apart = along?.Apart ?? [],
            FromMemory = along?.FromMemory ?? [],
            PracticeNoted = context.Practice.Any(p => trial.Settles.Contains(p.Key)),
            LearnedPairs = readers.Sum(g => noises.GetValueOrDefault(g.Key)?.Pairs ?? 0),
        };
    }

    /// <summary>Judging is a pure function of its input, so an answer is remembered by all of it.</summary>
    private static TrialVerdict Judge(
        Trial trial, Run run, ITrialPlan plan, RunReadings readings, JudgeContext context, List<TrialRunView> before, AnswerCache? answers)
    {
        static string Of(Run r, RunReadings x) =>
            $"{r.PlanJson}|{r.EndedAtLayer}|{x.Around}|" + string.Join(
                ';',
                x.Cells.OrderBy(c => c.Key).Select(c => $"{c.Key.Section} {c.Key.Aspect} {c.Value.Value:R} {c.Value.Text} {c.Value.Resolution:R}"));
        var key =
            $"{trial.Kind}|{Of(run, readings)}|{string.Join('|', before.Select(b => Of(b.Run, b.Readings)))}|{context.Limits}|{context.AdvisedC}|" +
                $"{context.Use}|{context.ScoreNoise:R}|{context.Seed}|{context.Dialect}|{context.DensityGPerCm3:R}|{string.Join(';', context.Practice)}";
        TrialVerdict Verdict() => trial.JudgeBesidePractice(plan, readings, context, Application.Trials.VerdictWords.Tell);
        return answers is null ? Verdict() : answers.Once(key, AnswerCache.Verdict, Verdict);
    }
}
