using System.Text.Json;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
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
public sealed partial class DemoLoader(GlenfrostDb db, WriteGate gate, TimeProvider clock, DataPlace place)
{
    private sealed class PastClock(DateTimeOffset now) : TimeProvider
    {
        public DateTimeOffset At { get; set; } = now;

        public override DateTimeOffset GetUtcNow() => At;
    }

    private readonly PastClock past = new(clock.GetUtcNow());
    private WorkContext work = null!;
    private int runsSoFar;
    private Profiles profiles = null!;
    private TrialRuns runs = null!;
    private PlanRuns plans = null!;
    private PrintReports reports = null!;
    private Decisions decisions = null!;
    private MachineBook machines = null!;
    private Pieces pieces = null!;
    private ReadingStore store = null!;
    private Findings findings = null!;
    private readonly List<(double DaysAgo, Func<Task> Do)> later = [];
    private readonly Dryer leftBay = new() { Name = "Left bay", MaxC = 80, PowerW = 85 };
    private string gcodeFolder = "";
    private readonly AnswerCache answers = new();
    private readonly List<(DateTimeOffset At, Run Run, int Section, Task<ReadyPicture> Picture)> photos = [];
    private Task lastDrawn = Task.CompletedTask;

    /// <summary>Loads the files of a folder: filaments.json, printers.json, year.json.</summary>
    /// <exception cref="InvalidDataException">A file is missing or can't be read.</exception>
    public async Task LoadAsync(string folder)
    {
        work = new WorkContext(db, gate, past);
        profiles = new Profiles(work);
        pieces = new Pieces(work, profiles, place, answers);
        var factors = new FactorBook(work, place);
        runs = new TrialRuns(work, new ScoreNoises(db), factors, answers, new(gate));
        plans = new PlanRuns(work, pieces);
        reports = new PrintReports(work, factors);
        decisions = new Decisions(work, profiles);
        machines = new MachineBook(work, profiles, decisions);
        store = new ReadingStore(work, new(clock));
        findings = new Findings(work);
        gcodeFolder = Path.Combine(folder, "gcode");
        Go(330);
        (await work.PersonAsync()).Name = "Isla";
        foreach (var f in Events(folder, "filaments.json"))
            await FilamentAsync(f);
        foreach (var p in Events(folder, "printers.json"))
            await PrinterAsync(p);
        leftBay.ChangedAt = work.Now;
        db.Dryers.Add(leftBay);
        await work.SaveAsync();
        await new Instruments(work).RevisionAsync("Calliper", "calliper", 0.01, "mm");
        // What is done with spools stands in the files of the spools, each thing on its day.
        var events = Events(folder, "year.json").Select(e => ((double)e.GetProperty("daysAgo").GetInt32(), (Func<Task>)(() => EventAsync(e))));
        foreach (var (daysAgo, act) in later.Concat(events).OrderByDescending(x => x.Item1))
        {
            Go(daysAgo);
            db.ChangeTracker.Clear();
            await act();
        }

        await KeepPhotosAsync();
        await FilesAsync(gcodeFolder);
    }

    /// <summary>Two sliced files for the G-code room, one of them stepped there.</summary>
    private async Task FilesAsync(string folder)
    {
        if (!Directory.Exists(folder))
            return;
        Go(3);
        var room = new GcodeRoom(work, profiles, pieces, place, answers);
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

    private async Task EventAsync(JsonElement e)
    {
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
            await findings.AddAsync(
                "", FindingWords.Tried(Str(e, "outcome")!), Str(e, "what"), null, p.Id, null, null, Facts.NameOf(p), $"/pairings/{p.Id}#findings");
        }
        else if (e.TryGetProperty("known", out var known))
        {
            var p = await FindAsync(known);
            var (key, value) = (Str(e, "key")!, Num(e, "value")!.Value);
            await findings.AddAsync(
                "", Findings.KnownGood, Str(e, "note"), null, p.Id, null, null,
                $"{SettingRegistry.Get(key).Label.InSentence()} {Words.Value(key, value)}, {Facts.NameOf(p)}", $"/pairings/{p.Id}#findings",
                (key, value, Num(e, "atC")));
        }
        else if (e.TryGetProperty("set", out var set))
            await SetAsync(e, await FindAsync(set));
        else if (e.TryGetProperty("tier", out var tier))
        {
            var p = await FindAsync(tier);
            foreach (var v in e.GetProperty("values").EnumerateObject())
                await new TierBook(work).SetAsync(p.Id, Str(e, "name")!, new(v.Name, v.Value.GetDouble()));
        }
        else if (e.TryGetProperty("fit", out var fit))
            await FitAsync(e, fit);
        else if (Num(e, "roomC") is { } c)
            await new RoomBook(work, new()).LogAsync(c, Num(e, "humidity"));
    }
}
