using System.Globalization;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Watching;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Simulated;

/// <summary>Something noticed while a run printed, as its page shows it.</summary>
public sealed record StampView(Guid ReadingId, int Section, string What, string Text, DateTime At);

/// <summary>What somebody at the printer notices: the key is pressed, the file's clock tells where that was, and it becomes a reading.</summary>
public sealed class Stamps(WorkContext work, PrintJobs jobs, Paces paces, Findings findings)
{
    /// <summary>A press may come late, where the network was away; not later than this.</summary>
    public static readonly TimeSpan Latest = TimeSpan.FromMinutes(30);

    /// <summary>Stamps a run that prints.</summary>
    /// <param name="v">The run.</param>
    /// <param name="what">One of <see cref="CellAspects.Noticed"/>.</param>
    /// <param name="ago">Since the key was pressed.</param>
    /// <param name="key">Made by the client; stored once.</param>
    /// <param name="note">In the tester's words; may be null.</param>
    /// <returns>What was noticed where, or what is wrong.</returns>
    public async Task<(StampView? Stamp, string? Error)> StampAsync(TrialRunView v, string what, TimeSpan ago, string key, string? note)
    {
        if (!CellAspects.Noticed.Contains(what))
            return (null, $"\"{what}\" is not what can be stamped: {string.Join(", ", CellAspects.Noticed)} would be right.");
        if (v.Run.Readings.FirstOrDefault(r => r.Key == key) is { } already)
            return (View(already), null);
        if (v.Run.Stage != RunStages.Planned)
            return (null, "The print has ended. What was seen on the piece is a score or a finding.");
        if (Pieces.StandingFile(v.Run, v.Plan) is not { } file)
            return (null, "There is no file whose clock could tell where that was. Note it as a finding, with its section.");
        var layers = await jobs.FileLayersAsync(file, v);
        var (noticed, clock) = jobs.PrintOf(v.Run.Id) is { } live
            ? (Live(live, layers, ago), "printer's clock")
            : (await WatchedAsync(v, layers, ago), "file's clock");
        if (noticed is not { } n)
            return (
                null, v.Run.PrintStartedAt is null
                    ? "Say first that it is printing: press \"It is printing now\" as the first layer begins."
                    : "The first layer has not begun, or by its file the print is over. Say how it ended.");
        var section = v.Parts.All(p => p.FirstLayer <= 1) ? 0 : (v.Parts.LastOrDefault(s => s.FirstLayer <= n.Layer) ?? v.Parts[0]).Index;
        var text = string.Create(
            CultureInfo.InvariantCulture,
            $"layer {n.Layer}{(n.FirstLayer == n.LastLayer ? "" : $" ({n.FirstLayer} to {n.LastLayer})")}, {n.ZMm:0.0} ± " +
                $"{Math.Max(0.1, n.ZUncertaintyMm):0.0} mm, {n.FlowMm3PerS:0.0}{(n.FlowUncertainty >= 0.05 ? $" ± {n.FlowUncertainty:0.0}" : "")} mm³/s"
        );
        var person = await work.PersonAsync();
        var reading = await work.AloneAsync(async () =>
        {
            var stood = await work.Db.Readings.AsNoTracking()
                .Where(r => r.RunId == v.Run.Id && r.Section == section && r.Aspect.StartsWith(CellAspects.Stamp + what)).Select(r => r.Aspect).Distinct()
                .CountAsync();
            var row = new Reading
            {
                RunId = v.Run.Id,
                Key = key,
                Section = section,
                Aspect = CellAspects.Stamp + what + (stood == 0 ? "" : $".{stood + 1}"),
                Value = Math.Round(n.ZMm, 3),
                Entered = text,
                At = work.Now - ago,
                PersonId = person.Id,
                DeviceId = work.DeviceId,
                Resolution = Math.Round(n.ZUncertaintyMm, 3),
                Why = $"{clock}, {(note is null ? "" : note + "; ")}{n.UncertaintyS:0.0} s either way",
            };
            work.Db.Readings.Add(row);
            await work.LogAsync("reading", $"{what} at {text}: {v.Called}, {v.Name}", $"/runs/{v.Run.Id}#stamps");
            await work.Db.SaveChangesAsync();
            return row;
        });
        var tag = what switch
        {
            "grinding" => "grind",
            "other" => "noticed",
            _ => what,
        };
        await findings.AddAsync(
            $"stamp-{key}", tag, note is null ? text : $"{note}; {text}", v.Run.Id, v.Pairing?.Id, section, null, $"{v.Called}, {v.Parts[section].Label}",
            $"/runs/{v.Run.Id}#stamps");
        return (View(reading), null);
    }

    /// <summary>Takes a stamp back that was pressed by mistake: an emptied reading stands over it.</summary>
    public Task<bool> WithdrawAsync(Guid runId, Guid readingId) =>
        work.AloneAsync(async () =>
        {
            var stands = await work.Db.Readings.AsNoTracking().FirstOrDefaultAsync(r => r.Id == readingId && r.RunId == runId);
            if (stands is null || !CellAspects.IsStamp(stands.Aspect) || await work.Db.Readings.AnyAsync(r => r.SupersedesId == readingId))
                return false;
            work.Db.Readings.Add(
                new Reading
                {
                    RunId = runId, Key = $"withdrawn-{readingId}", Section = stands.Section, Aspect = stands.Aspect, Entered = "", At = work.Now,
                    PersonId = (await work.PersonAsync()).Id, SupersedesId = readingId, Why = "pressed by mistake",
                });
            if (await work.Db.Findings.FirstOrDefaultAsync(f => f.Key == $"stamp-{stands.Key}" && f.RemovedAt == null) is { } finding)
                finding.RemovedAt = work.Now;
            await work.LogAsync("reading", $"The stamp \"{CellAspects.NoticedIn(stands.Aspect)}\" is taken back: pressed by mistake", $"/runs/{runId}#stamps");
            await work.Db.SaveChangesAsync();
            return true;
        });

    /// <summary>The stamps that stand, in the order of their pressing.</summary>
    public static IReadOnlyList<StampView> Of(TrialRunView v) =>
        [.. v.Cells.Values.Where(r => CellAspects.IsStamp(r.Aspect) && r.Entered.Length > 0).OrderBy(r => r.At).Select(View)];

    private static StampView View(Reading r) => new(r.Id, r.Section, CellAspects.NoticedIn(r.Aspect), r.Entered, r.At);

    /// <summary>The simulated printer runs faster than the person: what the reaction costs grows with its speed.</summary>
    private static Noticed? Live(LivePrint live, IReadOnlyList<TimedLayer> layers, TimeSpan ago)
    {
        if (live.Layer == 0)
            return null;
        var foreseen = layers.LastOrDefault(l => l.Layer <= live.Layer)?.StartS ?? 0;
        var pace = new PrinterPace(foreseen > 60 ? Math.Clamp(live.LayerStartS / foreseen, 0.5, 2) : 1, 0.003, 0);
        var elapsed = live.GoneS - ago.TotalSeconds * live.Speed;
        return FileClock.At(layers, Math.Max(0, elapsed), pace, FileClock.ReactionS * live.Speed, FileClock.ReactionUncertaintyS * live.Speed);
    }

    private async Task<Noticed?> WatchedAsync(TrialRunView v, IReadOnlyList<TimedLayer> layers, TimeSpan ago)
    {
        if (v.Run.PrintStartedAt is not { } began)
            return null;
        var pace = await paces.OfAsync(v.Toolhead.PrinterId, v.Run.World);
        return FileClock.At(layers, (work.Now - ago - began).TotalSeconds, pace);
    }
}
