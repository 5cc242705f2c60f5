using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Ageing;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Room and humidity as they were logged.</summary>
public sealed record RoomThen(double TemperatureC, double? HumidityPercent, DateTime At);

/// <summary>
/// Puts together what a run is made with: from the plan as our writer used it, proven by reading the file back; from log and part history at that moment; from
/// what is typed.
/// </summary>
public sealed class FactorBook(WorkContext work, DataPlace? place = null)
{
    /// <summary>A room value counts for a print when it was logged so near to it.</summary>
    public static readonly TimeSpan RoomCounts = TimeSpan.FromHours(2);

    /// <summary>The draft of a planned run: what the plan and the settings of its file say.</summary>
    public static FactorSet Draft(Trial trial, ITrialPlan plan, TrialFile? file)
    {
        var set = new FactorSet { Swept = trial.Swept(plan) };
        if (file?.Job is { } job)
            set = set.With(PrintFactors.Of(job));
        return set.With(trial.FactorsOf(plan));
    }

    /// <summary>Filament and printer, as far as they decide which factors can be.</summary>
    public static FactorSituation Situation(Run run, Pairing? p, Toolhead head, ITrialPlan plan) =>
        new(p is null ? null : Family.Find(p.Filament!.Family), head.Printer!.Enclosure, Pieces.StandingFile(run, plan) is not null, plan.TotalLayers > 0);

    /// <summary>
    /// Freezes the factors of a run whose print has ended: the draft, proven by the file that was handed out, with what printer, part history and room log say
    /// of that moment, and what was typed
    /// with it. What nobody measured stays unknown.
    /// </summary>
    public async Task<FactorSet> FreezeAsync(Run run, Trial trial, ITrialPlan plan, Pairing? p, Toolhead head, DateTime at)
    {
        var draft = run.FactorsJson is { } json ? FactorSet.Read(json) : Draft(trial, plan, null);
        var file = Pieces.StandingFile(run, plan);
        draft = draft.With(Proven(draft, file)).With(await RecordedAsync(p, head, run.PersonId, at));
        return Apply(draft, Situation(run, p, head, plan)) with { FrozenAt = at };
    }

    /// <summary>
    /// Fills the factors of a run of an earlier version: plan, file, conditions as they were kept, part history. Kept conditions were partly filled in by the
    /// form: they count as the record of
    /// that day, since nobody can tell any more.
    /// </summary>
    public async Task<FactorSet> FillAsync(Run run, Trial trial, ITrialPlan plan, Pairing? p, Toolhead head)
    {
        var at = run.PrintedAt ?? run.CreatedAt;
        var set = new FactorSet { Swept = trial.Swept(plan), Filled = true };
        var file = Pieces.StandingFile(run, plan);
        if (file is not null && run.SettingsJson is { } settings)
        {
            // Our writer took its settings from the profile as it stood that day, and cautious ones where it said nothing.
            var machine = Pieces.MachineOf(head, p?.NozzleDiameterMm);
            var used = Core.Gcode.Writing.PrintSettings.From(
                Json.Read<Dictionary<string, double>>(settings), machine, p is null ? null : Family.Find(p.Filament!.Family));
            set = set.With(PrintFactors.Of(used));
        }

        set = set.With(trial.FactorsOf(plan));
        set = set.With(Proven(set, file)).With(await RecordedAsync(p, head, run.PersonId, at, true));
        var c = run.ConditionsJson is { } json ? Json.Read<RunConditions>(json) : new();
        var typed = new Dictionary<string, FactorValue>();
        void Put(string key, FactorValue? value)
        {
            if (value is not null)
                typed[key] = value;
        }

        if (c.SpoolId is { } spool)
        {
            Put(FactorRegistry.Spool, FactorValue.Of(spool, c.SpoolName ?? "", FactorSource.Record));
            foreach (var (key, value) in await DrynessAsync(spool, p, at, c.HumidityPercent))
                typed[key] = value;
        }

        if (!typed.ContainsKey(FactorRegistry.Dryness) && c.Dryness is { Length: > 0 } dryness)
            Put(FactorRegistry.Dryness, FactorValue.Of(dryness, FactorSource.Typed));
        Put(FactorRegistry.RoomC, c.RoomC is { } room ? FactorValue.Of(room, FactorSource.Record) : null);
        Put(FactorRegistry.HumidityPercent, c.HumidityPercent is { } rh ? FactorValue.Of(rh, FactorSource.Record) : null);
        Put(FactorRegistry.ChamberC, c.ChamberC is { } chamber ? FactorValue.Of(chamber, FactorSource.Typed) : null);
        Put(FactorRegistry.Slicer, c.Slicer is { Length: > 0 } slicer ? FactorValue.Of(slicer, FactorSource.Typed) : null);
        Put(FactorRegistry.Firmware, c.Firmware is { Length: > 0 } firmware ? FactorValue.Of(firmware, FactorSource.Typed) : null);
        Put(FactorRegistry.Place, c.Plate is { Length: > 0 } plate ? FactorValue.Of(plate, FactorSource.Typed) : null);
        return Apply(set.With(typed), Situation(run, p, head, plan)) with { FrozenAt = run.Stage == RunStages.Planned ? null : at };
    }

