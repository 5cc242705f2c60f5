using System.Text.Json;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pictures;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Gcode;
using Glenfrost.Application.Photos;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>
/// Replays the demo's year from open files through the same services that the pages use, on a clock that stands where each
/// event happened. Days count back from today.
/// </summary>
public sealed class DemoLoader(GlenfrostDb db, WriteGate gate, TimeProvider clock, DataPlace place)
{
    private sealed class PastClock(DateTimeOffset now) : TimeProvider
    {
        public DateTimeOffset At { get; set; } = now;

        public override DateTimeOffset GetUtcNow() => At;
    }

    /// <summary>Is told what the simulated bench says of each tower that comes from it; null where the year is only replayed.</summary>
    public Action<JsonElement, Simulated.DemoTower>? Benched { get; set; }

    private readonly PastClock past = new(clock.GetUtcNow());
    private Bench bench = null!;
    private int runsSoFar;
    private Profiles profiles = null!;
    private TrialRuns runs = null!;
    private PlanRuns plans = null!;
    private PrintReports reports = null!;
    private Decisions decisions = null!;
    private MachineBook machines = null!;
    private Pieces pieces = null!;
    private readonly AnswerCache answers = new();

    /// <summary>Loads the files of a folder: filaments.json, printers.json, year.json.</summary>
    /// <exception cref="InvalidDataException">A file is missing or can't be read.</exception>
    public async Task LoadAsync(string folder)
    {
        bench = new Bench(db, gate, past);
        profiles = new Profiles(bench);
        pieces = new Pieces(bench, profiles, place, answers);
        var factors = new FactorBook(bench, place);
        runs = new TrialRuns(bench, new ScoreNoises(db), factors, answers);
        plans = new PlanRuns(bench, pieces);
        reports = new PrintReports(bench, factors);
        decisions = new Decisions(bench, profiles);
        machines = new MachineBook(bench, profiles, decisions);
        Go(330);
        (await bench.PersonAsync()).Name = "Isla";
        foreach (var f in Events(folder, "filaments.json"))
            await FilamentAsync(f);
        foreach (var p in Events(folder, "printers.json"))
            await PrinterAsync(p);
        db.Dryers.Add(new Dryer { Name = "Left bay", MaxC = 80, ChangedAt = bench.Now });
        var calliper = new Instrument { Name = "Calliper", Kind = "calliper", ChangedAt = bench.Now };
        calliper.Revisions.Add(new InstrumentRevision { Number = 1, FromAt = bench.Now, Resolution = 0.01, Unit = "mm" });
        db.Instruments.Add(calliper);
        await bench.SaveAsync();
        foreach (var e in Events(folder, "year.json").OrderByDescending(e => e.GetProperty("daysAgo").GetInt32()))
            await EventAsync(e);
        await FilesAsync(Path.Combine(folder, "gcode"));
    }

    /// <summary>Two sliced files for the G-code room, one of them stepped there.</summary>
    private async Task FilesAsync(string folder)
    {
        if (!Directory.Exists(folder))
            return;
        Go(3);
        var room = new GcodeRoom(bench, profiles, pieces, place, answers);
        var pairing = (await db.Pairings.AsNoTracking().Full().ToListAsync()).OrderBy(p => p.Id)
            .FirstOrDefault(p => p.Toolhead!.Printer!.Name.StartsWith("Dunnock", StringComparison.Ordinal));
        foreach (var path in Directory.EnumerateFiles(folder, "*.gcode").Order(StringComparer.Ordinal))
        {
            var file = await room.KeepAsync(Path.GetFileName(path), path, pairing?.Id);
            if (file.Name.Contains("tower", StringComparison.Ordinal))
                await room.StepAsync(
                    await room.InspectAsync(file), new() { What = "temperature", From = 225, To = 195, By = 5, BaseLayers = 6, SectionLayers = 24 });
        }
    }

    private static IEnumerable<JsonElement> Events(string folder, string name)
    {
        var path = Path.Combine(folder, name);
        try
        {
            return [.. JsonDocument.Parse(File.ReadAllText(path)).RootElement.EnumerateArray()];
        }
        catch (Exception e) when (e is JsonException or FileNotFoundException or DirectoryNotFoundException)
        {
            throw new InvalidDataException($"the demo file {path} can't be read: {e.Message}");
        }
    }

