using System.Text.RegularExpressions;
using Glenfrost.Storage;
using Microsoft.Data.Sqlite;

namespace Glenfrost.Web.Tests;

/// <summary>The demo's year is replayed through the use cases with a clock of its own: twice from the same moment, it is the same year.</summary>
public sealed partial class DemoTests : IDisposable
{
    private readonly string folder = Path.Combine(Path.GetTempPath(), "glenfrost-demo-" + Guid.NewGuid().ToString("N"));

    private sealed class StandingClock : TimeProvider
    {
        public override DateTimeOffset GetUtcNow() => new(2026, 11, 20, 9, 30, 0, TimeSpan.Zero);
    }

    /// <summary>Every row of every table with its ids left out, in an order that no id decides.</summary>
    private async Task<Dictionary<string, List<string>>> ReplayAsync(string name)
    {
        var place = new DataPlace(Path.Combine(folder, name));
        await using (var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath)))
        {
            await place.MigrateAsync(db);
            await new DemoLoader(db, new WriteGate(), new StandingClock(), place).LoadAsync(Path.Combine(TestApp.Root, "demo"));
        }

        var rows = new Dictionary<string, List<string>>();
        await using (var connection = new SqliteConnection($"Data Source={place.DatabasePath};Pooling=False"))
        {
            await connection.OpenAsync();
            foreach (var table in await Column(connection, "select name from sqlite_master where type = 'table' and name not like 'sqlite%' and name not like '!_!_%' escape '!'"))
            {
                var list = new List<string>();
                await using var command = new SqliteCommand($"select * from \"{table}\"", connection);
                await using var reader = await command.ExecuteReaderAsync();
                while (await reader.ReadAsync())
                    list.Add(Id().Replace(string.Join(" | ", Enumerable.Range(0, reader.FieldCount).Select(i => $"{reader.GetName(i)}={reader.GetValue(i)}")), "id"));
                rows[table] = [.. list.Order(StringComparer.Ordinal)];
            }
        }

        return rows;
    }

    private static async Task<List<string>> Column(SqliteConnection connection, string sql)
    {
        await using var command = new SqliteCommand(sql, connection);
        await using var reader = await command.ExecuteReaderAsync();
        var list = new List<string>();
        while (await reader.ReadAsync())
            list.Add(reader.GetString(0));
        return list;
    }

    [Fact]
    public async Task Two_replays_from_the_same_moment_differ_in_nothing_but_their_ids()
    {
        var both = await Task.WhenAll(Task.Run(() => ReplayAsync("one")), Task.Run(() => ReplayAsync("two")));
        Assert.Equal(both[0].Keys.Order(), both[1].Keys.Order());
        Assert.True(both[0]["Runs"].Count > 30, $"{both[0]["Runs"].Count} runs are no year");
        foreach (var (table, rows) in both[0])
        {
            var other = both[1][table];
            Assert.True(rows.Count == other.Count, $"{table}: {rows.Count} rows, then {other.Count}");
            foreach (var (a, b) in rows.Zip(other))
                Assert.True(a == b, $"{table}:\n{a}\n{b}");
        }
    }

    [Fact]
    public void Events_of_one_moment_keep_their_order_where_two_clocks_take_turns()
    {
        DateTime one = new(2026, 3, 1, 9, 0, 0, DateTimeKind.Utc), two = one.AddDays(40);
        var ids = Enumerable.Range(0, 5000).SelectMany(_ => new[] { (Of: one, Id: EventIds.Next(one)), (Of: two, Id: EventIds.Next(two)) })
            .ToLookup(x => x.Of, x => x.Id);
        Assert.Equal(ids[one].Order(), ids[one]);
        Assert.Equal(ids[two].Order(), ids[two]);
        Assert.Equal(10000, ids.SelectMany(g => g).Distinct().Count());
        Assert.True(ids[one].Last().CompareTo(ids[two].First()) < 0);
    }

    public void Dispose()
    {
        if (Directory.Exists(folder))
            Directory.Delete(folder, true);
    }

    [GeneratedRegex("[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}")]
    private static partial Regex Id();
}