    /// <summary>What the file says over what was planned; nothing where there is none, or it is gone.</summary>
    private IReadOnlyDictionary<string, FactorValue> Proven(FactorSet draft, RunFile? file)
    {
        if (file is null || place?.Files.Open(file.Sha256) is not { } content)
            return draft.Values;
        using (content)
        {
            var facts = Inspector.Inspect(content, new InspectionRequest { Name = file.Name, Motion = null });
            var all = new Dictionary<string, FactorValue>(PrintFactors.Prove(draft.Values, PrintFactors.Read(facts), [.. draft.Swept]))
            {
                [FactorRegistry.File] = FactorValue.Of(file.Id, file.Sha256[..12], FactorSource.File),
            };
            return all;
        }
    }

    /// <summary>What the registry says cannot be in such a run is not unknown, and takes the place of what was typed for it.</summary>
    private static FactorSet Apply(FactorSet set, FactorSituation situation) =>
        set.With(FactorRegistry.All.Where(d => !d.AppliesTo(situation)).Select(d => KeyValuePair.Create(d.Key, FactorValue.NotApplicable)));

    /// <summary>What printer, part history, feed history and room log say of a moment.</summary>
    /// <param name="p">The pairing; null for a run of a machine.</param>
    /// <param name="head">With its printer.</param>
    /// <param name="person">Who carried it out.</param>
    /// <param name="at">The moment.</param>
    /// <param name="past">True for a run of long ago: what the printer says of itself today counts only where nothing was recorded as changed since.</param>
    private async Task<Dictionary<string, FactorValue>> RecordedAsync(Pairing? p, Toolhead head, Guid? person, DateTime at, bool past = false)
    {
        var (printer, record) = (head.Printer!, new Dictionary<string, FactorValue>());
        var parts = await work.Db.Parts.AsNoTracking()
            .Where(x =>
                x.PrinterId == head.PrinterId
                && x.RemovedAt == null
                && x.PairingId == null
                && x.FilamentId == null
                && (x.ToolheadId == null || x.ToolheadId == head.Id))
            .ToListAsync();
        foreach (var slot in FactorRegistry.PartSlots)
        {
            var fitted = parts.Where(x => x.Slot == slot && x.FittedAt <= at).MaxBy(x => x.FittedAt);
            record[FactorRegistry.PartPrefix + slot] = FactorValue.Of(
                fitted?.Id, fitted is null ? "as it came" : $"{fitted.Description}, {Words.Day(fitted.FittedAt)}", FactorSource.Record);
        }

        bool Since(string change) => past && parts.Any(x => x.Slot == change && x.FittedAt > at);
        void Say(string key, string? text, string change)
        {
            if (text is { Length: > 0 } && !Since(change))
                record[key] = FactorValue.Of(text, FactorSource.Record);
        }

        Say(FactorRegistry.Enclosure, printer.Enclosure, "enclosure");
        Say(FactorRegistry.Surface, printer.BedSurface, "bed");
        Say(FactorRegistry.Firmware, printer.Firmware, "firmware");
        Say(
            FactorRegistry.Nozzle, $"{Words.N(p?.NozzleDiameterMm ?? head.NozzleDiameterMm)} {p?.NozzleFlow ?? head.NozzleFlow} {head.NozzleMaterial}", "nozzle"
        );
        var feeds = await work.Db.MachineValues.AsNoTracking().Where(v => v.ToolheadId == head.Id).ToListAsync();
        var feed = Core.Equipment.MachineValueFold.Standing(
            feeds.Where(v => v.At <= at || v.Withdraws)
                .Select(v => new Core.Equipment.MachineValueEvent(v.Id, v.At, v.CauseId, v.Key, v.Number, v.ProvenAt) { Withdraws = v.Withdraws }));
        if ((feed?.Number ?? (feeds.Count == 0 ? head.StepsPerMm ?? head.RotationDistanceMm : null)) is { } n)
            record[FactorRegistry.Feed] = FactorValue.Of(n, FactorSource.Record);
        if (await RoomAtAsync(at) is { } room)
        {
            record[FactorRegistry.RoomC] = FactorValue.Of(room.TemperatureC, FactorSource.Record);
            if (room.HumidityPercent is { } rh)
                record[FactorRegistry.HumidityPercent] = FactorValue.Of(rh, FactorSource.Record);
        }

        if (person is { } who && await work.Db.People.AsNoTracking().Where(x => x.Id == who).Select(x => x.Name).FirstOrDefaultAsync() is { } name)
            record[FactorRegistry.Person] = FactorValue.Of(who, name, FactorSource.Record);
        return record;
    }