    private void Go(double daysAgo, int hour = 9) =>
        past.At = daysAgo == 0 ? clock.GetUtcNow() : new DateTimeOffset(clock.GetUtcNow().UtcDateTime.Date.AddDays(-daysAgo).AddHours(hour), TimeSpan.Zero);

    private DateTime Ago(double days) => clock.GetUtcNow().UtcDateTime.Date.AddDays(-days).AddHours(8);

    private static double? Num(JsonElement e, string name) => e.TryGetProperty(name, out var v) ? v.GetDouble() : null;

    private static string? Str(JsonElement e, string name) => e.TryGetProperty(name, out var v) ? v.GetString() : null;

    private async Task FilamentAsync(JsonElement e)
    {
        var family = Str(e, "family")!;
        var f = new Filament
        {
            Maker = Str(e, "maker")!,
            Line = Str(e, "line")!,
            Family = family,
            Additive = Str(e, "additive"),
            ChangedAt = bench.Now,
            Currency = "EUR",
            PriceMinor = (long)Math.Round(Num(e, "price")!.Value * 100),
            NetMassUg = (long)(Num(e, "netMassG")!.Value * 1e6),
            SolidDensityGPerCm3 = Num(e, "density") ?? Family.Find(family)?.DensityGPerCm3,
        };
        if (e.TryGetProperty("drying", out var d))
            (f.DryingC, f.DryingHours) = (d[0].GetDouble(), d[1].GetDouble());
        foreach (var s in e.GetProperty("sources").EnumerateArray())
            f.Sources.Add(
                new FilamentSource
                {
                    Kind = Str(s, "kind")!, Note = Str(s, "note"), NozzleMinC = s.GetProperty("nozzle")[0].GetDouble(),
                    NozzleMaxC = s.GetProperty("nozzle")[1].GetDouble(), BedMinC = s.GetProperty("bed")[0].GetDouble(),
                    BedMaxC = s.GetProperty("bed")[1].GetDouble(),
                });
        foreach (var c in e.GetProperty("colours").EnumerateArray())
            f.Variants.Add(new FilamentVariant { Colour = c.GetString()! });
        foreach (var s in e.GetProperty("spools").EnumerateArray())
        {
            var spool = new Spool
            {
                Name = Str(s, "name")!, Lot = Str(s, "lot"), Stored = Str(s, "stored"), ChangedAt = bench.Now,
                Variant = f.Variants.FirstOrDefault(v => v.Colour == Str(s, "colour")),
            };
            if (Num(s, "openedDaysAgo") is { } opened)
                spool.OpenedAt = Ago(opened);
            if (Num(s, "reelG") is { } reel)
                spool.ReelMassUg = (long)(reel * 1e6);
            if (Num(s, "weighG") is { } g)
                spool.Weighings.Add(new SpoolWeighing { At = Ago(2), MassUg = (long)(g * 1e6), Entered = Words.N(g) });
            if (Num(s, "driedDaysAgo") is { } dried)
                spool.Dryings.Add(new DryingEntry { StartAt = Ago(dried), TemperatureC = f.DryingC ?? 45, Hours = f.DryingHours ?? 6, Note = "left bay" });
            if (s.TryGetProperty("diameters", out var mm))
                spool.Diameters.AddRange(
                    mm.EnumerateArray()
                        .Select((x, i) => new SpoolDiameter { At = Ago(50), Place = i / 2 + 1, Direction = i % 2 + 1, Mm = x.GetDouble() }));
            f.Spools.Add(spool);
        }

        db.Filaments.Add(f);
        await bench.LogAsync("filament", $"{f.Name} registered", $"/filaments/{f.Id}");
    }

    private async Task PrinterAsync(JsonElement e)
    {
        var p = PrinterOf(e);
        p.ChangedAt = bench.Now;
        foreach (var (t, j) in p.Toolheads.Zip(e.GetProperty("toolheads").EnumerateArray()))
            (t.ChangedAt, t.FeedCheckedAt) = (bench.Now, Ago(Num(j, "feedCheckedDaysAgo")!.Value));
        db.Printers.Add(p);
        foreach (var t in p.Toolheads)
            await machines.TypedAsync(t, null);
        await bench.LogAsync("printer", $"{p.Name} added", $"/printers/{p.Id}");
    }

