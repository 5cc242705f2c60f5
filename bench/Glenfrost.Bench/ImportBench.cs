using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Headers;

namespace Glenfrost.Bench;

/// <summary>
/// What a large archive costs that comes in over the page, in memory of the process: looked at and taken in, each at its peak over what the warm process held.
/// Then a thousand tablets that ask whether a reading came, while readings are saved.
/// </summary>
public static class ImportBench
{
    /// <summary>More than this over a warm process is a fault.</summary>
    private const double MostMb = 150;

    /// <summary>A save that waits longer than this behind those who ask is a fault.</summary>
    private const double MostSaveMs = 1000;

    /// <summary>Measures and prints.</summary>
    /// <param name="app">Folder of the published application.</param>
    /// <param name="years">Of the archive; eight years are about 80 MB as JSON.</param>
    /// <param name="pollers">How many ask at once.</param>
    /// <returns>True where both bounds held.</returns>
    public static async Task<bool> RunAsync(string app, int years, int pollers)
    {
        var from = Place();
        var to = Place();
        var file = from + ".json";
        var small = from + ".small.json";
        try
        {
            var archive = await Archive.WriteAsync(from, years);
            await using (var out1 = await Server.StartAsync(app, from))
                await SaveAsync(out1, file);
            await Archive.WriteAsync(to, 1);
            var held = true;
            await using (var server = await Server.StartAsync(app, to))
            {
                // Warm: an archive of its own, that it looks at and takes nothing of, and every page once.
                await SaveAsync(server, small);
                for (var i = 0; i < 3; i++)
                    await server.PressAsync(await SendAsync(server, small), "Drop");
                foreach (var page in new[] { "/", "/pairings", "/log", "/exchange" })
                    await server.TimeAsync(page, 5);
                var warm = server.MemoryMb;
                var megabytes = new FileInfo(file).Length / 1e6;
                Console.WriteLine(Line($"{megabytes:0} MB of JSON, {archive.Runs} runs and {archive.Readings} readings, into {warm:0} MB"));
                server.BeginPeak();
                var clock = Stopwatch.StartNew();
                var waiting = await SendAsync(server, file);
                held &= Say("sent and looked at", clock, server.PeakMb() - warm);
                server.BeginPeak();
                clock.Restart();
                using var taken = await server.PressAsync(waiting, "Take");
                taken.EnsureSuccessStatusCode();
                held &= Say("taken in", clock, server.PeakMb() - warm);
                using var there = await server.Client.GetAsync($"/runs/{archive.SomeRun}");
                if (!there.IsSuccessStatusCode)
                    throw new InvalidOperationException("a run of the archive is not there after it was taken in");
            }

            await using var asked = await Server.StartAsync(app, from);
            held &= await PollAsync(asked, archive, pollers);
            return held;
        }
        finally
        {
            foreach (var folder in new[] { from, to }.Where(Directory.Exists))
                Directory.Delete(folder, true);
            File.Delete(file);
            File.Delete(small);
        }
    }

    private static async Task<bool> PollAsync(Server server, ArchiveFacts archive, int pollers)
    {
        var since = $"/runs/{archive.SomeRun}?handler=Since&seen={archive.ReadingsOfSomeRun}&stage={archive.StageOfSomeRun}";
        await server.TimeAsync(since, 20);
        var alone = await server.TimeReadingsAsync(archive.OpenRun, 60);
        using var stop = new CancellationTokenSource();
        using var many = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = pollers }) { BaseAddress = server.Client.BaseAddress };
        var answers = 0;
        // As a tablet asks: once in two seconds, all out of step.
        var asking = Enumerable.Range(0, pollers)
            .Select(async i =>
            {
                await Task.Delay(i * 2000 / pollers);
                while (!stop.IsCancellationRequested)
                {
                    using var reply = await many.GetAsync(since);
                    reply.EnsureSuccessStatusCode();
                    Interlocked.Increment(ref answers);
                    await Task.Delay(2000);
                }
            })
            .ToList();
        await Task.Delay(4000);
        var clock = Stopwatch.StartNew();
        var began = answers;
        var beside = await server.TimeReadingsAsync(archive.OpenRun, 60);
        var perSecond = (answers - began) / clock.Elapsed.TotalSeconds;
        await stop.CancelAsync();
        await Task.WhenAll(asking);
        var asks = Line($"beside {pollers} who ask ({perSecond:0} answers a second)");
        var stored = Line($"{beside.Order().ElementAt(30):0.0}, {beside.Max():0} at the longest; {MostSaveMs:0} are allowed");
        Console.WriteLine(Line($"a reading is stored in {alone.Order().ElementAt(30):0.0} ms alone, {asks} in {stored}"));
        return beside.Max() <= MostSaveMs;
    }

    private static bool Say(string what, Stopwatch clock, double more)
    {
        Console.WriteLine(Line($"{what,-20} {clock.Elapsed.TotalSeconds,5:0.0} s, {more,5:0} MB more at its peak; {MostMb:0} are allowed"));
        return more <= MostMb;
    }

    private static async Task SaveAsync(Server server, string path)
    {
        await using var stream = await server.Client.GetStreamAsync("/export/archive.json");
        await using var file = File.Create(path);
        await stream.CopyToAsync(file);
    }

    /// <summary>Sends a file as the page does, and tells where it waits to be decided on.</summary>
    private static async Task<string> SendAsync(Server server, string path)
    {
        await using var stream = File.OpenRead(path);
        using var content = new StreamContent(stream);
        content.Headers.ContentType = new MediaTypeHeaderValue("application/json");
        using var form = new MultipartFormDataContent
        {
            { new StringContent(await server.TicketAsync()), "__RequestVerificationToken" }, { content, "file", "other.json" },
        };
        using var sent = await server.Client.PostAsync("/import", form);
        sent.EnsureSuccessStatusCode();
        return sent.RequestMessage!.RequestUri!.AbsolutePath;
    }

    private static string Place() => Path.Combine(Path.GetTempPath(), "glenfrost-bench-" + Guid.NewGuid().ToString("N"));

    private static string Line(FormattableString text) => text.ToString(CultureInfo.InvariantCulture);
}
