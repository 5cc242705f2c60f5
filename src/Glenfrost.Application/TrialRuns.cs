using Glenfrost.Core.Ageing;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Glenfrost.Application;

/// <summary>A run as its page needs it: what it is of, what is read of it, and today's verdict.</summary>
public sealed record TrialRunView(
    Run Run, Trial Trial, ITrialPlan Plan, Pairing? Pairing, Toolhead Toolhead, RunConditions Conditions, IReadOnlyDictionary<(int Section, string Aspect), Reading> Cells,
    RunReadings Readings, Lazy<TrialVerdict> Judged)
{
    /// <summary>Today's verdict; computed when it is first asked for.</summary>
    public TrialVerdict Verdict => Judged.Value;

    /// <summary>Parts that are read.</summary>
    public IReadOnlyList<PlanPart> Parts { get; } = Plan.Parts;

    /// <summary>Rows and columns of readings.</summary>
    public ReadingGrid Grid { get; } = Trial.Grid(Plan);

    /// <summary>What became of each part.</summary>
    public IReadOnlyList<SectionState> States { get; } = Trial.States(Plan, Readings);

    /// <summary>Cells that still wait for a reading.</summary>
    public IReadOnlyList<(int Section, string Aspect)> Empty { get; } = [.. Trial.Waiting(Plan, Readings)];

    /// <summary>Earlier runs that this one follows under the same conditions: they are judged together, as repeats.</summary>
    public IReadOnlyList<TrialRunView> Earlier { get; init; } = [];

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
    public IReadOnlyDictionary<string, double> Scores(int section) => Grid.Columns.Where(c => c.Kind == CellKind.Score && Readings.Value(section, c.Aspect) is not null).ToDictionary(c => c.Aspect, c => Readings.Value(section, c.Aspect)!.Value);

    /// <summary>Numbers and scores that were read.</summary>
    public int ReadCount => Grid.Columns.Where(c => c.Kind != CellKind.Word).Sum(c => Grid.Rows.Count(r => Readings.Value(r.Section, c.Aspect) is not null));

    /// <summary>Scores given twice by those who read this run, from which its noise was learned; 0 where the default is taken.</summary>
    public int LearnedPairs { get; init; }

    /// <summary>Standard deviation of one score that the verdict takes.</summary>
    public double ScoreNoise { get; init; } = Core.Evidence.ScoreNoise.Default;

    public string Text(int section, string aspect) => Cells.TryGetValue((section, aspect), out var r) ? r.Entered : "";

    public Guid? ReadingId(int section, string aspect) => Cells.TryGetValue((section, aspect), out var r) ? r.Id : null;
}

/// <summary>How storing a reading ended.</summary>
/// <param name="Status">saved, same, conflict, why or refused.</param>
/// <param name="Id">The reading that stands in the cell now.</param>
/// <param name="Text">Its text.</param>
/// <param name="Message">What to tell; null where nothing is.</param>
/// <param name="Questioned">Saved all the same, but implausible.</param>
public sealed record ReadingOutcome(string Status, Guid? Id, string Text, string? Message, bool Questioned = false);

/// <summary>What is posted for one cell.</summary>
/// <param name="Key">Made by the client; stored once.</param>
/// <param name="Section">From 0, lowest first.</param>
/// <param name="Aspect">Aspect, observedC or state.</param>
/// <param name="Text">As typed.</param>
/// <param name="Supersedes">The reading that stood in the cell when it was typed.</param>
/// <param name="Why">Reason of a later correction.</param>
/// <param name="OpenOnly">True where the cell was chosen because it was open: the same value of somebody else is no answer then.</param>
public sealed record CellEntry(string Key, int Section, string Aspect, string Text, Guid? Supersedes, string? Why, bool OpenOnly = false)
{
    /// <summary>The instrument that read it, as it was; null for eyes and hands of the person.</summary>
    public Guid? InstrumentRevisionId { get; init; }

    /// <summary>The instrument's resolution; null for the usual one of the aspect.</summary>
    public double? Resolution { get; init; }
}

/// <summary>Plans, reads, judges and keeps runs of every trial.</summary>
public sealed class TrialRuns(Bench bench, Profiles profiles, Pieces pieces, ScoreNoises noises)
{
    private static readonly MemoryCache Verdicts = new(new MemoryCacheOptions { SizeLimit = 500 });