    /// <summary>A printer as it stands in the demo's file.</summary>
    public static Printer PrinterOf(JsonElement e)
    {
        var bed = e.GetProperty("bed");
        var p = new Printer
        {
            Name = Str(e, "name")!,
            Maker = Str(e, "maker"),
            Enclosure = Str(e, "enclosure")!,
            BedXMm = bed[0].GetDouble(),
            BedYMm = bed[1].GetDouble(),
            HeightMm = bed[2].GetDouble(),
            BedMaxC = Num(e, "bedMaxC")!.Value,
            BedSurface = Str(e, "surface"),
            MaxSpeedMmPerS = Num(e, "speed")!.Value,
            MaxAccelerationMmPerS2 = Num(e, "acceleration")!.Value,
            Dialect = Str(e, "dialect")!,
            Firmware = Str(e, "firmware"),
            ChamberMaxC = Num(e, "chamberMaxC") ?? 0,
            StartCode = Str(e, "startCode"),
            EndCode = Str(e, "endCode"),
        };
        foreach (var t in e.GetProperty("toolheads").EnumerateArray())
        {
            var nozzle = t.GetProperty("nozzle");
            p.Toolheads.Add(new Toolhead
            {
                Name = Str(t, "name") ?? "",
                Drive = Str(t, "drive")!,
                TubeLengthMm = Num(t, "tubeMm"),
                StepsPerMm = Num(t, "steps"),
                RotationDistanceMm = Num(t, "rotationMm"),
                Liner = Str(t, "liner")!,
                HeaterMaxC = Num(t, "heaterMaxC")!.Value,
                OvershootC = Num(t, "overshootC") ?? 3,
                NozzleDiameterMm = nozzle[0].GetDouble(),
                NozzleFlow = nozzle[1].GetString()!,
                NozzleMaterial = nozzle[2].GetString()!,
                PartFan = Str(t, "fan"),
            });
        }

        return p;
    }

    private async Task EventAsync(JsonElement e)
    {
        Go(e.GetProperty("daysAgo").GetInt32());
        db.ChangeTracker.Clear();
        if (e.TryGetProperty("pair", out var pair))
            await PairAsync(e, pair);
        else if (e.TryGetProperty("tower", out var tower))
            await TowerAsync(e, await FindAsync(tower));
        else if (e.TryGetProperty("run", out var kind))
            await RunAsync(e, TrialCatalogue.Get(kind.GetString()!));
        else if (e.TryGetProperty("check", out var check))
            await CheckAsync(e, check);
        else if (e.TryGetProperty("tried", out var tried))
        {
            var p = await FindAsync(tried);
            await new Findings(bench).AddAsync(
                "", FindingWords.Tried(Str(e, "outcome")!), Str(e, "what"), null, p.Id, null, null, Facts.NameOf(p), $"/pairings/{p.Id}#findings");
        }
        else if (e.TryGetProperty("known", out var known))
        {
            var p = await FindAsync(known);
            var (key, value) = (Str(e, "key")!, Num(e, "value")!.Value);
            await new Findings(bench).AddAsync(
                "", Findings.KnownGood, Str(e, "note"), null, p.Id, null, null,
                $"{SettingRegistry.Get(key).Label.InSentence()} {Words.Value(key, value)}, {Facts.NameOf(p)}", $"/pairings/{p.Id}#findings",
                (key, value, Num(e, "atC")));
        }
        else if (e.TryGetProperty("set", out var set))
            await SetAsync(e, await FindAsync(set));
        else if (e.TryGetProperty("fit", out var fit))
            await FitAsync(e, fit);
        else if (Num(e, "roomC") is { } c)
        {
            db.Room.Add(new RoomEntry { At = bench.Now, TemperatureC = c, HumidityPercent = Num(e, "humidity") });
            await bench.LogAsync("room", $"Room {Words.N(c, 1)} °C, {Words.N(Num(e, "humidity"), 0)} %RH", "/room");
            await bench.SaveAsync();
        }
    }

    private async Task<Pairing> FindAsync(JsonElement names)
    {
        var all = await db.Pairings.AsNoTracking().Full().ToListAsync();
        return all.First(p => p.Filament!.Line == names[0].GetString() && p.Toolhead!.FullName == names[1].GetString());
    }

