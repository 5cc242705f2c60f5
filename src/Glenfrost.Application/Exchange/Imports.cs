using System.IO.Compression;
using System.Security.Cryptography;
using Glenfrost.Storage;
using Glenfrost.Storage.Exchange;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Exchange;

/// <summary>Something that was sent and waits to be taken in or dropped.</summary>
/// <param name="Id">Its address.</param>
/// <param name="Name">Name of the file as sent.</param>
/// <param name="Kind">archive (JSON), zip or table (CSV).</param>
/// <param name="At">When it came.</param>
public sealed record ImportDraft(Guid Id, string Name, string Kind, DateTime At);

/// <summary>What an archive holds and what would come of it.</summary>
/// <param name="Archive">As read; its rows stand in its document.</param>
/// <param name="Plan">Against what stands here.</param>
/// <param name="Files">Files in the zip that its rows name.</param>
/// <param name="Ignored">Other entries of the zip.</param>
public sealed record ImportPreview(Archive Archive, ImportPlan Plan, int Files, int Ignored);

/// <summary>Keeps what was sent until it is decided on, previews it and takes it in.</summary>
public sealed class Imports(WorkContext work, DataPlace place, Upgrade upgrade, WriteGate gate, AnswerCache answers)
{
    /// <summary>Most bytes of an archive.</summary>
    public const long MostBytes = 1_000_000_000;

    private const long MostDocument = 256_000_000;

    private const long MostFile = 600_000_000;

    private const long LargeFile = 50_000_000;

    // Sliced files shrink five- to tenfold; nothing that Glenfrost keeps shrinks a hundredfold.
    private const int MostRatio = 100;

    private const int MostEntries = 300_000;

    /// <summary>Most imports that wait to be decided on.</summary>
    public const int MostWaiting = 20;

    /// <summary>Bytes that they may take together.</summary>
    public const long MostWaitingBytes = 3L * MostBytes;

    private static readonly SemaphoreSlim One = new(1);

    private static readonly TimeSpan Remembered = TimeSpan.FromMinutes(10);

    private static readonly TimeSpan Kept = TimeSpan.FromDays(30);

    /// <summary>Takes an uploaded file over; what waited for a month is dropped.</summary>
    /// <returns>The draft, or what is wrong with the file.</returns>
    public async Task<(ImportDraft? Draft, string? Error)> KeepAsync(UploadedFile file)
    {
        if (file.TooLarge)
            return (null, $"{file.Name} has {Words.Size(file.Bytes)}; at most {Words.Size(MostBytes)} are taken. Nothing was changed.");
        if (file.Bytes == 0)
            return (null, $"{file.Name} is empty. Nothing was changed.");
        var kind = await KindOfAsync(file.Path);
        if (kind is null)
            return (null, $"{file.Name} is neither an archive of Glenfrost (zip or JSON) nor a table (CSV as text). Nothing was changed.");
        foreach (var old in Directory.Exists(place.ImportsFolder) ? Directory.GetDirectories(place.ImportsFolder) : [])
        {
            if (Directory.GetCreationTimeUtc(old) < DateTime.UtcNow - Kept)
                Directory.Delete(old, true);
        }

        // What waits takes room that readings need: a few large ones, or many small ones.
        var waiting = await WaitingAsync();
        var held = waiting.Sum(d => File.Exists(PathOf(d.Id, "sent")) ? new FileInfo(PathOf(d.Id, "sent")).Length : 0);
        if (waiting.Count >= MostWaiting || held + file.Bytes > MostWaitingBytes)
            return (
                null,
                $"{Words.Plural(waiting.Count, "import")} with {Words.Size(held)} wait already; at most {MostWaiting} with " +
                    $"{Words.Size(MostWaitingBytes)} do. Take one in or drop one on the page Exchange, then send {file.Name} again. Nothing was changed.");
        var draft = new ImportDraft(Guid.CreateVersion7(), file.Name, kind, work.Now);
        Disk.Make(FolderOf(draft.Id));
        Disk.Keep(file.Path, PathOf(draft.Id, "sent"));
        Disk.Write(PathOf(draft.Id, "draft.json"), Json.Write(draft));
        return (draft, null);
    }

