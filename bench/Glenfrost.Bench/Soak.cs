using System.Diagnostics;
using System.IO.Compression;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Glenfrost.Storage;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Bench;

/// <summary>
/// Kills the running application at chosen points and counts what was lost: no acknowledged reading or photo, no row without its file, no import by halves, no
/// backup that is called whole and is not, no database that can't be opened. A kill takes the process, not the power of the machine.
/// </summary>
public sealed class Soak(string app, int seed)
{
    /// <summary>A place where the process is ended.</summary>
    /// <param name="Name">Of the table.</param>
    /// <param name="Share">Of all kills, in so many of a hundred.</param>
    /// <param name="Turn">Runs the application into one kill and tells what was wrong after it; empty where nothing was.</param>
    private sealed class Point(string name, int share, Func<Soak, int, Task<List<string>>> turn)
    {
        public string Name => name;

        public int Share => share;

        public Func<Soak, int, Task<List<string>>> Turn => turn;

        public int Tried { get; set; }

        public int Killed { get; set; }

        public List<string> Wrong { get; } = [];
    }

    private const int MostMisses = 8;

    private static readonly Point[] Points =
    [
        new("before a write, amid a commit", 14, (s, i) => s.ServeAsync("write", s.random.Next(1, 60), i)),
        new("at the commit", 14, (s, i) => s.ServeAsync("commit", s.random.Next(1, 25), i)),
        new("committed, not yet answered", 14, (s, i) => s.ServeAsync("committed", s.random.Next(1, 25), i)),
        new("between file and row", 12, (s, i) => s.ServeAsync("row", s.random.Next(1, 6), i)),
        new("amid an import", 10, (s, i) => s.ImportAsync(i)),
        new("amid a backup", 12, (s, i) => s.BackupAsync(i)),
        new("amid a restore", 12, (s, i) => s.RestoreAsync(i, false)),
        new("amid a restore over damage", 6, (s, i) => s.RestoreAsync(i, true)),
        new("amid a migration", 6, (s, i) => s.MigrateAsync(i)),
    ];

    private readonly Random random = new(seed);

    private readonly Dictionary<string, double> readings = [];

    private readonly Dictionary<Guid, string> photos = [];

    private readonly Dictionary<int, string?> standing = [];

    private readonly int[] scores = new int[9];

    private string folder = "", token = "", run = "", backup = "", old = "";

    private byte[] archive = [], photo = [];

    private int imported, lastKilled, toldReadings, toldPhotos;

    /// <summary>Kills so many times and prints the table.</summary>
    /// <param name="app">Folder of the published application.</param>
    /// <param name="kills">How many; each point gets its share, and at least one.</param>
    /// <param name="seed">Of all that is chosen by lot.</param>
    /// <param name="old">Zip of a data folder of an earlier version, for the migration.</param>
    /// <param name="year">A data folder with the demo's year; null to lay one out.</param>
    /// <returns>True where nothing was lost and every point was killed at.</returns>
    public static async Task<bool> RunAsync(string app, int kills, int seed, string old, string? year)
    {
        using var place = new DemoPlace(app, year);
        var soak = new Soak(app, seed) { folder = place.Folder, old = old };
        var clock = Stopwatch.StartNew();
        await soak.PrepareAsync();
        // In turns, so that each state is met by each point.
        var wanted = Points.ToDictionary(p => p, p => Math.Max(1, (int)Math.Round(kills * p.Share / 100.0)));
        // A point that was missed is tried again: what is written there is soon done.
        bool Open(Point p) => p.Tried < wanted[p] || (p.Killed == 0 && p.Tried < wanted[p] + MostMisses);
        for (var i = 0; Points.Any(Open); i++)
        {
            foreach (var p in Points.Where(p => p.Tried * wanted.Values.Max() <= i * wanted[p] && Open(p)))
            {
                p.Tried++;
                soak.lastKilled = 0;
                var found = await p.Turn(soak, i);
                // What is lost is missed again after each later kill: it is said once.
                foreach (var w in found.Where(w => !Points.Any(x => x.Wrong.Contains(w))).Take(3))
                    Console.WriteLine($"! {p.Name}, turn {i}: {w}");
                p.Wrong.AddRange(found);
                p.Killed += soak.lastKilled;
                if (Points.Sum(x => x.Tried) % 100 == 0)
                    Console.WriteLine($"… {Points.Sum(x => x.Tried)} turns in {clock.Elapsed.TotalMinutes:0} min, {Points.Sum(x => x.Wrong.Count)} wrong");
            }
        }

        var atLast = await soak.AtLastAsync();
        Console.WriteLine($"{"killed −9",-32} {"turns",7} {"killed",7} {"wrong",6}");
        foreach (var p in Points)
            Console.WriteLine($"{p.Name,-32} {p.Tried,7} {p.Killed,7} {p.Wrong.Count,6}");
        Console.WriteLine(
            $"{Points.Sum(p => p.Killed)} kills in {clock.Elapsed.TotalMinutes:0.0} min; {soak.toldReadings} readings and {soak.toldPhotos} photos were " +
                $"acknowledged, {soak.readings.Count} and {soak.photos.Count} of them since the last restore; {soak.imported} imports taken whole");
        var wrong = Points.SelectMany(p => p.Wrong.Select(w => $"{p.Name}: {w}")).Concat(atLast.Select(w => $"at last: {w}")).ToList();
        wrong.AddRange(Points.Where(p => p.Killed == 0).Select(p => $"{p.Name}: no turn was killed there"));
        foreach (var w in wrong.Take(40))
            Console.WriteLine(w);
        Console.WriteLine(wrong.Count == 0 ? "nothing was lost" : $"{wrong.Count} faults; seed {seed}");
        return wrong.Count == 0;
    }