    private async Task PairAsync(JsonElement e, JsonElement names)
    {
        var filament = await db.Filaments.AsNoTracking().Include(f => f.Sources).FirstAsync(f => f.Line == names[0].GetString());
        var heads = await db.Toolheads.AsNoTracking().Include(t => t.Printer).ToListAsync();
        var head = heads.First(t => t.FullName == names[1].GetString());
        var p = new Pairing
        {
            FilamentId = filament.Id, ToolheadId = head.Id, NozzleDiameterMm = head.NozzleDiameterMm, NozzleFlow = head.NozzleFlow,
            Use = Str(e, "use") ?? "balanced", CreatedAt = bench.Now, ChangedAt = bench.Now,
        };
        (p.Filament, p.Toolhead) = (filament, head);
        var settings = Profiles.Starting(p, []);
        var why = "Started from label and family";
        var name = Facts.NameOf(p);
        if (e.TryGetProperty("from", out var from))
        {
            var source = await FindAsync(from);
            p.CopiedFromId = source.Id;
            var latest = await profiles.LatestAsync(source.Id);
            settings = Profiles.Copied(settings, latest!, p, source);
            why = $"Started from {Facts.NameOf(source)}";
        }

        (p.Filament, p.Toolhead) = (null, null);
        db.Pairings.Add(p);
        await profiles.BeginAsync(p, settings, why);
        await bench.LogAsync("pairing", $"{name} paired: {char.ToLowerInvariant(why[0])}{why[1..]}", $"/pairings/{p.Id}");
        await bench.SaveAsync();
    }

    private async Task SetAsync(JsonElement e, Pairing p)
    {
        var why = Str(e, "why")!;
        var typed = e.GetProperty("values").EnumerateObject()
            .Select(v => new ProfileSetting(v.Name, v.Value.GetDouble(), null, SettingOrigin.Typed, $"typed: {why}", SettingState.Start)).ToList();
        await profiles.TypeAsync(p.Id, typed, $"Typed: {why}", "passed the verification print");
        await bench.LogAsync(
            "profile", $"{string.Join(", ", typed.Select(t => SettingRegistry.Get(t.Key).Label.InSentence()))} typed for {Facts.NameOf(p)}",
            $"/pairings/{p.Id}");
        await bench.SaveAsync();
    }

    private async Task FitAsync(JsonElement e, JsonElement fit)
    {
        var printer = await db.Printers.AsNoTracking().Include(p => p.Toolheads).FirstAsync(p => p.Name == fit[0].GetString());
        await profiles.FitAsync(new Part
        {
            PrinterId = printer.Id,
            ToolheadId = printer.Toolheads.First(t => t.Name == fit[1].GetString()).Id,
            Slot = fit[2].GetString()!,
            Description = fit[3].GetString()!,
            FittedAt = bench.Now,
            Why = Str(e, "why"),
            PersonId = (await bench.PersonAsync()).Id,
        }, printer.Name);
    }

    /// <summary>A dated check of a printer or toolhead.</summary>
    private async Task CheckAsync(JsonElement e, JsonElement check)
    {
        var printer = await db.Printers.AsNoTracking().Include(p => p.Toolheads).FirstAsync(p => p.Name == check[0].GetString());
        var kind = Core.Equipment.CheckKind.Find(check[2].GetString())
            ?? throw new InvalidDataException($"the demo's check \"{check[2].GetString()}\" is not known");
        var head = kind.OnToolhead ? printer.Toolheads.First(t => t.Name == check[1].GetString()) : null;
        var values = e.TryGetProperty("values", out var v) ? v.EnumerateObject().ToDictionary(x => x.Name, x => x.Value.GetDouble()) : [];
        db.Checks.Add(
            new MachineCheck
            {
                PrinterId = printer.Id, ToolheadId = head?.Id, Kind = kind.Key, At = bench.Now, PersonId = (await bench.PersonAsync()).Id,
                ValuesJson = Json.Write(values), Note = Str(e, "note"), Passed = !e.TryGetProperty("bad", out _),
            });
        await bench.LogAsync(
            "printer", $"{kind.Label} checked on {(head is null ? printer.Name : $"{printer.Name} {head.Name}".TrimEnd())}", $"/printers/{printer.Id}/checks");
        await bench.SaveAsync();
    }