    /// <summary>What waits under an id; null where nothing does.</summary>
    public async Task<ImportDraft?> FindAsync(Guid id) =>
        File.Exists(PathOf(id, "draft.json")) ? Json.Read<ImportDraft>(await File.ReadAllTextAsync(PathOf(id, "draft.json"))) : null;

    /// <summary>What waits to be decided on, newest first.</summary>
    public async Task<List<ImportDraft>> WaitingAsync()
    {
        var list = new List<ImportDraft>();
        foreach (var folder in Directory.Exists(place.ImportsFolder) ? Directory.GetDirectories(place.ImportsFolder) : [])
        {
            if (Guid.TryParseExact(Path.GetFileName(folder), "N", out var id) && await FindAsync(id) is { } draft)
                list.Add(draft);
        }

        return [.. list.OrderByDescending(d => d.At)];
    }

    /// <summary>Where a part of a draft lies.</summary>
    public string PathOf(Guid id, string name) => Path.Combine(FolderOf(id), name);

    /// <summary>Drops a draft.</summary>
    public void Drop(Guid id)
    {
        if (Directory.Exists(FolderOf(id)))
            Directory.Delete(FolderOf(id), true);
    }

    /// <summary>Reads an archive and compares it with what stands here; remembered until something is written.</summary>
    /// <exception cref="InvalidDataException">It can't be read; the message says why.</exception>
    public async Task<ImportPreview> PreviewAsync(ImportDraft draft)
    {
        var key = $"import {draft.Id} {gate.Writes}";
        if (answers.TryGet(key, out ImportPreview? known))
            return known!;
        await using var document = await DocumentAsync(draft);
        var preview = await PreviewAsync(draft, document);
        return answers.Put(key, 10 + preview.Archive.Rows.Values.Sum(r => r.Count) / 20, preview, Remembered);
    }

    /// <summary>The document of a draft, to be read at any place: what was sent, or unpacked beside it for as long as it is open.</summary>
    private async Task<FileStream> DocumentAsync(ImportDraft draft)
    {
        if (draft.Kind != "zip")
        {
            var json = File.OpenRead(PathOf(draft.Id, "sent"));
            if (json.Length <= MostDocument)
                return json;
            await json.DisposeAsync();
            throw new InvalidDataException(
                $"The JSON has {Words.Size(json.Length)}; at most {Words.Size(MostDocument)} are read. Export it as a zip, or a pairing at a time.");
        }

        using var zip = OpenZip(draft);
        var document = zip.Entries.Where(e => e.FullName == Exports.DocumentName).ToList();
        if (document.Count != 1)
            throw new InvalidDataException(
                document.Count == 0
                    ? $"This zip is no archive of Glenfrost: it holds no {Exports.DocumentName}. (A backup is put back with ./glenfrost restore.)"
                    : $"This zip holds {Exports.DocumentName} twice.");
        var entry = document[0];
        if (entry.Length > MostDocument || (entry.Length > LargeFile && entry.Length > MostRatio * Math.Max(1, entry.CompressedLength)))
            throw new InvalidDataException(
                $"{entry.FullName} would grow to {Words.Size(entry.Length)} from {Words.Size(entry.CompressedLength)}; no archive of Glenfrost does. It was " +
                    $"not read further, and nothing was changed.");
        var to = new FileStream(
            PathOf(draft.Id, $"{Guid.NewGuid():N}.part"), FileMode.CreateNew, FileAccess.ReadWrite, FileShare.None, 1 << 16, FileOptions.DeleteOnClose);
        try
        {
            await using var content = entry.Open();
            await CopyAsync(content, to);
            to.Position = 0;
            return to;
        }
        catch (Exception e)
        {
            await to.DisposeAsync();
            if (e is InvalidDataException && IsZipFault(e))
                throw Broken();
            throw;
        }
    }

    private async Task CopyAsync(Stream content, FileStream to)
    {
        var buffer = new byte[1 << 16];
        long n = 0;
        int got;
        while ((got = await content.ReadAsync(buffer, work.Left)) > 0)
        {
            if ((n += got) > MostDocument)
                throw new InvalidDataException(
                    $"It grows beyond {MostDocument / 1_000_000} MB while it is read; it was not read further, and nothing was changed.");
            await to.WriteAsync(buffer.AsMemory(0, got), work.Left);
        }
    }

