using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Photos;

/// <summary>Keeps photos of runs: the pictures by hash outside the database, then the row that names them.</summary>
public sealed class PhotoBook(WorkContext work, DataPlace place)
{
    /// <summary>Most photos of one run.</summary>
    public const int MostPerRun = 400;

    /// <summary>Stores a photo. The same key is stored once.</summary>
    /// <returns>The photo, or what is wrong with the file.</returns>
    public async Task<(Photo? Photo, string? Error)> AddAsync(Run run, int? section, string key, UploadedFile file)
    {
        if (file.TooLarge)
            return (
                null, $"{file.Name} has {Words.Size(file.Bytes)}; at most {Words.Size(Pictures.MostBytes)} are taken. Take it with a smaller picture size.");
        if (await work.Db.Photos.AsNoTracking().FirstOrDefaultAsync(p => p.Key == key) is { } already)
            return (already, null);
        var (picture, error) = await Pictures.MakeAsync(file.Path);
        return picture is null ? (null, $"{file.Name}: {error}") : await AddReadyAsync(run, section, key, picture);
    }

    /// <summary>Stores a picture that is ready as a photo. The same key is stored once.</summary>
    /// <returns>The photo, or why it is not taken.</returns>
    public async Task<(Photo? Photo, string? Error)> AddReadyAsync(Run run, int? section, string key, ReadyPicture picture)
    {
        var large = place.Files.Put(s => s.Write(picture.Large));
        var small = place.Files.Put(s => s.Write(picture.Small));
        return await work.AloneAsync(async () =>
        {
            if (await work.Db.Photos.AsNoTracking().FirstOrDefaultAsync(p => p.Key == key) is { } raced)
                return ((Photo?)raced, (string?)null);
            if (await work.Db.Photos.CountAsync(p => p.RunId == run.Id && p.RemovedAt == null) >= MostPerRun)
                return ((Photo?)null, (string?)$"This run has {MostPerRun} photos already; remove some first.");
            var photo = new Photo
            {
                Key = key,
                RunId = run.Id,
                Section = section,
                Sha256 = large.Sha256,
                SmallSha256 = small.Sha256,
                WidthPx = picture.Width,
                HeightPx = picture.Height,
                Bytes = large.Bytes,
                At = work.Now,
                PersonId = (await work.PersonAsync()).Id,
                DeviceId = work.DeviceId,
            };
            // The same content may have been erased since it was stored: what a row names stands before the row does.
            if (!place.Files.Exists(large.Sha256))
                place.Files.Put(s => s.Write(picture.Large));
            if (!place.Files.Exists(small.Sha256))
                place.Files.Put(s => s.Write(picture.Small));
            work.Db.Photos.Add(photo);
            await work.LogCountAsync("photo", $"/runs/{run.Id}/photos", 1, n =>
                $"{Words.Plural(n, "photo")} of {Words.Lower(TrialCatalogue.Get(run.Kind).Name)} {run.Number} added");
            await work.Db.SaveChangesAsync();
            return ((Photo?)photo, (string?)null);
        });
    }

