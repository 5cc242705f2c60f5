using System.IO.Compression;
using Microsoft.Data.Sqlite;

namespace Glenfrost.Storage;

/// <summary>Backups of a data folder: one zip each with the database and all files. Automatic ones are kept by age and bounded in size.</summary>
/// <param name="place">The folder.</param>
public sealed class Backups(DataPlace place)
{
    /// <summary>The database in a folder and in a backup.</summary>
    public const string DatabaseName = "glenfrost.db";

    /// <summary>Days in which every automatic backup is kept.</summary>
    private const int AllDays = 2;

    /// <summary>Days in which the newest of each day is kept; behind them the newest of each month.</summary>
    private const int DailyDays = 30;

    /// <summary>Newest ones that are kept whatever their size.</summary>
    private const int Least = 3;

    /// <summary>Bytes that all automatic backups together may take.</summary>
    private const long MostBytes = 1_000_000_000;

    // What is taken by itself; a backup that somebody asked for is never thrown away.
    private static readonly string[] Automatic = ["before-upgrade-", "before-import-", "before-restore-"];

    /// <summary>Backups in the folder's own place, newest first.</summary>
    public IReadOnlyList<FileInfo> All() => Directory.Exists(place.BackupsFolder)
        ? [.. new DirectoryInfo(place.BackupsFolder).EnumerateFiles("*.zip").OrderByDescending(f => f.LastWriteTimeUtc).ThenByDescending(f => f.Name)]
        : [];

    /// <summary>The newest backup that can be restored; null where there is none. It is unpacked to be sure.</summary>
    public FileInfo? NewestWhole() => All().FirstOrDefault(IsWhole);

    /// <summary>What brings the data back, in a sentence.</summary>
    public string Way()
    {
        try
        {
            return NewestWhole() is { } whole
                ? $"The newest whole backup is {whole.FullName} of {whole.LastWriteTimeUtc:yyyy-MM-dd HH:mm} UTC: " +
                    $"./glenfrost restore {Quoted(whole.FullName)} --data {Quoted(place.Folder)} puts it in place; what stands now is set aside."
                : $"No whole backup stands in {place.BackupsFolder}; one from elsewhere is put in place by " +
                    $"./glenfrost restore FILE --data {Quoted(place.Folder)}.";
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return $"Backups in {place.BackupsFolder} can't be read.";
        }
    }

    /// <summary>Throws automatic backups away that are old or too many: all of two days, then one a day, then one a month, at most a gigabyte.</summary>
    public void Thin(DateTime? now = null)
    {
        var at = now ?? DateTime.UtcNow;
        var own = All().Where(f => Automatic.Any(a => f.Name.StartsWith(a, StringComparison.Ordinal))).ToList();
        var kept = new HashSet<string>();
        foreach (var (file, i) in own.Select((f, i) => (f, i)))
        {
            var age = (at - file.LastWriteTimeUtc).TotalDays;
            // Of a span the newest stays; the list runs from the newest.
            if (i < Least || age < AllDays || kept.Add(file.LastWriteTimeUtc.ToString(age < DailyDays ? "yyyy-MM-dd" : "yyyy-MM")))
                continue;
            file.Delete();
        }

        long sum = 0;
        foreach (var (file, i) in own.Where(f => File.Exists(f.FullName)).Select((f, i) => (f, i)))
        {
            sum += file.Length;
            if (i >= Least && sum > MostBytes)
                file.Delete();
        }
    }

    /// <summary>
    /// Copies the database through SQLite's backup API, and the files beside it, into one zip; safe while it is in use. Files are never changed once they
    /// stand there, and the database is copied first, so every file that it names is in.
    /// </summary>
    /// <exception cref="IOException">The target exists, or can't be written.</exception>
    /// <exception cref="SqliteException">The database can't be read.</exception>
    public void Take(string target)
    {
        if (File.Exists(target))
            throw new IOException($"{target} exists already; choose another name.");
        var folder = Path.GetDirectoryName(Path.GetFullPath(target))!;
        if (folder == place.BackupsFolder)
            Disk.MakePrivate(folder);
        else
            Disk.Make(folder);
        var (part, copy) = (target + ".part", target + ".db.part");
        try
        {
            using (var from = Open(place.DatabasePath, SqliteOpenMode.ReadOnly))
            using (var to = Open(copy, SqliteOpenMode.ReadWriteCreate))
                from.BackupDatabase(to);
            using (var stream = File.Create(part))
            {
                Disk.KeepPrivate(part);
                using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, true))
                {
                    zip.CreateEntryFromFile(copy, DatabaseName, CompressionLevel.Fastest);
                    foreach (var hash in place.Files.All())
                        zip.CreateEntryFromFile(place.Files.PathOf(hash), $"files/{hash}", CompressionLevel.Fastest);
                }

                stream.Flush(true);
            }