    /// <summary>A correction within this time is a slip; later it asks why.</summary>
    public static readonly TimeSpan SlipTime = TimeSpan.FromMinutes(1);

    /// <summary>Where a plan of a trial is made.</summary>
    public static string PlanAddress(Trial trial, Guid? pairing, Guid toolhead) => trial.Subject == TrialSubject.Toolhead ? $"/toolheads/{toolhead}/{trial.Kind}" : $"/pairings/{pairing}/{trial.Kind}";

    /// <summary>The name of a run's file.</summary>
    public static string FileName(Trial trial, Pairing? p, Toolhead head, ITrialPlan plan, int number) => Pieces.FileName(
        "gcode", trial.Noun, p?.Filament!.Line ?? "", head.FullName, trial.FileWords(plan), $"run {number}");

    /// <summary>Stores a plan as a new run, with its file where there is one.</summary>
    public async Task<Run> CreateAsync(Trial trial, Pairing? p, Toolhead head, ITrialPlan plan, TrialFile? file = null, Guid? linkedRunId = null, string linkKind = "follows")
    {
        var person = await bench.PersonAsync();
        var settings = p is null ? null : await profiles.LatestAsync(p.Id);
        // The file is written before the gate: nothing large is done inside it.
        var stored = file is null ? null : pieces.Store(file);
        return await bench.AloneAsync(async () =>
        {
            var number = await (p is null ? bench.Db.Runs.Where(r => r.ToolheadId == head.Id) : bench.Db.Runs.Where(r => r.PairingId == p.Id)).Where(r => r.Kind == trial.Kind).MaxAsync(r => (int?)r.Number) ?? 0;
            var run = new Run
            {
                Kind = trial.Kind,
                Number = number + 1,
                PairingId = p?.Id,
                ToolheadId = p is null ? head.Id : null,
                World = p?.World ?? head.Printer!.World,
                CreatedAt = bench.Now,
                ChangedAt = bench.Now,
                PersonId = person.Id,
                PlanVersion = plan.Version,
                PlanJson = Json.WriteAsIs(plan),
                LinkedRunId = linkedRunId,
                LinkKind = linkedRunId is null ? null : linkKind,
                ForeseenMinutes = plan.Estimate.Minutes > 0 ? plan.Estimate.Minutes : null,
                MassUg = plan.Estimate.MassG is { } g ? (long)(g * 1e6) : null,
                SettingsJson = settings is null ? null : Json.Write(settings.Settings.ToDictionary(s => s.Key, s => s.Value)),
            };
            run.Seed = Math.Abs(BitConverter.ToInt32(run.Id.ToByteArray(), 12));
            bench.Db.Runs.Add(run);
            if (stored is not null)
                bench.Db.RunFiles.Add(Pieces.Row(run, stored, FileName(trial, p, head, plan, run.Number), bench.Now, person.Id));
            await bench.LogAsync("run", $"{trial.Name} {run.Number} planned: {(p is null ? head.FullName : Facts.NameOf(p))}, {trial.Extent(plan)}", $"/runs/{run.Id}");
            await bench.Db.SaveChangesAsync();
            return run;
        });
    }

    /// <summary>Loads a run with its readings and today's verdict; null where there is none.</summary>
    public async Task<TrialRunView?> LoadAsync(Guid id)
    {
        var run = await bench.Db.Runs.Include(r => r.Readings).Include(r => r.Decisions).Include(r => r.Findings).Include(r => r.Files).Include(r => r.Photos).AsSplitQuery()
            .FirstOrDefaultAsync(r => r.Id == id);
        if (run is null || TrialCatalogue.Find(run.Kind) is not { } trial)
            return null;
        var pairing = run.PairingId is { } p ? await bench.Db.Pairings.AsNoTracking().Full().FirstAsync(x => x.Id == p) : null;
        var head = pairing?.Toolhead ?? await bench.Db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstOrDefaultAsync(t => t.Id == run.ToolheadId);
        return head is null ? null : View(trial, run, pairing, head, await noises.AllAsync(), await EarlierAsync(run), pairing is null ? null : await PracticeAsync(pairing.Id));
    }