    /// <summary>The room as it was logged nearest to a moment, within two hours of it; null where nobody logged it.</summary>
    public async Task<RoomThen?> RoomAtAsync(DateTime at)
    {
        var (from, to) = (at - RoomCounts, at + RoomCounts);
        var near = await work.Db.Room.AsNoTracking().Where(r => r.At >= from && r.At <= to).ToListAsync();
        return near.MinBy(r => (r.At - at).Duration()) is { } entry ? new(entry.TemperatureC, entry.HumidityPercent, entry.At) : null;
    }

    /// <summary>
    /// What the log of a spool says of its dryness at a moment; nothing where it says nothing, or where the answer hangs on a humidity that nobody measured.
    /// </summary>
    public async Task<IReadOnlyDictionary<string, FactorValue>> DrynessAsync(Guid spoolId, Pairing? p, DateTime at, double? humidityPercent)
    {
        var spool = await work.Db.Spools.AsNoTracking().Include(s => s.Filament).Include(s => s.Dryings)
            .Include(s => s.Stays).Include(s => s.Weighings).AsSplitQuery()
            .FirstOrDefaultAsync(s => s.Id == spoolId);
        if (spool is null)
            return new Dictionary<string, FactorValue>();
        // Only what had happened by then counts; a drying that was under way counts as done by its end.
        spool.Dryings = [.. spool.Dryings.Where(d => d.StartAt <= at)];
        spool.Weighings = [.. spool.Weighings.Where(w => w.At <= at)];
        var known = new Dictionary<string, FactorValue>();
        if (spool.OpenedAt is null && spool.Dryings.All(d => d.RemovedAt is not null))
            return known;
        var facts = Facts.DrynessFactsOf(spool, humidityPercent, null, at);
        if (DrynessAdvice.Recorded(facts) is { } state)
            known[FactorRegistry.Dryness] = FactorValue.Of(state, FactorSource.Record);
        if (facts.OpenHours is { } open && (spool.OpenedAt is not null || spool.Dryings.Any(d => d.RemovedAt is null)))
            known[FactorRegistry.HoursOpen] = FactorValue.Of(Math.Round(open), FactorSource.Record);
        return known;
    }

