using Glenfrost.Core.Trials;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Photos;

/// <summary>Keeps photos of runs: the pictures by hash outside the database, then the row that names them.</summary>
public sealed class PhotoBook(Bench bench, DataPlace place)
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
        if (await bench.Db.Photos.AsNoTracking().FirstOrDefaultAsync(p => p.Key == key) is { } already)
            return (already, null);
        var (picture, error) = await Pictures.MakeAsync(file.Path);
        if (picture is null)
            return (null, $"{file.Name}: {error}");
        var large = place.Files.Put(s => s.Write(picture.Large));
        var small = place.Files.Put(s => s.Write(picture.Small));
        return await bench.AloneAsync(async () =>
        {
            if (await bench.Db.Photos.AsNoTracking().FirstOrDefaultAsync(p => p.Key == key) is { } raced)
                return ((Photo?)raced, (string?)null);
            if (await bench.Db.Photos.CountAsync(p => p.RunId == run.Id && p.RemovedAt == null) >= MostPerRun)
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
                At = bench.Now,
                PersonId = (await bench.PersonAsync()).Id,
                DeviceId = bench.DeviceId,
            };
            bench.Db.Photos.Add(photo);
            await bench.LogCountAsync("photo", $"/runs/{run.Id}/photos", 1, n =>
                $"{Words.Plural(n, "photo")} of {Words.Lower(TrialCatalogue.Get(run.Kind).Name)} {run.Number} added");
            await bench.Db.SaveChangesAsync();
            return ((Photo?)photo, (string?)null);
        });
    }

    /// <summary>Adds the photos that came in with a form.</summary>
    public async Task<(List<Photo> Added, List<string> Refused)> AddAllAsync(Run run, IReadOnlyDictionary<string, string> fields, IReadOnlyList<UploadedFile> files)
    {
        var (added, refused) = (new List<Photo>(), new List<string>());
        var sections = TrialCatalogue.Get(run.Kind).ReadPlan(run.PlanJson).Parts.Count;
        int? section = null;
        if (fields.GetValueOrDefault("section", "").Trim() is { Length: > 0 } typed)
        {
            if (!int.TryParse(typed, out var i) || i < 0 || i >= sections)
                refused.Add($"Section {typed} is not part of this piece: 0 to {sections - 1} would be right, or none for the whole piece.");
            section = i;
        }

        if (files.Count == 0)
            refused.Add("No picture was chosen. Take one with the camera or choose a file first.");
        var key = fields.GetValueOrDefault("key", "");
        if (key.Length is 0 or > 80)
            key = Guid.CreateVersion7().ToString();
        foreach (var (file, i) in files.Select((f, i) => (f, i)))
        {
            if (refused.Count > 0 && section is not null && section >= sections)
                break;
            var (photo, error) = await AddAsync(run, section, i == 0 ? key : $"{key}.{i}", file);
            if (photo is null)
                refused.Add(error!);
            else
                added.Add(photo);
        }

        return (added, refused);
    }
}
