using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>
/// Takes the content of a photo or file off the disk for good, where somebody asks for it. The row stays, removed, so that what leans on it can say so; content
/// that something else stands on stays.
/// </summary>
public sealed class Erasure(WorkContext work, DataPlace place)
{
    /// <summary>Erases a photo of a run.</summary>
    /// <returns>What was done, in a sentence; null where there is no such photo.</returns>
    public async Task<string?> PhotoAsync(Guid run, Guid photo)
    {
        if (await work.Db.Photos.FirstOrDefaultAsync(p => p.Id == photo && p.RunId == run && p.RemovedAt == null) is not { } p)
            return null;
        p.RemovedAt = work.Now;
        p.Note = null;
        await work.LogAsync("photo", "A photo was erased for good", $"/runs/{run}/photos");
        await work.SaveAsync();
        return await work.AloneAsync(() => GoneAsync("The photo", [p.Sha256, p.SmallSha256]));
    }

    /// <summary>Erases a file of the G-code room.</summary>
    /// <returns>What was done, in a sentence; null where there is no such file.</returns>
    public async Task<string?> FileAsync(Guid file)
    {
        if (await work.Db.GcodeFiles.FirstOrDefaultAsync(f => f.Id == file && f.RemovedAt == null) is not { } f)
            return null;
        f.RemovedAt = work.Now;
        await work.LogAsync("gcode", $"{f.Name} was erased for good", "/gcode");
        await work.SaveAsync();
        return await work.AloneAsync(() => GoneAsync(f.Name, [f.Sha256]));
    }

    /// <summary>True where the content of something that was removed is still there, so that it can come back.</summary>
    public static async Task<bool> CanComeBackAsync(GlenfrostDb db, FileStore files, string kind, Guid id) => kind switch
    {
        "photo" => await db.Photos.AsNoTracking().FirstOrDefaultAsync(p => p.Id == id) is { } p && files.Exists(p.Sha256) && files.Exists(p.SmallSha256),
        "gcode" => await db.GcodeFiles.AsNoTracking().FirstOrDefaultAsync(f => f.Id == id) is { } f && files.Exists(f.Sha256),
        _ => true,
    };

    /// <summary>
    /// Deletes contents that nothing else stands on. The row is saved before: a stop in between never leaves one without its file. Inside the gate only: who
    /// stores the same content meanwhile looks there whether it still stands.
    /// </summary>
    private async Task<string> GoneAsync(string what, string[] hashes)
    {
        var shared = false;
        foreach (var hash in hashes.Distinct())
        {
            if (await work.Db.Photos.AnyAsync(p => p.RemovedAt == null && (p.Sha256 == hash || p.SmallSha256 == hash))
                || await work.Db.GcodeFiles.AnyAsync(f => f.RemovedAt == null && f.Sha256 == hash)
                || await work.Db.RunFiles.AnyAsync(f => f.Sha256 == hash))
                shared = true;
            else
                place.Files.Delete(hash);
        }

        return shared
            ? $"{what} is removed; its content stays on the disk, since something else here holds the same."
            : $"{what} is erased from this disk. Backups that were taken before still hold it.";
    }
}