    /// <summary>Values of a pairing that are known good in daily use.</summary>
    public async Task<IReadOnlyList<PracticeValue>> PracticeAsync(Guid pairing) =>
        [.. (await bench.Db.Findings.AsNoTracking().Where(f => f.PairingId == pairing && f.RemovedAt == null && f.SettingKey != null && f.SettingValue != null).ToListAsync())
            .Select(f => new PracticeValue(f.SettingKey!, f.SettingValue!.Value, f.AtC, $"{(f.Text is null ? "" : f.Text + ", ")}noted {Words.ShortDay(f.At)}"))];

    /// <summary>Farther back nothing is taken in.</summary>
    private const int MostEarlier = 3;

    /// <summary>The runs that one follows and that may be judged with it: same pairing, read, and nothing of their conditions differs.</summary>
    public async Task<IReadOnlyList<Run>> EarlierAsync(Run run)
    {
        var (list, now) = (new List<Run>(), run);
        var conditions = run.ConditionsJson is { } json ? Json.Read<RunConditions>(json) : new();
        while (TrialCatalogue.Find(run.Kind) is { JudgesTogether: true } && list.Count < MostEarlier && now is { LinkKind: "follows", LinkedRunId: { } id } && run.Stage != RunStages.Planned)
        {
            var before = await bench.Db.Runs.AsNoTracking().Include(r => r.Readings).FirstOrDefaultAsync(r => r.Id == id && r.PairingId == run.PairingId && r.Kind == run.Kind && r.RemovedAt == null);
            if (before is null || before.Stage is RunStages.Planned or RunStages.Printed || list.Any(r => r.Id == before.Id) || before.Id == run.Id)
                break;
            var then = before.ConditionsJson is { } text ? Json.Read<RunConditions>(text) : new();
            // "Dried yesterday" and "dried two days ago" are the same dryness.
            if (Attribution.Differences(conditions with { Dryness = null }, then with { Dryness = null }).Count > 0 || (run.PrintedAt ?? run.CreatedAt) - (before.PrintedAt ?? before.CreatedAt) > TimeSpan.FromDays(14))
                break;
            list.Add(before);
            now = before;
        }

        return list;
    }

    /// <summary>Puts a view together from loaded records and what is known of how steadily people score.</summary>
    public static TrialRunView View(Trial trial, Run run, Pairing? pairing, Toolhead head, IReadOnlyDictionary<Guid, ScoreNoise> noises, IReadOnlyList<Run>? earlier = null, IReadOnlyList<PracticeValue>? practice = null)
    {
        List<TrialRunView> before = [.. (earlier ?? []).Select(r => View(trial, r, pairing, head, noises))];
        var plan = trial.ReadPlan(run.PlanJson);
        var superseded = run.Readings.Select(r => r.SupersedesId).OfType<Guid>().ToHashSet();
        var cells = new Dictionary<(int Section, string Aspect), Reading>();
        foreach (var r in run.Readings.Where(r => !superseded.Contains(r.Id)).OrderBy(r => r.At))
            cells[(r.Section, r.Aspect)] = r;
        var readings = new RunReadings(cells.ToDictionary(c => c.Key, c => new CellReading(c.Value.Value, c.Value.Entered, c.Value.Resolution)), run.EndedAtLayer);
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
        return new(run, trial, plan, pairing, head, run.ConditionsJson is { } json ? Json.Read<RunConditions>(json) : new(), cells, readings, new(() => Judge(trial, run, plan, readings, context, before)))
        {
            ScoreNoise = noise,
            Earlier = before,
            LearnedPairs = readers.Sum(g => noises.GetValueOrDefault(g.Key)?.Pairs ?? 0),
        };
    }

    /// <summary>Judging is a pure function of its input, so an answer is remembered by all of it.</summary>
    private static TrialVerdict Judge(Trial trial, Run run, ITrialPlan plan, RunReadings readings, JudgeContext context, List<TrialRunView> before)
    {
        static string Of(Run r, RunReadings x) => $"{r.PlanJson}|{r.EndedAtLayer}|{string.Join(';', x.Cells.OrderBy(c => c.Key).Select(c => $"{c.Key.Section} {c.Key.Aspect} {c.Value.Value:R} {c.Value.Text} {c.Value.Resolution:R}"))}";
        var key = $"{trial.Kind}|{Of(run, readings)}|{string.Join('|', before.Select(b => Of(b.Run, b.Readings)))}|{context.Limits}|{context.AdvisedC}|{context.Use}|{context.ScoreNoise:R}|{context.Seed}|{context.Dialect}|{context.DensityGPerCm3:R}|{string.Join(';', context.Practice)}";
        return Verdicts.GetOrCreate(key, entry =>
        {
            entry.Size = 1;
            return trial.JudgeBesidePractice(plan, readings, context);
        })!;
    }

