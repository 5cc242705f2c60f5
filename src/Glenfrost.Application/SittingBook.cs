using Glenfrost.Core.Statistics;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>One thing scored twice.</summary>
/// <param name="Photo">The photo.</param>
/// <param name="Where">Section and run.</param>
/// <param name="Aspect">What was scored.</param>
/// <param name="First">The score at the piece.</param>
/// <param name="Again">The score of the photo.</param>
public sealed record ScoredTwice(Photo Photo, string Where, string Aspect, double First, double Again);

/// <summary>A sitting as far as it is.</summary>
/// <param name="Sitting">With its scores.</param>
/// <param name="Order">Photos in their order.</param>
/// <param name="Now">The photo to be scored now; null when all are.</param>
/// <param name="Place">Its place, from 1.</param>
/// <param name="Pairs">What was scored twice, once all are.</param>
/// <param name="Noise">What this sitting alone and all sittings together say.</param>
public sealed record SittingView(
    Sitting Sitting, IReadOnlyList<Guid> Order, Photo? Now, int Place, IReadOnlyList<ScoredTwice> Pairs, (ScoreNoise Before, ScoreNoise After) Noise);

/// <summary>What is known of the noise of who is here, and what may be done about it.</summary>
/// <param name="Person">Who is here.</param>
/// <param name="Noise">How steadily they score.</param>
/// <param name="Ready">Photos that wait to be scored again.</param>
/// <param name="HasAnchors">True where own photos stand for scores.</param>
/// <param name="Anchored">Sittings with those photos beside the scores against those without; null where too few tell.</param>
/// <param name="Sittings">Newest first.</param>
public sealed record SittingsOverview(
    string Person, ScoreNoise Noise, int Ready, bool HasAnchors, ScoreNoise.Comparison? Anchored, List<Sitting> Sittings)
{
    /// <summary>True where the next sitting tells most with own photos beside: there are some, and no more sittings with them than without.</summary>
    public bool NextWithAnchors => HasAnchors && Sittings.Count(s => s.WithAnchors is true) <= Sittings.Count(s => s.WithAnchors is not true);
}

/// <summary>Sittings: photos scored again without their section or temperature, from which a person's score noise is learned.</summary>
public sealed class SittingBook(WorkContext work, ScoreNoises noises, Photos.AnchorBook anchors)
{
    /// <summary>Photos of one sitting over all runs.</summary>
    public const int Most = 12;

    /// <summary>What is known of the noise of who is here, how many photos wait, and the sittings, newest first.</summary>
    public async Task<SittingsOverview> OverviewAsync()
    {
        var person = await work.PersonAsync();
        return new(
            person.Name, (await noises.AllAsync()).GetValueOrDefault(person.Id) ?? ScoreNoise.Unlearned, Math.Min(Most, (await ReadyAsync(null)).Count),
            (await AnchorsAsync()).Count > 0, (await noises.WithAnchorsAsync()).GetValueOrDefault(person.Id),
            await work.Db.Sittings.AsNoTracking().Where(s => s.PersonId == person.Id && s.RemovedAt == null).OrderByDescending(s => s.At).Take(40)
                .ToListAsync());
    }

    /// <summary>The own photos of who is here that stand for scores of what a sitting asks.</summary>
    public Task<IReadOnlyDictionary<string, IReadOnlyList<Photos.OwnAnchor>>> AnchorsAsync() =>
        anchors.OfAsync([.. Aspects.Anchors.Values.Select(a => a.Key).Distinct()]);

    /// <summary>Begins a sitting over one run or over all; null where there is no photo to score again.</summary>
    /// <param name="run">The run; null for all.</param>
    /// <param name="withAnchors">True where the person's own photos stand beside the scores, where there are any.</param>
    public async Task<Sitting?> BeginAsync(Guid? run, bool withAnchors)
    {
        var person = await work.PersonAsync();
        var own = withAnchors ? await AnchorsAsync() : new Dictionary<string, IReadOnlyList<Photos.OwnAnchor>>();
        // A photo beside itself would only be recognised.
        var beside = own.Values.SelectMany(a => a).Select(a => a.PhotoId).ToHashSet();
        var ready = (await ReadyAsync(run)).Where(p => !beside.Contains(p)).ToList();
        if (ready.Count == 0)
            return null;
        var sitting = new Sitting
        {
            RunId = run, PersonId = person.Id, At = work.Now, OrderJson = "[]",
            WithAnchors = own.Count > 0 ? true : null,
        };
        sitting.Seed = Math.Abs(BitConverter.ToInt32(sitting.Id.ToByteArray(), 12));
        var order = BlindOrder.Of(ready.Order(), sitting.Seed);
        sitting.OrderJson = Json.Write(run is null ? order.Take(Most) : order);
        work.Db.Sittings.Add(sitting);
        await work.SaveAsync();
        return sitting;
    }

