using System.IO.Compression;
using System.Net;
using System.Text.Json;
using System.Text.RegularExpressions;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>The application on a database that the first version wrote.</summary>
public sealed class OldApp : TestApp
{
    public OldApp()
    {
        Directory.CreateDirectory(Folder);
        ZipFile.ExtractToDirectory(Path.Combine(Root, "tests/Glenfrost.Web.Tests/Old/first-version.zip"), Folder);
    }

    protected override bool WithDemo => false;
}

/// <summary>What an earlier version wrote is all there after each later migration.</summary>
public class UpgradeTests(OldApp site) : IClassFixture<OldApp>
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
        var v = site.Visit();
        var pages = await site.WithDb(async db =>
            new[] { "/", "/pairings", "/filaments", "/printers", "/log", "/sittings", "/devices", "/export/archive.json" }
                .Concat(
                    (await db.Runs.Select(r => r.Id).ToListAsync()).SelectMany(r =>
                        new[] { $"/runs/{r}", $"/runs/{r}?open=read", $"/runs/{r}/photos", $"/runs/{r}/run.zip" }))
                .Concat((await db.Pairings.Select(p => p.Id).ToListAsync()).SelectMany(p => new[] { $"/pairings/{p}", $"/pairings/{p}/pairing.json" }))
                .ToList());
        Assert.True(pages.Count > 70);
        foreach (var path in pages)
            Assert.Equal((path, HttpStatusCode.OK), (path, (await v.Client.GetAsync(path)).StatusCode));
        var first = Path.Combine(site.Folder, "first.db");
        using (var zip = ZipFile.OpenRead(Path.Combine(TestApp.Root, "tests/Glenfrost.Web.Tests/Old/first-version.zip")))
            zip.GetEntry("glenfrost.db")!.ExtractToFile(first);
        var (was, now) = (CountsOf(first), CountsOf(Path.Combine(site.Folder, "glenfrost.db")));
        Assert.True(was["Readings"] > 400);
        Assert.All(was, t => Assert.True(now[t.Key] >= t.Value, t.Key));
        Assert.Empty(await site.WithDb(db => db.Database.GetPendingMigrationsAsync()));
    }

    [Fact]
    public async Task The_backup_taken_before_the_upgrade_is_the_old_database_and_restores()
    {
        await site.Visit().Go("/");
        var backup = Assert.Single(Directory.GetFiles(Path.Combine(site.Folder, "backups"), "before-upgrade-*.zip"));
        var folder = Path.Combine(Path.GetTempPath(), "glenfrost-test-" + Guid.NewGuid().ToString("N"));
        try
        {
            var place = new DataPlace(folder);
            place.Backups.RestoreFrom(backup);
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

/// <summary>The application on a database of one earlier version.</summary>
public sealed class VersionApp : TestApp
{
    public VersionApp(string version)
    {
        Directory.CreateDirectory(Folder);
        ZipFile.ExtractToDirectory(Path.Combine(Root, "tests/Glenfrost.Web.Tests/Old", version + ".zip"), Folder);
    }

    protected override bool WithDemo => false;
}

/// <summary>A golden database of each version: the upgrade makes nothing doubtful, unconfirmed or differently judged.</summary>
public class GoldenVersionTests
{
    /// <summary>States as the old database had them in the newest revision of each pairing: what every rule read before evidence.</summary>
    private static Dictionary<(Guid Pairing, string Key), (string State, string? Why, string Origin, double Value)> StatesOf(string path)
    {
        using var connection = new SqliteConnection($"Data Source={path};Mode=ReadOnly;Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText =
            "SELECT r.PairingId, s.Key, s.State, s.StateWhy, s.Origin, s.Value FROM Settings s JOIN Revisions r ON r.Id = s.RevisionId WHERE r.Number = " +
                "(SELECT MAX(Number) FROM Revisions x WHERE x.PairingId = r.PairingId)";
        using var reader = command.ExecuteReader();
        var states = new Dictionary<(Guid, string), (string, string?, string, double)>();
        while (reader.Read())
            states[(Guid.Parse(reader.GetString(0)), reader.GetString(1))] = (
                reader.GetString(2), reader.IsDBNull(3) ? null : reader.GetString(3), reader.GetString(4), reader.GetDouble(5));
        return states;
    }

    [Fact]
    public async Task What_was_known_of_every_pairing_stands_after_the_upgrade_from_the_version_with_evidence()
    {
        using var site = new VersionApp("factors-and-evidence");
        static HashSet<string> Known(string path)
        {
            using var connection = new SqliteConnection($"Data Source={path};Mode=ReadOnly;Pooling=False");
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "SELECT PairingId || ' ' || Area || ' ' || ifnull(Key, '') || ' ' || ifnull(AtC, '') || ' ' || State || ' ' || ifnull(Why, '') FROM Standings " +
                "UNION ALL SELECT Id || ' ' || Slot || ' ' || Description || ' ' || ifnull(RemovedAt, '') FROM Parts";
            using var reader = command.ExecuteReader();
            var known = new HashSet<string>();
            while (reader.Read())
                known.Add(reader.GetString(0));
            return known;
        }

        var path = Path.Combine(site.Folder, "glenfrost.db");
        var was = Known(path);
        Assert.True(was.Count > 60);
        var v = site.Visit();
        await v.Go("/pairings");
        foreach (var printer in await site.WithDb(db => db.Printers.Select(p => p.Id).ToListAsync()))
        {
            await v.Go($"/printers/{printer}");
            Assert.Equal(System.Net.HttpStatusCode.OK, v.Last.StatusCode);
        }

        Assert.Equal(was, Known(path));
    }

    [Theory]
    [InlineData("first-version")]
    [InlineData("piece-files")]
    [InlineData("evidence")]
    [InlineData("gcode-room")]
    [InlineData("simulated-bench")]
    [InlineData("machine-checks")]
    [InlineData("practice")]
    public async Task Every_state_of_every_version_stands_as_it_stood(string version)
    {
        using var site = new VersionApp(version);
        var was = StatesOf(Path.Combine(site.Folder, "glenfrost.db"));
        var heads = ToolheadsOf(Path.Combine(site.Folder, "glenfrost.db"));
        Assert.True(was.Count > 60);
        Assert.True(was.Values.Select(w => w.State).Distinct().Count() >= 4, "the golden database has every state");
        await site.Visit().Go("/pairings");
        var now = await site.WithDb(db => db.ProfilesAsync());
        foreach (var ((pairing, key), (state, why, origin, value)) in was)
        {
            var s = now[pairing][key]!;
            // A copy that nobody tried was called provisional; it is called what it is now.
            var expected = state == "Provisional" && origin == "Inherited" ? SettingState.Inherited : Enum.Parse<SettingState>(state);
            Assert.Equal((key, expected, value), (key, s.State, s.Value));
            if (expected != SettingState.Start)
                Assert.Equal(why, s.StateWhy);
        }

        // The projection is the fold, for every pairing; and the machine says what it said.
        await site.WithDb(async db =>
        {
            foreach (var events in (await db.Evidence.AsNoTracking().ToListAsync()).GroupBy(e => e.PairingId))
            {
                var standing = (await db.Standings.AsNoTracking().Where(x => x.PairingId == events.Key).ToListAsync())
                    .Select(x => (x.Area, x.Key, x.AtC, x.State, x.Why)).OrderBy(x => x.Area).ThenBy(x => x.Key).ToList();
                Assert.Equal(
                    EvidenceFold.States(events.Select(e => e.ToCore())).Select(i => (i.Area, i.Key, i.AtC, i.State, i.Why)).OrderBy(x => x.Area)
                        .ThenBy(x => x.Key).ToList(),
                    standing);
            }

            return 0;
        });
        Assert.Equal(heads, ToolheadsOf(Path.Combine(site.Folder, "glenfrost.db")));
    }

    private static List<(string, double?, double?, long?)> ToolheadsOf(string path)
    {
        using var connection = new SqliteConnection($"Data Source={path};Mode=ReadOnly;Pooling=False");
        connection.Open();
        using var command = connection.CreateCommand();
        command.CommandText = "SELECT Id, StepsPerMm, RotationDistanceMm, FeedCheckedAt FROM Toolheads ORDER BY Id";
        using var reader = command.ExecuteReader();
        var list = new List<(string, double?, double?, long?)>();
        while (reader.Read())
            list.Add(
                (
                    reader.GetString(0), reader.IsDBNull(1) ? null : reader.GetDouble(1), reader.IsDBNull(2) ? null : reader.GetDouble(2),
                    reader.IsDBNull(3) ? null : reader.GetInt64(3)));
        return list;
    }

    /// <summary>Trials whose rules changed since that version.</summary>
    private static readonly string[] Rejudged = ["Temperature tower", "Retraction"];

    [Fact]
    public async Task What_was_decided_and_what_was_open_is_judged_and_pooled_as_before()
    {
        using var site = new VersionApp("practice");
        using var golden = JsonDocument.Parse(await File.ReadAllTextAsync(Path.Combine(TestApp.Root, "tests/Glenfrost.Web.Tests/Old/practice-verdicts.json")));
        var v = site.Visit();
        foreach (var run in golden.RootElement.EnumerateObject())
        {
            await v.Go($"/runs/{run.Name}");
            var (then, now) = (run.Value.GetProperty("verdict").GetString() ?? "", Regex.Replace(v.Text("#verdict"), @"\s+", " "));
            // What was decided keeps what was shown. What is still open is judged by today's rules: those of towers and sweeps changed since.
            if (run.Value.GetProperty("stage").GetString() is "decided" or "left" || then.Length == 0 || !Rejudged.Any(v.Text("h1").StartsWith))
                Assert.Equal((run.Name, then), (run.Name, now));
            else
                Assert.True(now.Length > 20, now);
            // Beside what it was decided by stands what today's rules say, where they say otherwise.
            if (run.Value.GetProperty("stage").GetString() == "left" && then.StartsWith("0.2 mm, but that", StringComparison.Ordinal))
                Assert.Contains("By today's rules: 0.6 mm", v.Text(".judge-stage"));
            var together = v.Page.QuerySelectorAll(".judge-stage p.sub").Where(p => p.TextContent.StartsWith("Judged together", StringComparison.Ordinal))
                .SelectMany(p => p.QuerySelectorAll("a")).Select(a => a.GetAttribute("href")![6..]);
            Assert.Equal(run.Value.GetProperty("together").EnumerateArray().Select(x => x.GetString()!), together);
        }

        // Every run is filled in by the worker's own step, and stays as it is judged.
        await site.WithDb(async db =>
        {
            await using var scope = site.Services.CreateAsyncScope();
            var upgrade = scope.ServiceProvider.GetRequiredService<Upgrade>();
            while (await upgrade.FactorsAsync(7) > 0)
            {
            }

            Assert.All(await db.Runs.AsNoTracking().ToListAsync(), r => Assert.True(FactorSet.Read(r.FactorsJson!).Filled));
            return 0;
        });
        var pooled = golden.RootElement.EnumerateObject().Single(r => r.Value.GetProperty("together").GetArrayLength() > 0).Name;
        await v.Go($"/runs/{pooled}");
        Assert.Contains("Judged together with run 1", v.Text(".judge-stage"));
        // What nobody wrote down is unknown, not blank and not the same.
        var tower = await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == "decided"));
        var set = FactorSet.Read(tower.FactorsJson!);
        Assert.Null(set["fanPercent"]);
        Assert.Equal((FactorSource.Record, 18.0), (set["roomC"]!.Source, set["roomC"]!.Number!.Value));
        Assert.Equal("as it came", set["part.nozzle"]!.Text);
    }

    [Fact]
    public async Task What_an_earlier_version_did_is_taken_back_after_the_upgrade_as_before_it()
    {
        using var site = new VersionApp("practice");
        var v = site.Visit();
        await v.Go("/pairings");
        var part = await site.WithDb(db => db.Parts.AsNoTracking().FirstAsync(p => p.Slot == "nozzle"));
        var doubtful = await site.WithDb(db => db.Standings.AsNoTracking().Where(s => s.State == EvidenceState.Doubtful).ToListAsync());
        Assert.NotEmpty(doubtful);
        await v.Go("/preferences");
        await v.Press("main form", "/undo", ("what", $"part:{part.Id}"));
        Assert.Contains("taken out again", v.Text(".told"));
        var after = await site.WithDb(db => db.Standings.AsNoTracking().ToListAsync());
        Assert.All(doubtful.Where(d => d.Why!.Contains("nozzle changed", StringComparison.Ordinal)), d =>
            Assert.NotEqual(EvidenceState.Doubtful, after.Single(a => a.PairingId == d.PairingId && a.Key == d.Key && a.AtC == d.AtC).State));
    }
}
