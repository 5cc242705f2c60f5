using System.IO.Compression;
using System.Net;
using Glenfrost.Application;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;

namespace Glenfrost.Web.Tests;

/// <summary>A start that can't, a restore over what is broken, one holder of a folder, and what a killed one leaves behind.</summary>
public sealed class RepairTests : IDisposable
{
    private readonly string folder = Path.Combine(Path.GetTempPath(), "glenfrost-repair-" + Guid.NewGuid().ToString("N"));
    private readonly string elsewhere = Path.Combine(Path.GetTempPath(), "glenfrost-repair-" + Guid.NewGuid().ToString("N"));

    public RepairTests() => Directory.CreateDirectory(elsewhere);

    public void Dispose()
    {
        SqliteConnection.ClearAllPools();
        Directory.Delete(elsewhere, true);
        if (Directory.Exists(folder))
            Directory.Delete(folder, true);
    }

    private static CancellationToken Stop => TestContext.Current.CancellationToken;

    /// <summary>Runs a command as typed; what it said on both streams, and its exit code.</summary>
    private static async Task<(int Code, string Said)> RunAsync(params string[] args)
    {
        var said = new StringWriter();
        Heard.Here = said;
        try
        {
            return (await Program.Main(args), said.ToString());
        }
        finally
        {
            Heard.Here = null;
            SqliteConnection.ClearAllPools();
        }
    }

    /// <summary>The console, which all tests share, for what one of them began: that alone goes into its own writer.</summary>
    private sealed class Heard(TextWriter console) : TextWriter
    {
        private static readonly AsyncLocal<TextWriter?> Own = new();

        static Heard()
        {
            Console.SetOut(new Heard(Console.Out));
            Console.SetError(new Heard(Console.Error));
        }

        public static TextWriter? Here { set => Own.Value = value is null ? null : Synchronized(value); }

        public override System.Text.Encoding Encoding => console.Encoding;

        public override void Write(char value) => (Own.Value ?? console).Write(value);

        public override void Write(string? value) => (Own.Value ?? console).Write(value);

        public override void Write(char[] buffer, int index, int count) => (Own.Value ?? console).Write(buffer, index, count);

        public override void Flush() => (Own.Value ?? console).Flush();
    }

    private static void Plain(string said)
    {
        Assert.DoesNotContain("   at ", said, StringComparison.Ordinal);
        Assert.DoesNotContain("Exception", said, StringComparison.Ordinal);
        Assert.True(said.TrimEnd().Split('\n').Length == 1, said);
    }