    private async Task<ImportPreview> PreviewAsync(ImportDraft draft, FileStream document)
    {
        document.Position = 0;
        var archive = await ReadAsync(document);
        if (draft.Kind != "zip")
            return new(archive, await ArchiveImport.CompareAsync(work.Db, archive, document, HasFile, work.Left), 0, 0);
        using var zip = OpenZip(draft);
        var files = FilesOf(zip);
        return new(
            archive, await ArchiveImport.CompareAsync(work.Db, archive, document, h => HasFile(h) || files.ContainsKey(h), work.Left), files.Count,
            zip.Entries.Count(e =>
                e.Length > 0
                && e.FullName != Exports.DocumentName
                && !e.FullName.StartsWith("files/", StringComparison.Ordinal)
                && !e.FullName.StartsWith("tables/", StringComparison.Ordinal)));
    }

    /// <summary>Reads a document, one at a time whoever asks: a large one costs memory while it is looked at.</summary>
    private static async Task<Archive> ReadAsync(Stream json)
    {
        await One.WaitAsync();
        try
        {
            return await Task.Run(() => ArchiveReader.Read(json, RowRules.Of, MostDocument));
        }
        finally
        {
            One.Release();
        }
    }

    /// <summary>Takes an archive in. A backup is taken before; files come first, then all rows at once.</summary>
    /// <param name="draft">What waits.</param>
    /// <param name="take">Ids of different rows whose incoming content is wanted.</param>
    /// <returns>What was done, in words.</returns>
    /// <exception cref="InvalidDataException">A file of the zip is not what its name says, or it can't be read; nothing was changed.</exception>
    public async Task<string> ApplyAsync(ImportDraft draft, IReadOnlySet<Guid> take)
    {
        await using var document = await DocumentAsync(draft);
        var preview = await PreviewAsync(draft, document);
        var backup = Path.Combine(place.BackupsFolder, $"before-import-{work.Now:yyyyMMdd-HHmmss-fff}.zip");
        place.Backups.Take(backup);
        place.Backups.Thin();
        var stored = draft.Kind == "zip" ? StoreFiles(draft, preview.Plan, take) : 0;
        await work.PersonAsync();
        var (added, replaced) = await work.AloneAsync(async () =>
        {
            // Compared again inside the gate: what was saved since the preview counts.
            var plan = await ArchiveImport.CompareAsync(work.Db, preview.Archive, document, _ => true);
            // And what was erased since it was stored stands before its row does.
            if (draft.Kind == "zip")
                StoreFiles(draft, plan, take);
            var moving = preview.Archive.Scope == "archive" && !await work.Db.Runs.AnyAsync();
            var (homeBefore, done) = (
                await work.Db.People.Where(p => !p.Elsewhere).Select(p => p.Id).ToListAsync(),
                await ArchiveImport.ApplyAsync(work.Db, plan, document, take, !moving));
            // An empty bench that takes a whole archive in becomes that bench: the one who was made up for it steps back.
            if (moving && await work.Db.People.AnyAsync(p => !homeBefore.Contains(p.Id)))
                await work.Db.People.Where(p => homeBefore.Contains(p.Id)).ExecuteUpdateAsync(s => s.SetProperty(p => p.Elsewhere, true));
            await work.LogAsync(
                "import",
                $"{draft.Name} taken in: {Words.Plural(done.Added, "row")} new, {done.Replaced} replaced, {Words.Plural(stored, "file")}. Backup before " +
                    $"it: {Path.GetFileName(backup)}",
                "/exchange");
            await work.Db.SaveChangesAsync();
            return done;
        });
        await upgrade.RecordsAsync();
        Drop(draft.Id);
        return $"{Words.Plural(added, "row")} taken in, {replaced} replaced, {Words.Plural(stored, "file")} " +
            $"stored.{(preview.Plan.Bad.Count > 0 ? $" {preview.Plan.Bad.Count} could not be taken." : "")}";
    }

