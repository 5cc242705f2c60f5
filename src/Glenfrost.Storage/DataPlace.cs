using System.Data.Common;
using System.IO.Compression;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Glenfrost.Storage;

/// <summary>The folder in which everything is kept: one database, files by hash, the keys of forms and cookies, backups.</summary>
public sealed class DataPlace
{
    /// <summary>Opens or makes the folder.</summary>
    /// <exception cref="IOException">The folder can't be made or written.</exception>
    public DataPlace(string folder)
    {
        Folder = Path.GetFullPath(folder);
        Directory.CreateDirectory(Folder);
        Directory.CreateDirectory(KeysFolder);
        Files = new(FilesFolder);
    }

    /// <summary>The data folder, an absolute path.</summary>
    public string Folder { get; }

    /// <summary>Files by hash.</summary>
    public FileStore Files { get; }

    /// <summary>The database file.</summary>
    public string DatabasePath => Path.Combine(Folder, DatabaseName);

    /// <summary>Keys that sign cookies and form tokens.</summary>
    public string KeysFolder => Path.Combine(Folder, "keys");

    /// <summary>Photos and G-code, by hash.</summary>
    public string FilesFolder => Path.Combine(Folder, "files");

    /// <summary>Where files wait that came in and are not kept yet.</summary>
    public string IncomingFolder => Path.Combine(Folder, "incoming");

    /// <summary>Where archives and tables wait that were sent and are not taken in yet.</summary>
    public string ImportsFolder => Path.Combine(Folder, "imports");

    /// <summary>Automatic backups.</summary>
    public string BackupsFolder => Path.Combine(Folder, "backups");

    /// <summary>Options of a context on a database file: WAL, every commit on disk, foreign keys on, waits for a busy file.</summary>
    public static DbContextOptions<GlenfrostDb> Options(string path)
    {
        var b = new DbContextOptionsBuilder<GlenfrostDb>();
        Configure(b, path);
        return b.Options;
    }

    /// <summary>Configures a builder for a database file.</summary>
    public static void Configure(DbContextOptionsBuilder b, string path) => b
        .UseSqlite(new SqliteConnectionStringBuilder { DataSource = path, ForeignKeys = true, DefaultTimeout = 10 }.ToString())
        .AddInterceptors(Pragmas.Instance);

    /// <summary>Drops what was still coming in when the last server ended: none of it was acknowledged.</summary>
    public void SweepIncoming()
    {
        foreach (var folder in new[] { IncomingFolder, FilesFolder }.Where(Directory.Exists))
        {
            foreach (var part in Directory.EnumerateFiles(folder, "*.part"))
                File.Delete(part);
        }
    }

    /// <summary>
    /// Brings the database up to date. A backup is taken before an older one is migrated, and a lock left by a killed
    /// start is cleared: the application is the only one that migrates.
    /// </summary>
    public async Task MigrateAsync(GlenfrostDb db, CancellationToken stop = default)
    {
        if (File.Exists(DatabasePath))
        {
            await ClearStaleLockAsync(db, stop);
            var applied = (await db.Database.GetAppliedMigrationsAsync(stop)).Any();
            if (applied && (await db.Database.GetPendingMigrationsAsync(stop)).Any())
                BackupTo(Path.Combine(BackupsFolder, $"before-upgrade-{DateTime.UtcNow:yyyyMMdd-HHmmss}.zip"));
        }

        await db.Database.MigrateAsync(stop);
    }

    /// <summary>
    /// Copies the database through SQLite's backup API, and the files beside it, into one zip; safe while it is in use. Files are never changed once they
    /// stand there, and the database is copied first, so every file that it names is in.
    /// </summary>
    /// <exception cref="IOException">The target exists.</exception>
    public void BackupTo(string target)
    {
        if (File.Exists(target))
            throw new IOException($"{target} exists already; choose another name.");
        Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(target))!);
        var (part, copy) = (target + ".part", target + ".db.part");
        try
        {
            using (var from = Open(DatabasePath, SqliteOpenMode.ReadOnly))
            using (var to = Open(copy, SqliteOpenMode.ReadWriteCreate))
                from.BackupDatabase(to);
            using (var stream = File.Create(part))
            {
                using (var zip = new ZipArchive(stream, ZipArchiveMode.Create, true))
                {
                    zip.CreateEntryFromFile(copy, DatabaseName, CompressionLevel.Fastest);
                    foreach (var hash in Files.All())
                        zip.CreateEntryFromFile(Files.PathOf(hash), $"files/{hash}", CompressionLevel.Fastest);
                }

                stream.Flush(true);
            }

            File.Move(part, target);
        }
        finally
        {
            File.Delete(part);
            File.Delete(copy);
        }
    }

    private const string DatabaseName = "glenfrost.db";

    /// <summary>Puts a backup in place of the database and brings its files back; what was there is kept beside it. The server must not be running.</summary>
    /// <returns>Where the former data went; null where there was none.</returns>
    /// <exception cref="InvalidDataException">The file is no backup of Glenfrost, or is damaged.</exception>
    public string? RestoreFrom(string source)
    {
        if (!File.Exists(source))
            throw new FileNotFoundException($"{source} does not exist.");
        var part = DatabasePath + ".part";
        try
        {
            var files = Unpack(source, part);
            CheckDatabase(source, part);
            string? kept = null;
            if (File.Exists(DatabasePath))
            {
                kept = Path.Combine(BackupsFolder, $"before-restore-{DateTime.UtcNow:yyyyMMdd-HHmmss-fff}.zip");
                BackupTo(kept);
            }

            if (files > 0)
            {
                using var zip = ZipFile.OpenRead(source);
                foreach (var entry in zip.Entries.Where(IsFile))
                {
                    using var content = entry.Open();
                    if (Files.Put(content).Sha256 != entry.Name)
                        throw new InvalidDataException(
                            $"{source} is damaged: {entry.FullName} does not hold what its name says. The database was not changed.");
                }
            }

            SqliteConnection.ClearAllPools();
            foreach (var suffix in new[] { "-wal", "-shm" })
                File.Delete(DatabasePath + suffix);
            using (var stream = File.Open(part, FileMode.Open, FileAccess.ReadWrite))
                stream.Flush(true);
            File.Move(part, DatabasePath, true);
            return kept;
        }
        finally
        {
            File.Delete(part);
        }
    }

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
        var connection = new SqliteConnection(new SqliteConnectionStringBuilder { DataSource = path, Mode = mode, Pooling = false }.ToString());
        connection.Open();
        return connection;
    }

    private static async Task ClearStaleLockAsync(GlenfrostDb db, CancellationToken stop)
    {
        var table = await db.Database.SqlQueryRaw<int>("SELECT COUNT(*) AS Value FROM sqlite_master WHERE name = '__EFMigrationsLock'").SingleAsync(stop);
        if (table > 0)
            await db.Database.ExecuteSqlRawAsync("DELETE FROM __EFMigrationsLock", stop);
    }

    private sealed class Pragmas : DbConnectionInterceptor
    {
        public static readonly Pragmas Instance = new();

        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData) => Set(connection);

        public override Task ConnectionOpenedAsync(DbConnection connection, ConnectionEndEventData eventData, CancellationToken cancellationToken = default)
        {
            Set(connection);
            return Task.CompletedTask;
        }

        private static void Set(DbConnection connection)
        {
            using var command = connection.CreateCommand();
            command.CommandText = "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA busy_timeout=10000;";
            command.ExecuteNonQuery();
        }
    }
}