    /// <summary>A run of any trial: planned as proposed with what the file changes, read as it says, decided.</summary>
    private async Task RunAsync(JsonElement e, Trial trial)
    {
        var of = e.GetProperty("of");
        var pairing = trial.Subject == TrialSubject.Pairing ? await FindAsync(of) : null;
        var head = pairing?.Toolhead ?? (await db.Toolheads.AsNoTracking().Include(t => t.Printer).ToListAsync()).First(t => t.FullName == of[0].GetString());
        var context = await pieces.ContextAsync(trial, pairing, head);
        var values = trial.Propose(context);
        if (e.TryGetProperty("plan", out var changes))
        {
            if (changes.TryGetProperty("mode", out var mode))
                values = trial.InMode(mode.GetString()!, values, context);
            foreach (var c in changes.EnumerateObject())
                values[c.Name] = c.Value.ValueKind switch
                {
                    JsonValueKind.Number => c.Value.GetDecimal(),
                    JsonValueKind.String => c.Value.GetString()!,
                    _ => (object)c.Value.GetBoolean(),
                };
        }

        var (plan, errors) = trial.Plan(values, context);
        if (plan is null)
            throw new InvalidDataException($"the demo's {trial.Kind} can't be planned: {string.Join(" ", errors.Select(x => x.Message))}");
        (plan, var file, errors) = pieces.Make(trial, plan, context);
        if (file is null && plan.WritesFile)
            throw new InvalidDataException($"the demo's {trial.Kind} has no file: {string.Join(" ", errors.Select(x => x.Message))}");
        var (pairingId, headId) = (pairing?.Id, pairing is null ? head.Id : (Guid?)null);
        Guid? before = e.TryGetProperty("follows", out _)
            ? await db.Runs.Where(r => r.Kind == trial.Kind && r.PairingId == pairingId && r.ToolheadId == headId).OrderByDescending(r => r.CreatedAt)
                .Select(r => (Guid?)r.Id).FirstOrDefaultAsync()
            : null;
        var run = await plans.CreateAsync(trial, pairing, head, plan, file, before);
        run.Seed = 1000 + ++runsSoFar;
        await bench.SaveAsync();
        if (Read is not null && e.TryGetProperty("bench", out _))
            Read(
                e,
                Simulated.DemoBench.Read(trial, pairing, head, plan, pieces.Text(file!), e, await db.Toolheads.CountAsync(t => t.PrinterId == head.PrinterId)));
        if (e.TryGetProperty("plannedOnly", out _))
            return;
        past.At = past.At.AddMinutes(plan.Estimate.Minutes + 20);
        await reports.ReportAsync((await runs.LoadAsync(run.Id))!, new("whole", null, (int?)Num(e, "minutes"), null, true), await ConditionsAsync(e));
        past.At = past.At.AddMinutes(30);
        var person = (await bench.PersonAsync()).Id;
        var grid = trial.Grid(plan);
        var n = 0;
        if (e.TryGetProperty("cells", out var cells))
        {
            foreach (var section in cells.EnumerateObject())
            {
                foreach (var cell in section.Value.EnumerateObject())
                {
                    var (value, text, wrong) = grid.Parse(
                        cell.Name, cell.Value.ValueKind == JsonValueKind.Number ? cell.Value.GetRawText() : cell.Value.GetString()!);
                    if (wrong is not null)
                        throw new InvalidDataException($"the demo's {trial.Kind}: {wrong}");
                    db.Readings.Add(
                        new Reading
                        {
                            RunId = run.Id, Key = Guid.CreateVersion7().ToString(),
                            Section = int.Parse(section.Name, System.Globalization.CultureInfo.InvariantCulture), Aspect = cell.Name, Value = value,
                            Entered = text, Resolution = grid.Column(cell.Name)?.Resolution, At = bench.Now.AddSeconds(3 * n++), PersonId = person,
                        });
                }
            }
        }

        await bench.LogCountAsync("reading", $"/runs/{run.Id}", n, k => $"{Words.Plural(k, "reading")} on {Words.Lower(trial.Name)} {run.Number}");
        var decided = e.TryGetProperty("decide", out var decide);
        if (decided || e.TryGetProperty("read", out _))
            (run.Stage, run.ReadAt) = (RunStages.Read, bench.Now);
        await bench.SaveAsync();
        if (!decided)
            return;
        past.At = past.At.AddMinutes(5);
        db.ChangeTracker.Clear();
        var view = (await runs.LoadAsync(run.Id))!;
        if (decide.GetString() == "leave")
            await decisions.LeaveAsync(view, null);
        else if (trial.Finding(view.Verdict) is { } finding)
            await decisions.SayAsync(view, finding);
        else if (pairing is null)
            await machines.KeepFeedAsync(
                view,
                trial.MachineValue(plan, view.Verdict) ?? throw new InvalidDataException($"the demo's {trial.Kind} settles nothing: {view.Verdict.Sentence}"));
        else
            await decisions.KeepAsync(
                view, view.Verdict.Settings.Count > 0
                    ? view.Verdict.Settings
                    : throw new InvalidDataException($"the demo's {trial.Kind} settles nothing: {view.Verdict.Sentence}"),
                false, null);
    }

