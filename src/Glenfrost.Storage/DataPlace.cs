using System.Data.Common;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Glenfrost.Storage;

/// <summary>The folder in which everything is kept: one database, files by hash, the keys of forms and cookies, backups.</summary>
public sealed class DataPlace
{
    /// <summary>Opens or makes the folder.</summary>
    /// <exception cref="IOException">It is a file.</exception>
    /// <exception cref="StartRefusedException">The folder can't be made or written.</exception>
    public DataPlace(string folder)
    {
        Folder = Path.GetFullPath(folder);
        Files = new(FilesFolder);
        Backups = new(this);
        if (File.Exists(Folder))
            throw new IOException($"{Folder} is a file; a folder would be right.");
        try
        {
            // Notes, photos and keys of one person's bench: nobody else's on this machine.
            Disk.MakePrivate(Folder);
            Disk.MakePrivate(KeysFolder);
        }
        catch (Exception e) when (Disk.FaultOf(e) is { } fault)
        {
            throw Refusal(fault, e);
        }
        catch (IOException e)
        {
            throw new StartRefusedException(StartFault.ReadOnly, $"{Folder} can't be made there. Choose another folder with --data.", e);
        }
    }

    /// <summary>The data folder, an absolute path.</summary>
    public string Folder { get; }

    /// <summary>Files by hash.</summary>
    public FileStore Files { get; }

    /// <summary>Backups of it.</summary>
    public Backups Backups { get; }

    /// <summary>The database file.</summary>
    public string DatabasePath => Path.Combine(Folder, Backups.DatabaseName);

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

    /// <summary>Builds the model that every context of this process stands on; the first one waits for it otherwise.</summary>
    public static void BuildModel()
    {
        using var db = new GlenfrostDb(Options(":memory:"));
        _ = db.Model;
    }

    /// <summary>Configures a builder for a database file.</summary>
    public static void Configure(DbContextOptionsBuilder b, string path) => b
        .UseSqlite(new SqliteConnectionStringBuilder { DataSource = path, ForeignKeys = true, DefaultTimeout = 10 }.ToString())
        .AddInterceptors(Pragmas.Instance);

    /// <summary>
    /// Drops what was left half-written when the last holder of the folder ended: files that came in, backups, restores. None of it was acknowledged. Inside
    /// the folder's lock only.
    /// </summary>
    public void Sweep()
    {
        foreach (var folder in new[] { Folder, IncomingFolder, FilesFolder, BackupsFolder }.Where(Directory.Exists))
        {
            foreach (var part in Directory.EnumerateFiles(folder, "*.part"))
                File.Delete(part);
        }
    }

    /// <summary>
    /// Brings the database up to date. A backup is taken before an older one is migrated, and a lock left by a killed
    /// start is cleared: the application is the only one that migrates.
    /// </summary>
    /// <exception cref="StartRefusedException">The folder or its database does not let it: why, and what would help.</exception>
    public async Task MigrateAsync(GlenfrostDb db, CancellationToken stop = default)
    {
        try
        {
            CheckFolder();
            if (File.Exists(DatabasePath))
            {
                await ClearStaleLockAsync(db, stop);
                var applied = (await db.Database.GetAppliedMigrationsAsync(stop)).ToList();
                if (applied.Except(db.Database.GetMigrations()).LastOrDefault() is { } newer)
                    throw new StartRefusedException(
                        StartFault.Newer,
                        $"{DatabasePath} was written by a newer version of Glenfrost (its step {newer} is not known here). Start that version, or choose " +
                            $"another folder with --data. Nothing was changed.");
                if (applied.Count > 0 && (await db.Database.GetPendingMigrationsAsync(stop)).Any())
                {
                    Backups.Take(Path.Combine(BackupsFolder, $"before-upgrade-{DateTime.UtcNow:yyyyMMdd-HHmmss}.zip"));
                    Backups.Thin();
                }
            }

            // Asked first: the migrator compares the whole model before it finds that nothing is left to do.
            if (!File.Exists(DatabasePath) || (await db.Database.GetPendingMigrationsAsync(stop)).Any())
                await db.Database.MigrateAsync(stop);
            Disk.KeepPrivate(DatabasePath);
        }
        catch (Exception e) when (e is not StartRefusedException && Disk.FaultOf(e) is { } fault)
        {
            throw Refusal(fault, e);
        }
    }

    /// <summary>Commits a change to the database that means nothing, so that it is known that one can be.</summary>
    /// <param name="db">A context on the database.</param>
    /// <param name="number">What is written into <c>user_version</c>, which nothing else uses.</param>
    public static async Task WriteProbeAsync(GlenfrostDb db, int number)
    {
        // A pragma takes no parameters; the number is one of ours.
        var sql = $"PRAGMA user_version = {number}";
        await db.Database.ExecuteSqlRawAsync(sql);
    }

    /// <summary>A disk's fault at the start, in words, with what brings the data back where that would help.</summary>
    public StartRefusedException Refusal(DiskFault fault, Exception? e = null) => fault switch
    {
        DiskFault.Full => new(StartFault.Full, $"the disk that holds {Folder} is full. Free some space and start again. Nothing was changed.", e),
        DiskFault.ReadOnly => new(
            StartFault.ReadOnly, $"{Folder} can't be written: it is read-only, or belongs to another user of this machine. Nothing was changed.", e),
        DiskFault.Locked => new(StartFault.Locked, $"another program holds {DatabasePath}. Close it and start again. Nothing was changed.", e),
        DiskFault.Damaged => new(StartFault.Damaged, $"{DatabasePath} is damaged and can't be read as it stands. Nothing was changed. {Backups.Way()}", e),
        _ => new(
            StartFault.Failing,
            $"the disk that holds {Folder} reports an error while it is read or written. Copy the folder to another disk. {Backups.Way()}", e),
    };

    /// <summary>Checks that the folder can be written, and that an absent database is really none.</summary>
    private void CheckFolder()
    {
        Disk.Try(Folder);
        // An empty file is what a start that was killed at once leaves, or what a full disk left of a copy.
        if (new FileInfo(DatabasePath) is { Exists: true, Length: > 0 })
        {
            Backups.Check(DatabasePath);
            return;
        }

        var backups = Backups.All().Count;
        var files = Files.All().Count();
        if (backups + files == 0)
            return;
        throw new StartRefusedException(
            StartFault.Missing,
            $"{Folder} holds {Plural(backups, "backup")} and {Plural(files, "file")}, but no database. Nothing is begun anew there, since that would look " +
                $"like an empty bench. {Backups.Way()} For an empty bench, choose another folder with --data.");
    }

    private static string Plural(int n, string what) => n == 1 ? $"1 {what}" : $"{n} {what}s";

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