    /// <summary>
    /// Stores one reading. The same key is stored once; a cell that changed meanwhile is a conflict and nothing is written;
    /// a correction after a minute asks why.
    /// </summary>
    public async Task<ReadingOutcome> StoreAsync(Guid runId, CellEntry entry)
    {
        var person = await bench.PersonAsync();
        var run = await bench.Db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == runId && r.RemovedAt == null);
        if (run is null)
            return new("refused", null, "", "This run is not there any more. What you typed is still in the field.");
        var trial = TrialCatalogue.Get(run.Kind);
        var plan = trial.ReadPlan(run.PlanJson);
        var (parts, grid) = (plan.Parts, trial.Grid(plan));
        if (entry.Section < 0 || entry.Section >= parts.Count)
            return new("refused", null, "", $"Section {entry.Section} is not part of this {trial.Noun}: 0 to {parts.Count - 1} would be right.");
        if (entry.Aspect == CellAspects.Mass && grid.Column(CellAspects.Mass) is null && entry.Section != 0)
            return new("refused", null, "", "The mass is that of the whole piece: section 0 would be right.");
        if (entry.Key.Length is 0 or > 80)
            return new("refused", null, "", "The entry has no key of 1 to 80 characters.");
        if (entry.Why is { Length: > 400 })
            return new("refused", null, "", "The reason is longer than 400 characters.");
        var (value, text, error) = ParseCell(grid, entry.Aspect, entry.Text);
        if (error is not null)
            return new("refused", null, "", error);
        return await bench.AloneAsync(async () =>
        {
            var readings = await bench.Db.Readings.AsNoTracking().Where(r => r.RunId == runId && (r.Key == entry.Key || (r.Section == entry.Section && r.Aspect == entry.Aspect))).ToListAsync();
            if (readings.FirstOrDefault(r => r.Key == entry.Key) is { } already)
                return new ReadingOutcome("same", already.Id, already.Entered, null);
            var superseded = readings.Select(r => r.SupersedesId).OfType<Guid>().ToHashSet();
            var standing = readings.FirstOrDefault(r => !superseded.Contains(r.Id));
            if (standing is not null && standing.Entered == text && !entry.OpenOnly)
                return new ReadingOutcome("same", standing.Id, text, null);
            if (standing?.Id != entry.Supersedes && !(standing is { Entered: "" }))
                return standing is null
                    ? new ReadingOutcome("conflict", null, "", "This cell was emptied meanwhile.")
                    : new ReadingOutcome("conflict", standing.Id, standing.Entered, $"{(standing.PersonId != person.Id && await bench.Db.People.Where(p => p.Id == standing.PersonId).Select(p => p.Name).FirstOrDefaultAsync() is { } other ? other : "Another tab")} put {Show(standing.Entered)} here at {Words.Time(standing.At)} UTC. Yours is still in the field: Enter puts it in its place.");
            if (standing is { Entered: not "" } && bench.Now - standing.At > SlipTime && string.IsNullOrWhiteSpace(entry.Why))
                return new ReadingOutcome("why", standing.Id, standing.Entered, $"{Show(standing.Entered)} was read {Words.Ago(standing.At, bench.Now)} at {Words.Time(standing.At)} UTC. Why is it {Show(text)} now?");
            var reading = new Reading
            {
                RunId = runId,
                Key = entry.Key,
                Section = entry.Section,
                Aspect = entry.Aspect,
                Value = value,
                Entered = text,
                At = bench.Now,
                PersonId = person.Id,
                DeviceId = bench.DeviceId,
                SupersedesId = standing?.Id,
                Why = string.IsNullOrWhiteSpace(entry.Why) ? null : entry.Why.Trim(),
                Resolution = entry.Resolution ?? (grid.Column(entry.Aspect) is { } column ? column.Resolution : entry.Aspect == CellAspects.Mass ? 0.1 : null),
                InstrumentRevisionId = entry.InstrumentRevisionId,
            };
            bench.Db.Readings.Add(reading);
            // The scale speaks of the whole piece: what the run says of its mass is the newest weighing.
            if (entry.Aspect == CellAspects.Mass && grid.Column(CellAspects.Mass) is null && value is { } grams)
                (await bench.Db.Runs.FirstAsync(r => r.Id == runId)).MassUg = (long)Math.Round(grams * 1e6);
            var link = $"/runs/{runId}";
            var name = await NameOfAsync(run);
            if (reading.Why is not null)
                await bench.LogAsync("reading", $"{trial.Name} {run.Number}, {Where(parts, entry)}: {Show(standing!.Entered)} became {Show(text)}, because {reading.Why} · {name}", link);
            else
                await bench.LogCountAsync("reading", link, 1, n => $"{Words.Plural(n, "reading")} on {Words.Lower(trial.Name)} {run.Number}: {name}");
            await bench.Db.SaveChangesAsync();
            var odd = value is { } o ? trial.Question(plan, entry.Section, entry.Aspect, o) : null;
            return new ReadingOutcome("saved", reading.Id, text, odd is null ? null : $"Saved. {odd}", odd is not null);
        });
    }

    private static string Show(string text) => text switch { "" => "empty", "m" => "missing", _ => text };

    private static (double? Value, string Text, string? Error) ParseCell(ReadingGrid grid, string aspect, string typed)
    {
        if (aspect == CellAspects.State && grid.Column(aspect) is not null)
        {
            var word = typed.Trim().ToLowerInvariant();
            return ReadingGrid.States.Contains(word) ? (null, word, null) : (null, "", "A section is judged, failed or lost.");
        }

        if (aspect == CellAspects.Mass && grid.Column(aspect) is null)
        {
            var text = typed.Trim().ToLowerInvariant();
            var weighed = BenchFields.PieceMassG.Parse(text);
            return text.Length == 0 ? (null, "", null) : weighed.Error is null ? ((double)weighed.Value!.Value, Words.N(weighed.Value, 4), null) : (null, "", weighed.Error);
        }

        return grid.Parse(aspect, typed);
    }

    private async Task<string> NameOfAsync(Run run) => run.PairingId is { } id
        ? Facts.NameOf(await bench.Db.Pairings.AsNoTracking().Include(p => p.Filament).Include(p => p.Variant).Include(p => p.Toolhead!.Printer).FirstAsync(p => p.Id == id))
        : (await bench.Db.Toolheads.AsNoTracking().Include(t => t.Printer).FirstOrDefaultAsync(t => t.Id == run.ToolheadId))?.FullName ?? "";

    private static string Where(IReadOnlyList<PlanPart> parts, CellEntry entry) => $"{(entry.Aspect == CellAspects.Observed ? "display" : entry.Aspect)} at {parts[entry.Section].Label}";

    /// <summary>Conditions as they are most likely: the last run's on this printer, today's room.</summary>
    public async Task<RunConditions> PrefillConditionsAsync(Pairing? p, Toolhead head)
    {
        var last = await bench.Db.Runs.AsNoTracking().Where(r => (r.Pairing!.Toolhead!.PrinterId == head.PrinterId || bench.Db.Toolheads.Any(t => t.Id == r.ToolheadId && t.PrinterId == head.PrinterId)) && r.ConditionsJson != null)
            .OrderByDescending(r => r.PrintedAt).Select(r => new { r.ConditionsJson, r.PairingId }).FirstOrDefaultAsync();
        var before = last is null ? new RunConditions() : Json.Read<RunConditions>(last.ConditionsJson!);
        var room = await bench.RoomAsync();
        var spools = await bench.Db.Spools.AsNoTracking().Include(s => s.Dryings).Where(s => (p == null ? s.Id == before.SpoolId : s.FilamentId == p.FilamentId) && s.RemovedAt == null && s.World == head.Printer!.World).ToListAsync();
        var spool = spools.FirstOrDefault(s => s.Id == before.SpoolId) ?? spools.FirstOrDefault(s => p?.VariantId is not null && s.VariantId == p.VariantId) ?? spools.FirstOrDefault();
        var fresh = room is not null && bench.Now - room.At < TimeSpan.FromDays(1);
        return before with
        {
            SpoolId = spool?.Id,
            SpoolName = spool?.Name,
            Dryness = spool is null ? null : Facts.Dryness(spool, p?.Filament!.Family ?? "", room?.HumidityPercent ?? 50, bench.Now).Text,
            RoomC = fresh ? room!.TemperatureC : before.RoomC,
            HumidityPercent = fresh ? room!.HumidityPercent : before.HumidityPercent,
            Firmware = before.Firmware ?? head.Printer!.Firmware,
            HardwareRevision = await bench.Db.Parts.CountAsync(x => x.PrinterId == head.PrinterId && x.RemovedAt == null),
        };
    }

    /// <summary>What differs from the run before on the same pairing; null where there is none.</summary>
    public async Task<(int Number, IReadOnlyList<string> Differences)?> DiffersAsync(TrialRunView v)
    {
        var before = await bench.Db.Runs.AsNoTracking().Where(r => r.PairingId == v.Run.PairingId && r.ToolheadId == v.Run.ToolheadId && r.Number < v.Run.Number && r.ConditionsJson != null && r.RemovedAt == null && r.Kind == v.Run.Kind)
            .OrderByDescending(r => r.Number).Select(r => new { r.Number, r.ConditionsJson, r.SettingsJson }).FirstOrDefaultAsync();
        if (before is null)
            return null;
        var list = Attribution.Differences(v.Conditions, Json.Read<RunConditions>(before.ConditionsJson!)).ToList();
        if (before.SettingsJson is not null && v.Run.SettingsJson is not null)
        {
            var a = Json.Read<Dictionary<string, double>>(before.SettingsJson);
            var b = Json.Read<Dictionary<string, double>>(v.Run.SettingsJson);
            list.AddRange(b.Where(s => !v.Trial.Settles.Take(1).Contains(s.Key) && a.TryGetValue(s.Key, out var x) && Math.Abs(x - s.Value) > 1e-9)
                .Select(s => SettingRegistry.Find(s.Key)?.Label.ToLowerInvariant() ?? s.Key));
        }

        return (before.Number, list);
    }

    /// <summary>Keeps values in the profile: a revision linked to the run, and what the moves make doubtful.</summary>
    /// <param name="values">The one that the trial settles first.</param>
    public async Task<Decision> KeepAsync(TrialRunView v, IReadOnlyList<SettingValue> values, bool ownChoice, string? why)
    {
        var person = await bench.PersonAsync();
        return await bench.AloneAsync(async () =>
        {
            var pairing = v.Pairing!;
            var settings = (await profiles.LatestAsync(pairing.Id))?.Settings.Select(s => s.ToCore()).ToList() ?? [];
            var main = values[0];
            var decision = NewDecision(v, person, ownChoice ? "own choice" : "kept", why);
            (decision.SettingKey, decision.Value) = (main.Key, main.Value);
            var next = Kept(v, settings, values, ownChoice, bench.Now);
            var text = string.Join(", ", values.Select(x => $"{(values.Count > 1 || x.Key != "nozzleTemperatureC" ? SettingRegistry.Get(x.Key).Label.ToLowerInvariant() + " " : "")}{Words.Value(x.Key, x.Value)}"));
            var revision = await profiles.AddRevisionAsync(pairing.Id, next, $"Kept {text} from {v.Called}{(why is null ? "" : $": {why}")}", v.Run.Id, decision.Id);
            decision.RevisionId = revision.Id;
            foreach (var (other, keys, touchWhy) in await OthersAsync(v, settings, values))
                await profiles.AddRevisionAsync(other.Id, ProfileRules.MarkDoubtful((await profiles.LatestAsync(other.Id))!.Settings.Select(s => s.ToCore()), [.. keys], touchWhy), $"Doubtful: {touchWhy}", causeId: decision.Id);
            await DecideAsync(v, decision, RunStages.Decided);
            await bench.LogAsync("profile", $"Kept {text} for {v.Name}{(ownChoice ? $", own choice: {why}" : "")}", $"/pairings/{pairing.Id}", $"keep:{decision.Id}");
            await bench.Db.SaveChangesAsync();
            return decision;
        });
    }

    /// <summary>In what state a value of a run is kept, and why: what still wants its check piece is provisional, whatever it agrees with.</summary>
    public static (SettingState State, string Why) StateOf(TrialRunView v, ProfileSetting? before, SettingValue x, bool ownChoice)
    {
        var said = ProfileRules.StateOfKept(before, x.Value, ownChoice || x.Uncertainty <= 0 ? null : x.Uncertainty, v.Run.Id, ownChoice, v.Trial.Basis(v.Plan));
        return !ownChoice && !v.Verdict.Proves && said.State == SettingState.Confirmed ? (SettingState.Provisional, "no check piece at it yet") : said;
    }

    /// <summary>A profile with values of a run put in, and what their moves make doubtful.</summary>
    public static IReadOnlyList<ProfileSetting> Kept(TrialRunView v, IReadOnlyList<ProfileSetting> settings, IReadOnlyList<SettingValue> values, bool ownChoice, DateTime now)
    {
        var rest = settings.Where(s => values.All(x => x.Key != s.Key)).ToList();
        var put = new List<ProfileSetting>();
        foreach (var x in values)
        {
            var before = settings.FirstOrDefault(s => s.Key == x.Key);
            var (state, stateWhy) = StateOf(v, before, x, ownChoice);
            put.Add(new(x.Key, SettingRegistry.Get(x.Key).Round(x.Value), ownChoice || x.Uncertainty <= 0 ? null : x.Uncertainty, SettingOrigin.Run, $"{v.Called}, {Words.ShortDay(v.Run.PrintedAt ?? now)}", state, stateWhy, v.Run.Id));
            foreach (var touch in AgeingRules.AfterKept(x.Key, before is null or { State: SettingState.Start } ? null : before.Value, x.Value).Where(t => !t.OnOthers))
                rest = [.. ProfileRules.MarkDoubtful(rest, [.. touch.Keys.Where(k => values.All(y => y.Key != k))], touch.Why)];
        }

        return [.. put, .. rest];
    }

    /// <summary>Other pairings of the toolhead that a kept value makes doubtful: a multiplier that moves much may be the feed.</summary>
    public async Task<IReadOnlyList<(Pairing Pairing, IReadOnlyList<string> Keys, string Why)>> OthersAsync(TrialRunView v, IReadOnlyList<ProfileSetting> settings, IReadOnlyList<SettingValue> values)
    {
        var touches = values.SelectMany(x => AgeingRules.AfterKept(x.Key, settings.FirstOrDefault(s => s.Key == x.Key) is { State: not SettingState.Start, Origin: SettingOrigin.Run } before ? before.Value : null, x.Value)).Where(t => t.OnOthers).ToList();
        if (touches.Count == 0 || !v.Trial.TellsOfTheMachine)
            return [];
        var (self, head) = (v.Pairing!.Id, v.Toolhead.Id);
        var others = await bench.Db.Pairings.AsNoTracking().Full().Where(p => p.ToolheadId == head && p.Id != self && p.RemovedAt == null).ToListAsync();
        var latest = await bench.Db.LatestRevisionsAsync([.. others.Select(p => p.Id)]);
        return [.. from t in touches from p in others
                   let keys = latest.GetValueOrDefault(p.Id)?.Settings.Where(s => t.Keys.Contains(s.Key) && s.State is SettingState.Provisional or SettingState.Confirmed && t.Keys.Contains(s.Key)).Select(s => s.Key).ToList() ?? []
                   where keys.Count > 0 select (p, (IReadOnlyList<string>)keys, t.Why)];
    }

    /// <summary>Leaves the profile as it is.</summary>
    public async Task<Decision> LeaveAsync(TrialRunView v, string? why)
    {
        var decision = NewDecision(v, await bench.PersonAsync(), "left", why);
        await DecideAsync(v, decision, RunStages.Left);
        await bench.LogAsync("run", $"{v.Title} left without keeping: {v.Name}", $"/runs/{v.Run.Id}", $"keep:{decision.Id}");
        await bench.SaveAsync();
        return decision;
    }

    /// <summary>A decision with the verdict as it stands.</summary>
    public Decision NewDecision(TrialRunView v, Person person, string choice, string? why) => new()
    {
        RunId = v.Run.Id,
        At = bench.Now,
        PersonId = person.Id,
        Choice = choice,
        Why = why,
        VerdictJson = Json.WriteAsIs(v.Verdict),
        ReadingIdsJson = Json.Write(v.ReadingIds),
        EngineVersion = Trial.EngineVersion,
        Seed = v.Run.Seed,
    };

    /// <summary>Adds a decision and moves the run on; the caller saves.</summary>
    public Task DecideAsync(TrialRunView v, Decision decision, string stage)
    {
        bench.Db.Decisions.Add(decision);
        v.Run.Stage = stage;
        v.Run.DecidedAt = bench.Now;
        v.Run.ReadAt ??= bench.Now;
        bench.Touch(v.Run);
        return Task.CompletedTask;
    }
}