    /// <summary>What the file says that a person noted of a print: spool, dryness, room, slicer.</summary>
    private async Task<Dictionary<string, FactorValue>> ConditionsAsync(JsonElement e)
    {
        var room = e.GetProperty("room");
        var typed = new Dictionary<string, FactorValue>
        {
            [FactorRegistry.RoomC] = FactorValue.Of(room[0].GetDouble(), FactorSource.Typed),
            [FactorRegistry.HumidityPercent] = FactorValue.Of(room[1].GetDouble(), FactorSource.Typed),
            [FactorRegistry.Dryness] = FactorValue.Of("dry", FactorSource.Typed),
        };
        var name = Str(e, "spool");
        if (await db.Spools.AsNoTracking().FirstOrDefaultAsync(s => s.Name == name) is { } spool)
            typed[FactorRegistry.Spool] = FactorValue.Of(spool.Id, spool.Name, FactorSource.Typed);
        if (Str(e, "slicer") is { } slicer)
            typed[FactorRegistry.Slicer] = FactorValue.Of(slicer, FactorSource.Typed);
        if (Num(e, "chamberC") is { } chamber)
            typed[FactorRegistry.ChamberC] = FactorValue.Of(chamber, FactorSource.Typed);
        return typed;
    }

    /// <summary>Is told what the simulated bench reads in each run that comes from it; null where the year is only replayed.</summary>
    public Action<JsonElement, IReadOnlyDictionary<string, Dictionary<string, object>>>? Read { get; set; }

    /// <summary>Drawn photos of the scored sections, through the same door as a camera's.</summary>
    private async Task PhotosAsync(JsonElement e, TowerPlan plan, Run run)
    {
        var book = new PhotoBook(bench, place);
        Directory.CreateDirectory(place.IncomingFolder);
        var drawn = new List<(int Section, Task<byte[]> Png)>();
        foreach (var section in plan.Sections)
        {
            if (!e.GetProperty("scores").TryGetProperty(Words.N(section.TemperatureC), out var scores) || scores.ValueKind != JsonValueKind.Array)
                continue;
            var given = Aspects.All.Select((a, k) => (a, s: scores[k])).Where(x => x.s.ValueKind == JsonValueKind.Number)
                .ToDictionary(x => x.a, x => x.s.GetDouble());
            // The next ones are drawn while one is being kept.
            drawn.Add((section.Index, Task.Run(() => SectionPicture.Png(Eyes.LookOf(given), (ulong)(run.Seed * 31 + section.Index)))));
        }

        foreach (var (section, png) in drawn)
        {
            var path = Path.Combine(place.IncomingFolder, $"{Guid.NewGuid():N}.part");
            await File.WriteAllBytesAsync(path, await png);
            await book.AddAsync(run, section, $"demo-{run.Id}-{section}", new("photo", "section.png", path, 0, false));
            File.Delete(path);
        }
    }