    private async Task<DataPlace> FilledAsync(string name)
    {
        var place = new DataPlace(folder);
        await using (var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath)))
        {
            await place.MigrateAsync(db);
            db.People.Add(new Person { Name = name });
            await db.SaveChangesAsync();
        }

        SqliteConnection.ClearAllPools();
        return place;
    }

    private static async Task<List<string>> NamesAsync(DataPlace place)
    {
        await using var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath));
        await place.MigrateAsync(db);
        return await db.People.Select(p => p.Name).ToListAsync();
    }

    /// <summary>Ways in which a database is found broken.</summary>
    public static TheoryData<string> Damages => ["garbage", "half", "head", "page", "journal"];

    private static void Damage(string path, string how)
    {
        var bytes = File.ReadAllBytes(path);
        switch (how)
        {
            case "garbage":
                new Random(7).NextBytes(bytes);
                break;
            case "half":
                bytes = bytes[..(bytes.Length / 2 / 4096 * 4096 + 100)];
                break;
            case "head":
                bytes.AsSpan(0, 100).Clear();
                break;
            case "page":
                // The second page and those after it: the schema stands there.
                bytes.AsSpan(4096, 8192).Fill(0x5a);
                break;
            case "journal":
                bytes.AsSpan(0, 100).Clear();
                File.WriteAllText(path + "-wal", "no journal of this database");
                break;
        }

        File.WriteAllBytes(path, bytes);
    }

    [Theory]
    [MemberData(nameof(Damages))]
    public async Task A_damaged_database_is_said_with_the_newest_whole_backup_and_the_command_it_names_brings_it_back(string how)
    {
        var place = await FilledAsync("Lin");
        var good = Path.Combine(place.BackupsFolder, "glenfrost-20260101-000000.zip");
        place.Backups.Take(good);
        // A newer one that is broken is not the one that is named.
        var broken = Path.Combine(place.BackupsFolder, "glenfrost-20260202-000000.zip");
        await File.WriteAllBytesAsync(broken, (await File.ReadAllBytesAsync(good))[..300], Stop);
        File.SetLastWriteTimeUtc(good, DateTime.UtcNow.AddDays(-3));
        SqliteConnection.ClearAllPools();
        Damage(place.DatabasePath, how);
        var asItWas = await File.ReadAllBytesAsync(place.DatabasePath, Stop);

        var (code, said) = await RunAsync("serve", "--data", folder, "--port", "0");
        Assert.Equal((int)StartFault.Damaged, code);
        Assert.Contains("is damaged", said, StringComparison.Ordinal);
        Assert.Contains($"./glenfrost restore {good} --data {folder}", said, StringComparison.Ordinal);
        Plain(said);
        Assert.Equal(asItWas, await File.ReadAllBytesAsync(place.DatabasePath, Stop));

        (code, said) = await RunAsync("restore", "--data", folder, "--from", good);
        Assert.Equal((0, true), (code, said.Contains("set-aside-", StringComparison.Ordinal)));
        var aside = Assert.Single(Directory.GetDirectories(place.BackupsFolder, "set-aside-*"));
        Assert.Equal(asItWas, await File.ReadAllBytesAsync(Path.Combine(aside, "glenfrost.db"), Stop));
        if (how == "journal")
            Assert.Equal("no journal of this database", await File.ReadAllTextAsync(Path.Combine(aside, "glenfrost.db-wal"), Stop));
        Assert.Equal(["Lin"], await NamesAsync(place));
        Assert.Empty(Directory.EnumerateFiles(folder, "*.part", SearchOption.AllDirectories));
    }

    [Fact]
    public async Task Without_a_whole_backup_that_is_said_too_and_a_damaged_file_beside_the_database_is_mended_by_a_restore()
    {
        var place = await FilledAsync("Lin");
        var file = place.Files.Put(new MemoryStream("; a file"u8.ToArray()));
        var backup = Path.Combine(elsewhere, "b.zip");
        place.Backups.Take(backup);
        SqliteConnection.ClearAllPools();
        Damage(place.DatabasePath, "head");
        await File.WriteAllTextAsync(place.Files.PathOf(file.Sha256), "; a rotten file", Stop);
        var (code, said) = await RunAsync("serve", "--data", folder, "--port", "0");
        Assert.Equal((int)StartFault.Damaged, code);
        Assert.Contains("No whole backup stands in", said, StringComparison.Ordinal);
        (code, said) = await RunAsync("backup", "--data", folder);
        Assert.Equal((int)StartFault.Damaged, code);
        Plain(said);
        Assert.Equal(0, (await RunAsync("restore", "--data", folder, "--from", backup)).Code);
        using var back = new StreamReader(place.Files.Open(file.Sha256)!);
        Assert.Equal("; a file", await back.ReadToEndAsync(Stop));
    }

    [Fact]
    public async Task A_database_of_a_newer_version_is_left_as_it_is_and_named_so()
    {
        var place = await FilledAsync("Lin");
        await using (var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath)))
            await db.Database.ExecuteSqlRawAsync("INSERT INTO __EFMigrationsHistory VALUES ('20990101000000_Later', '99.0')", Stop);
        var (code, said) = await RunAsync("serve", "--data", folder, "--port", "0");
        Assert.Equal((int)StartFault.Newer, code);
        Assert.Contains("newer version", said, StringComparison.Ordinal);
        Assert.Contains("20990101000000_Later", said, StringComparison.Ordinal);
        Plain(said);
        Assert.False(Directory.Exists(place.BackupsFolder));
    }

    [Theory]
    [InlineData(true, false)]
    [InlineData(false, true)]
    public async Task A_folder_that_lost_its_database_is_never_begun_as_an_empty_bench(bool backups, bool files)
    {
        var place = await FilledAsync("Lin");
        if (files)
            place.Files.Put(new MemoryStream("; a file"u8.ToArray()));
        var backup = Path.Combine(place.BackupsFolder, "glenfrost-20260101-000000.zip");
        if (backups)
            place.Backups.Take(backup);
        SqliteConnection.ClearAllPools();
        foreach (var f in Directory.GetFiles(folder, "glenfrost.db*"))
            File.Delete(f);
        // An empty file in its place is no database either.
        if (files)
            await File.WriteAllTextAsync(place.DatabasePath, "", Stop);
        var (code, said) = await RunAsync("serve", "--data", folder, "--port", "0");
        Assert.Equal((int)StartFault.Missing, code);
        Assert.Contains(backups ? "1 backup and 0 files" : "0 backups and 1 file", said, StringComparison.Ordinal);
        Assert.Contains(backups ? backup : "No whole backup", said, StringComparison.Ordinal);
        Plain(said);
        if (!backups)
            return;
        Assert.Equal(0, (await RunAsync("restore", "--data", folder, "--from", backup)).Code);
        Assert.Equal(["Lin"], await NamesAsync(place));
    }

    [Fact]
    public async Task One_holds_a_folder_and_a_second_server_or_a_restore_is_told_who()
    {
        using var site = new EmptyApp();
        var v = site.Visit();
        await v.Go("/");
        var backup = Path.Combine(elsewhere, "b.zip");
        // A backup is taken beside a running server: it writes nothing there.
        Assert.Equal(0, (await RunAsync("backup", "--data", site.Folder, "--to", backup)).Code);
        foreach (var command in new[] { "serve", "restore", "seed" })
        {
            var (code, said) = await RunAsync(command, "--data", site.Folder, "--from", backup, "--demo", "demo", "--port", "0");
            Assert.Equal((int)StartFault.Locked, code);
            Assert.Contains($"is in use by glenfrost serve (process {Environment.ProcessId}, since ", said, StringComparison.Ordinal);
            Plain(said);
        }

        // It still works, and what it holds is what it held.
        await v.Go("/log");
        Assert.Equal(HttpStatusCode.OK, v.Last.StatusCode);
        site.KeepFolder = true;
        site.Dispose();
        // Given back with its end, whoever held it.
        Assert.Equal(0, (await RunAsync("restore", "--data", site.Folder, "--from", backup)).Code);
        Directory.Delete(site.Folder, true);
    }

    [Fact]
    public void A_lock_that_a_killed_holder_left_is_free_and_two_folders_have_two()
    {
        var (place, other) = (new DataPlace(folder), new DataPlace(Path.Combine(elsewhere, "other")));
        File.WriteAllText(Path.Combine(folder, "lock"), "");
        File.WriteAllText(Path.Combine(folder, "lock.holder"), "glenfrost serve (process 1, since 2026-01-01 00:00 UTC)");
        using (DataLock.Take(place, "serve"))
        {
            using var beside = DataLock.Take(other, "serve");
            var told = Assert.Throws<StartRefusedException>(() => DataLock.Take(place, "restore"));
            Assert.Contains($"process {Environment.ProcessId}", told.Message, StringComparison.Ordinal);
        }

        DataLock.Take(place, "restore").Dispose();
    }

    [Fact]
    public async Task A_correction_right_after_a_start_asks_why_since_nobody_knows_how_long_ago_it_was()
    {
        Guid run;
        async Task<string> Put(Visitor v, string key, string text, string supersedes = "")
        {
            await v.Press(
                "form[method=post]", $"/runs/{run}?handler=Reading", ("key", key), ("section", "1"), ("aspect", "bond"), ("text", text),
                ("supersedes", supersedes));
            return System.Text.Json.JsonDocument.Parse(await v.Last.Content.ReadAsStringAsync(Stop)).RootElement.GetProperty("status").GetString()!;
        }

        using (var site = new TestApp { Folder = folder, KeepFolder = true })
        {
            run = (await site.WithDb(db => db.Runs.FirstAsync(r => r.Kind == "temperature-tower" && r.Stage == RunStages.Printed, Stop))).Id;
            var v = site.Visit();
            await v.Go($"/runs/{run}");
            Assert.Equal("saved", await Put(v, "a", "3"));
            // A slip, within its minute.
            await v.Go($"/runs/{run}");
            var first = await site.WithDb(db => db.Readings.Where(r => r.Key == "a").Select(r => r.Id).FirstAsync(Stop));
            Assert.Equal("saved", await Put(v, "b", "2", first.ToString()));
        }

        using var again = new AgainAt(folder);
        var w = again.Visit();
        await w.Go($"/runs/{run}");
        var standing = await again.WithDb(db => db.Readings.Where(r => r.Key == "b").Select(r => r.Id).FirstAsync(Stop));
        Assert.Equal("why", await Put(w, "c", "4", standing.ToString()));
    }

    /// <summary>The application on a folder that stands.</summary>
    private sealed class AgainAt : TestApp
    {
        public AgainAt(string folder) => (Folder, KeepFolder) = (folder, true);

        protected override bool WithDemo => false;
    }

    [Fact]
    public void Faults_of_the_disk_are_known_by_what_the_system_and_the_database_really_throw()
    {
        if (File.Exists("/dev/full"))
        {
            // Every write to it fails as on a full disk.
            var full = Assert.ThrowsAny<IOException>(() =>
            {
                using var stream = new FileStream("/dev/full", FileMode.Open, FileAccess.Write, FileShare.ReadWrite, 0);
                stream.Write(new byte[4096]);
            });
            Assert.Equal(DiskFault.Full, Disk.FaultOf(full));
            Assert.Equal(DiskFault.Full, Disk.FaultOf(new DbUpdateException("x", new AggregateException(full))));
        }

        using var db = new SqliteConnection($"Data Source={Path.Combine(elsewhere, "small.db")}");
        db.Open();
        var command = db.CreateCommand();
        command.CommandText = "PRAGMA max_page_count = 2; CREATE TABLE A (B BLOB)";
        command.ExecuteNonQuery();
        command.CommandText = "INSERT INTO A VALUES (zeroblob(100000))";
        Assert.Equal(DiskFault.Full, Disk.FaultOf(Assert.Throws<SqliteException>(() => command.ExecuteNonQuery())));
        Assert.Equal(DiskFault.ReadOnly, Disk.FaultOf(new UnauthorizedAccessException()));
        Assert.Null(Disk.FaultOf(new FileNotFoundException()));
        Assert.Null(Disk.FaultOf(new InvalidOperationException("x", new DbUpdateConcurrencyException())));
        Assert.Null(Disk.FaultOf(null));
        foreach (var fault in Enum.GetValues<DiskFault>())
        {
            var (status, head, shortly, help) = DiskTrouble.Words(fault);
            Assert.True(status >= 500 && head.Length > 0 && shortly.Length > 0 && help.StartsWith("Nothing of this was saved", StringComparison.Ordinal));
            Assert.EndsWith(".", new DataPlace(folder).Refusal(fault).Message, StringComparison.Ordinal);
        }
    }

    [Fact]
    public async Task A_restore_onto_a_full_disk_says_so_and_what_stood_stands()
    {
        if (!File.Exists("/dev/full"))
            return;
        var place = await FilledAsync("Lin");
        var backup = Path.Combine(elsewhere, "b.zip");
        place.Backups.Take(backup);
        await using (var db = new GlenfrostDb(DataPlace.Options(place.DatabasePath)))
        {
            db.People.Add(new Person { Name = "Moss" });
            await db.SaveChangesAsync(Stop);
        }

        SqliteConnection.ClearAllPools();
        // What is unpacked goes where every write fails as on a full disk.
        File.CreateSymbolicLink(place.DatabasePath + ".part", "/dev/full");
        var full = Assert.ThrowsAny<Exception>(() => place.Backups.RestoreFrom(backup));
        Assert.Equal(DiskFault.Full, Disk.FaultOf(full));
        var refusal = place.Refusal(DiskFault.Full, full);
        Assert.Equal(StartFault.Full, refusal.Fault);
        Assert.Contains("full", refusal.Message, StringComparison.Ordinal);
        Assert.False(Path.Exists(place.DatabasePath + ".part"));
        Assert.Equal(["Lin", "Moss"], (await NamesAsync(place)).Order());
        Assert.Equal(0, (await RunAsync("restore", "--data", folder, "--from", backup)).Code);
        Assert.Equal(["Lin"], await NamesAsync(place));
    }

    [Fact]
    public async Task A_database_that_another_program_holds_is_said_and_left_as_it_is()
    {
        var place = await FilledAsync("Lin");
        using (var other = new SqliteConnection($"Data Source={place.DatabasePath};Pooling=False"))
        {
            other.Open();
            using var hold = other.CreateCommand();
            // As a table program that opened the file for itself.
            hold.CommandText = "PRAGMA locking_mode = EXCLUSIVE; BEGIN EXCLUSIVE";
            hold.ExecuteNonQuery();
            var (code, said) = await RunAsync("serve", "--data", folder, "--port", "0");
            Assert.Equal((int)StartFault.Locked, code);
            Assert.Contains("another program holds", said, StringComparison.Ordinal);
            Assert.Contains("Nothing was changed", said, StringComparison.Ordinal);
            Plain(said);
            (code, said) = await RunAsync("backup", "--data", folder);
            Assert.Equal((int)StartFault.Locked, code);
            Plain(said);
        }

        Assert.Equal(["Lin"], await NamesAsync(place));
    }

    [Fact]
    public async Task What_a_killed_backup_restore_or_upload_left_is_swept_at_the_start_and_only_the_owner_enters()
    {
        var place = await FilledAsync("Lin");
        Directory.CreateDirectory(place.BackupsFolder);
        Directory.CreateDirectory(place.IncomingFolder);
        Directory.CreateDirectory(place.FilesFolder);
        string[] left =
        [
            Path.Combine(place.BackupsFolder, "glenfrost-1.zip.part"), Path.Combine(place.BackupsFolder, "glenfrost-1.zip.db.part"),
            place.DatabasePath + ".part",
            Path.Combine(place.IncomingFolder, "a.part"), Path.Combine(place.FilesFolder, "b.part"),
        ];
        foreach (var f in left)
            await File.WriteAllTextAsync(f, "left", Stop);
        if (!OperatingSystem.IsWindows())
            File.SetUnixFileMode(folder, (UnixFileMode)0b111_101_101);
        using (var site = new EmptyApp { Folder = folder, KeepFolder = true })
            await site.Visit().Go("/");
        Assert.All(left, f => Assert.False(File.Exists(f), f));
        if (OperatingSystem.IsWindows())
            return;
        Assert.Equal((UnixFileMode)0b111_000_000, File.GetUnixFileMode(folder));
        Assert.Equal((UnixFileMode)0b110_000_000, File.GetUnixFileMode(place.DatabasePath));
    }

    [Fact]
    public async Task Automatic_backups_thin_out_by_age_stay_within_a_size_and_ones_that_were_asked_for_stay()
    {
        var place = await FilledAsync("Lin");
        Directory.CreateDirectory(place.BackupsFolder);
        var now = new DateTime(2026, 11, 20, 12, 0, 0, DateTimeKind.Utc);
        void Make(string name, double days, long bytes = 10)
        {
            var path = Path.Combine(place.BackupsFolder, name);
            using (var f = File.Create(path))
                f.SetLength(bytes);
            File.SetLastWriteTimeUtc(path, now.AddDays(-days));
        }

        // Every six hours for a hundred days.
        for (var i = 0; i < 400; i++)
            Make($"before-import-{i:000}.zip", i / 4.0);
        for (var i = 0; i < 5; i++)
            Make($"glenfrost-{i}.zip", 300 + i);
        place.Backups.Thin(now);
        var kept = place.Backups.All().Where(f => f.Name.StartsWith("before", StringComparison.Ordinal)).ToList();
        Assert.Equal(8, kept.Count(f => (now - f.LastWriteTimeUtc).TotalDays < 2));
        // 2 to 30 days back: one of each day of the calendar, 18 November to 21 October.
        Assert.Equal(29, kept.Count(f => (now - f.LastWriteTimeUtc).TotalDays is >= 2 and < 30));
        // Behind them one of each month: October, September, August.
        Assert.Equal(3, kept.Count(f => (now - f.LastWriteTimeUtc).TotalDays >= 30));
        Assert.Equal(5, place.Backups.All().Count(f => f.Name.StartsWith("glenfrost", StringComparison.Ordinal)));
        place.Backups.Thin(now);
        Assert.Equal(kept.Count, place.Backups.All().Count(f => f.Name.StartsWith("before", StringComparison.Ordinal)));

        // A bench of 400 MB: two fit beside each other, three stay whatever their size.
        foreach (var f in place.Backups.All())
            f.Delete();
        for (var i = 0; i < 6; i++)
            Make($"before-upgrade-{i}.zip", i, 400_000_000);
        place.Backups.Thin(now);
        Assert.Equal(["before-upgrade-0.zip", "before-upgrade-1.zip", "before-upgrade-2.zip"], place.Backups.All().Select(f => f.Name));
    }

    private sealed class SetClock : TimeProvider
    {
        public DateTimeOffset Wall { get; set; } = DateTimeOffset.UtcNow;

        public TimeSpan Run { get; set; }

        public override DateTimeOffset GetUtcNow() => Wall;

        public override long GetTimestamp() => Run.Ticks;

        public override long TimestampFrequency => TimeSpan.TicksPerSecond;
    }

    [Fact]
    public void A_clock_that_goes_back_opens_no_slip_minute_again()
    {
        var clock = new SetClock();
        var slips = new SlipMinute(clock);
        var reading = Guid.NewGuid();
        Assert.False(slips.Holds(reading));
        slips.Mark(reading);
        clock.Run += TimeSpan.FromSeconds(59);
        clock.Wall -= TimeSpan.FromHours(5);
        Assert.True(slips.Holds(reading));
        clock.Run += TimeSpan.FromSeconds(2);
        Assert.False(slips.Holds(reading));
        // What is set back by five hours comes to the same hour again: still shut.
        clock.Wall += TimeSpan.FromHours(5);
        slips.Mark(Guid.NewGuid());
        Assert.False(slips.Holds(reading));
    }
}