    private async Task PrepareAsync()
    {
        await using var server = await Server.StartAsync(app, folder);
        archive = await server.Client.GetByteArrayAsync("/export/archive.json");
        var rows = JsonNode.Parse(archive)!["rows"]!;
        run = (string)rows["runs"]!.AsArray()
            .First(r => (string?)r!["stage"] == "printed" && (string?)r["kind"] == "temperature-tower")!["id"]!;
        photo = await server.Client.GetByteArrayAsync($"/photos/{rows["photos"]!.AsArray()[0]!["id"]}/large");
        token = await server.TokenAsync();
        backup = Path.Combine(Path.GetTempPath(), $"glenfrost-soak-{Guid.NewGuid():N}.zip");
    }

    /// <summary>Readings and photos until the process is gone; all that was acknowledged must stand.</summary>
    private async Task<List<string>> ServeAsync(string point, int times, int turn)
    {
        await using var server = await Server.StartAsync(app, folder, (point, times, null));
        for (var i = 0; i < 120 && !server.HasEnded; i++)
        {
            try
            {
                if (i % 5 == 4 || point == "row")
                    await PhotoAsync(server);
                else
                    await ReadingAsync(server, $"{seed}-{turn}-{point}-{i}", i);
            }
            catch (Exception e) when (e is HttpRequestException or IOException or TaskCanceledException)
            {
                break;
            }
        }

        Note(server);
        return await WrongAsync();
    }

    private async Task ReadingAsync(Server server, string key, int i)
    {
        // Another score than stands there: the same again is answered and not stored.
        var value = scores[i % 9] = (scores[i % 9] + 1) % 5;
        // Each goes over the one that stands there, which the first try may have to learn.
        for (var again = 0; again < 2; again++)
        {
            using var message = new HttpRequestMessage(HttpMethod.Post, $"/api/v1/runs/{run}/readings")
            {
                Content = JsonContent.Create(
                    new { key, value, section = i % 9, aspect = "bond", why = "looked again", supersedes = standing.GetValueOrDefault(i % 9) }),
            };
            message.Headers.Authorization = new("Bearer", token);
            using var answer = await server.Client.SendAsync(message);
            var said = await answer.Content.ReadFromJsonAsync<JsonNode>();
            if (answer.IsSuccessStatusCode)
            {
                standing[i % 9] = (string?)said!["id"];
                // What stands there already, as after a restore, is answered and not stored anew.
                if ((string?)said["status"] != "same")
                    (readings[key], toldReadings) = (value, toldReadings + 1);
                return;
            }

            if (answer.StatusCode != System.Net.HttpStatusCode.Conflict || said is null)
                throw new InvalidOperationException($"a reading was refused: {said}");
            // After a restore a cell may be empty again.
            standing[i % 9] = (string?)said["standing"];
            if (int.TryParse((string?)said["text"], out var there))
                value = scores[i % 9] = (there + 1) % 5;
        }

        throw new InvalidOperationException("a reading was refused twice for what stands in its cell");
    }