    /// <summary>The newest photo of each section that this person has scored.</summary>
    private async Task<List<Guid>> ReadyAsync(Guid? run)
    {
        var (db, person) = (work.Db, (await work.PersonAsync()).Id);
        var photos = await db.Photos.AsNoTracking()
            .Where(p =>
                p.RemovedAt == null
                && p.Section != null
                && (run == null || p.RunId == run)
                && db.Readings.Any(r =>
                    r.RunId == p.RunId && r.Section == p.Section && r.PersonId == person && r.Value != null && Aspects.All.Contains(r.Aspect))
                && db.Runs.Any(r => r.Id == p.RunId && r.RemovedAt == null))
            .OrderByDescending(p => p.At).Select(p => new { p.Id, p.RunId, p.Section }).Take(2000).ToListAsync();
        return [.. photos.GroupBy(p => (p.RunId, p.Section)).Select(g => g.First().Id)];
    }

    /// <summary>A sitting as far as it is; null where there is none.</summary>
    public async Task<SittingView?> ViewAsync(Guid id)
    {
        var s = await work.Db.Sittings.AsNoTracking().Include(x => x.Scores).FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (s is null)
            return null;
        var order = Json.Read<List<Guid>>(s.OrderJson);
        var photos = await work.Db.Photos.AsNoTracking().Where(p => order.Contains(p.Id)).ToDictionaryAsync(p => p.Id);
        var done = s.Scores.Select(x => x.PhotoId).ToHashSet();
        var next = order.FirstOrDefault(o => !done.Contains(o) && photos.ContainsKey(o));
        if (next != Guid.Empty)
            return new(s, order, photos[next], order.IndexOf(next) + 1, [], default);
        var readings = s.Scores.Select(x => x.ReadingId).OfType<Guid>().ToList();
        var first = await work.Db.Readings.AsNoTracking().Where(r => readings.Contains(r.Id) && r.Value != null).ToDictionaryAsync(r => r.Id);
        var runs = await work.Db.Runs.AsNoTracking().Where(r => photos.Values.Select(p => p.RunId).Contains(r.Id)).ToDictionaryAsync(r => r.Id);
        List<ScoredTwice> pairs =
        [
            .. s.Scores.Where(x => x.Value is not null && x.ReadingId is { } r && first.ContainsKey(r))
                .Select(x =>
                {
                    var photo = photos[x.PhotoId];
                    var run = runs[photo.RunId];
                    return new ScoredTwice(
                        photo, $"{Words.N(Json.Read<TowerPlan>(run.PlanJson).Sections[photo.Section!.Value].TemperatureC, 1)} °C, run {run.Number}", x.Aspect,
                        first[x.ReadingId!.Value].Value!.Value, x.Value!.Value);
                }).OrderByDescending(p => Math.Abs(p.First - p.Again)).ThenBy(p => p.Where),
        ];
        return new(
            s, order, null, 0, pairs, (
                ScoreNoise.Learn([[.. pairs.Select(p => (p.First, p.Again))]]),
                (await noises.AllAsync()).GetValueOrDefault(s.PersonId ?? Guid.Empty) ?? ScoreNoise.Unlearned));
    }

    /// <summary>Stores the scores of a photo; sent twice, the first answer stands.</summary>
    /// <param name="v">The sitting.</param>
    /// <param name="photoId">The photo.</param>
    /// <param name="given">Score by aspect; null for one that can't be told.</param>
    public async Task ScoreAsync(SittingView v, Guid photoId, IReadOnlyDictionary<string, double?> given)
    {
        var (db, id) = (work.Db, v.Sitting.Id);
        await work.AloneAsync(async () =>
        {
            var photo = await db.Photos.AsNoTracking().FirstAsync(p => p.Id == photoId);
            var readings = await db.Readings.AsNoTracking().Where(r => r.RunId == photo.RunId && r.Section == photo.Section && Aspects.All.Contains(r.Aspect))
                .ToListAsync();
            var superseded = readings.Select(r => r.SupersedesId).OfType<Guid>().ToHashSet();
            if (!await db.PhotoScores.AnyAsync(x => x.SittingId == id && x.PhotoId == photoId))
            {
                foreach (var (aspect, value) in given)
                    db.PhotoScores.Add(
                        new PhotoScore
                        {
                            SittingId = id, PhotoId = photo.Id, Aspect = aspect, Value = value, At = work.Now,
                            ReadingId = readings.FirstOrDefault(r => r.Aspect == aspect && r.Value is not null && !superseded.Contains(r.Id))?.Id,
                        });
            }

            var done = await db.PhotoScores.Where(x => x.SittingId == id).Select(x => x.PhotoId).Distinct().ToListAsync();
            var sitting = await db.Sittings.FirstAsync(s => s.Id == id);
            if (sitting.FinishedAt is null && v.Order.All(o => done.Contains(o) || o == photo.Id))
            {
                sitting.FinishedAt = work.Now;
                await work.LogAsync("photo", $"{Words.Plural(v.Order.Count, "photo")} scored again, blind", $"/sittings/{id}");
            }

            return await db.SaveChangesAsync();
        });
        noises.Forget();
    }

    /// <summary>Removes a sitting; the noise is learned without it. False where there is none.</summary>
    public async Task<bool> RemoveAsync(Guid id)
    {
        var s = await work.Db.Sittings.FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (s is null)
            return false;
        s.RemovedAt = work.Now;
        await work.LogAsync("photo", "A sitting was removed; the score noise is learned without it", "/sittings", $"sitting:{id}");
        await work.SaveAsync();
        return true;
    }
}
