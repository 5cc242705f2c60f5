using System.IO.Compression;
using System.Net;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using Glenfrost.Application.Exchange;
using Glenfrost.Storage.Exchange;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>What goes out comes back the same, once; what is wrong is told and changes nothing.</summary>
public class ExchangeTests(TestApp site, EmptyApp empty) : IClassFixture<TestApp>, IClassFixture<EmptyApp>, IDisposable
{
    private readonly Visitor v = site.Visit();

    /// <summary>What a test leaves waiting takes no place in the quota of the next, whichever runs first.</summary>
    public void Dispose()
    {
        foreach (var imports in new[] { site.Folder, empty.Folder }.Select(f => Path.Combine(f, "imports")).Where(Directory.Exists))
            Directory.Delete(imports, true);
        GC.SuppressFinalize(this);
    }

    private static async Task Send(Visitor to, byte[] content, string name)
    {
        await to.Go("/exchange");
        var form = new MultipartFormDataContent
        {
            { new StringContent(to.Value("__RequestVerificationToken")), "__RequestVerificationToken" }, { new ByteArrayContent(content), "file", name },
        };
        await to.Take(await to.Client.PostAsync("/import", form));
    }

    [Fact]
    public async Task What_waits_to_be_taken_in_has_a_quota_and_one_that_is_dropped_makes_room()
    {
        var w = empty.Visit();
        var csv = Encoding.UTF8.GetBytes("a,b\n1,2\n");
        for (var i = 0; i < Imports.MostWaiting; i++)
            await Send(w, csv, $"table {i}.csv");
        await Send(w, csv, "one too many.csv");
        Assert.Equal("/exchange", w.Path);
        Assert.Contains($"{Imports.MostWaiting} imports with", w.Text("main"));
        Assert.Contains("Nothing was changed", w.Text("main"));
        var folders = Directory.GetDirectories(Path.Combine(empty.Folder, "imports"));
        Assert.Equal(Imports.MostWaiting, folders.Length);
        await w.Go($"/import/{Guid.Parse(Path.GetFileName(folders[0]))}/notes");
        await w.Submit("form[action*='Drop']");
        await Send(w, csv, "now it fits.csv");
        Assert.StartsWith("/import/", w.Path, StringComparison.Ordinal);
        foreach (var folder in folders)
        {
            if (Directory.Exists(folder))
                Directory.Delete(folder, true);
        }
    }

    [Fact]
    public async Task A_preview_is_made_once_until_something_is_written_and_leaves_nothing_beside_what_was_sent()
    {
        var w = empty.Visit();
        await Send(w, Encoding.UTF8.GetBytes(await site.Visit().Client.GetStringAsync("/export/archive.json")), "year.json");
        var id = Guid.Parse(w.Path["/import/".Length..]);
        async Task<ImportPreview> Preview()
        {
            await using var scope = empty.Services.CreateAsyncScope();
            var imports = scope.ServiceProvider.GetRequiredService<Imports>();
            return await imports.PreviewAsync((await imports.FindAsync(id))!);
        }

        var first = await Preview();
        Assert.Same(first, await Preview());
        // What passes the gate counts, and everything that is saved passes it.
        await using (var scope = empty.Services.CreateAsyncScope())
            await scope.ServiceProvider.GetRequiredService<WorkContext>().AloneAsync(() => Task.FromResult(0));
        var second = await Preview();
        Assert.NotSame(first, second);
        Assert.Equal(first.Plan.NewCount, second.Plan.NewCount);
        Assert.Equal(["draft.json", "sent"], Directory.GetFiles(Path.Combine(empty.Folder, "imports", id.ToString("N"))).Select(Path.GetFileName).Order());
        await w.Go($"/import/{id}");
        await w.Submit("form[action*='Drop']");
    }

    private static byte[] Zip(params (string Name, byte[] Content)[] entries)
    {
        var to = new MemoryStream();
        using (var zip = new ZipArchive(to, ZipArchiveMode.Create, true))
        {
            foreach (var (name, content) in entries)
            {
                using var e = zip.CreateEntry(name).Open();
                e.Write(content);
            }
        }

        return to.ToArray();
    }