    private int StoreFiles(ImportDraft draft, ImportPlan plan, IReadOnlySet<Guid> take)
    {
        using var zip = OpenZip(draft);
        var files = FilesOf(zip);
        var wanted = plan.Hashes.Concat(plan.Different.Where(d => take.Contains(d.Row.Id)).SelectMany(d => ArchiveWriter.HashesOf(d.Row))).ToHashSet();
        var stored = 0;
        foreach (var hash in wanted.Where(h => files.ContainsKey(h) && !HasFile(h)))
        {
            var entry = files[hash];
            if (entry.Length > MostFile || (entry.Length > LargeFile && entry.Length > MostRatio * Math.Max(1, entry.CompressedLength)))
                throw new InvalidDataException(
                    $"{entry.FullName} would grow to {Words.Size(entry.Length)} from {Words.Size(entry.CompressedLength)}; no file of Glenfrost does. " +
                        $"Nothing was changed."
                );
            try
            {
                // First told whether it is what it says, then stored.
                using (var check = entry.Open())
                using (var sha = SHA256.Create())
                {
                    var buffer = new byte[1 << 16];
                    long n = 0;
                    int got;
                    while ((got = check.Read(buffer)) > 0)
                    {
                        n += got;
                        if (n > MostFile)
                            throw new InvalidDataException($"{entry.FullName} is larger than it says. Nothing was changed.");
                        sha.TransformBlock(buffer, 0, got, null, 0);
                    }

                    sha.TransformFinalBlock([], 0, 0);
                    if (Convert.ToHexStringLower(sha.Hash!) != hash)
                        throw new InvalidDataException(
                            $"{entry.FullName} does not hold what its name says: the zip is damaged or was changed. Nothing was changed.");
                }

                using var content = entry.Open();
                place.Files.Put(content);
                stored++;
            }
            catch (Exception e) when (e is InvalidDataException && IsZipFault(e))
            {
                throw Broken();
            }
        }

        return stored;
    }

    private ZipArchive OpenZip(ImportDraft draft)
    {
        ZipArchive zip;
        try
        {
            zip = ZipFile.OpenRead(PathOf(draft.Id, "sent"));
            _ = zip.Entries.Count;
        }
        catch (Exception e) when (e is InvalidDataException or IOException)
        {
            throw Broken();
        }

        if (zip.Entries.Count > MostEntries)
        {
            zip.Dispose();
            throw new InvalidDataException($"This zip holds more than {MostEntries} entries; an archive of Glenfrost has far fewer.");
        }

        var climbs = zip.Entries.FirstOrDefault(e =>
            e.FullName.Split('/', '\\').Contains("..") || e.FullName.StartsWith('/') || e.FullName.Contains('\\') || e.FullName.Contains(':'));
        if (climbs is null)
            return zip;
        zip.Dispose();
        throw new InvalidDataException(
            $"This zip holds a path that leads out of it ({(climbs.FullName.Length > 80 ? climbs.FullName[..80] + "…" : climbs.FullName)}). Glenfrost " +
                $"writes none like that; nothing of it was unpacked."
        );
    }

    private static Dictionary<string, ZipArchiveEntry> FilesOf(ZipArchive zip)
    {
        var files = new Dictionary<string, ZipArchiveEntry>();
        foreach (var e in zip.Entries.Where(e => e.FullName == $"files/{e.Name}" && FileStore.IsHash(e.Name)))
            files[e.Name] = e;
        return files;
    }

    private static bool IsZipFault(Exception e) => e.StackTrace?.Contains("System.IO.Compression", StringComparison.Ordinal) == true;

    private static InvalidDataException Broken() =>
        new("The zip can't be read to its end: it is half a file or damaged. Export it once more. Nothing was changed.");

    private static async Task<string?> KindOfAsync(string path)
    {
        var head = new byte[4096];
        int n;
        await using (var file = File.OpenRead(path))
            n = await file.ReadAtLeastAsync(head, head.Length, false);
        var span = head.AsSpan(0, n);
        if (span.StartsWith("PK"u8))
            return "zip";
        if (span.StartsWith(new byte[] { 0xFF, 0xFE }) || span.StartsWith(new byte[] { 0xFE, 0xFF }))
            return "table";
        if (span.Contains((byte)0))
            return null;
        var text = System.Text.Encoding.UTF8.GetString(span).TrimStart('\uFEFF', ' ', '\t', '\r', '\n');
        return text.StartsWith('{') || text.StartsWith('[') ? "archive" : text.Length > 0 ? "table" : null;
    }

    private bool HasFile(string hash) => FileStore.IsHash(hash) && File.Exists(place.Files.PathOf(hash));

    private string FolderOf(Guid id) => Path.Combine(place.ImportsFolder, id.ToString("N"));
}
