using System.Text.Json;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pictures;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Photos;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <content>Runs: planned, printed, read and decided as a tester would.</content>
public sealed partial class DemoLoader
{
    /// <summary>Is told what the simulated bench says of each tower that comes from it; null where the year is only replayed.</summary>
    public Action<JsonElement, Simulated.DemoTower>? Benched { get; set; }

    /// <summary>Is told what the simulated bench reads in each run that comes from it; null where the year is only replayed.</summary>
    public Action<JsonElement, IReadOnlyDictionary<string, Dictionary<string, object>>>? Read { get; set; }

    /// <summary>A run of any trial: planned as proposed with what the file changes, read as it says, decided.</summary>
    private async Task RunAsync(JsonElement e, Trial trial)
    {
        var of = e.GetProperty("of");
        var pairing = trial.Subject == TrialSubject.Pairing ? await FindAsync(of) : null;
        var head = pairing?.Toolhead ?? (await db.Toolheads.AsNoTracking().Include(t => t.Printer).ToListAsync()).First(t => t.FullName == of[0].GetString());
        var own = Str(e, "ownFile") is { } named ? Own(named) : null;
        var (plan, file) = await PlannedAsync(e, trial, pairing, head, own);
        var (pairingId, headId) = (pairing?.Id, pairing is null ? head.Id : (Guid?)null);
        Guid? before = e.TryGetProperty("follows", out _)
            ? await db.Runs.Where(r => r.Kind == trial.Kind && r.PairingId == pairingId && r.ToolheadId == headId).OrderByDescending(r => r.CreatedAt)
                .Select(r => (Guid?)r.Id).FirstOrDefaultAsync()
            : null;
        // What is printed again elsewhere is a swap of the last of its kind there.
        if (e.TryGetProperty("swapOf", out var swapped))
        {
            var there = (await FindAsync(swapped)).Id;
            before = await db.Runs.Where(r => r.Kind == trial.Kind && r.PairingId == there).OrderByDescending(r => r.CreatedAt).Select(r => (Guid?)r.Id)
                .FirstAsync();
        }

        var link = swapped.ValueKind == JsonValueKind.Undefined ? "follows" : SameAgain.Link;
        var run = await CreateAsync(trial, pairing, head, plan, file, before, own?.File, link);
        if (Read is not null && e.TryGetProperty("bench", out _))
            Read(
                e,
                Simulated.DemoBench.Read(trial, pairing, head, plan, pieces.Text(file!), e, await db.Toolheads.CountAsync(t => t.PrinterId == head.PrinterId)));
        if (e.TryGetProperty("plannedOnly", out _))
            return;
        past.At = past.At.AddMinutes(plan.Estimate.Minutes + 20);
        // Who prints a file of somebody's own has no table that the display could follow.
        await reports.ReportAsync(
            (await runs.LoadAsync(run.Id))!, new("whole", null, (int?)Num(e, "minutes"), null, plan.HasOwnFile ? null : true), await ConditionsAsync(e));
        past.At = past.At.AddMinutes(30);
        if (e.TryGetProperty("cells", out var cells))
            await ReadAsync(
                run,
                cells.EnumerateObject().SelectMany(section => section.Value.EnumerateObject().Select(cell => (
                    int.Parse(section.Name, System.Globalization.CultureInfo.InvariantCulture), cell.Name,
                    cell.Value.ValueKind == JsonValueKind.Number ? cell.Value.GetRawText() : cell.Value.GetString()!))));
        if (await FinishedAsync(e, run) is not { } view)
        {
            await TalliedAsync(e, run);
            return;
        }

        var decide = e.GetProperty("decide");
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

    /// <summary>A sliced file of the demo as a run's own.</summary>
    private OwnFileOfRun Own(string name)
    {
        using var content = File.OpenRead(Path.Combine(gcodeFolder, name));
        var stored = place.Files.Put(content);
        content.Position = 0;
        var facts = OwnFile.Of(Inspector.Inspect(content, new() { Name = name })) ?? throw new InvalidDataException($"the demo's file {name} lays nothing");
        return new(facts, new() { Kind = "gcode", Name = name, Sha256 = stored.Sha256, Bytes = stored.Bytes });
    }

    /// <summary>Further prints of a part, one after the other: 1 for a good one, else what was wrong with it.</summary>
    private async Task TalliedAsync(JsonElement e, Run run)
    {
        if (!e.TryGetProperty("tally", out var presses))
            return;
        db.ChangeTracker.Clear();
        var (v, tally) = ((await runs.LoadAsync(run.Id))!, new TallyBook(findings, new(work)));
        foreach (var (p, i) in presses.EnumerateArray().Select((p, i) => (p, i)))
        {
            past.At = past.At.AddMinutes(40);
            await tally.PressAsync(v, p.ValueKind == JsonValueKind.Number, p.ValueKind == JsonValueKind.String ? p.GetString() : null, $"{run.Id}-{i}");
        }
    }

    /// <summary>The plan that a trial proposes, with what the file changes, and its G-code.</summary>
    private async Task<(ITrialPlan Plan, TrialFile? File)> PlannedAsync(JsonElement e, Trial trial, Pairing? pairing, Toolhead head, OwnFileOfRun? own)
    {
        var context = await pieces.ContextAsync(trial, pairing, head) with { OwnFile = own?.Facts };
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
        return file is null && plan.WritesFile
            ? throw new InvalidDataException($"the demo's {trial.Kind} has no file: {string.Join(" ", errors.Select(x => x.Message))}")
            : (plan, file);
    }

    /// <summary>A run with the seed of its place in the year, so that the year is the same each time.</summary>
    private async Task<Run> CreateAsync(
        Trial trial, Pairing? p, Toolhead head, ITrialPlan plan, TrialFile? file, Guid? before, RunFile? own = null, string link = "follows")
    {
        var run = await plans.CreateAsync(trial, p, head, plan, file, before, link, own);
        run.Seed = 1000 + ++runsSoFar;
        await work.SaveAsync();
        return run;
    }

    /// <summary>Stores readings through the door of all readings.</summary>
    private async Task ReadAsync(Run run, IEnumerable<(int Section, string Aspect, string Text)> read)
    {
        if (await store.StoreAllAsync(
                run, [.. read.Select(r => new CellEntry(Guid.CreateVersion7().ToString(), r.Section, r.Aspect, r.Text, null, null))], TimeSpan.FromSeconds(3))
            is { } wrong)
            throw new InvalidDataException($"the demo's {run.Kind} {run.Number}: {wrong}");
    }

    /// <summary>Says that a run is read where the file says so.</summary>
    /// <returns>The run, to be decided five minutes later; null where nobody decided.</returns>
    private async Task<TrialRunView?> FinishedAsync(JsonElement e, Run run)
    {
        var decided = e.TryGetProperty("decide", out _);
        if (!decided && !e.TryGetProperty("read", out _))
            return null;
        db.ChangeTracker.Clear();
        var view = (await runs.LoadAsync(run.Id))!;
        await decisions.FinishAsync(view);
        if (!decided)
            return null;
        past.At = past.At.AddMinutes(5);
        return view;
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

    /// <summary>Drawn photos of the scored sections: drawn beside what follows, and kept at the end through the same door as a camera's.</summary>
    private void Photograph(JsonElement e, TowerPlan plan, Run run)
    {
        foreach (var section in plan.Sections)
        {
            if (!e.GetProperty("scores").TryGetProperty(Words.N(section.TemperatureC), out var scores) || scores.ValueKind != JsonValueKind.Array)
                continue;
            var given = Aspects.All.Select((a, k) => (a, s: scores[k])).Where(x => x.s.ValueKind == JsonValueKind.Number)
                .ToDictionary(x => x.a, x => x.s.GetDouble());
            // One after the other, on one core: the year goes on beside it.
            var picture = DrawnAsync(lastDrawn, Eyes.LookOf(given), (ulong)(run.Seed * 31 + section.Index));
            lastDrawn = picture;
            photos.Add((past.At, run, section.Index, picture));
        }
    }

    private async Task<ReadyPicture> DrawnAsync(Task before, PieceLook look, ulong seed)
    {
        await before;
        var path = Path.Combine(place.IncomingFolder, $"{Guid.NewGuid():N}.part");
        try
        {
            return await Task.Run(async () =>
            {
                Directory.CreateDirectory(place.IncomingFolder);
                await File.WriteAllBytesAsync(path, SectionPicture.Png(look, seed));
                return (await Pictures.MakeAsync(path)).Picture ?? throw new InvalidDataException("a drawn photo is no picture");
            });
        }
        finally
        {
            File.Delete(path);
        }
    }

    private async Task KeepPhotosAsync()
    {
        var book = new PhotoBook(work, place);
        foreach (var (at, run, section, picture) in photos)
        {
            past.At = at;
            await book.AddReadyAsync(run, section, $"demo-{run.Id}-{section}", await picture);
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
        var run = await CreateAsync(trial, p, p.Toolhead!, plan, file, null);
        if (planned)
            return;
        past.At = past.At.AddMinutes(Num(e, "minutes")!.Value + 20);
        var layer = (int?)Num(e, "endedAtLayer");
        var room = e.GetProperty("room");
        await new RoomBook(work, new()).LogAsync(room[0].GetDouble(), room[1].GetDouble());
        await reports.ReportAsync(
            (await runs.LoadAsync(run.Id))!, new(layer is null ? "whole" : "ended early", layer, (int)Num(e, "minutes")!, Num(e, "massG"), true),
            await ConditionsAsync(e));
        past.At = past.At.AddMinutes(45);
        await ReadAsync(run, Scores(e, plan));
        if (e.TryGetProperty("findings", out var noted))
        {
            foreach (var f in noted.EnumerateObject())
            {
                var parts = f.Value.GetString()!.Split(": ", 2);
                await findings.AddAsync(
                    "", parts[0], parts.ElementAtOrDefault(1), run.Id, p.Id, plan.Sections.First(s => Words.N(s.TemperatureC) == f.Name).Index, null,
                    $"temperature tower {run.Number}, {f.Name} °C: {Facts.NameOf(p)}", $"/runs/{run.Id}?open=read#findings");
            }
        }

        if (e.TryGetProperty("photos", out _))
            Photograph(e, plan, run);
        if (await FinishedAsync(e, run) is not { } v)
            return;
        var decide = e.GetProperty("decide");
        if (decide.ValueKind == JsonValueKind.Object)
            await decisions.KeepAsync(v, [new("nozzleTemperatureC", decide.GetProperty("own").GetDouble(), 0)], true, Str(decide, "why"));
        else
            await decisions.KeepAsync(v, v.Verdict.Settings, false, null);
    }

    /// <summary>Scores of a tower by temperature, in the order of the aspects; a word in their place says what became of the section.</summary>
    private static IEnumerable<(int Section, string Aspect, string Text)> Scores(JsonElement e, TowerPlan plan)
    {
        foreach (var (section, i) in plan.Sections.Select((s, i) => (s, i)))
        {
            if (!e.GetProperty("scores").TryGetProperty(Words.N(section.TemperatureC), out var scores))
                continue;
            if (scores.ValueKind == JsonValueKind.String)
            {
                yield return (i, CellAspects.State, scores.GetString()!);
                continue;
            }

            foreach (var (aspect, k) in Aspects.All.Select((a, k) => (a, k)))
            {
                if (scores[k].ValueKind == JsonValueKind.Number)
                    yield return (i, aspect, Words.N(scores[k].GetDouble()));
            }
        }
    }
}
