using Glenfrost.Core.Ageing;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Caching.Memory;

namespace Glenfrost.Web.Services;

/// <summary>A temperature tower's run as its page needs it.</summary>
public sealed record TowerRunView(
    Run Run, Pairing Pairing, TowerPlanV1 Plan, RunConditions Conditions, IReadOnlyDictionary<(int Section, string Aspect), Reading> Cells,
    IReadOnlyList<SectionState> States, IReadOnlyList<SectionReading> Readings, Lazy<TowerVerdict> Judged)
{
    /// <summary>Today's verdict; computed when it is first asked for.</summary>
    public TowerVerdict Verdict => Judged.Value;

    /// <summary>Cells that still wait for a score: judged sections, aspects in use.</summary>
    public IReadOnlyList<(int Section, string Aspect)> Empty { get; init; } = [];

    /// <summary>Earlier runs that this one follows under the same conditions: they are judged together, as repeats.</summary>
    public IReadOnlyList<TowerRunView> Earlier { get; init; } = [];

    /// <summary>All readings that the verdict rests on.</summary>
    public IEnumerable<Guid> ReadingIds => Cells.Values.Select(r => r.Id).Concat(Earlier.SelectMany(e => e.ReadingIds)).Order();

    /// <summary>The run that a row of the verdict was printed in; rows beyond this run's sections belong to those before it.</summary>
    public (Run Run, TowerSection Section) Printed(int row)
    {
        foreach (var v in Earlier.Prepend(this))
        {
            if (row < v.Plan.Sections.Count)
                return (v.Run, v.Plan.Sections[row]);
            row -= v.Plan.Sections.Count;
        }

        throw new ArgumentOutOfRangeException(nameof(row));
    }

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

/// <summary>Plans, reads, judges and keeps temperature towers.</summary>
public sealed class TowerRuns(Bench bench, Profiles profiles, Pieces pieces, ScoreNoises noises)
{
    /// <summary>Version of the rules that a decision was made by.</summary>
    public static string EngineVersion { get; } = typeof(TowerJudging).Assembly.GetName().Version!.ToString(3);

    private static readonly MemoryCache Verdicts = new(new MemoryCacheOptions { SizeLimit = 500 });

    /// <summary>A correction within this time is a slip; later it asks why.</summary>
    public static readonly TimeSpan SlipTime = TimeSpan.FromMinutes(1);

    /// <summary>Proposes a tower: the sources' union clipped by the machine's limits, whole steps.</summary>
    public static TowerRequest Propose(Pairing p)
    {
        var limits = Facts.LimitsOf(p.Toolhead!);
        var (span, _) = Facts.NozzleRange(p.Filament!);
        decimal hot = (decimal)Math.Min(span?.Max ?? 230, limits.MaxC), cool = (decimal)Math.Max(span?.Min ?? 190, limits.MinC);
        const decimal step = 5;
        hot = Math.Floor(hot);
        cool = Math.Ceiling(cool);
        if (hot - cool < 2 * step)
            cool = Math.Max((decimal)limits.MinC, hot - 4 * step);
        cool = hot - Math.Floor((hot - cool) / step) * step;
        var nozzle = (decimal)p.NozzleDiameterMm;
        var layer = Math.Max(0.04m, Math.Floor(nozzle / 2 / 0.04m) * 0.04m);
        return WithMachine(p, new TowerRequest
        {
            HottestC = hot,
            CoolestC = cool,
            StepC = step,
            LayerHeightMm = layer,
            FirstLayerHeightMm = layer,
            SectionHeightMm = layer * Math.Ceiling(10m * Math.Max(1, nozzle / 0.4m) / layer),
            BaseHeightMm = layer * Math.Max(2, Math.Round(1.2m / layer)),
        });
    }

    /// <summary>Adds the machine's limits, the advice and sizes to a request.</summary>
    public static TowerRequest WithMachine(Pairing p, TowerRequest request)
    {
        var (span, _) = Facts.NozzleRange(p.Filament!);
        return request with
        {
            NozzleDiameterMm = (decimal)p.NozzleDiameterMm,
            BedHeightMm = (decimal)p.Toolhead!.Printer!.HeightMm,
            DensityGPerCm3 = (decimal?)p.Filament!.SolidDensityGPerCm3,
            Limits = Facts.RangeOf(Facts.LimitsOf(p.Toolhead)),
            Advised = span is null ? null : new((decimal?)span.Min, (decimal?)span.Max),
        };
    }

    /// <summary>The name of a run's file.</summary>
    public static string FileName(Pairing p, TowerPlanV1 plan, int number) => Pieces.FileName(
        "gcode", "tower", p.Filament!.Line, p.Toolhead!.FullName, Words.N(plan.Request.HottestC, 0), Words.N(plan.Request.CoolestC, 0), $"run {number}");

    /// <summary>Stores a plan as a new run, with its file where there is a job.</summary>
    public async Task<Run> CreateAsync(Pairing p, TowerPlanV1 plan, Core.TestPieces.PieceJob? job = null, Guid? linkedRunId = null, string linkKind = "follows")
    {
        var person = await bench.PersonAsync();
        var settings = await profiles.LatestAsync(p.Id);
        // The file is written before the gate: nothing large is done inside it.
        var stored = job is null ? null : pieces.Store(job);
        return await bench.AloneAsync(async () =>
        {
            var number = await bench.Db.Runs.Where(r => r.PairingId == p.Id && r.Kind == TrialCatalogue.TemperatureTower).MaxAsync(r => (int?)r.Number) ?? 0;
            var run = new Run
            {
                Kind = TrialCatalogue.TemperatureTower,
                Number = number + 1,
                PairingId = p.Id,
                World = p.World,
                CreatedAt = bench.Now,
                ChangedAt = bench.Now,
                PersonId = person.Id,
                PlanVersion = 1,
                PlanJson = Json.Write(plan),
                LinkedRunId = linkedRunId,
                LinkKind = linkedRunId is null ? null : linkKind,
                ForeseenMinutes = plan.Estimate.Minutes > 0 ? plan.Estimate.Minutes : null,
                MassUg = plan.Estimate.MassG is { } g ? (long)(g * 1e6) : null,
                SettingsJson = settings is null ? null : Json.Write(settings.Settings.ToDictionary(s => s.Key, s => s.Value)),
            };
            run.Seed = Math.Abs(BitConverter.ToInt32(run.Id.ToByteArray(), 12));
            bench.Db.Runs.Add(run);
            if (stored is not null)
                bench.Db.RunFiles.Add(Pieces.Row(run, stored, FileName(p, plan, run.Number), bench.Now, person.Id));
            await bench.LogAsync("run", $"Temperature tower {run.Number} planned: {Facts.NameOf(p)}, {Words.Plural(plan.Sections.Count, "section")}", $"/runs/{run.Id}");
            await bench.Db.SaveChangesAsync();
            return run;
        });
    }

    /// <summary>Loads a run with its readings and today's verdict; null where there is none.</summary>
    public async Task<TowerRunView?> LoadAsync(Guid id)
    {
        var run = await bench.Db.Runs.Include(r => r.Readings).Include(r => r.Decisions).Include(r => r.Findings).Include(r => r.Files).Include(r => r.Photos).AsSplitQuery()
            .FirstOrDefaultAsync(r => r.Id == id && r.Kind == TrialCatalogue.TemperatureTower);
        if (run?.PairingId is null)
            return null;
        var pairing = await bench.Db.Pairings.AsNoTracking().Full().FirstAsync(p => p.Id == run.PairingId);
        return View(run, pairing, await noises.AllAsync(), await EarlierAsync(run));
    }

    /// <summary>Farther back nothing is taken in.</summary>
    private const int MostEarlier = 3;

    /// <summary>The runs that one follows and that may be judged with it: same pairing, read, and nothing of their conditions differs.</summary>
    public async Task<IReadOnlyList<Run>> EarlierAsync(Run run)
    {
        var (list, now) = (new List<Run>(), run);
        var conditions = run.ConditionsJson is { } json ? Json.Read<RunConditions>(json) : new();
        while (list.Count < MostEarlier && now is { LinkKind: "follows", LinkedRunId: { } id } && run.Stage != RunStages.Planned)
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
    public static TowerRunView View(Run run, Pairing pairing, IReadOnlyDictionary<Guid, ScoreNoise> noises, IReadOnlyList<Run>? earlier = null)
    {
        List<TowerRunView> before = [.. (earlier ?? []).Select(r => View(r, pairing, noises))];
        var plan = Json.Read<TowerPlanV1>(run.PlanJson);
        var superseded = run.Readings.Select(r => r.SupersedesId).OfType<Guid>().ToHashSet();
        var cells = new Dictionary<(int, string), Reading>();
        foreach (var r in run.Readings.Where(r => !superseded.Contains(r.Id)).OrderBy(r => r.At))
            cells[(r.Section, r.Aspect)] = r;
        var states = plan.Sections.Select(s => StateOf(s, plan.Request.Separate ? (s.Index + 1) * (plan.TotalLayers / plan.Sections.Count) : s.LastLayer, run, cells)).ToList();
        var readings = plan.Sections.Select(s =>
        {
            var scores = Aspects.All.Where(a => cells.TryGetValue((s.Index, a), out var r) && r.Value is not null)
                .ToDictionary(a => a, a => cells[(s.Index, a)].Value!.Value);
            return new SectionReading((double)s.TemperatureC, states[s.Index], scores,
                cells.TryGetValue((s.Index, "observedC"), out var o) ? o.Value : null);
        }).ToList();
        var readers = cells.Values.Where(r => r.Value is not null && Aspects.All.Contains(r.Aspect)).GroupBy(r => r.PersonId ?? Guid.Empty).ToList();
        var noise = ScoreNoise.Together(readers.Select(g => (noises.GetValueOrDefault(g.Key)?.Sd ?? ScoreNoise.Default, g.Count())));
        var verdict = new Lazy<TowerVerdict>(() => Judge(new TowerReadings
        {
            Sections = [.. readings, .. before.SelectMany(v => v.Readings)],
            Preference = Aspects.PreferenceFor(pairing.Use),
            Weights = Aspects.WeightsFor(pairing.Use),
            Seed = run.Seed,
            ScoreNoise = noise,
            Limits = Facts.RangeOf(Facts.LimitsOf(pairing.Toolhead!)),
            Advised = plan.Request.Advised,
        }));
        return new(run, pairing, plan, run.ConditionsJson is { } json ? Json.Read<RunConditions>(json) : new(), cells, states, readings, verdict)
        {
            ScoreNoise = noise,
            Earlier = before,
            LearnedPairs = readers.Sum(g => noises.GetValueOrDefault(g.Key)?.Pairs ?? 0),
            Empty = [.. Aspects.All.SelectMany(a => plan.Sections.Reverse()
                .Where(s => states[s.Index] == SectionState.Judged && !cells.ContainsKey((s.Index, a)) || (cells.TryGetValue((s.Index, a), out var r) && r.Entered == "" && states[s.Index] == SectionState.Judged))
                .Select(s => (s.Index, a)))],
        };
    }

    /// <summary>Judging is a pure function of its input, so an answer is remembered by all of it.</summary>
    private static TowerVerdict Judge(TowerReadings readings) => Verdicts.GetOrCreate(Json.Write(readings), entry =>
    {
        entry.Size = 1;
        return TowerJudging.Judge(readings);
    })!;

    private static SectionState StateOf(TowerSection s, int endsWith, Run run, Dictionary<(int, string), Reading> cells)
    {
        if (cells.TryGetValue((s.Index, "state"), out var r) && Enum.TryParse<SectionState>(r.Entered, true, out var state))
            return state;
        return run.EndedAtLayer is { } layer && endsWith > layer ? SectionState.Lost : SectionState.Judged;
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
        var plan = Json.Read<TowerPlanV1>(run.PlanJson);
        if (entry.Section < 0 || entry.Section >= plan.Sections.Count)
            return new("refused", null, "", $"Section {entry.Section} is not part of this tower: 0 to {plan.Sections.Count - 1} would be right.");
        if (entry.Aspect == CellAspects.Mass && entry.Section != 0)
            return new("refused", null, "", "The mass is that of the whole piece: section 0 would be right.");
        if (entry.Key.Length is 0 or > 80)
            return new("refused", null, "", "The entry has no key of 1 to 80 characters.");
        if (entry.Why is { Length: > 400 })
            return new("refused", null, "", "The reason is longer than 400 characters.");
        var (value, text, error) = ParseCell(entry.Aspect, entry.Text);
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
                Resolution = entry.Resolution ?? entry.Aspect switch { CellAspects.State => null, CellAspects.Mass => 0.1, _ => 1 },
                InstrumentRevisionId = entry.InstrumentRevisionId,
            };
            bench.Db.Readings.Add(reading);
            // The scale speaks of the whole piece: what the run says of its mass is the newest weighing.
            if (entry.Aspect == CellAspects.Mass && value is { } grams)
                (await bench.Db.Runs.FirstAsync(r => r.Id == runId)).MassUg = (long)Math.Round(grams * 1e6);
            var link = $"/runs/{runId}";
            var name = await NameOfAsync(run);
            if (reading.Why is not null)
                await bench.LogAsync("reading", $"Temperature tower {run.Number}, {Where(plan, entry)}: {Show(standing!.Entered)} became {Show(text)}, because {reading.Why} · {name}", link);
            else
                await bench.LogCountAsync("reading", link, 1, n => $"{Words.Plural(n, "reading")} on temperature tower {run.Number}: {name}");
            await bench.Db.SaveChangesAsync();
            var planned = (double)plan.Sections[entry.Section].TemperatureC;
            var odd = entry.Aspect == "observedC" && value is { } o && Math.Abs(o - planned) > 15;
            return new ReadingOutcome("saved", reading.Id, text, odd ? $"Saved. The display showed {Words.N(value)} °C where {Words.N(planned)} was planned: is that so?" : null, odd);
        });
    }

    private static string Show(string text) => text switch { "" => "empty", "m" => "missing", _ => text };

    private static (double? Value, string Text, string? Error) ParseCell(string aspect, string typed)
    {
        var text = typed.Trim().ToLowerInvariant();
        if (aspect == "state")
            return Enum.TryParse<SectionState>(text, true, out _) && !char.IsDigit(text[0])
                ? (null, text, null)
                : (null, "", "A section is judged, failed or lost.");
        if (aspect == "observedC")
        {
            if (text.Length == 0)
                return (null, "", null);
            var parsed = BenchFields.ObservedC.Parse(text);
            return parsed.Error is null ? ((double)parsed.Value!.Value, Words.N(parsed.Value), null) : (null, "", parsed.Error);
        }

        if (aspect == CellAspects.Mass)
        {
            var weighed = BenchFields.PieceMassG.Parse(text);
            return text.Length == 0 ? (null, "", null) : weighed.Error is null ? ((double)weighed.Value!.Value, Words.N(weighed.Value, 4), null) : (null, "", weighed.Error);
        }

        if (!Aspects.All.Contains(aspect))
            return (null, "", $"\"{(aspect.Length > 40 ? aspect[..40] : aspect)}\" is not an aspect: {string.Join(", ", Aspects.All)} would be right.");
        if (text.Length == 0 || text == "m")
            return (null, text, null);
        var score = BenchFields.Score.Parse(text);
        return score.Error is null ? ((double)score.Value!.Value, Words.N(score.Value), null) : (null, "", $"{score.Error} m marks a missing one, f a failed section.");
    }

    private async Task<string> NameOfAsync(Run run) => run.PairingId is { } id
        ? Facts.NameOf(await bench.Db.Pairings.AsNoTracking().Include(p => p.Filament).Include(p => p.Variant).Include(p => p.Toolhead!.Printer).FirstAsync(p => p.Id == id)) : "";

    private static string Where(TowerPlanV1 plan, CellEntry entry) => $"{(entry.Aspect == "observedC" ? "display" : entry.Aspect)} at {Words.N(plan.Sections[entry.Section].TemperatureC, 1)} °C";

    /// <summary>Conditions as they are most likely: the last run's on this printer, today's room.</summary>
    public async Task<RunConditions> PrefillConditionsAsync(Pairing p)
    {
        var last = await bench.Db.Runs.AsNoTracking().Where(r => r.Pairing!.Toolhead!.PrinterId == p.Toolhead!.PrinterId && r.ConditionsJson != null)
            .OrderByDescending(r => r.PrintedAt).Select(r => new { r.ConditionsJson, r.PairingId }).FirstOrDefaultAsync();
        var before = last is null ? new RunConditions() : Json.Read<RunConditions>(last.ConditionsJson!);
        var room = await bench.RoomAsync();
        var spools = await bench.Db.Spools.AsNoTracking().Include(s => s.Dryings).Where(s => s.FilamentId == p.FilamentId && s.RemovedAt == null && s.World == p.World).ToListAsync();
        var spool = spools.FirstOrDefault(s => s.Id == before.SpoolId) ?? spools.FirstOrDefault(s => p.VariantId is not null && s.VariantId == p.VariantId) ?? spools.FirstOrDefault();
        var fresh = room is not null && bench.Now - room.At < TimeSpan.FromDays(1);
        return before with
        {
            SpoolId = spool?.Id,
            SpoolName = spool?.Name,
            Dryness = spool is null ? null : Facts.Dryness(spool, p.Filament!.Family, room?.HumidityPercent ?? 50, bench.Now).Text,
            RoomC = fresh ? room!.TemperatureC : before.RoomC,
            HumidityPercent = fresh ? room!.HumidityPercent : before.HumidityPercent,
            Firmware = before.Firmware ?? p.Toolhead!.Printer!.Firmware,
            HardwareRevision = await bench.Db.Parts.CountAsync(x => x.PrinterId == p.Toolhead!.PrinterId && x.RemovedAt == null),
        };
    }

    /// <summary>What differs from the run before on the same pairing; null where there is none.</summary>
    public async Task<(int Number, IReadOnlyList<string> Differences)?> DiffersAsync(TowerRunView v)
    {
        var before = await bench.Db.Runs.AsNoTracking().Where(r => r.PairingId == v.Run.PairingId && r.Number < v.Run.Number && r.ConditionsJson != null && r.RemovedAt == null && r.Kind == v.Run.Kind)
            .OrderByDescending(r => r.Number).Select(r => new { r.Number, r.ConditionsJson, r.SettingsJson }).FirstOrDefaultAsync();
        if (before is null)
            return null;
        var list = Attribution.Differences(v.Conditions, Json.Read<RunConditions>(before.ConditionsJson!)).ToList();
        if (before.SettingsJson is not null && v.Run.SettingsJson is not null)
        {
            var a = Json.Read<Dictionary<string, double>>(before.SettingsJson);
            var b = Json.Read<Dictionary<string, double>>(v.Run.SettingsJson);
            list.AddRange(b.Where(s => s.Key != "nozzleTemperatureC" && a.TryGetValue(s.Key, out var x) && Math.Abs(x - s.Value) > 1e-9)
                .Select(s => SettingRegistry.Find(s.Key)?.Label.ToLowerInvariant() ?? s.Key));
        }

        return (before.Number, list);
    }

    /// <summary>Keeps a value in the profile: a revision linked to the run, and what the move makes doubtful.</summary>
    public async Task<Decision> KeepAsync(TowerRunView v, double value, double? uncertainty, bool ownChoice, string? why)
    {
        var person = await bench.PersonAsync();
        return await bench.AloneAsync(async () =>
        {
            var latest = await profiles.LatestAsync(v.Pairing.Id);
            var settings = latest?.Settings.Select(s => s.ToCore()).ToList() ?? [];
            var before = settings.FirstOrDefault(s => s.Key == "nozzleTemperatureC");
            var (state, stateWhy) = ProfileRules.StateOfKept(before, value, uncertainty, v.Run.Id, ownChoice);
            var kept = new ProfileSetting("nozzleTemperatureC", SettingRegistry.Get("nozzleTemperatureC").Round(value), uncertainty, SettingOrigin.Run,
                $"temperature tower {v.Run.Number}, {Words.ShortDay(v.Run.PrintedAt ?? bench.Now)}", state, stateWhy, v.Run.Id);
            var moved = before is { State: not SettingState.Start } ? AgeingRules.AfterTemperature(before.Value, value) : [];
            var next = ProfileRules.MarkDoubtful(settings.Where(s => s.Key != kept.Key), [.. moved], $"nozzle temperature moved from {Words.N(before?.Value)} to {Words.N(value)} °C");
            var decision = new Decision
            {
                RunId = v.Run.Id,
                At = bench.Now,
                PersonId = person.Id,
                Choice = ownChoice ? "own choice" : "kept",
                SettingKey = kept.Key,
                Value = value,
                Why = why,
                VerdictJson = Json.Write(v.Verdict),
                ReadingIdsJson = Json.Write(v.ReadingIds),
                EngineVersion = EngineVersion,
                Seed = v.Run.Seed,
            };
            var revision = await profiles.AddRevisionAsync(v.Pairing.Id, [kept, .. next], $"Kept {Words.N(value)} °C from temperature tower {v.Run.Number}{(why is null ? "" : $": {why}")}", v.Run.Id, decision.Id);
            decision.RevisionId = revision.Id;
            bench.Db.Decisions.Add(decision);
            v.Run.Stage = RunStages.Decided;
            v.Run.DecidedAt = bench.Now;
            v.Run.ReadAt ??= bench.Now;
            bench.Touch(v.Run);
            await bench.LogAsync("profile", $"Kept {Words.N(value)} °C for {Facts.NameOf(v.Pairing)}{(ownChoice ? $", own choice: {why}" : "")}", $"/pairings/{v.Pairing.Id}", $"keep:{decision.Id}");
            await bench.Db.SaveChangesAsync();
            return decision;
        });
    }

    /// <summary>Leaves the profile as it is.</summary>
    public async Task<Decision> LeaveAsync(TowerRunView v, string? why)
    {
        var person = await bench.PersonAsync();
        var decision = new Decision
        {
            RunId = v.Run.Id,
            At = bench.Now,
            PersonId = person.Id,
            Choice = "left",
            Why = why,
            VerdictJson = Json.Write(v.Verdict),
            ReadingIdsJson = Json.Write(v.ReadingIds),
            EngineVersion = EngineVersion,
            Seed = v.Run.Seed,
        };
        bench.Db.Decisions.Add(decision);
        v.Run.Stage = RunStages.Left;
        v.Run.DecidedAt = bench.Now;
        bench.Touch(v.Run);
        await bench.LogAsync("run", $"Temperature tower {v.Run.Number} left without keeping: {Facts.NameOf(v.Pairing)}", $"/runs/{v.Run.Id}", $"keep:{decision.Id}");
        await bench.SaveAsync();
        return decision;
    }
}
