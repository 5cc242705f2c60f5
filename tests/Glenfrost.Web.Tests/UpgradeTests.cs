using System.IO.Compression;
using System.Net;
using Glenfrost.Storage;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Tests;

/// <summary>The application on a database that the first version wrote.</summary>
public sealed class OldHouse : House
{
    public OldHouse()
    {
        Directory.CreateDirectory(Folder);
        ZipFile.ExtractToDirectory(Path.Combine(Root, "tests/Glenfrost.Web.Tests/Old/first-version.zip"), Folder);
    }

    protected override bool WithDemo => false;
}

/// <summary>What an earlier version wrote is all there after each later migration.</summary>
public class UpgradeTests(OldHouse house) : IClassFixture<OldHouse>
{
    private static Dictionary<string, long> CountsOf(string path)
    {
        using var connection = new SqliteConnection($"Data Source={path};Mode=ReadOnly;Pooling=False");
        connection.Open();
        var counts = new Dictionary<string, long>();
        using var tables = connection.CreateCommand();
        tables.CommandText = "SELECT name FROM sqlite_master WHERE type='table' AND name NOT LIKE '\\_\\_%' ESCAPE '\\' AND name NOT LIKE 'sqlite%'";
        using var reader = tables.ExecuteReader();
        while (reader.Read())
        {
            using var count = connection.CreateCommand();
            count.CommandText = $"SELECT COUNT(*) FROM \"{reader.GetString(0)}\"";
            counts[reader.GetString(0)] = (long)count.ExecuteScalar()!;
        }

        return counts;
    }

    [Fact]
    public async Task Every_page_of_a_database_of_the_first_version_opens_and_nothing_is_missing()
    {
        var v = house.Visit();
        var pages = await house.WithDb(async db => new[] { "/", "/pairings", "/filaments", "/printers", "/log", "/sittings", "/devices", "/export/archive.json" }
            .Concat((await db.Runs.Select(r => r.Id).ToListAsync()).SelectMany(r => new[] { $"/runs/{r}", $"/runs/{r}?open=read", $"/runs/{r}/photos", $"/runs/{r}/run.zip" }))
            .Concat((await db.Pairings.Select(p => p.Id).ToListAsync()).SelectMany(p => new[] { $"/pairings/{p}", $"/pairings/{p}/pairing.json" })).ToList());
        Assert.True(pages.Count > 70);
        foreach (var path in pages)
            Assert.Equal((path, HttpStatusCode.OK), (path, (await v.Client.GetAsync(path)).StatusCode));
        var first = Path.Combine(house.Folder, "first.db");
        using (var zip = ZipFile.OpenRead(Path.Combine(House.Root, "tests/Glenfrost.Web.Tests/Old/first-version.zip")))
            zip.GetEntry("glenfrost.db")!.ExtractToFile(first);
        var (was, now) = (CountsOf(first), CountsOf(Path.Combine(house.Folder, "glenfrost.db")));
        Assert.True(was["Readings"] > 400);
        Assert.All(was, t => Assert.True(now[t.Key] >= t.Value, t.Key));
        Assert.Empty(await house.WithDb(db => db.Database.GetPendingMigrationsAsync()));
    }

    [Fact]
    public async Task The_backup_taken_before_the_upgrade_is_the_old_database_and_restores()
    {
        await house.Visit().Go("/");
        var backup = Assert.Single(Directory.GetFiles(Path.Combine(house.Folder, "backups"), "before-upgrade-*.zip"));
        var folder = Path.Combine(Path.GetTempPath(), "glenfrost-test-" + Guid.NewGuid().ToString("N"));
        try
        {
            var place = new DataPlace(folder);
            place.RestoreFrom(backup);
            Assert.DoesNotContain("Photos", CountsOf(place.DatabasePath).Keys);
            await using var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath));
            await place.MigrateAsync(db);
            Assert.Equal(14, await db.Runs.CountAsync());
            Assert.Equal(0, await db.Photos.CountAsync());
        }
        finally
        {
            SqliteConnection.ClearAllPools();
            Directory.Delete(folder, true);
        }
    }
}
