using Glenfrost.Core.Costs;
using Glenfrost.Core.Factors;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Dryers, what they reach and draw, and what drying adds to the cost of a print.</summary>
public sealed class DryerBook(WorkContext work)
{
    /// <summary>Those that stand, by name.</summary>
    public Task<List<Dryer>> ListAsync() => work.Db.Dryers.AsNoTracking().Where(d => d.RemovedAt == null).OrderBy(d => d.Name).ToListAsync();

    /// <summary>One to be edited; null where there is none.</summary>
    public Task<Dryer?> ToEditAsync(Guid? id) => work.Db.Dryers.FirstOrDefaultAsync(d => d.Id == id && d.RemovedAt == null);

    /// <summary>True where another one has that name.</summary>
    public Task<bool> IsTakenAsync(string name, Guid? except) => work.Db.Dryers.AnyAsync(d => d.Name == name && d.RemovedAt == null && d.Id != except);

    /// <summary>What is said where a drying was hotter than its dryer gets; null where it may have been so.</summary>
    public static string? TooHotFor(Dryer dryer, double temperatureC) => temperatureC <= dryer.MaxC ? null
        : $"{dryer.Name} reaches {Words.N(dryer.MaxC)} °C, not {Words.N(temperatureC)}: another dryer, or what it really was.";

    /// <summary>Saves a new or edited dryer.</summary>
    /// <returns>What was done, in words.</returns>
    /// <exception cref="ChangedMeanwhileException">Another tab saved it in the same moment.</exception>
    public async Task<string> SaveAsync(Dryer dryer, bool isNew)
    {
        if (isNew)
            work.Db.Add(dryer);
        else
            work.Touch(dryer);
        var said = $"Dryer {dryer.Name} {(isNew ? "added" : "edited")}";
        await work.LogAsync("spool", said, "/dryers");
        await work.SaveAsync();
        return said;
    }

    /// <summary>Removes a dryer; what was dried in it stays noted.</summary>
    /// <returns>What was done, in words; null where there is none.</returns>
    public async Task<string?> RemoveAsync(Guid id)
    {
        if (await ToEditAsync(id) is not { } dryer)
            return null;
        dryer.RemovedAt = work.Now;
        var said = $"Dryer {dryer.Name} is removed.";
        await work.LogAsync("spool", said, null, $"dryer:{id}");
        await work.SaveAsync();
        return said;
    }

    /// <summary>
    /// What drying adds to a gram that was printed: of the newest drying of its spool before the print, shared by the mass that a reel of it holds. Null where
    /// nothing was dried, or nobody said in which dryer, or what that draws.
    /// </summary>
    /// <param name="spools">The spools that are asked about.</param>
    /// <param name="minorPerKwh">Price of a kilowatt hour, in minor units; null where nobody typed it.</param>
    /// <returns>Minor units a gram, of a spool and the moment (UTC) at which was printed from it.</returns>
    public async Task<Func<Guid?, DateTime, double?>> MinorPerGramAsync(IReadOnlyCollection<Guid> spools, double? minorPerKwh)
    {
        if (spools.Count == 0 || minorPerKwh is null)
            return (_, _) => null;
        var dried = await work.Db.Dryings.AsNoTracking().Where(d => spools.Contains(d.SpoolId) && d.RemovedAt == null).ToListAsync();
        if (dried.Count == 0)
            return (_, _) => null;
        var draws = await work.Db.Dryers.AsNoTracking().ToDictionaryAsync(d => d.Id, d => d.PowerW);
        var nets = await work.Db.Spools.AsNoTracking().Where(s => spools.Contains(s.Id)).Select(s => new { s.Id, Net = s.Filament!.NetMassUg })
            .ToDictionaryAsync(s => s.Id, s => s.Net / 1e6);
        return (spool, at) =>
            spool is { } id && dried.Where(d => d.SpoolId == id && d.StartAt <= at).MaxBy(d => d.StartAt) is { DryerId: { } used } last
                && nets.TryGetValue(id, out var net)
                ? DryingCost.MinorPerGram(last.Hours, new(draws.GetValueOrDefault(used), minorPerKwh), net)
                : null;
    }

    /// <summary>The spool that a run was printed from, as its factors and what was noted later have it; null where nobody said.</summary>
    /// <param name="factorsJson">Of the run; null where it has none.</param>
    /// <param name="entries">What was noted later.</param>
    public static Guid? SpoolOf(string? factorsJson, IEnumerable<FactorEntry> entries) => factorsJson is null ? null
        : FactorSet.Read(factorsJson).WithEntries(entries.Select(e => e.ToCore()))[FactorRegistry.Spool]?.Thing;

    /// <summary>The same for one run.</summary>
    public async Task<double?> MinorPerGramAsync(Run run, Printer? printer)
    {
        var spool = SpoolOf(run.FactorsJson, run.FactorEntries);
        return (await MinorPerGramAsync(spool is { } id ? [id] : [], Facts.PowerOf(printer).MinorPerKwh))(spool, run.PrintedAt ?? work.Now);
    }
}
