using Glenfrost.Core.Factors;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Trials.QuickCheck;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>A spool with what is known of its dryness and diameter.</summary>
/// <param name="Spool">With filament, colour, diameters, weighings and dryings.</param>
/// <param name="Pairings">Pairings of its filament.</param>
/// <param name="Dryness">When it was opened or dried, in words.</param>
/// <param name="Advice">Whether to dry it before strings or flow limit.</param>
/// <param name="Diameter">What its diameter readings say; null where nobody measured.</param>
public sealed record SpoolView(
    Spool Spool, IReadOnlyList<Pairing> Pairings, string Dryness, DrynessAdvice Advice, DiameterSummary? Diameter);

/// <summary>Spools with their dryings, weighings and diameters.</summary>
public sealed class SpoolBook(WorkContext work)
{
    /// <summary>A spool for its label, with filament, sources and colour; null where there is none.</summary>
    public Task<Spool?> ForLabelAsync(Guid id) =>
        work.Db.Spools.AsNoTracking().Include(x => x.Filament!)
                .ThenInclude(f => f.Sources)
            .Include(x => x.Variant).FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);

    /// <summary>A spool with all that its page shows; null where there is none.</summary>
    public async Task<SpoolView?> ViewAsync(Guid id)
    {
        var s = await work.Db.Spools.AsNoTracking().Include(x => x.Filament).Include(x => x.Variant).Include(x => x.Diameters).Include(x => x.Weighings)
            .Include(x => x.Dryings).Include(x => x.Stays).AsSplitQuery().FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (s is null)
            return null;
        var pairings = await work.Db.Pairings.AsNoTracking().Include(p => p.Toolhead!.Printer)
            .Where(p => p.FilamentId == s.FilamentId && p.RemovedAt == null && p.World == s.World).OrderBy(p => p.CreatedAt).ToListAsync();
        var humidity = (await work.RoomAsync())?.HumidityPercent;
        var (_, _, text) = Facts.Dryness(s, s.Filament!.Family, humidity ?? DrynessFacts.UsualHumidityPercent, work.Now);
        var dryers = await work.Db.Dryers.AsNoTracking().Where(d => d.RemovedAt == null).Select(d => d.MaxC).ToListAsync();
        return new(
            s, pairings, char.ToUpperInvariant(text[0]) + text[1..],
            Facts.Advise(s, humidity, dryers.Count > 0 ? dryers.Max() : null, work.Now),
            DiameterSummary.Of([.. s.Diameters.Where(d => d.RemovedAt is null).Select(d => new DiameterReading(d.Place, d.Direction, d.Mm))]));
    }

    /// <summary>Spools that a run may have been printed from, by name.</summary>
    public Task<List<Spool>> OfRunAsync(TrialRunView v)
    {
        var (filament, world) = (v.Pairing?.FilamentId, v.Run.World);
        return work.Db.Spools.AsNoTracking().Include(s => s.Filament)
            .Where(s => (filament == null || s.FilamentId == filament) && s.RemovedAt == null && s.World == world).OrderBy(s => s.Name).ToListAsync();
    }

    /// <summary>A spool to be edited; null where there is none.</summary>
    public Task<Spool?> ToEditAsync(Guid? id) => work.Db.Spools.FirstOrDefaultAsync(s => s.Id == id && s.RemovedAt == null);

    /// <summary>The filament of a spool with its colours; null where there is none.</summary>
    public async Task<Filament?> FilamentAsync(Guid? id) =>
        id is null ? null : await work.Db.Filaments.AsNoTracking().Include(x => x.Variants).FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);

    /// <summary>True where another real spool has that name.</summary>
    public Task<bool> IsTakenAsync(string name, Guid? except) =>
        work.Db.Spools.AnyAsync(x => x.Name == name && x.RemovedAt == null && x.World == Worlds.Real && x.Id != except);

    /// <summary>Saves a new or edited spool.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab saved it in the same moment.</exception>
    public async Task SaveAsync(Spool spool, Filament of, bool isNew)
    {
        if (isNew)
            work.Db.Add(spool);
        else
            work.Touch(spool);
        await work.LogAsync("spool", $"Spool {spool.Name} of {of.Name} {(isNew ? "added" : "edited")}", $"/spools/{spool.Id}");
        await work.SaveAsync();
    }

    /// <summary>Notes a drying.</summary>
    /// <returns>What was noted, in words.</returns>
    public async Task<string> DryAsync(Spool spool, DateTime at, double temperatureC, double hours, string? note, Guid? dryer = null)
    {
        var person = await work.PersonAsync();
        work.Db.Add(
            new DryingEntry
            {
                SpoolId = spool.Id, StartAt = at, TemperatureC = temperatureC, Hours = hours, Note = note, DryerId = dryer, PersonId = person.Id,
            });
        return await DoneAsync(spool, $"Spool {spool.Name} dried at {Words.N(temperatureC)} °C for {Words.N(hours)} h");
    }

    /// <summary>Notes where a spool lies from a moment on.</summary>
    /// <param name="spool">The spool.</param>
    /// <param name="place">Key of <see cref="SpoolPlaces"/>.</param>
    /// <param name="at">Since when, UTC.</param>
    /// <returns>What was noted, in words.</returns>
    public async Task<string> LieAsync(Spool spool, string place, DateTime at)
    {
        work.Db.Add(new SpoolStay { SpoolId = spool.Id, Place = place, At = at, PersonId = (await work.PersonAsync()).Id });
        return await DoneAsync(spool, $"Spool {spool.Name} lies {SpoolPlaces.All.First(p => p.Key == place).Label} since {Words.Day(at)}");
    }

    /// <summary>Toolheads of real printers that a spool may be loaded on.</summary>
    public Task<List<Toolhead>> HeadsAsync() => work.Db.Toolheads.AsNoTracking().Include(t => t.Printer)
        .Where(t => t.RemovedAt == null && t.Printer!.RemovedAt == null && t.Printer.World == Worlds.Real).OrderBy(t => t.Printer!.Name).ThenBy(t => t.Name)
        .ToListAsync();

    /// <summary>Spools that stand, with their filament, by id.</summary>
    public Task<Dictionary<Guid, Spool>> ByIdAsync(IReadOnlyCollection<Guid> ids) => work.Db.Spools.AsNoTracking().Include(s => s.Filament)
        .Where(s => ids.Contains(s.Id) && s.RemovedAt == null).ToDictionaryAsync(s => s.Id);

    /// <summary>The spool that is loaded on a toolhead, with its filament; null for none, or where nobody said.</summary>
    public async Task<Spool?> LoadedAsync(Toolhead head) => head.LoadedSpoolId is { } id
        ? await work.Db.Spools.AsNoTracking().Include(s => s.Filament).FirstOrDefaultAsync(s => s.Id == id && s.RemovedAt == null)
        : null;

    /// <summary>Notes that a spool is loaded: what was on that toolhead is off it, and this spool is off where it was.</summary>
    /// <param name="spool">The spool.</param>
    /// <param name="toolhead">One of <see cref="HeadsAsync"/>.</param>
    /// <param name="at">Since when, UTC.</param>
    /// <returns>What was noted, in words.</returns>
    public async Task<string> LoadAsync(Spool spool, Guid toolhead, DateTime at)
    {
        var head = await work.Db.Toolheads.Include(t => t.Printer).FirstAsync(t => t.Id == toolhead);
        var before = await LoadedAsync(head);
        foreach (var other in await work.Db.Toolheads.Where(t => t.LoadedSpoolId == spool.Id && t.Id != toolhead).ToListAsync())
            (other.LoadedSpoolId, other.LoadedAt) = (null, null);
        (head.LoadedSpoolId, head.LoadedAt) = (spool.Id, at);
        var off = before is not null && before.Id != spool.Id ? $"; spool {before.Name} is off it" : "";
        return await DoneAsync(spool, $"Spool {spool.Name} is loaded on {head.FullName} since {Words.Day(at)}{off}");
    }

    /// <summary>Notes that a spool is on no machine any more.</summary>
    /// <returns>What was noted, in words; null where it was on none.</returns>
    public async Task<string?> UnloadAsync(Spool spool)
    {
        var heads = await work.Db.Toolheads.Include(t => t.Printer).Where(t => t.LoadedSpoolId == spool.Id).ToListAsync();
        foreach (var head in heads)
            (head.LoadedSpoolId, head.LoadedAt) = (null, null);
        return heads.Count == 0 ? null : await DoneAsync(spool, $"Spool {spool.Name} is off {string.Join(", ", heads.Select(h => h.FullName))}");
    }

    /// <summary>Notes what a spool weighs with its reel.</summary>
    /// <param name="spool">The spool.</param>
    /// <param name="massG">Filament and reel together, g.</param>
    /// <param name="entered">As it was typed.</param>
    /// <param name="hoursAgo">When, before now.</param>
    /// <returns>What was noted, in words.</returns>
    public async Task<string> WeighAsync(Spool spool, decimal massG, string entered, double hoursAgo)
    {
        var person = await work.PersonAsync();
        work.Db.Add(
            new SpoolWeighing
            {
                SpoolId = spool.Id, At = work.Now.AddHours(-hoursAgo), MassUg = (long)(massG * 1_000_000), Entered = entered, PersonId = person.Id,
            });
        return await DoneAsync(spool, $"Spool {spool.Name} weighed: {Words.N(massG)} g");
    }

    /// <summary>Keeps diameters by place and direction, mm; those that stand already stay, others are put aside.</summary>
    /// <returns>What was noted, in words.</returns>
    public async Task<string> MeasureAsync(Spool spool, IReadOnlyList<DiameterReading> read)
    {
        var person = await work.PersonAsync();
        var fresh = read.Select(d => new SpoolDiameter
        {
            SpoolId = spool.Id, At = work.Now, Place = d.Place, Direction = d.Direction, Mm = d.Mm, PersonId = person.Id,
        }).ToList();
        foreach (var old in await work.Db.SpoolDiameters.Where(d => d.SpoolId == spool.Id && d.RemovedAt == null).ToListAsync())
        {
            var same = fresh.FirstOrDefault(n => n.Place == old.Place && n.Direction == old.Direction && n.Mm == old.Mm);
            if (same is null)
                old.RemovedAt = work.Now;
            else
                fresh.Remove(same);
        }

        work.Db.AddRange(fresh);
        return await DoneAsync(spool, $"Spool {spool.Name}: diameters measured");
    }

    /// <summary>Removes a drying, a weighing or the spool itself.</summary>
    /// <param name="spool">The spool.</param>
    /// <param name="kind">drying, weighing or spool.</param>
    /// <param name="what">Its id.</param>
    /// <returns>What was done, in words; null where there is nothing of the kind.</returns>
    public async Task<string?> RemoveAsync(Spool spool, string kind, Guid what)
    {
        var (id, now) = (spool.Id, work.Now);
        var said = kind switch
        {
            "drying" when await work.Db.Dryings.FirstOrDefaultAsync(d => d.Id == what && d.SpoolId == id) is { } d => (
                d.RemovedAt = now, "The drying entry is removed.").Item2,
            "stay" when await work.Db.SpoolStays.FirstOrDefaultAsync(x => x.Id == what && x.SpoolId == id) is { } x => (
                x.RemovedAt = now, "Where it lay is removed.").Item2,
            "weighing" when await work.Db.SpoolWeighings.FirstOrDefaultAsync(w => w.Id == what && w.SpoolId == id) is { } w => (
                w.RemovedAt = now, "The weighing is removed.").Item2,
            "spool" when await work.Db.Spools.FirstOrDefaultAsync(s => s.Id == id) is { } s => (s.RemovedAt = now, $"Spool {s.Name} is removed.").Item2,
            _ => null,
        };
        if (said is null)
            return null;
        await work.LogAsync("spool", $"Spool {spool.Name}: {said}", kind == "spool" ? null : $"/spools/{id}", $"{kind}:{what}");
        await work.SaveAsync();
        return said;
    }

    /// <summary>The trim that a run shows of its spool; null where it shows none, or nobody said from which spool it was printed.</summary>
    public async Task<(Spool Spool, TrimFound Found)?> TrimShownAsync(TrialRunView v)
    {
        if (!v.Trial.AsksFlow || v.Pairing is not { } pairing || v.Run.World != Worlds.Real || v.Run.Stage is RunStages.Planned or RunStages.Printed
            || v.Factors[FactorRegistry.Spool]?.Thing is not { } used
            || await work.Db.Spools.AsNoTracking().FirstOrDefaultAsync(s => s.Id == used && s.RemovedAt == null) is not { } spool)
            return null;
        var found = v.Verdict is QuickCheckVerdict { WallChangePercent: { } change, WallChangeHalfPercent: { } half } ? SpoolTrim.OfWall(change, half)
            // The profile's own must be of another run: against itself it is no trim.
            : v.Verdict.Settings.FirstOrDefault(s => s.Key == "extrusionMultiplier") is { Uncertainty: > 0 } m
                && (await work.Db.ProfileAsync(pairing.Id))?["extrusionMultiplier"] is { IsEvidence: true, Value: > 0 } kept && kept.RunId != v.Run.Id
                ? SpoolTrim.OfMultiplier(m.Value, m.Uncertainty, kept.Value)
            : null;
        return found is { Differs: true, IsTrim: true } ? (spool, found) : null;
    }

    /// <summary>Gives a spool a trim of its own, or takes it off.</summary>
    /// <param name="spool">The spool.</param>
    /// <param name="percent">Flow against the profile's multiplier, %; null to take it off.</param>
    /// <param name="why">How it was found, or why it is typed.</param>
    /// <param name="run">The run that showed it; null where it is typed.</param>
    /// <returns>What was done, in words; null where the spool is gone.</returns>
    public async Task<string?> TrimAsync(Spool spool, double? percent, string? why, Guid? run = null)
    {
        if (await work.Db.Spools.FirstOrDefaultAsync(s => s.Id == spool.Id && s.RemovedAt == null) is not { } s)
            return null;
        var isGiven = percent is not null;
        (s.TrimPercent, s.TrimWhy, s.TrimRunId, s.TrimAt) = (percent, isGiven ? why : null, isGiven ? run : null, isGiven ? work.Now : null);
        work.Touch(s);
        return await DoneAsync(
            spool,
            percent is { } p ? $"Spool {spool.Name} runs at {Words.N(p, 1)} % of its filament's flow: {why}" : $"Spool {spool.Name} has no trim any more");
    }

    private async Task<string> DoneAsync(Spool spool, string text)
    {
        await work.LogAsync("spool", text, $"/spools/{spool.Id}");
        await work.SaveAsync();
        return text;
    }
}
