using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;

namespace Glenfrost.Web.Tests;

public sealed class DataPlaceTests : IDisposable
{
    private readonly string folder = Path.Combine(Path.GetTempPath(), "glenfrost-place-" + Guid.NewGuid().ToString("N"));
    private readonly DataPlace place;

    public DataPlaceTests() => place = new(folder);

    public void Dispose()
    {
        SqliteConnection.ClearAllPools();
        Directory.Delete(folder, true);
    }

    private async Task<GlenfrostDb> OpenAsync()
    {
        var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath));
        await place.MigrateAsync(db);
        return db;
    }

    [Fact]
    public async Task Every_commit_is_on_disk_and_keys_hold()
    {
        await using var db = await OpenAsync();
        await db.Database.OpenConnectionAsync();
        async Task<object?> Ask(string pragma)
        {
            await using var c = db.Database.GetDbConnection().CreateCommand();
            c.CommandText = "PRAGMA " + pragma;
            return await c.ExecuteScalarAsync();
        }

        Assert.Equal("wal", await Ask("journal_mode"));
        Assert.Equal(2L, await Ask("synchronous"));
        Assert.Equal(1L, await Ask("foreign_keys"));
    }

    [Fact]
    public async Task A_lock_left_by_a_killed_start_does_not_block_the_next()
    {
        await using (var db = await OpenAsync())
        {
            await db.Database.ExecuteSqlRawAsync("CREATE TABLE IF NOT EXISTS __EFMigrationsLock (Id INTEGER PRIMARY KEY, Timestamp TEXT NOT NULL)");
            await db.Database.ExecuteSqlRawAsync("INSERT OR REPLACE INTO __EFMigrationsLock VALUES (1, '2026-01-01')");
        }

        await using var again = new GlenfrostDb(DataPlace.Options(place.DatabasePath));
        await place.MigrateAsync(again).WaitAsync(TimeSpan.FromSeconds(20));
    }

    [Fact]
    public async Task Times_are_whole_milliseconds_and_ids_sort_by_time()
    {
        await using var db = await OpenAsync();
        var at = new DateTime(2026, 3, 29, 1, 30, 0, 123, DateTimeKind.Utc);
        db.Room.Add(new RoomEntry { At = at, TemperatureC = 18 });
        await db.SaveChangesAsync();
        db.ChangeTracker.Clear();
        Assert.Equal(at, (await db.Room.SingleAsync()).At);
        Assert.Equal(new DateTimeOffset(at).ToUnixTimeMilliseconds(), await db.Database.SqlQueryRaw<long>("SELECT At AS Value FROM Room").SingleAsync());
        var ids = Enumerable.Range(0, 50).Select(_ => new Person { Name = "x" }.Id).ToList();
        Assert.Equal(7, ids[0].Version);
    }

    [Fact]
    public async Task A_backup_restores_and_what_was_there_is_kept()
    {
        await using (var db = await OpenAsync())
        {
            db.People.Add(new Person { Name = "before" });
            await db.SaveChangesAsync();
            place.Backups.Take(Path.Combine(folder, "b.db"));
            db.People.Add(new Person { Name = "after" });
            await db.SaveChangesAsync();
        }

        SqliteConnection.ClearAllPools();
        var kept = place.Backups.RestoreFrom(Path.Combine(folder, "b.db"));
        Assert.True(File.Exists(kept));
        await using var restored = await OpenAsync();
        Assert.Equal(["before"], await restored.People.Select(p => p.Name).ToListAsync());
    }

    [Fact]
    public async Task A_backup_holds_the_files_and_brings_them_back()
    {
        await using (var db = await OpenAsync())
            await db.SaveChangesAsync();
        var stored = place.Files.Put(new MemoryStream("; a file"u8.ToArray()));
        Assert.Equal(stored, place.Files.Put(new MemoryStream("; a file"u8.ToArray())));
        var copy = Path.Combine(folder, "with-files.zip");
        place.Backups.Take(copy);
        File.Delete(place.Files.PathOf(stored.Sha256));
        Assert.Null(place.Files.Open(stored.Sha256));
        SqliteConnection.ClearAllPools();
        place.Backups.RestoreFrom(copy);
        using var back = new StreamReader(place.Files.Open(stored.Sha256)!);
        Assert.Equal("; a file", await back.ReadToEndAsync());
        Assert.Empty(Directory.EnumerateFiles(place.Folder, "*.part", SearchOption.AllDirectories));
    }

    [Theory]
    [InlineData("../../climbs")]
    [InlineData("")]
    [InlineData("ABCDEF")]
    public void Only_a_hash_opens_a_file(string name)
    {
        Assert.Null(place.Files.Open(name));
        Assert.Throws<ArgumentException>(() => place.Files.PathOf(name));
    }

    [Fact]
    public async Task A_backup_whose_file_is_not_what_its_name_says_changes_nothing()
    {
        await using (var db = await OpenAsync())
        {
            db.People.Add(new Person { Name = "stays" });
            await db.SaveChangesAsync();
        }

        place.Files.Put(new MemoryStream("; a file"u8.ToArray()));
        var copy = Path.Combine(folder, "changed.zip");
        place.Backups.Take(copy);
        using (var zip = System.IO.Compression.ZipFile.Open(copy, System.IO.Compression.ZipArchiveMode.Update))
        {
            var entry = zip.Entries.First(e => e.FullName.StartsWith("files/", StringComparison.Ordinal));
            using var to = new StreamWriter(entry.Open());
            to.Write("; others");
        }

        Assert.Contains("damaged", Assert.Throws<InvalidDataException>(() => place.Backups.RestoreFrom(copy)).Message);
        var half = Path.Combine(folder, "half.zip");
        await File.WriteAllBytesAsync(half, (await File.ReadAllBytesAsync(copy))[..200]);
        Assert.Contains("damaged", Assert.Throws<InvalidDataException>(() => place.Backups.RestoreFrom(half)).Message);
        await using var after = await OpenAsync();
        Assert.Equal("stays", (await after.People.SingleAsync()).Name);
    }

    [Fact]
    public async Task A_database_of_the_first_version_opens_and_its_printers_get_usual_clearances()
    {
        await using (var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath)))
        {
            await db.GetService<Microsoft.EntityFrameworkCore.Migrations.IMigrator>().MigrateAsync("First");
            await db.Database.ExecuteSqlRawAsync(
                "INSERT INTO Printers (Id, Name, World, Dialect, BedXMm, BedYMm, HeightMm, BedMaxC, Enclosure, ChamberMaxC, MaxSpeedMmPerS, " +
                    "MaxAccelerationMmPerS2, ScrewStepMm, Version, ChangedAt) VALUES ('01A20000-0000-7000-8000-000000000001', 'Old', 'real', 'm900', 200, " +
                    "200, 200, 90, 'none', 0, 100, 1000, 0.04, 1, 0)"
            );
        }

        await using var now = await OpenAsync();
        var printer = await now.Printers.SingleAsync();
        Assert.Equal((40.0, 25.0, false, false), (printer.ClearanceMm, printer.GantryHeightMm, printer.AbsoluteE, printer.OriginInMiddle));
        Assert.Single(Directory.GetFiles(place.BackupsFolder, "before-upgrade-*.zip"));
    }

    [Fact]
    public async Task What_is_no_backup_is_refused_and_changes_nothing()
    {
        await using (var db = await OpenAsync())
        {
            db.People.Add(new Person { Name = "stays" });
            await db.SaveChangesAsync();
        }

        var junk = Path.Combine(folder, "junk.db");
        await File.WriteAllTextAsync(junk, new string('x', 5000));
        Assert.Throws<InvalidDataException>(() => place.Backups.RestoreFrom(junk));
        Assert.Throws<FileNotFoundException>(() => place.Backups.RestoreFrom(Path.Combine(folder, "none.db")));
        Assert.Throws<IOException>(() => place.Backups.Take(junk));
        await using var after = await OpenAsync();
        Assert.Equal("stays", (await after.People.SingleAsync()).Name);
    }

    [Fact]
    public async Task A_reading_has_one_successor_and_a_key_once()
    {
        await using var db = await OpenAsync();
        var run = new Run { Kind = "temperature-tower", PlanJson = "{}" };
        var first = new Reading { RunId = run.Id, Key = "a", Aspect = "bridge", Entered = "3" };
        db.AddRange(run, first, new Reading { RunId = run.Id, Key = "b", Aspect = "bridge", Entered = "2", SupersedesId = first.Id });
        await db.SaveChangesAsync();
        db.Add(new Reading { RunId = run.Id, Key = "c", Aspect = "bridge", Entered = "1", SupersedesId = first.Id });
        await Assert.ThrowsAsync<DbUpdateException>(() => db.SaveChangesAsync());
        db.ChangeTracker.Clear();
        db.Add(new Reading { RunId = run.Id, Key = "a", Aspect = "surface", Entered = "1" });
        await Assert.ThrowsAsync<DbUpdateException>(() => db.SaveChangesAsync());
    }

    [Fact]
    public void A_stored_plan_of_version_one_is_read_as_it_was_written()
    {
        var plan = Json.Read<TowerPlan>(File.ReadAllText(Path.Combine(TestApp.Root, "tests/Glenfrost.Web.Tests/golden/temperature-tower-v1.json")));
        Assert.Equal(StoredPlan.Version, plan.Version);
        Assert.Equal(9, plan.Sections.Count);
        Assert.Equal(230, plan.Request.HottestC);
        Assert.Equal(456, plan.TotalLayers);
        // What was foreseen then stays as it was written; today's piece is another one, and that one's form was the first.
        Assert.Null(plan.StileForm);
        Assert.Equal((116, 27.6), (plan.Estimate.Minutes, plan.Estimate.MassG));
        Assert.Equal(Json.Write(plan), Json.Write(TowerPlanning.Plan(plan.Request).Plan! with { Estimate = plan.Estimate, StileForm = null }));
    }
}