            Disk.Move(part, Path.GetFullPath(target));
        }
        finally
        {
            File.Delete(part);
            File.Delete(copy);
        }
    }

    /// <summary>
    /// Puts a backup in place of the database and brings its files back. What was there is kept: as a backup where it can be read, else as it is. Inside the
    /// folder's lock only.
    /// </summary>
    /// <returns>Where the former data went; null where there was none.</returns>
    /// <exception cref="InvalidDataException">The file is no backup of Glenfrost, or is damaged.</exception>
    public string? RestoreFrom(string source)
    {
        if (!File.Exists(source))
            throw new FileNotFoundException($"{source} does not exist.");
        var part = place.DatabasePath + ".part";
        try
        {
            var files = Unpack(source, part);
            CheckDatabase(source, part);
            if (files > 0)
            {
                using var zip = ZipFile.OpenRead(source);
                foreach (var entry in zip.Entries.Where(IsFile))
                {
                    using var content = entry.Open();
                    if (place.Files.Put(content).Sha256 != entry.Name)
                        throw new InvalidDataException(
                            $"{source} is damaged: {entry.FullName} does not hold what its name says. The database was not changed.");
                }
            }

            using (var stream = File.Open(part, FileMode.Open, FileAccess.ReadWrite))
                stream.Flush(true);
            Disk.KeepPrivate(part);
            var kept = SetAside();
            Disk.Move(part, place.DatabasePath, true);
            return kept;
        }
        finally
        {
            File.Delete(part);
        }
    }

    /// <summary>
    /// Keeps what stands: a backup of a database that can be read, its file left to be replaced; one that can't is moved as it is, its journal first, so that a
    /// journal never lies beside a database that it is not of.
    /// </summary>
    /// <returns>Where it went; null where nothing stood.</returns>
    private string? SetAside()
    {
        string[] journal = [place.DatabasePath + "-wal", place.DatabasePath + "-shm"];
        var now = $"{DateTime.UtcNow:yyyyMMdd-HHmmss-fff}";
        SqliteConnection.ClearAllPools();
        if (Fault(place.DatabasePath) is null && File.Exists(place.DatabasePath))
        {
            var kept = Path.Combine(place.BackupsFolder, $"before-restore-{now}.zip");
            Take(kept);
            // The journal is written into its database before it goes: a stop between here and the end leaves all of what stood.
            using (var standing = Open(place.DatabasePath, SqliteOpenMode.ReadWrite))
            {
                using var command = standing.CreateCommand();
                command.CommandText = "PRAGMA wal_checkpoint(TRUNCATE)";
                command.ExecuteNonQuery();
            }

            foreach (var file in journal)
                File.Delete(file);
            return kept;
        }

        var standingFiles = journal.Append(place.DatabasePath).Where(File.Exists).ToList();
        if (standingFiles.Count == 0)
            return null;
        var aside = Path.Combine(place.BackupsFolder, $"set-aside-{now}");
        Disk.MakePrivate(place.BackupsFolder);
        Disk.MakePrivate(aside);
        foreach (var file in standingFiles)
            Disk.Move(file, Path.Combine(aside, Path.GetFileName(file)));
        Disk.FlushFolder(place.Folder);
        return aside;
    }

    /// <summary>Checks a database that stands.</summary>
    /// <exception cref="StartRefusedException">It is damaged, or held.</exception>
    public void Check(string path)
    {
        if (Fault(path) is { } e)
            throw place.Refusal(Disk.FaultOf(e) ?? DiskFault.Damaged, e);
    }

    /// <summary>What keeps a database from being read; null where it is whole, and where it is not there.</summary>
    private static Exception? Fault(string path)
    {
        if (!File.Exists(path))
            return null;
        // Looked at before SQLite opens it: beside a file that is none of its own it would throw the journal away.
        using (var stream = new FileStream(path, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete))
        {
            Span<byte> head = stackalloc byte[16];
            if (stream.ReadAtLeast(head, 16, false) < 16 || !head.SequenceEqual("SQLite format 3\0"u8))
                return new InvalidDataException("no database of SQLite");
        }

        try
        {
            using var check = Open(path, SqliteOpenMode.ReadOnly);
            using var command = check.CreateCommand();
            command.CommandText = "PRAGMA busy_timeout=3000; PRAGMA quick_check(1)";
            using var rows = command.ExecuteReader();
            string? said = null;
            do
            {
                while (rows.Read())
                    said = rows.GetValue(0).ToString();
            }
            while (rows.NextResult());
            return said == "ok" ? null : new InvalidDataException(said);
        }
        catch (SqliteException e)
        {
            return e;
        }
    }

    private static bool IsWhole(FileInfo backup)
    {
        var part = backup.FullName + ".check.part";
        try
        {
            Unpack(backup.FullName, part);
            CheckDatabase(backup.FullName, part);
            return true;
        }
        catch (Exception e) when (e is IOException or InvalidDataException or UnauthorizedAccessException)
        {
            return false;
        }
        finally
        {
            File.Delete(part);
        }
    }

    private static string Quoted(string path) => path.Any(c => !char.IsLetterOrDigit(c) && c is not ('/' or '-' or '_' or '.')) ? $"'{path}'" : path;

    private static bool IsFile(ZipArchiveEntry e) => e.FullName == $"files/{e.Name}" && FileStore.IsHash(e.Name);

    /// <summary>Puts the backup's database beside the standing one; a bare database, as older backups are, is copied.</summary>
    private static int Unpack(string source, string part)
    {
        using (var stream = File.OpenRead(source))
        {
            Span<byte> head = stackalloc byte[2];
            if (stream.ReadAtLeast(head, 2, false) < 2 || head[0] != 'P' || head[1] != 'K')
            {
                File.Copy(source, part, true);
                return 0;
            }
        }

        try
        {
            using var zip = ZipFile.OpenRead(source);
            var database = zip.GetEntry(DatabaseName)
                ?? throw new InvalidDataException($"{source} is no backup of Glenfrost: it holds no {DatabaseName}; nothing was changed.");
            database.ExtractToFile(part, true);
            return zip.Entries.Count(IsFile);
        }
        catch (Exception e) when (e is InvalidDataException && !e.Message.StartsWith(source, StringComparison.Ordinal))
        {
            throw new InvalidDataException($"{source} is damaged; nothing was changed.");
        }
    }

    private static void CheckDatabase(string source, string path)
    {
        try
        {
            using var check = Open(path, SqliteOpenMode.ReadOnly);
            using var command = check.CreateCommand();
            command.CommandText = "PRAGMA integrity_check";
            if (command.ExecuteScalar() as string != "ok")
                throw new InvalidDataException($"{source} is damaged; nothing was changed.");
            command.CommandText = "SELECT COUNT(*) FROM sqlite_master WHERE name IN ('Runs', 'Readings', 'Pairings')";
            if (command.ExecuteScalar() is not 3L)
                throw new InvalidDataException($"{source} is no Glenfrost database; nothing was changed.");
        }
        catch (SqliteException)
        {
            throw new InvalidDataException($"{source} is no database that can be read; nothing was changed.");
        }
    }

    private static SqliteConnection Open(string path, SqliteOpenMode mode)
    {
        // Who holds a database for longer than a few seconds is told, not waited for: the usual half minute looks like a start that hangs.
        var connection = new SqliteConnection(
            new SqliteConnectionStringBuilder { DataSource = path, Mode = mode, Pooling = false, DefaultTimeout = 4 }.ToString());
        connection.Open();
        return connection;
    }
}
