using System.Data.Common;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;

namespace Glenfrost.Storage;

/// <summary>The folder in which everything is kept: one database, the keys of forms and cookies, backups.</summary>
public sealed class DataPlace
{
    /// <summary>Opens or makes the folder.</summary>
    /// <exception cref="IOException">The folder can't be made or written.</exception>
    public DataPlace(string folder)
    {
        Folder = Path.GetFullPath(folder);
        Directory.CreateDirectory(Folder);
        Directory.CreateDirectory(KeysFolder);
    }

    public string Folder { get; }

    public string DatabasePath => Path.Combine(Folder, "glenfrost.db");

    public string KeysFolder => Path.Combine(Folder, "keys");

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
                BackupTo(Path.Combine(BackupsFolder, $"before-upgrade-{DateTime.UtcNow:yyyyMMdd-HHmmss}.db"));
        }

        await db.Database.MigrateAsync(stop);
    }

    /// <summary>Copies the database through SQLite's backup API; safe while it is in use.</summary>
    /// <exception cref="IOException">The target exists.</exception>
    public void BackupTo(string target)
    {
        if (File.Exists(target))
            throw new IOException($"{target} exists already; choose another name.");
        Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(target))!);
        using var from = Open(DatabasePath, SqliteOpenMode.ReadOnly);
        using var to = Open(target, SqliteOpenMode.ReadWriteCreate);
        from.BackupDatabase(to);
    }

    /// <summary>Puts a backup in place of the database; what was there is kept beside it. The server must not be running.</summary>
    /// <returns>Where the former database went; null where there was none.</returns>
    /// <exception cref="InvalidDataException">The file is not a Glenfrost database, or is damaged.</exception>
    public string? RestoreFrom(string source)
    {
        if (!File.Exists(source))
            throw new FileNotFoundException($"{source} does not exist.");
        try
        {
            using var check = Open(source, SqliteOpenMode.ReadOnly);
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

        string? kept = null;
        if (File.Exists(DatabasePath))
        {
            kept = Path.Combine(BackupsFolder, $"before-restore-{DateTime.UtcNow:yyyyMMdd-HHmmss-fff}.db");
            BackupTo(kept);
        }

        SqliteConnection.ClearAllPools();
        foreach (var suffix in new[] { "-wal", "-shm" })
            File.Delete(DatabasePath + suffix);
        var part = DatabasePath + ".part";
        File.Copy(source, part, true);
        using (var stream = File.Open(part, FileMode.Open, FileAccess.ReadWrite))
            stream.Flush(true);
        File.Move(part, DatabasePath, true);
        return kept;
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