    private async Task PhotoAsync(Server server)
    {
        using var form = new MultipartFormDataContent();
        var file = new ByteArrayContent(NewPhoto());
        file.Headers.ContentType = new MediaTypeHeaderValue("image/jpeg");
        form.Add(new StringContent($"{random.Next(9)}"), "section");
        form.Add(file, "file", "seen.jpg");
        using var message = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}/photos/add") { Content = form };
        message.Headers.Add("X-Ticket", await server.TicketAsync());
        message.Headers.Add("Accept", "application/json");
        using var answer = await server.Client.SendAsync(message);
        var said = await answer.Content.ReadFromJsonAsync<JsonNode>();
        if (!answer.IsSuccessStatusCode)
            throw new InvalidOperationException($"a photo was refused: {said}");
        foreach (var p in said!["photos"]!.AsArray())
            (photos[(Guid)p!["id"]!], toldPhotos) = ("", toldPhotos + 1);
    }

    // Another content each time: a comment of its own behind the start of the picture.
    private byte[] NewPhoto()
    {
        var comment = Encoding.ASCII.GetBytes($"{random.Next()}");
        return [.. photo[..2], 0xFF, 0xFE, 0, (byte)(comment.Length + 2), .. comment, .. photo[2..]];
    }

    /// <summary>An archive of other runs is taken in and the process killed somewhere in it: all of it must stand afterwards, or none.</summary>
    private async Task<List<string>> ImportAsync(int turn)
    {
        // The same work under ids of its own, as from another bench.
        var text = Encoding.UTF8.GetString(archive);
        var fresh = new Dictionary<string, string>();
        text = System.Text.RegularExpressions.Regex.Replace(
            text, "[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}",
            m => fresh.TryGetValue(m.Value, out var id) ? id : fresh[m.Value] = Guid.CreateVersion7().ToString());
        var rows = JsonNode.Parse(text)!["rows"]!["runs"]!.AsArray().Select(r => Guid.Parse((string)r!["id"]!)).ToList();
        await using var server = await Server.StartAsync(app, folder, ("write", random.Next(1, 400), null));
        var answered = false;
        try
        {
            using var form = new MultipartFormDataContent
            {
                { new StringContent(await server.TicketAsync()), "__RequestVerificationToken" },
                { new ByteArrayContent(Encoding.UTF8.GetBytes(text)), "file", "other.json" },
            };
            using var sent = await server.Client.PostAsync("/import", form);
            var path = sent.RequestMessage!.RequestUri!.AbsolutePath;
            using var taken = await server.PressAsync(path, "Take");
            answered = taken.IsSuccessStatusCode;
        }
        catch (Exception e) when (e is HttpRequestException or IOException or TaskCanceledException)
        {
        }

        Note(server);
        // What a killed import leaves waits to be decided on, and twenty may wait.
        if (Directory.Exists(Path.Combine(folder, "imports")))
            Directory.Delete(Path.Combine(folder, "imports"), true);
        var wrong = await WrongAsync();
        await using var db = Open();
        var stand = await db.Runs.CountAsync(r => rows.Contains(r.Id));
        if (stand != 0 && stand != rows.Count)
            wrong.Add($"turn {turn}: {stand} of {rows.Count} runs of an import stand");
        if (answered && stand == 0)
            wrong.Add($"turn {turn}: an import was acknowledged and is not there");
        imported += stand > 0 ? 1 : 0;
        // Ten copies of a year are enough of a load.
        if (stand > 0)
            await RevertAsync();
        return wrong;
    }

    // Goes back to a small database: what was acknowledged since the last backup is forgotten by the soak as well.
    private async Task RevertAsync()
    {
        if (!File.Exists(backup))
            return;
        await RunAsync("restore", ["--from", backup], null);
        foreach (var zip in Directory.EnumerateFiles(Path.Combine(folder, "backups"), "before-*.zip"))
            File.Delete(zip);
        await ForgetAsync();
    }

    private async Task ForgetAsync()
    {
        await using var db = Open();
        var keys = (await db.Readings.Select(r => r.Key).ToListAsync()).ToHashSet();
        foreach (var key in readings.Keys.Where(k => !keys.Contains(k)).ToList())
            readings.Remove(key);
        var ids = (await db.Photos.Select(p => p.Id).ToListAsync()).ToHashSet();
        foreach (var id in photos.Keys.Where(k => !ids.Contains(k)).ToList())
            photos.Remove(id);
    }

    private async Task<List<string>> BackupAsync(int turn)
    {
        var target = Path.Combine(folder, "backups", $"soak-{turn}.zip");
        var ended = await RunAsync("backup", ["--to", target], ("part", random.Next(0, 140), folder));
        lastKilled = ended == 0 ? 0 : 1;
        var wrong = await WrongAsync();
        if (ended == 0 && !File.Exists(target))
            wrong.Add($"turn {turn}: a backup was told and is not there");
        if (File.Exists(target))
        {
            if (!await IsWholeAsync(target))
                wrong.Add($"turn {turn}: {target} stands and is not whole");
            // The newest whole one is what a restore brings back.
            File.Move(target, backup, true);
        }

        return wrong;
    }

    private async Task<List<string>> RestoreAsync(int turn, bool damaged)
    {
        if (!File.Exists(backup))
            await RunAsync("backup", ["--to", backup], null);
        var before = await StateAsync();
        if (damaged)
        {
            using var stream = File.OpenWrite(Path.Combine(folder, "glenfrost.db"));
            stream.Write(new byte[4096]);
        }

        var ended = await RunAsync("restore", ["--from", backup], ("part", random.Next(0, damaged ? 8 : 260), folder));
        lastKilled = ended == 0 ? 0 : 1;
        var wrong = new List<string>();
        if (damaged && lastKilled == 1)
        {
            // What was damaged stays so, or is set aside, or the backup stands: a second restore goes through in each case.
            var again = await RunAsync("restore", ["--from", backup], null);
            if (again != 0)
                wrong.Add($"turn {turn}: after a killed restore over damage another one ends with {again}");
        }

        await ForgetAsync();
        var after = await StateAsync();
        var saved = await StateOfAsync(backup);
        if (after != saved && (damaged || after != before))
            wrong.Add($"turn {turn}: after a killed restore {after} stand, neither what stood ({before}) nor the backup ({saved})");
        wrong.AddRange(await WrongAsync());
        foreach (var zip in Directory.EnumerateFiles(Path.Combine(folder, "backups"), "before-*.zip"))
            File.Delete(zip);
        foreach (var aside in Directory.EnumerateDirectories(Path.Combine(folder, "backups"), "set-aside-*"))
            Directory.Delete(aside, true);
        return wrong;
    }

    /// <summary>A database of the first version is started and the process killed somewhere in its migrations; a second start must bring all of it over.</summary>
    private async Task<List<string>> MigrateAsync(int turn)
    {
        var wrong = new List<string>();
        var at = Path.Combine(Path.GetTempPath(), $"glenfrost-soak-{Guid.NewGuid():N}");
        ZipFile.ExtractToDirectory(old, at);
        try
        {
            var before = await RowsAsync(at);
            try
            {
                await using var server = await Server.StartAsync(app, at, ("any", random.Next(1, 160), null));
                Note(server);
            }
            catch (InvalidOperationException)
            {
                lastKilled = 1;
            }

            await using (await Server.StartAsync(app, at))
            {
            }

            var after = await RowsAsync(at);
            wrong.AddRange(before.Where(t => after.GetValueOrDefault(t.Key) < t.Value && after.ContainsKey(t.Key))
                .Select(t => $"turn {turn}: {t.Key} has {after[t.Key]} of {t.Value} rows after a killed migration"));
            if (Fault(Path.Combine(at, "glenfrost.db")) is { } fault)
                wrong.Add($"turn {turn}: {fault} after a killed migration");
        }
        finally
        {
            Directory.Delete(at, true);
        }

        return wrong;
    }

    /// <summary>A last start without a kill: leftovers are swept, and what was acknowledged is shown.</summary>
    private async Task<List<string>> AtLastAsync()
    {
        List<string> wrong;
        await using (await Server.StartAsync(app, folder))
            wrong = await WrongAsync();
        wrong.AddRange(Directory.EnumerateFiles(folder, "*.part", SearchOption.AllDirectories).Select(f => $"{f} was not swept"));
        File.Delete(backup);
        return wrong;
    }

    private void Note(Server server) => lastKilled = server.EndsWithin(TimeSpan.FromSeconds(2)) ? 1 : 0;

    private GlenfrostDb Open() => new(DataPlace.Options(Path.Combine(folder, "glenfrost.db")));

    /// <summary>What is wrong with the folder as it stands.</summary>
    private async Task<List<string>> WrongAsync()
    {
        var wrong = new List<string>();
        if (Fault(Path.Combine(folder, "glenfrost.db")) is { } fault)
            return [fault];
        var files = new FileStore(Path.Combine(folder, "files"));
        await using var db = Open();
        var stored = (await db.Readings.AsNoTracking().Select(r => new { r.Key, r.Value }).ToListAsync()).ToLookup(r => r.Key, r => r.Value);
        wrong.AddRange(readings.Where(r => !stored[r.Key].SequenceEqual([r.Value])).Select(r => $"the acknowledged reading {r.Key} is not there"));
        var shown = await db.Photos.AsNoTracking().ToDictionaryAsync(p => p.Id, p => (p.Sha256, p.SmallSha256, p.RemovedAt));
        wrong.AddRange(photos.Keys.Where(p => !shown.ContainsKey(p)).Select(p => $"the acknowledged photo {p} is not there"));
        foreach (var (id, p) in shown.Where(p => p.Value.RemovedAt is null))
        {
            if (!files.Exists(p.Sha256) || !files.Exists(p.SmallSha256))
                wrong.Add($"photo {id} has a row and no file");
            else if (!photos.TryGetValue(id, out var known) || known.Length == 0)
            {
                // Each content is looked at once: it never changes afterwards.
                await using var content = files.Open(p.Sha256)!;
                if (Convert.ToHexStringLower(await SHA256.HashDataAsync(content)) != p.Sha256)
                    wrong.Add($"the file of photo {id} does not hold what its name says");
                if (photos.ContainsKey(id))
                    photos[id] = p.Sha256;
            }
        }

        SqliteConnection.ClearAllPools();
        return wrong;
    }

    private static string? Fault(string database)
    {
        if (!File.Exists(database))
            return "the database is gone";
        using var connection = new SqliteConnection($"Data Source={database};Pooling=False");
        try
        {
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "PRAGMA integrity_check";
            return (string?)command.ExecuteScalar() is "ok" ? null : "the database is damaged";
        }
        catch (SqliteException e)
        {
            return $"the database can't be read: {e.Message}";
        }
    }

    private Task<string> StateAsync() => StateAtAsync(folder);

    private static async Task<string> StateAtAsync(string at) =>
        string.Join('/', (await RowsAsync(at)).Where(r => r.Key is "Readings" or "Photos" or "Runs").Select(r => r.Value));

    private static async Task<string> StateOfAsync(string zip)
    {
        var at = Path.Combine(Path.GetTempPath(), $"glenfrost-soak-{Guid.NewGuid():N}");
        Directory.CreateDirectory(at);
        try
        {
            using (var archive = ZipFile.OpenRead(zip))
                archive.GetEntry("glenfrost.db")!.ExtractToFile(Path.Combine(at, "glenfrost.db"));
            return await StateAtAsync(at);
        }
        finally
        {
            Directory.Delete(at, true);
        }
    }

    private static async Task<bool> IsWholeAsync(string zip)
    {
        try
        {
            _ = await StateOfAsync(zip);
            using var archive = ZipFile.OpenRead(zip);
            foreach (var entry in archive.Entries.Where(e => e.FullName.StartsWith("files/", StringComparison.Ordinal)))
            {
                await using var content = await entry.OpenAsync();
                if (Convert.ToHexStringLower(await SHA256.HashDataAsync(content)) != entry.Name)
                    return false;
            }

            return true;
        }
        catch (Exception e) when (e is InvalidDataException or SqliteException or NullReferenceException)
        {
            return false;
        }
    }

    /// <summary>Rows of each table.</summary>
    private static async Task<Dictionary<string, long>> RowsAsync(string at)
    {
        await using var connection = new SqliteConnection($"Data Source={Path.Combine(at, "glenfrost.db")};Pooling=False");
        await connection.OpenAsync();
        var counts = new Dictionary<string, long>();
        await using var tables = connection.CreateCommand();
        tables.CommandText = "SELECT name FROM sqlite_master WHERE type='table' AND name NOT LIKE '\\_\\_%' ESCAPE '\\' AND name NOT LIKE 'sqlite%' ORDER BY name";
        await using var reader = await tables.ExecuteReaderAsync();
        while (await reader.ReadAsync())
        {
            await using var count = connection.CreateCommand();
            count.CommandText = $"SELECT COUNT(*) FROM \"{reader.GetString(0)}\"";
            counts[reader.GetString(0)] = (long)(await count.ExecuteScalarAsync())!;
        }

        return counts;
    }

    private async Task<int> RunAsync(string command, IReadOnlyList<string> options, (string Point, int Times, string? Folder)? kill)
    {
        var info = new ProcessStartInfo("dotnet", [Path.Combine(app, "Glenfrost.Web.dll"), command, "--data", folder, .. options])
        {
            RedirectStandardOutput = true, RedirectStandardError = true,
        };
        Server.KillAt(info, kill);
        using var process = Process.Start(info)!;
        var said = process.StandardOutput.ReadToEndAsync();
        var error = process.StandardError.ReadToEndAsync();
        await process.WaitForExitAsync();
        await Task.WhenAll(said, error);
        if (process.ExitCode != 0 && kill is null)
            Console.WriteLine($"{command}: {await error}");
        return process.ExitCode;
    }
}
