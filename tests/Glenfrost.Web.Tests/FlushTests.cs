using System.Collections.Concurrent;
using System.Diagnostics.Metrics;
using System.Net;
using System.Net.Http.Headers;
using Glenfrost.Application;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>Counts flushed folders, and tells in which of them a name came or went unflushed.</summary>
public sealed class FlushWatch : IDisposable
{
    private readonly string folder;
    private readonly HashSet<string> before;
    private readonly ConcurrentDictionary<string, byte> flushed = [];
    private readonly MeterListener listener = new();

    public FlushWatch(string folder)
    {
        this.folder = folder;
        before = Names();
        listener.InstrumentPublished = (i, l) =>
        {
            if (i.Name == "glenfrost.disk.folder_flushes")
                l.EnableMeasurementEvents(i);
        };
        listener.SetMeasurementEventCallback<long>((_, _, tags, _) => flushed[(string)tags[0].Value!] = 0);
        listener.Start();
    }

    /// <summary>Names that came or went in a folder that was not flushed. What is only on its way, and the database's own journal, are not asked for.</summary>
    public List<string> Unflushed()
    {
        var now = Names();
        Assert.True(now.Except(before).Concat(before.Except(now)).Any(), "nothing came and nothing went: there is nothing to see");
        return [.. now.Except(before).Concat(before.Except(now)).Where(n => !flushed.ContainsKey(Path.GetDirectoryName(n)!)).Select(n => Path.GetRelativePath(folder, n))];
    }

    public void Dispose() => listener.Dispose();

    private HashSet<string> Names() => Directory.Exists(folder)
        ? [.. Directory.EnumerateFileSystemEntries(folder, "*", SearchOption.AllDirectories)
            .Where(n => !n.EndsWith(".part", StringComparison.Ordinal) && !n.EndsWith("-wal", StringComparison.Ordinal)
                && !n.EndsWith("-shm", StringComparison.Ordinal) && Path.GetFileName(n) is not ("incoming" or "glenfrost.db" or "lock" or "lock.holder"))]
        : [];
}

/// <summary>What a power cut leaves: the name of every file that was acknowledged is on the disk, with its content.</summary>
public sealed class FlushTests(TestApp site) : IClassFixture<TestApp>
{
    private readonly Visitor v = site.Visit();

    [Fact]
    public async Task Stores_backups_and_restores_flush_every_folder_that_a_name_came_into()
    {
        var folder = Path.Combine(Path.GetTempPath(), "glenfrost-flush-" + Guid.NewGuid().ToString("N"));
        try
        {
            var place = new DataPlace(folder);
            await using (var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath)))
                await place.MigrateAsync(db);
            SqliteConnection.ClearAllPools();
            StoredFile? stored = null;
            Watched(() => stored = place.Files.Put(s => s.Write("a photo"u8)));
            Watched(() => place.Files.Put(s => s.Write("another"u8)));
            Watched(() => place.Files.Delete(stored!.Sha256));
            var backup = Path.Combine(place.BackupsFolder, "one.zip");
            Watched(() => place.Backups.Take(backup));
            var elsewhere = Path.Combine(folder, "stick", "november", "two.zip");
            Watched(() => place.Backups.Take(elsewhere));
            Watched(() => place.Backups.RestoreFrom(elsewhere));
            await File.WriteAllBytesAsync(place.DatabasePath, [1, 2, 3]);
            Watched(() => place.Backups.RestoreFrom(backup));
            Watched(() => Disk.Write(Path.Combine(folder, "small"), "as it was typed"));
            Assert.Equal("as it was typed", await File.ReadAllTextAsync(Path.Combine(folder, "small")));

            Watched(() => Disk.Make(Path.Combine(folder, "a", "b", "c")));