    private static JsonObject RowsOf(string json) => JsonNode.Parse(json)!["rows"]!.AsObject();

    private async Task<Guid> RunWithPhotos() =>
        (
            await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Number == 1 && r.Photos.Any() && r.Stage == RunStages.Decided))
        ).Id;

    private async Task<long> RowCount() =>
        await site.WithDb(async db =>
            (long)await db.Runs.CountAsync()
            + await db.Readings.CountAsync()
            + await db.Filaments.CountAsync()
            + await db.Settings.CountAsync()
            + await db.People.CountAsync()
            + await db.Findings.CountAsync());

    [Fact]
    public async Task The_whole_archive_goes_into_an_empty_bench_and_out_again_the_same_with_its_files()
    {
        var zip = await v.Client.GetByteArrayAsync("/export/archive.zip");
        var there = empty.Visit();
        await Send(there, zip, "archive.zip");
        Assert.Matches(@"\d+ new rows, 0 the same, 0 different", there.Text(".lead-text"));
        await there.Submit("form[action*='Take']");
        Assert.Contains("taken in", there.Text(".told"));
        Assert.NotEmpty(Directory.GetFiles(Path.Combine(empty.Folder, "backups"), "before-import-*.zip"));

        using var sent = new ZipArchive(new MemoryStream(zip));
        using var reader = new StreamReader(sent.GetEntry("glenfrost.json")!.Open());
        var (was, now) = (RowsOf(await reader.ReadToEndAsync()), RowsOf(await there.Client.GetStringAsync("/export/archive.json")));
        foreach (var (table, rows) in was.Where(t => t.Key is not ("people" or "log")))
            Assert.True(JsonNode.DeepEquals(rows, now[table]), $"{table}: {rows?.ToJsonString()} became {now[table]?.ToJsonString()}");
        foreach (var table in new[] { "people", "log" })
            Assert.All(was[table]!.AsArray(), row => Assert.Contains(now[table]!.AsArray(), x => JsonNode.DeepEquals(x, row)));
        var photo = (await empty.WithDb(db => db.Photos.FirstAsync())).Id;
        Assert.Equal(await v.Client.GetByteArrayAsync($"/photos/{photo}/large"), await there.Client.GetByteArrayAsync($"/photos/{photo}/large"));

        // Again, and nothing doubles; and the one who worked there works here now.
        await Send(there, zip, "archive.zip");
        Assert.Contains("0 new rows", there.Text(".lead-text"));
        Assert.Contains("Everything in it stands here already", there.Text(".lead-text"));
        await there.Go("/preferences");
        Assert.Equal("Isla", there.Value("person"));
        foreach (var path in new[] { "/", "/pairings", "/log", $"/runs/{(await empty.WithDb(db => db.Photos.FirstAsync())).RunId}" })
            Assert.True((await there.Client.GetAsync(path)).IsSuccessStatusCode, path);
    }

    [Fact]
    public async Task A_run_carries_all_that_it_needs_to_be_read_elsewhere()
    {
        using var fresh = new EmptyApp();
        var there = fresh.Visit();
        var run = await RunWithPhotos();
        await Send(there, await v.Client.GetByteArrayAsync($"/runs/{run}/run.zip"), "run.zip");
        await there.Submit("form[action*='Take']");
        var text = await v.Client.GetStringAsync($"/runs/{run}/run.txt");
        Assert.Equal(text, await there.Client.GetStringAsync($"/runs/{run}/run.txt"));
        Assert.Equal(await v.Client.GetStringAsync($"/runs/{run}/readings.csv"), await there.Client.GetStringAsync($"/runs/{run}/readings.csv"));
        // Somebody else's run does not change who is at this bench.
        await there.Go("/preferences");
        Assert.NotEqual("Isla", there.Value("person"));
        var pairing = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Id == run))).PairingId;
        await Send(there, await v.Client.GetByteArrayAsync($"/pairings/{pairing}/pairing.json"), "pairing.json");
        Assert.Matches(@"\d+ new rows, \d\d+ the same, 0 different", there.Text(".lead-text"));
        await there.Submit("form[action*='Take']");
        Assert.Equal(await v.Client.GetStringAsync($"/pairings/{pairing}/profile.txt"), await there.Client.GetStringAsync($"/pairings/{pairing}/profile.txt"));
    }

    [Fact]
    public async Task What_differs_is_shown_and_taken_only_where_ticked()
    {
        var json = JsonNode.Parse(await v.Client.GetStringAsync("/export/archive.json"))!;
        var (filament, spool, reading) = (json["rows"]!["filaments"]![0]!, json["rows"]!["spools"]![0]!, json["rows"]!["readings"]![0]!);
        (filament["notes"], spool["name"], reading["entered"]) = ("from the other hut", "X-99", "seen twice");
        await Send(v, Encoding.UTF8.GetBytes(json.ToJsonString()), "other.json");
        Assert.Contains("3 different", v.Text(".lead-text"));
        Assert.Contains("from the other hut", v.Text("body"));
        Assert.Equal(2, v.Page.QuerySelectorAll("input[name=take]").Length);
        await v.Submit("form[action*='Take']", ("take", (string)filament["id"]!));
        Assert.Contains("1 replaced", v.Text(".told"));
        var (f, s, r) = (Guid.Parse((string)filament["id"]!), Guid.Parse((string)spool["id"]!), Guid.Parse((string)reading["id"]!));
        Assert.Equal("from the other hut", (await site.WithDb(db => db.Filaments.FirstAsync(x => x.Id == f))).Notes);
        Assert.NotEqual("X-99", (await site.WithDb(db => db.Spools.FirstAsync(x => x.Id == s))).Name);
        Assert.NotNull((await site.WithDb(db => db.Readings.FirstAsync(x => x.Id == r))).Key);
    }

    [Fact]
    public async Task Two_benches_that_went_apart_are_joined_as_far_as_both_can_stand()
    {
        var run = await RunWithPhotos();
        var json = JsonNode.Parse(await v.Client.GetStringAsync($"/runs/{run}/run.json"))!;
        var readings = json["rows"]!["readings"]!.AsArray();
        var extra = readings[0]!.DeepClone();
        (extra["id"], extra["key"]) = (Guid.CreateVersion7().ToString(), "made-elsewhere");
        readings.Add(extra);
        var orphan = json["rows"]!["decisions"]![0]!.DeepClone();
        (orphan["id"], orphan["runId"]) = (Guid.CreateVersion7().ToString(), Guid.NewGuid().ToString());
        json["rows"]!["decisions"]!.AsArray().Add(orphan);
        await Send(v, Encoding.UTF8.GetBytes(json.ToJsonString()), "apart.json");
        Assert.Contains("2 that can't be taken", v.Text(".lead-text"));
        Assert.Contains("both can't stand", v.Text("body"));
        Assert.Contains("neither here nor can be taken", v.Text("body"));
    }

    public static TheoryData<string, string> Bad =>
        new()
        {
            { "{", "half a file" },
            { "[1]", "no archive" }, { "{\"format\":\"other\"}", "calls itself" }, { "{\"format\":\"glenfrost-archive\"}", "version" },
            { "{\"format\":\"glenfrost-archive\",\"version\":2,\"rows\":{}}", "newer Glenfrost" },
            { "{\"format\":\"glenfrost-archive\",\"version\":1}", "no \"rows\"" },
            { "{\"format\":\"glenfrost-archive\",\"version\":1,\"rows\":{\"runs\":7}}", "must be a list" },
        };

    [Theory]
    [MemberData(nameof(Bad))]
    public async Task A_document_that_is_none_is_told_and_changes_nothing(string json, string says)
    {
        var before = await RowCount();
        await Send(v, Encoding.UTF8.GetBytes(json), "bad.json");
        Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
        Assert.Contains(says, v.Text("#notice"));
        Assert.Contains("Nothing was changed", v.Text("#notice"));
        Assert.Equal(before, await RowCount());
    }

    [Fact]
    public async Task Rows_of_a_wrong_form_are_listed_with_their_reason()
    {
        var json = """
            {"format":"glenfrost-archive","version":1,"scope":"run","rows":{"people":[{"id":"x","name":"A"},{"id":"01a20000-0000-7000-8000-0000000000aa"},{"id":"01a20000-0000-7000-8000-0000000000ab","name":3},
            {"id":"01a20000-0000-7000-8000-0000000000ac","name":"Good","hat":"red"}],"room":[{"id":"01a20000-0000-7000-8000-0000000000ad","at":"yesterday","temperatureC":19}],
            "printers":[{"id":"01a20000-0000-7000-8000-0000000000ae","name":"P","world":"moon"}],"moons":[]}}
            """;
        await Send(v, Encoding.UTF8.GetBytes(json), "wrong.json");
        Assert.Contains("1 new row, 0 the same, 0 different, 5 that can't be taken", v.Text(".lead-text"));
        foreach (var says in new[] { "id is missing", "name is missing: a text", "name is 3: a text", "a UTC time like", "left out: moons, people.hat" })
            Assert.Contains(says, v.Text("body"));
    }

    [Fact]
    public async Task A_zip_that_is_none_or_climbs_or_bursts_is_told_and_leaves_nothing_outside()
    {
        var good = await v.Client.GetByteArrayAsync($"/runs/{await RunWithPhotos()}/run.zip");
        var hash = new string('a', 64);
        var climbing = Path.Combine(Path.GetTempPath(), "glenfrost-climbed.txt");
        foreach (var (zip, says) in new[]
        {
            (good[..(good.Length / 2)], "half a file"),
            (Zip(("readme.txt", [1])), "no glenfrost.json"),
            (Zip(("glenfrost.json", "{}"u8.ToArray()), ("../../../../../../tmp/glenfrost-climbed.txt", [1])), "leads out of it"),
            (Zip(("glenfrost.json", "{}"u8.ToArray()), ("/tmp/glenfrost-climbed.txt", [1])), "leads out of it"),
            (Zip(("glenfrost.json", "{}"u8.ToArray()), ("..\\glenfrost-climbed.txt", [1])), "leads out of it"),
            (Zip(("glenfrost.json", "{}"u8.ToArray()), ("glenfrost.json", "{}"u8.ToArray())), "twice"),
            (Zip(("glenfrost.json", Enumerable.Repeat((byte)' ', 260_000_000).ToArray())), "not read further"),
            (Zip(("glenfrost.json", new byte[260_000_000])), "not read further"),
            (Zip(("glenfrost.json", new byte[60_000_000])), "would grow to 60"),
            (Zip(("glenfrost.json", new byte[40_000_000])), "can't be read to its end"),
            ([.. "PK"u8, 3, 4, .. new byte[500]], "half a file"),
        })
        {
            await Send(v, zip, "bad.zip");
            Assert.Equal(HttpStatusCode.UnprocessableEntity, v.Last.StatusCode);
            Assert.Contains(says, v.Text("#notice"));
        }

        Assert.False(File.Exists(climbing));

        // A photo that is not what its name says, and one that grows a thousandfold.
        foreach (
            var (content, says) in new[] { ("not it"u8.ToArray(), "does not hold what its name says"), (new byte[60_000_000], "no file of Glenfrost does") })
        {
            using var fresh = new EmptyApp();
            var there = fresh.Visit();
            var json = JsonNode.Parse(await v.Client.GetStringAsync($"/runs/{await RunWithPhotos()}/run.json"))!;
            json["rows"]!["photos"]![0]!["sha256"] = hash;
            await Send(there, Zip(("glenfrost.json", Encoding.UTF8.GetBytes(json.ToJsonString())), ($"files/{hash}", content)), "changed.zip");
            await there.Submit("form[action*='Take']");
            Assert.Equal(HttpStatusCode.UnprocessableEntity, there.Last.StatusCode);
            Assert.Contains(says, there.Text("#notice"));
            Assert.Equal(0, await fresh.WithDb(db => db.Runs.CountAsync()));
        }
    }

    [Fact]
    public async Task A_file_that_came_in_is_read_before_it_is_handed_out_to_be_printed()
    {
        var run = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Planned))).Id;
        var good = await v.Client.GetByteArrayAsync($"/runs/{run}/run.zip");
        using var zip = new ZipArchive(new MemoryStream(good));
        using var reader = new StreamReader(zip.GetEntry("glenfrost.json")!.Open());
        var json = JsonNode.Parse(await reader.ReadToEndAsync())!;
        var file = json["rows"]!["runFiles"]![0]!;
        using var gcode = new StreamReader(zip.GetEntry($"files/{file["sha256"]}")!.Open());
        var text = await gcode.ReadToEndAsync();
        foreach (var (content, status, says) in new[]
            {
                (text, HttpStatusCode.OK, "M109"),
                (text.Replace("; print ends", "M104 S400\n; print ends"), HttpStatusCode.Conflict, "sets 400 \u00B0C, above the nozzle"),
            })
        {
            using var fresh = new EmptyApp();
            var there = fresh.Visit();
            var hash = Convert.ToHexStringLower(System.Security.Cryptography.SHA256.HashData(Encoding.ASCII.GetBytes(content)));
            file["sha256"] = hash;
            await Send(
                there, Zip(("glenfrost.json", Encoding.UTF8.GetBytes(json.ToJsonString())), ($"files/{hash}", Encoding.ASCII.GetBytes(content))), "run.zip");
            await there.Submit("form[action*='Take']");
            var reply = await there.Client.GetAsync($"/runs/{run}/files/{file["id"]}");
            Assert.Equal(status, reply.StatusCode);
            var answer = await reply.Content.ReadAsStringAsync();
            Assert.Contains(says, answer.StartsWith('{') ? JsonDocument.Parse(answer).RootElement.GetProperty("detail").GetString() : answer);
        }
    }

    [Fact]
    public async Task What_is_neither_archive_nor_table_is_told()
    {
        await Send(v, [0, 1, 2, 3], "x.bin");
        Assert.Contains("neither an archive", v.Text("#notice"));
        await Send(v, [], "empty.json");
        Assert.Contains("is empty", v.Text("#notice"));
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync($"/import/{Guid.NewGuid()}")).StatusCode);
        Assert.Equal(HttpStatusCode.NotFound, (await v.Client.GetAsync("/export/tables/devices.csv")).StatusCode);
    }

    [Fact]
    public async Task Whatever_comes_in_pages_can_show_it()
    {
        // Fields of a good export are changed at random; what is then taken in must not break any page.
        var random = new Random(20261123);
        using var fresh = new EmptyApp();
        var there = fresh.Visit();
        var text = await v.Client.GetStringAsync("/export/archive.json");
        JsonNode?[] odd = [null, "", "x", -1, 0, 1e9, 0.5, true, "2026-01-01T00:00:00Z", Guid.NewGuid().ToString(), new JsonObject(), new JsonArray(1)];
        for (var turn = 0; turn < 2; turn++)
        {
            var json = JsonNode.Parse(text)!;
            var rows = json["rows"]!.AsObject().SelectMany(t => t.Value!.AsArray()).ToList();
            for (var i = 0; i < 250; i++)
            {
                var row = rows[random.Next(rows.Count)]!.AsObject();
                var field = row.Select(f => f.Key).Where(k => k != "id").ElementAt(random.Next(row.Count - 1));
                row[field] = odd[random.Next(odd.Length)]?.DeepClone();
            }

            await Send(there, Encoding.UTF8.GetBytes(json.ToJsonString()), $"odd-{turn}.json");
            Assert.True(there.Last.IsSuccessStatusCode, there.Text("#notice"));
            if (there.Page.QuerySelector("form[action*='Take'] button") is not null)
                await there.Submit("form[action*='Take']");
            Assert.True(there.Last.IsSuccessStatusCode, there.Text("#notice"));
            var paths = await fresh.WithDb(async db =>
                new[] { "/", "/pairings", "/filaments", "/printers", "/log", "/export/archive.json" }
                    .Concat(
                        (await db.Runs.Select(r => r.Id).ToListAsync()).SelectMany(r =>
                            new[] { $"/runs/{r}", $"/runs/{r}?open=read", $"/runs/{r}/photos", $"/runs/{r}/sheet", $"/runs/{r}/run.txt" }))
                    .Concat((await db.Pairings.Select(p => p.Id).ToListAsync()).SelectMany(p => new[] { $"/pairings/{p}", $"/pairings/{p}/temperature-tower" }))
                    .Concat((await db.Spools.Select(s => s.Id).ToListAsync()).Select(s => $"/spools/{s}"))
                    .Concat((await db.Filaments.Select(s => s.Id).ToListAsync()).Select(s => $"/filaments/{s}"))
                    .Concat((await db.Printers.Select(s => s.Id).ToListAsync()).Select(s => $"/printers/{s}"))
                    .ToList());
            foreach (var path in paths)
            {
                var reply = await there.Client.GetAsync(path);
                Assert.True((int)reply.StatusCode < 500, $"turn {turn}: {path} answered {(int)reply.StatusCode}");
            }
        }
    }

    [Fact]
    public async Task No_table_asks_for_a_field_that_an_archive_of_an_earlier_version_lacks()
    {
        // What a landed version asked for, by table. A table that came later may ask for what it likes; an old one for nothing more.
        var golden = Path.Combine(TestApp.Root, "tests/Glenfrost.Web.Tests/golden/archive-required.json");
        var asked = JsonSerializer.Deserialize<Dictionary<string, string[]>>(await File.ReadAllTextAsync(golden, TestContext.Current.CancellationToken))!;
        foreach (var table in ArchiveTables.All.Where(t => asked.ContainsKey(t.Name)))
            Assert.Empty(table.Columns.Where(c => !c.Nullable).Select(c => c.Name).Except(asked[table.Name]));
        Assert.Empty(asked.Keys.Except(ArchiveTables.All.Select(t => t.Name)));
    }

    [Fact]
    public async Task Every_table_is_in_the_archive_and_the_published_schema_is_the_one_that_is_written()
    {
        var types = await site.WithDb(db => Task.FromResult(db.Model.GetEntityTypes().Select(t => t.ClrType).ToList()));
        Assert.Equal(
            types.Where(t => t != typeof(Device) && t != typeof(Job) && t != typeof(EvidenceStanding)).OrderBy(t => t.Name),
            ArchiveTables.All.Select(t => t.Type).OrderBy(t => t.Name));
        var published = Path.Combine(TestApp.Root, "docs/archive-1.schema.json");
        // Set to publish it anew: tables and fields are only added.
        if (Environment.GetEnvironmentVariable("GLENFROST_RENEW_GOLDEN") == "1")
            await File.WriteAllTextAsync(published, ArchiveSchema.Text());
        Assert.Equal(ArchiveSchema.Text(), await File.ReadAllTextAsync(published));
        Assert.Equal(ArchiveSchema.Text(), await v.Client.GetStringAsync("/schema/archive-1.json"));
        foreach (var table in ArchiveTables.All)
            Assert.Equal(
                string.Join(',', table.Columns.Select(c => c.Name)),
                (await v.Client.GetStringAsync($"/export/tables/{table.Name}.csv")).TrimStart('\uFEFF').Split("\r\n")[0]);
    }

    [Fact]
    public async Task A_profile_goes_out_as_csv_and_text_and_formulas_stay_text()
    {
        var pairing = (await site.WithDb(db => db.Pairings.FirstAsync(p => p.Filament!.Line == "Heath"))).Id;
        await v.Go($"/pairings/{pairing}");
        await v.Submit("form[action*='Tried']", ("tried", "=1+1 on the plate"), ("outcome", "worse"));
        Assert.Contains("−", v.Text(".finds .tried.worse"));
        Assert.Contains("nozzleTemperatureC,Nozzle temperature,", await v.Client.GetStringAsync($"/pairings/{pairing}/profile.csv"));
        Assert.Contains("'=1+1 on the plate", await v.Client.GetStringAsync("/export/tables/findings.csv"));
        await v.Go("/log?kind=tried&q=1%2B1");
        Assert.Contains("worse: =1+1 on the plate", v.Text(".log"));
    }
}
