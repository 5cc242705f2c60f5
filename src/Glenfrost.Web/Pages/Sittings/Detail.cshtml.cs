using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Sittings;

/// <summary>One thing scored twice.</summary>
public sealed record Pair(Photo Photo, string Where, string Aspect, double First, double Again);

/// <summary>A sitting: one photo at a time without its section or temperature, then what came of it.</summary>
internal sealed class DetailModel(Bench bench, ScoreNoises noises) : BenchPage(bench)
{
    private List<Guid> order = [];

    public Sitting S { get; private set; } = null!;

    /// <summary>The photo to be scored now; null when all are.</summary>
    public Photo? Now { get; private set; }

    public int Place { get; private set; }

    public int Count => order.Count;

    public List<Pair> Pairs { get; private set; } = [];

    /// <summary>What this sitting alone and all sittings together say.</summary>
    public (ScoreNoise Before, ScoreNoise After) Noise { get; private set; }

    public async Task<IActionResult> OnGetAsync(Guid id) => await LoadAsync(id) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var photoId = Sheet.Id("photo", "a photo");
        if (photoId is null || !order.Contains(photoId.Value))
            return NotFound();
        var given = new Dictionary<string, double?>();
        foreach (var aspect in Aspects.All)
        {
            var text = Sheet["s." + aspect].Trim().ToLowerInvariant();
            if (text is "" or "m")
            {
                given[aspect] = null;
                continue;
            }

            var score = BenchFields.Score.Parse(text);
            if (score.Error is not null)
                Sheet.Refuse("s." + aspect, score.Error);
            given[aspect] = (double?)score.Value;
        }

        if (Sheet.IsGood && given.Values.All(v => v is null) && !Sheet.Ticked("skip"))
            Sheet.Refuse("s." + Aspects.All[0], "Score at least one aspect, or pass this photo by.");
        if (!Sheet.IsGood)
            return Refused();
        await Bench.AloneAsync(async () =>
        {
            var photo = await Db.Photos.AsNoTracking().FirstAsync(p => p.Id == photoId);
            var readings = await Db.Readings.AsNoTracking().Where(r => r.RunId == photo.RunId && r.Section == photo.Section && Aspects.All.Contains(r.Aspect))
                .ToListAsync();
            var superseded = readings.Select(r => r.SupersedesId).OfType<Guid>().ToHashSet();
            var scores = await Db.PhotoScores.Where(x => x.SittingId == id && x.PhotoId == photoId).ToListAsync();
            // Sent twice, the first answer stands.
            if (scores.Count == 0)
            {
                foreach (var (aspect, value) in given)
                    Db.PhotoScores.Add(
                        new PhotoScore
                        {
                            SittingId = id, PhotoId = photo.Id, Aspect = aspect, Value = value, At = Bench.Now,
                            ReadingId = readings.FirstOrDefault(r => r.Aspect == aspect && r.Value is not null && !superseded.Contains(r.Id))?.Id,
                        });
            }

            var done = await Db.PhotoScores.Where(x => x.SittingId == id).Select(x => x.PhotoId).Distinct().ToListAsync();
            var sitting = await Db.Sittings.FirstAsync(s => s.Id == id);
            if (sitting.FinishedAt is null && order.All(o => done.Contains(o) || o == photo.Id))
            {
                sitting.FinishedAt = Bench.Now;
                await Bench.LogAsync("photo", $"{Words.Plural(order.Count, "photo")} scored again, blind", $"/sittings/{id}");
            }

            return await Db.SaveChangesAsync();
        });
        noises.Forget();
        return Redirect($"/sittings/{id}");
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        var s = await Db.Sittings.FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (s is null)
            return NotFound();
        s.RemovedAt = Bench.Now;
        await Bench.LogAsync("photo", "A sitting was removed; the score noise is learned without it", "/sittings", $"sitting:{id}");
        await Bench.SaveAsync();
        Tell("The sitting is removed; verdicts no longer use it.", "sitting", id);
        return Redirect("/sittings");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        var s = await Db.Sittings.AsNoTracking().Include(x => x.Scores).FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (s is null)
            return false;
        S = s;
        order = Json.Read<List<Guid>>(s.OrderJson);
        var photos = await Db.Photos.AsNoTracking().Where(p => order.Contains(p.Id)).ToDictionaryAsync(p => p.Id);
        var done = s.Scores.Select(x => x.PhotoId).ToHashSet();
        var next = order.FirstOrDefault(o => !done.Contains(o) && photos.ContainsKey(o));
        if (next != Guid.Empty)
        {
            (Now, Place) = (photos[next], order.IndexOf(next) + 1);
            return true;
        }

        var readings = s.Scores.Select(x => x.ReadingId).OfType<Guid>().ToList();
        var first = await Db.Readings.AsNoTracking().Where(r => readings.Contains(r.Id) && r.Value != null).ToDictionaryAsync(r => r.Id);
        var runs = await Db.Runs.AsNoTracking().Where(r => photos.Values.Select(p => p.RunId).Contains(r.Id)).ToDictionaryAsync(r => r.Id);
        Pairs =
        [
            .. s.Scores.Where(x => x.Value is not null && x.ReadingId is { } r && first.ContainsKey(r))
                .Select(x =>
                {
                    var photo = photos[x.PhotoId];
                    var run = runs[photo.RunId];
                    return new Pair(
                        photo, $"{Words.N(Json.Read<TowerPlanV1>(run.PlanJson).Sections[photo.Section!.Value].TemperatureC, 1)} °C, run {run.Number}", x.Aspect,
                        first[x.ReadingId!.Value].Value!.Value, x.Value!.Value);
                }).OrderByDescending(p => Math.Abs(p.First - p.Again)).ThenBy(p => p.Where),
        ];
        Noise = (
            ScoreNoise.Learn([[.. Pairs.Select(p => (p.First, p.Again))]]),
            (await noises.AllAsync()).GetValueOrDefault(s.PersonId ?? Guid.Empty) ?? ScoreNoise.Unlearned);
        return true;
    }
}