    /// <summary>A run that photos may be added to; null where there is none.</summary>
    public Task<Run?> RunAsync(Guid id) => work.Db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id && r.RemovedAt == null);

    /// <summary>A photo, removed ones too; null where there is none.</summary>
    public Task<Photo?> FindAsync(Guid id) => work.Db.Photos.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id);

    /// <summary>A photo of a run to be changed; null where there is none.</summary>
    private Task<Photo?> OfAsync(Guid run, Guid photo) => work.Db.Photos.FirstOrDefaultAsync(x => x.Id == photo && x.RunId == run && x.RemovedAt == null);

    /// <summary>Keeps the note of a photo; null empties it. False where there is no such photo.</summary>
    public async Task<bool> NoteAsync(TrialRunView v, Guid photo, string? note)
    {
        if (await OfAsync(v.Run.Id, photo) is not { } p)
            return false;
        p.Note = note;
        await work.LogAsync(
            "photo", note is null ? $"Note of a photo of {v.Called} emptied" : $"Photo of {v.Called}: {note}", $"/runs/{v.Run.Id}/photos?c={photo}");
        await work.SaveAsync();
        return true;
    }

    /// <summary>Says which part a photo shows; null for the whole piece. False where there is no such photo.</summary>
    public async Task<bool> MoveAsync(TrialRunView v, Guid photo, int? section)
    {
        if (await OfAsync(v.Run.Id, photo) is not { } p)
            return false;
        p.Section = section;
        await work.LogAsync(
            "photo", $"A photo of {v.Called} belongs to {(section is { } s ? v.Parts[s].Label : "the whole piece")} now", $"/runs/{v.Run.Id}/photos?c={photo}");
        await work.SaveAsync();
        return true;
    }

    /// <summary>Removes a photo. False where there is none.</summary>
    public async Task<bool> RemoveAsync(Guid run, Guid photo)
    {
        if (await OfAsync(run, photo) is not { } p)
            return false;
        p.RemovedAt = work.Now;
        await work.LogAsync("photo", "A photo was removed", $"/runs/{run}/photos", $"photo:{photo}");
        await work.SaveAsync();
        return true;
    }

    /// <summary>Runs with photos of the same kind and filament, newest first, for photos side by side.</summary>
    public async Task<IReadOnlyList<TrialRunView>> SiblingsAsync(TrialRunView v)
    {
        if (v.Pairing is not { } own)
            return [];
        var siblings = await work.Db.Runs.AsNoTracking().Include(r => r.Readings).Include(r => r.Photos).AsSplitQuery()
            .Where(r => r.Kind == v.Run.Kind && r.RemovedAt == null && r.Id != v.Run.Id && r.World == v.Run.World
                && (r.PairingId == own.Id || r.Pairing!.FilamentId == own.FilamentId) && r.Photos.Any(p => p.RemovedAt == null))
            .OrderByDescending(r => r.CreatedAt).Take(20).ToListAsync();
        var ids = siblings.Select(r => r.PairingId!.Value).ToHashSet();
        var pairings = await work.Db.Pairings.AsNoTracking().Full().Where(p => ids.Contains(p.Id)).ToDictionaryAsync(p => p.Id);
        return
        [
            .. siblings.Select(r =>
                TrialRuns.View(
                    v.Trial, r, pairings[r.PairingId!.Value], pairings[r.PairingId!.Value].Toolhead!, new Dictionary<Guid, Core.Statistics.ScoreNoise>())),
        ];
    }

    /// <summary>Adds the photos that came in with a form.</summary>
    public async Task<(List<Photo> Added, List<string> Refused)> AddAllAsync(
        Run run, IReadOnlyDictionary<string, string> fields, IReadOnlyList<UploadedFile> files)
    {
        var (added, refused) = (new List<Photo>(), new List<string>());
        var sections = TrialCatalogue.Get(run.Kind).ReadPlan(run.PlanJson).Parts.Count;
        int? section = null;
        if (fields.GetValueOrDefault("section", "").Trim() is { Length: > 0 } typed)
        {
            if (!int.TryParse(typed, out var i) || i < 0 || i >= sections)
                return ([], [$"Section {typed} is not part of this piece: 0 to {sections - 1} would be right, or none for the whole piece."]);
            section = i;
        }

        if (files.Count == 0)
            refused.Add("No picture was chosen. Take one with the camera or choose a file first.");
        var key = fields.GetValueOrDefault("key", "");
        if (key.Length is 0 or > 80)
            key = Guid.CreateVersion7().ToString();
        foreach (var (file, i) in files.Select((f, i) => (f, i)))
        {
            var (photo, error) = await AddAsync(run, section, i == 0 ? key : $"{key}.{i}", file);
            if (photo is null)
                refused.Add(error!);
            else
                added.Add(photo);
        }

        return (added, refused);
    }
}
