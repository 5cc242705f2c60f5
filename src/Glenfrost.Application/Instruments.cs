using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Instruments by name, each with the revision that has the resolution of what it reads now.</summary>
public sealed class Instruments(Bench bench)
{
    private const string SimulatedPrefix = "simulated";

    /// <summary>The revision of an instrument; instrument and revision are made where they are new.</summary>
    /// <param name="name">As it is called, in any case of letters; "simulated …" is a stand-in.</param>
    /// <param name="kind">scale, calliper, display, eyes, rig or other.</param>
    /// <param name="resolution">Smallest step, in the unit.</param>
    /// <param name="unit">g, mm, °C, N, or empty for a score.</param>
    public Task<Guid> RevisionAsync(string name, string kind, double resolution, string unit) => bench.AloneAsync(async () =>
    {
        var lower = name.ToLowerInvariant();
        var found = await bench.Db.Instruments.AsNoTracking().Include(i => i.Revisions).Where(i => i.RemovedAt == null && i.Name.ToLower() == lower).OrderBy(i => i.Id).FirstOrDefaultAsync();
        if (found?.Revisions.MaxBy(r => r.Number) is { } known && known.Resolution == resolution && known.Unit == unit)
            return known.Id;
        var simulated = lower.StartsWith(SimulatedPrefix, StringComparison.Ordinal);
        var revision = new InstrumentRevision { Number = (found?.Revisions.Count ?? 0) + 1, FromAt = bench.Now, Resolution = resolution, Unit = unit, Note = simulated ? "simulated" : null };
        if (found is null)
        {
            var instrument = new Instrument { Name = char.ToUpperInvariant(name[0]) + name[1..], Kind = kind, Simulated = simulated, ChangedAt = bench.Now };
            instrument.Revisions.Add(revision);
            bench.Db.Instruments.Add(instrument);
        }
        else
        {
            revision.InstrumentId = found.Id;
            bench.Db.InstrumentRevisions.Add(revision);
        }

        await bench.Db.SaveChangesAsync();
        return revision.Id;
    });
}