    private async Task TowerAsync(JsonElement e, Pairing p)
    {
        var trial = TrialCatalogue.Get(TemperatureTowerTrial.Word);
        var context = Pieces.LightContext(p);
        var request = TemperatureTowerTrial.ProposeRequest(context) with
        {
            HottestC = (decimal)Num(e, "hot")!,
            CoolestC = (decimal)Num(e, "cool")!,
            StepC = (decimal)Num(e, "step")!,
        };
        var plan = TowerPlanning.Plan(request).Plan ?? throw new InvalidDataException($"the demo's tower of {Facts.NameOf(p)} can't be planned");
        var planned = e.TryGetProperty("plannedOnly", out _);
        TrialFile? file = null;
        if (planned)
        {
            (var made, file, _) = await pieces.MakeAsync(trial, plan, p, p.Toolhead!);
            plan = (TowerPlan)made;
        }

        if (Benched is not null && e.TryGetProperty("bench", out _))
        {
            var (timed, made, _) = await pieces.MakeAsync(trial, plan, p, p.Toolhead!);
            Benched(
                e,
                Simulated.DemoBench.Print(
                    p, (TowerPlan)timed, made!.Job!, pieces.Text(made), e, await db.Toolheads.CountAsync(t => t.PrinterId == p.Toolhead!.PrinterId)));
        }

        // What was printed in this year was sliced by hand; files are made for what is still to be printed.
        var run = await plans.CreateAsync(trial, p, p.Toolhead!, plan, file);
        run.Seed = 1000 + ++runsSoFar;
        await bench.SaveAsync();
        if (planned)
            return;
        past.At = past.At.AddMinutes(Num(e, "minutes")!.Value + 20);
        var layer = (int?)Num(e, "endedAtLayer");
        var room = e.GetProperty("room");
        db.Room.Add(new RoomEntry { At = bench.Now, TemperatureC = room[0].GetDouble(), HumidityPercent = room[1].GetDouble() });
        await bench.SaveAsync();
        await reports.ReportAsync(
            (await runs.LoadAsync(run.Id))!, new(layer is null ? "whole" : "ended early", layer, (int)Num(e, "minutes")!, Num(e, "massG"), true),
            await ConditionsAsync(e));
        past.At = past.At.AddMinutes(45);
        var person = (await bench.PersonAsync()).Id;
        foreach (var (section, i) in plan.Sections.Select((s, i) => (s, i)))
        {
            if (!e.GetProperty("scores").TryGetProperty(Words.N(section.TemperatureC), out var scores))
                continue;
            if (scores.ValueKind == JsonValueKind.String)
            {
                Add(i, "state", null, scores.GetString()!);
                continue;
            }

            foreach (var (aspect, k) in Aspects.All.Select((a, k) => (a, k)))
            {
                if (scores[k].ValueKind == JsonValueKind.Number)
                    Add(i, aspect, scores[k].GetDouble(), Words.N(scores[k].GetDouble()));
            }
        }

        await bench.LogCountAsync("reading", $"/runs/{run.Id}", db.ChangeTracker.Entries<Reading>().Count(r => r.State == EntityState.Added), n =>
            $"{Words.Plural(n, "reading")} on temperature tower {run.Number}: {Facts.NameOf(p)}");
        if (e.TryGetProperty("findings", out var findings))
        {
            foreach (var f in findings.EnumerateObject())
            {
                var parts = f.Value.GetString()!.Split(": ", 2);
                db.Findings.Add(
                    new Finding
                    {
                        RunId = run.Id, PairingId = p.Id, Section = plan.Sections.First(s => Words.N(s.TemperatureC) == f.Name).Index, Tag = parts[0],
                        Text = parts.ElementAtOrDefault(1), At = bench.Now, PersonId = person,
                    });
                await bench.LogAsync(
                    "finding", $"{f.Value.GetString()} · temperature tower {run.Number}, {f.Name} °C: {Facts.NameOf(p)}", $"/runs/{run.Id}?open=read#findings");
            }
        }

        var decided = e.TryGetProperty("decide", out var decide);
        if (decided || e.TryGetProperty("read", out _))
        {
            (run.Stage, run.ReadAt) = (RunStages.Read, bench.Now);
            await bench.LogAsync("run", $"Temperature tower {run.Number} read: {Facts.NameOf(p)}", $"/runs/{run.Id}");
        }

        await bench.SaveAsync();
        if (e.TryGetProperty("photos", out _))
            await PhotosAsync(e, plan, run);
        if (!decided)
            return;
        past.At = past.At.AddMinutes(5);
        db.ChangeTracker.Clear();
        var v = (await runs.LoadAsync(run.Id))!;
        if (decide.ValueKind == JsonValueKind.Object)
            await decisions.KeepAsync(v, [new("nozzleTemperatureC", decide.GetProperty("own").GetDouble(), 0)], true, Str(decide, "why"));
        else
            await decisions.KeepAsync(v, v.Verdict.Settings, false, null);

        void Add(int section, string aspect, double? value, string entered) =>
            db.Readings.Add(
                new Reading
                {
                    RunId = run.Id, Key = Guid.CreateVersion7().ToString(), Section = section, Aspect = aspect, Value = value, Entered = entered,
                    At = bench.Now.AddSeconds(section * 3), PersonId = person,
                });
    }
}
