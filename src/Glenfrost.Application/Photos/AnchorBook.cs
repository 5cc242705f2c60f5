using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Photos;

/// <summary>A photo that stands for a score.</summary>
/// <param name="Id">Of the choice.</param>
/// <param name="Score">0 to 4.</param>
/// <param name="PhotoId">The photo.</param>
public sealed record OwnAnchor(Guid Id, int Score, Guid PhotoId);

/// <summary>Photos that a person chose to stand for 0 to 4 of an aspect, shown beside the cells that are scored.</summary>
public sealed class AnchorBook(WorkContext work)
{
    /// <summary>The photos of who is here, by key of the aspect's words, the best score first.</summary>
    /// <param name="keys">Keys that are asked for.</param>
    public async Task<IReadOnlyDictionary<string, IReadOnlyList<OwnAnchor>>> OfAsync(IReadOnlyCollection<string> keys)
    {
        if (keys.Count == 0)
            return new Dictionary<string, IReadOnlyList<OwnAnchor>>();
        var person = (await work.PersonAsync()).Id;
        var chosen = await work.Db.AnchorPhotos.AsNoTracking()
            .Where(a => a.PersonId == person && a.RemovedAt == null && keys.Contains(a.Key)
                && work.Db.Photos.Any(p => p.Id == a.PhotoId && p.RemovedAt == null)).ToListAsync();
        // A photo stands for one score of an aspect, the one that was chosen last, and for a score stands the photo that was chosen last. Taken back, the
        // choice before stands again.
        return chosen.GroupBy(a => a.Key).ToDictionary(
            g => g.Key,
            g => (IReadOnlyList<OwnAnchor>)
            [
                .. g.GroupBy(a => a.PhotoId).Select(Newest).GroupBy(a => a.Score).OrderByDescending(s => s.Key).Select(Newest)
                    .Select(a => new OwnAnchor(a.Id, a.Score, a.PhotoId)),
            ]);
    }

    private static AnchorPhoto Newest(IEnumerable<AnchorPhoto> chosen) => chosen.OrderByDescending(a => a.At).ThenByDescending(a => a.Id).First();

    /// <summary>The same for what a grid scores.</summary>
    public Task<IReadOnlyDictionary<string, IReadOnlyList<OwnAnchor>>> OfAsync(ReadingGrid grid) => OfAsync(KeysOf(grid));

    /// <summary>Keys of what a grid scores.</summary>
    public static IReadOnlyList<string> KeysOf(ReadingGrid grid) => [.. grid.Columns.Select(c => c.Anchors?.Key).OfType<string>().Distinct()];

    /// <summary>Lets a photo stand for a score, for who is here.</summary>
    /// <param name="photo">The photo.</param>
    /// <param name="key">Key of the aspect's words.</param>
    /// <param name="score">0 to 4.</param>
    /// <returns>The choice, to be undone.</returns>
    public async Task<AnchorPhoto> ChooseAsync(Guid photo, string key, int score)
    {
        var anchor = new AnchorPhoto { PersonId = (await work.PersonAsync()).Id, Key = key, Score = score, PhotoId = photo, At = work.Now };
        work.Db.AnchorPhotos.Add(anchor);
        await work.LogAsync("photo", $"A photo stands for {score} of {key}", null, $"anchor:{anchor.Id}");
        await work.SaveAsync();
        return anchor;
    }

    /// <summary>Takes a choice back; false where there is none of this person.</summary>
    public async Task<bool> RemoveAsync(Guid id)
    {
        var person = (await work.PersonAsync()).Id;
        if (await work.Db.AnchorPhotos.FirstOrDefaultAsync(a => a.Id == id && a.PersonId == person && a.RemovedAt == null) is not { } anchor)
            return false;
        anchor.RemovedAt = work.Now;
        await work.LogAsync("photo", $"A photo stands for {anchor.Score} of {anchor.Key} no more", null, $"unanchor:{anchor.Id}");
        await work.SaveAsync();
        return true;
    }
}