    /// <summary>The factors of a run with what was noted later; those of a run that is not filled in yet are put together without being kept.</summary>
    public async Task<FactorSet> OfAsync(Run run, Trial trial, Pairing? p, Toolhead head)
    {
        var set = run.FactorsJson is { } json ? FactorSet.Read(json) : await FillAsync(run, trial, trial.ReadPlan(run.PlanJson), p, head);
        return set.WithEntries(run.FactorEntries.Select(e => e.ToCore())) with { RunId = run.Id };
    }

    /// <summary>The air around a print, as its frozen factors and what was noted later have it; nothing where they were never put together.</summary>
    public static Surroundings AroundOf(Run run)
    {
        if (run.FactorsJson is not { } json)
            return new();
        var set = FactorSet.Read(json).WithEntries(run.FactorEntries.Select(e => e.ToCore()));
        return new(
            set[FactorRegistry.RoomC]?.Number, set[FactorRegistry.RoomEndC]?.Number, set[FactorRegistry.ChamberC]?.Number,
                set[FactorRegistry.ChamberEndC]?.Number);
    }

    /// <summary>Adds what was typed or learned; only what differs from what stands is an entry. The caller saves.</summary>
    public async Task<IReadOnlyList<FactorEntry>> NoteAsync(Run run, FactorSet standing, IEnumerable<KeyValuePair<string, FactorValue>> values)
    {
        var person = (await work.PersonAsync()).Id;
        var list = new List<FactorEntry>();
        foreach (var (key, value) in values)
        {
            var was = standing[key];
            if (was is not null && was.Number == value.Number && was.Thing == value.Thing && was.Text == value.Text && was.Source is not FactorSource.Memory)
                continue;
            list.Add(
                new FactorEntry
                {
                    Id = EventIds.Next(work.Now), RunId = run.Id, Factor = key, Number = value.Number, Text = value.Text, ThingId = value.Thing,
                    Source = value.Source, At = work.Now, PersonId = person,
                    SupersedesId = run.FactorEntries.Where(e => e.Factor == key && e.Section is null && e.Source != FactorSource.Live).MaxBy(e => e.At)?.Id,
                });
        }

        work.Db.FactorEntries.AddRange(list);
        return list;
    }

    /// <summary>
    /// When a fitting is taken back, runs that were printed since stood on the part before it: said by an entry of each, since what is frozen is not changed.
    /// The caller saves.
    /// </summary>
    public async Task UnfitAsync(Part part)
    {
        var key = FactorRegistry.PartPrefix + part.Slot;
        if (!FactorRegistry.PartSlots.Contains(part.Slot))
            return;
        var before = await work.Db.Parts.AsNoTracking()
            .Where(x =>
                x.PrinterId == part.PrinterId
                && x.ToolheadId == part.ToolheadId
                && x.Slot == part.Slot
                && x.Id != part.Id
                && x.RemovedAt == null
                && x.FittedAt <= part.FittedAt)
            .OrderByDescending(x => x.FittedAt).FirstOrDefaultAsync();
        var printed = await work
            .Db.Runs.Where(r =>
                r.PrintedAt >= part.FittedAt
                && r.FactorsJson != null
                && (r.Pairing!.Toolhead!.PrinterId == part.PrinterId || work.Db.Toolheads.Any(t => t.Id == r.ToolheadId && t.PrinterId == part.PrinterId)))
            .Include(r => r.FactorEntries).ToListAsync();
        foreach (var (run, frozen) in printed.Select(r => (r, FactorSet.Read(r.FactorsJson!))).Where(x => x.Item2[key]?.Thing == part.Id))
            await NoteAsync(
                run, frozen,
                [
                    KeyValuePair.Create(
                        key,
                        FactorValue.Of(before?.Id, before is null ? "as it came" : $"{before.Description}, {Words.Day(before.FittedAt)}", FactorSource.Record)),
                ]);
    }
}
