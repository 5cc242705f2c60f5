using Glenfrost.Core.Profiles;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>A filament with the pairings that it has.</summary>
/// <param name="Filament">With sources, colours and real spools, these with their dryings.</param>
/// <param name="Pairings">Its pairings, with toolhead and printer.</param>
/// <param name="Profiles">The newest profile of each, by pairing.</param>
/// <param name="HumidityPercent">Humidity that was logged, %RH; null where nobody did.</param>
public sealed record FilamentView(
    Filament Filament, IReadOnlyList<Pairing> Pairings, IReadOnlyDictionary<Guid, ProfileView> Profiles, double? HumidityPercent);

/// <summary>Filaments: products with their sources and colours.</summary>
public sealed class FilamentBook(WorkContext work)
{
    /// <summary>True where none was ever registered.</summary>
    public async Task<bool> IsEmptyAsync() => !await work.Db.Filaments.AnyAsync();

    /// <summary>All filaments by maker and line, with sources, colours and real spools.</summary>
    public Task<List<Filament>> ListAsync() =>
        work.Db.Filaments.AsNoTracking().Where(f => f.RemovedAt == null).Include(f => f.Sources).Include(f => f.Variants)
            .Include(f => f.Spools.Where(s => s.World == Worlds.Real)).AsSplitQuery().OrderBy(f => f.Maker).ThenBy(f => f.Line).ToListAsync();

    /// <summary>A filament with all that its page shows; null where there is none.</summary>
    public async Task<FilamentView?> ViewAsync(Guid id)
    {
        var f = await work.Db.Filaments.AsNoTracking().Include(x => x.Sources).Include(x => x.Variants)
            .Include(x => x.Spools.Where(s => s.World == Worlds.Real)).ThenInclude(s => s.Dryings)
            .Include(x => x.Spools.Where(s => s.World == Worlds.Real)).ThenInclude(s => s.Stays).AsSplitQuery()
            .FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (f is null)
            return null;
        var pairings = await work.Db.Pairings.AsNoTracking().Full().Where(p => p.FilamentId == id && p.RemovedAt == null && p.World == Worlds.Real)
            .ToListAsync();
        return new(f, pairings, await work.Db.ProfilesAsync([.. pairings.Select(p => p.Id)]), (await work.RoomAsync())?.HumidityPercent);
    }

    /// <summary>Nozzle temperatures that were found of a filament, the surest first; a spool's label has room for three.</summary>
    /// <param name="id">The filament.</param>
    /// <param name="variant">A colour: what was found of another one is left out; null for all.</param>
    public async Task<IReadOnlyList<(Pairing Pairing, ProfileSetting Nozzle)>> FoundAsync(Guid id, Guid? variant) => await ViewAsync(id) is not { } view ? []
        :
        [
            .. view.Pairings.Where(p => variant is null || p.VariantId is null || p.VariantId == variant)
                .Select(p => (Pairing: p, Nozzle: view.Profiles.GetValueOrDefault(p.Id)?["nozzleTemperatureC"]!))
                .Where(x => x.Nozzle is { IsEvidence: true }).OrderBy(x => x.Nozzle.State switch
                {
                    SettingState.Confirmed => 0,
                    SettingState.Provisional => 1,
                    _ => 2,
                }).ThenBy(x => x.Pairing.Toolhead!.FullName, StringComparer.Ordinal).Take(3),
        ];

    /// <summary>A filament to be edited, with sources and colours; null where there is none.</summary>
    public Task<Filament?> ToEditAsync(Guid? id) =>
        work.Db.Filaments.Include(x => x.Sources).Include(x => x.Variants).AsSplitQuery().FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);

    /// <summary>True where another filament has that maker, line and additive.</summary>
    public Task<bool> IsTakenAsync(string maker, string line, string? additive, Guid? except) =>
        work.Db.Filaments.AnyAsync(x => x.RemovedAt == null && x.Id != except && x.Maker == maker && x.Line == line && x.Additive == additive);

    /// <summary>Saves a new or edited filament with its colours and sources: colours that are gone are removed, sources are put anew.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab saved it in the same moment.</exception>
    public async Task SaveAsync(Filament f, bool isNew, IReadOnlyList<string> colours, IReadOnlyList<FilamentSource> sources)
    {
        foreach (var v in f.Variants.Where(v => v.RemovedAt is null && !colours.Contains(v.Colour, StringComparer.OrdinalIgnoreCase)))
        {
            v.RemovedAt = work.Now;
            await work.LogAsync("filament", $"{f.Name}: colour {v.Colour} removed", $"/filaments/{f.Id}", $"variant:{v.Id}");
        }

        foreach (var c in colours.Where(c => !f.Variants.Any(v => v.RemovedAt is null && string.Equals(v.Colour, c, StringComparison.OrdinalIgnoreCase))))
            work.Db.Add(new FilamentVariant { FilamentId = f.Id, Colour = c });
        foreach (var old in f.Sources.Where(x => x.RemovedAt is null))
            old.RemovedAt = work.Now;
        foreach (var source in sources)
        {
            source.FilamentId = f.Id;
            work.Db.Add(source);
        }

        if (isNew)
        {
            f.ChangedAt = work.Now;
            work.Db.Add(f);
        }
        else
        {
            work.Touch(f);
        }

        await work.LogAsync("filament", $"{f.Name} {(isNew ? "registered" : "edited")}", $"/filaments/{f.Id}");
        await work.SaveAsync();
    }

    /// <summary>Removes a filament; its pairings and runs stay. Null where there is none.</summary>
    public async Task<Filament?> RemoveAsync(Guid id)
    {
        var f = await work.Db.Filaments.FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (f is null)
            return null;
        f.RemovedAt = work.Now;
        work.Touch(f);
        await work.LogAsync("filament", $"{f.Name} removed", null, $"filament:{f.Id}");
        await work.SaveAsync();
        return f;
    }
}
