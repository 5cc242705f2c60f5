using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Storage;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>How steadily each person scores, learned from photos that they scored again blind.</summary>
public sealed class ScoreNoises(GlenfrostDb db)
{
    private IReadOnlyDictionary<Guid, ScoreNoise>? known;
    private IReadOnlyDictionary<Guid, ScoreNoise.Comparison> compared = new Dictionary<Guid, ScoreNoise.Comparison>();

    /// <summary>Noise by person; people who scored nothing twice are not in it.</summary>
    public async Task<IReadOnlyDictionary<Guid, ScoreNoise>> AllAsync()
    {
        if (known is not null)
            return known;
        var pairs = await (
            from s in db.PhotoScores.AsNoTracking()
            join sitting in db.Sittings.AsNoTracking() on s.SittingId equals sitting.Id
            join photo in db.Photos.AsNoTracking() on s.PhotoId equals photo.Id
            join reading in db.Readings.AsNoTracking() on s.ReadingId equals reading.Id
            where s.Value != null && reading.Value != null && sitting.FinishedAt != null && sitting.RemovedAt == null && photo.RemovedAt == null
                && reading.PersonId == sitting.PersonId && sitting.PersonId != null
            orderby s.Id
            select new
            {
                Person = sitting.PersonId!.Value, s.SittingId, WithAnchors = sitting.WithAnchors == true, First = reading.Value!.Value, Again = s.Value!.Value,
            }).ToListAsync();
        var sittings = pairs.GroupBy(p => (p.Person, p.SittingId, p.WithAnchors))
            .Select(g => (g.Key.Person, g.Key.WithAnchors, Pairs: (IReadOnlyList<(double, double)>)[.. g.Select(p => (p.First, p.Again))])).ToList();
        compared = sittings.GroupBy(s => s.Person)
            .Select(g => (g.Key, Is: ScoreNoise.Compare(g.Where(s => s.WithAnchors).Select(s => s.Pairs), g.Where(s => !s.WithAnchors).Select(s => s.Pairs))))
            .Where(c => c.Is is not null).ToDictionary(c => c.Key, c => c.Is!);
        return known = pairs.GroupBy(p => p.Person).ToDictionary(
            g => g.Key,
            g => ScoreNoise.Learn(g.GroupBy(p => p.SittingId).Select(x => x.Select(p => (p.First, p.Again)).ToList())));
    }

    /// <summary>Sittings with own photos beside the scores against those without, by person; who has too few of either is not in it.</summary>
    public async Task<IReadOnlyDictionary<Guid, ScoreNoise.Comparison>> WithAnchorsAsync()
    {
        await AllAsync();
        return compared;
    }

    /// <summary>Forgets what was read, after a sitting has been finished or taken back.</summary>
    public void Forget() => known = null;
}