            void Watched(Action act)
            {
                using var watch = new FlushWatch(folder);
                act();
                Assert.Empty(watch.Unflushed());
            }
        }
        finally
        {
            SqliteConnection.ClearAllPools();
            Directory.Delete(folder, true);
        }
    }

    [Fact]
    public async Task A_photo_a_file_a_run_a_waiting_import_and_a_PIN_flush_every_folder_that_a_name_came_into()
    {
        var run = await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed));
        (string From, string To, string Field, string Name, byte[] Content)[] sent =
        [
            ($"/runs/{run.Id}/photos", $"/runs/{run.Id}/photos/add", "photo", "a.jpg", PhotoTests.Picture(613, 401)),
            ("/gcode", "/gcode/files", "file", "cube.gcode", "G28\nG1 X10 Y10 Z0.2 F3000\nG1 X20 E1 F1200\n"u8.ToArray()),
            ("/exchange", "/import", "file", "notes.csv", "date,filament,temperature\n2026-11-01,Skua grey,205\n"u8.ToArray()),
        ];
        foreach (var (from, to, field, name, content) in sent)
        {
            using var watch = new FlushWatch(site.Folder);
            await v.Go(from);
            using var form = new MultipartFormDataContent
            {
                { new StringContent(v.Value("__RequestVerificationToken")), "__RequestVerificationToken" }, { new StringContent(Guid.NewGuid().ToString()), "key" },
                { new ByteArrayContent(content), field, name },
            };
            using var reply = await v.Client.PostAsync(to, form);
            Assert.True(reply.IsSuccessStatusCode, $"{to} answered {reply.StatusCode}");
            Assert.Empty(watch.Unflushed());
        }

        using (var watch = new FlushWatch(site.Folder))
        {
            // Of a height of its own: the plan of a neighbour in the same minute would write the same content, and no name would come.
            await v.Go($"/pairings/{run.PairingId}/temperature-tower");
            await v.Submit("form[id=plan]", ("sectionHeightMm", "9.52"));
            Assert.StartsWith("/runs/", v.Path, StringComparison.Ordinal);
            Assert.Empty(watch.Unflushed());
        }

        using (var watch = new FlushWatch(site.Folder))
        {
            site.Services.GetRequiredService<Rights.BenchPin>().Set("4711-x");
            site.Services.GetRequiredService<Rights.BenchPin>().Set("");
            site.Services.GetRequiredService<Rights.BenchPin>().Set("4711-y");
            Assert.Empty(watch.Unflushed());
        }

        site.Services.GetRequiredService<Rights.BenchPin>().Set("");
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public async Task A_runs_file_whose_content_is_erased_while_its_plan_is_taken_stands_with_its_content(bool again)
    {
        var printed = await site.WithDb(db => db.Runs.AsNoTracking().FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed));
        await v.Go($"/pairings/{printed.PairingId}/temperature-tower");
        if (again)
        {
            await v.Submit("form[id=plan]");
            await v.Go($"/pairings/{printed.PairingId}/temperature-tower?run={v.Path["/runs/".Length..]}");
        }

        var files = Path.Combine(site.Folder, "files");
        List<string> All() => [.. Directory.EnumerateFiles(files, "*", SearchOption.AllDirectories).Where(f => !f.EndsWith(".part", StringComparison.Ordinal))];
        var (held, before) = (new TaskCompletionSource(), All());
        // Somebody holds the gate; the file has its content and waits with its row.
        var holding = site.Services.GetRequiredService<WriteGate>().Through(async () =>
        {
            await held.Task;
            return 0;
        });
        var taking = v.Submit("form[id=plan]", ("sectionHeightMm", again ? "8.96" : "8.4"));
        List<string> fresh;
        var patience = System.Diagnostics.Stopwatch.StartNew();
        while ((fresh = [.. All().Except(before)]).Count < 1)
        {
            Assert.False(taking.IsCompleted, "it was refused: " + string.Join(" ", v.Page.QuerySelectorAll("form .err").Select(e => e.TextContent)));
            Assert.True(patience.Elapsed < TimeSpan.FromMinutes(1), "no content came");
            await Task.Delay(10);
        }

        fresh.ForEach(File.Delete);
        held.SetResult();
        await holding;
        await taking;
        Assert.StartsWith("/runs/", v.Path, StringComparison.Ordinal);
        var id = Guid.Parse(v.Path["/runs/".Length..]);
        var file = await site.WithDb(db => db.RunFiles.AsNoTracking().Where(f => f.RunId == id).OrderBy(f => f.CreatedAt).LastAsync());
        Assert.True(File.Exists(Path.Combine(files, file.Sha256[..2], file.Sha256)));
        Assert.Equal(fresh.Select(f => Path.GetFileName(f)), [file.Sha256]);
    }
}
