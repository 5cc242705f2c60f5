using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Instruments by name, each with the revision that has the resolution of what it reads now.</summary>
public sealed class Instruments(WorkContext work)
{
    private const string SimulatedPrefix = "simulated";

    /// <summary>Names of instruments by their revisions, as they are called within a sentence.</summary>
    public Task<Dictionary<Guid, string>> NamesAsync(IReadOnlyCollection<Guid> revisions) =>
        work.Db.InstrumentRevisions.AsNoTracking().Where(r => revisions.Contains(r.Id))
            .Join(work.Db.Instruments, r => r.InstrumentId, i => i.Id, (r, i) => new { r.Id, i.Name })
            .ToDictionaryAsync(x => x.Id, x => x.Name.ToLowerInvariant());

    /// <summary>The revision of an instrument; instrument and revision are made where they are new.</summary>
    /// <param name="name">As it is called, in any case of letters; "simulated …" is a stand-in.</param>
    /// <param name="kind">scale, calliper, display, eyes, rig or other.</param>
    /// <param name="resolution">Smallest step, in the unit; null where it did not say: then the one that it last had for that unit, else the usual one.</param>
    /// <param name="unit">g, mm, °C, N, or empty for a score.</param>
    /// <param name="usual">The usual step of such an instrument, in the unit.</param>
    public Task<Guid> RevisionAsync(string name, string kind, double? resolution, string unit, double usual = 1) =>
        work.AloneAsync(async () =>
        {
            var lower = name.ToLowerInvariant();
            var found = await work.Db.Instruments.AsNoTracking().Include(i => i.Revisions).Where(i => i.RemovedAt == null && i.Name.ToLower() == lower)
                .OrderBy(i => i.Id).FirstOrDefaultAsync();
            // One that reads two things in turn (mm and g) has a step for each: reading the other again is no new revision.
            var last = found?.Revisions.Where(r => r.Unit == unit).MaxBy(r => r.Number);
            var step = resolution ?? last?.Resolution ?? usual;
            if (last is not null && last.Resolution == step)
                return last.Id;
            var simulated = lower.StartsWith(SimulatedPrefix, StringComparison.Ordinal);
            var revision = new InstrumentRevision
            {
                Number = (found?.Revisions.Count ?? 0) + 1, FromAt = work.Now, Resolution = step, Unit = unit, Note = simulated ? "simulated" : null,
            };
            if (found is null)
            {
                var instrument = new Instrument
                {
                    Name = char.ToUpperInvariant(name[0]) + name[1..], Kind = kind, Simulated = simulated, ChangedAt = work.Now,
                };
                instrument.Revisions.Add(revision);
                work.Db.Instruments.Add(instrument);
            }
            else
            {
                revision.InstrumentId = found.Id;
                work.Db.InstrumentRevisions.Add(revision);
            }

            await work.Db.SaveChangesAsync();
            return revision.Id;
        });
}
