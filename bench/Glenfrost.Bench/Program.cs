// Measures the G-code room, then the piece against writing its bytes, then the pages on a ten-year archive against an empty Razor page of the same server in
// the same run.
// Latency of one visitor, requests in turn; medians and 95th percentiles of many. Ratios travel between machines, milliseconds don't.
using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Glenfrost.Bench;

var app = Option("--app") ?? throw new ArgumentException("--app FOLDER names the published application");
var rounds = int.Parse(Option("--rounds") ?? "150", CultureInfo.InvariantCulture);
var years = int.Parse(Option("--years") ?? "10", CultureInfo.InvariantCulture);
if (args.Contains("recovery"))
{
    var seeds = (Option("--seeds") ?? "1..200").Split("..");
    var (first, last) = (int.Parse(seeds[0], CultureInfo.InvariantCulture), int.Parse(seeds[^1], CultureInfo.InvariantCulture));
    foreach (var kind in Option("--trials")?.Split(',') ?? ["temperature-tower", .. MeasuredRecovery.Kinds, .. StringsRecovery.Kinds,
        .. StrengthRecovery.Kinds])
    {
        if (StringsRecovery.Kinds.Contains(kind))
        {
            StringsRecovery.Run(kind, first, last, args.Contains("--json"));
            continue;
        }

        if (StrengthRecovery.Kinds.Contains(kind))
        {
            StrengthRecovery.Run(kind, first, last, args.Contains("--json"));
            continue;
        }

        if (kind != "temperature-tower")
        {
            MeasuredRecovery.Run(kind, first, last, args.Contains("--json"));
            continue;
        }

        if (!args.Contains("--json"))
            Recovery.Speed(5);
        Recovery.Run(first, last, args.Contains("--json"));
    }

    return;
}

if (args.Contains("gcode"))
{
    GcodeBench.Run(Math.Clamp(rounds / 15, 3, 15), int.Parse(Option("--fuzz") ?? "20000", CultureInfo.InvariantCulture));
    return;
}

int Number(string name, int usual) => int.Parse(Option(name) ?? $"{usual}", CultureInfo.InvariantCulture);
if (args.Contains("soak"))
{
    var old = Option("--old") ?? Path.Combine("tests", "Glenfrost.Web.Tests", "Old", "first-version.zip");
    Environment.ExitCode = await Soak.RunAsync(app, Number("--kills", 1000), Number("--seed", 20261129), old, Option("--year")) ? 0 : 1;
    return;
}

if (args.Contains("fuzz"))
{
    Environment.ExitCode = await Fuzz.RunAsync(app, Number("--inputs", 100_000), Number("--seed", 20261129), Number("--from", 0), Option("--year")) ? 0 : 1;
    return;
}

if (args.Contains("import"))
{
    Environment.ExitCode = await ImportBench.RunAsync(app, Number("--years", 8), Number("--pollers", 1000)) ? 0 : 1;
    return;
}

var pagesOnly = args.Contains("pages");
// "pages archive --to FOLDER" only writes it, to be looked at.
var folder = Option("--to") ?? Path.Combine(Path.GetTempPath(), "glenfrost-bench-" + Guid.NewGuid().ToString("N"));
if (!pagesOnly)
{
    GcodeBench.Run(Math.Clamp(rounds / 15, 3, 15), 5000);
    Console.WriteLine();
    PieceBench.Run(Math.Clamp(rounds / 5, 5, 40));
    Console.WriteLine();
    Recovery.Speed(5);
    Recovery.Run(1, 40, false);
    foreach (var kind in MeasuredRecovery.Kinds)
        MeasuredRecovery.Run(kind, 1, 40, false);
    Console.WriteLine();
}

try
{
    var clock = Stopwatch.StartNew();
    var archive = await Archive.WriteAsync(folder, years);
    Console.WriteLine(
        $"archive of {years} years: {archive.Pairings} pairings, {archive.Runs} runs, {archive.Readings} readings, {archive.Photos} photos, " +
            $"{archive.Findings} findings, {archive.Checks} checks, written in {clock.Elapsed.TotalSeconds:0} s, " +
            $"{new FileInfo(Path.Combine(folder, "glenfrost.db")).Length / 1048576} MB"
    );

    if (args.Contains("archive"))
        return;
    var starts = new List<double>();
    for (var i = 0; i < 5; i++)
    {
        await using var once = await Server.StartAsync(app, folder);
        starts.Add(once.StartMs);
    }

    await using var server = await Server.StartAsync(app, folder);
    var run = "/runs/" + archive.SomeRun;
    var plan = "/pairings/" + archive.SomePairing + "/temperature-tower";
    var since = $"{run}?handler=Since&seen={archive.ReadingsOfSomeRun}&stage={archive.StageOfSomeRun}";
    string[] pages = ["/bench/empty", run, since, "/log?kind=run", "/pairings", "/", "/pairings/" + archive.SomePairing, plan];
    // Another depth each time: nothing of the piece is remembered from before.
    var asked = 0;
    string Ask(string page) =>
        page == plan ? string.Create(CultureInfo.InvariantCulture, $"{plan}?hottestC=220&coolestC=180&stepC=5&pieceDepthMm={14 + ++asked * 0.01:0.00}") : page;
    foreach (var page in pages)
    {
        for (var i = 0; i < 60; i++)
            await server.TimeAsync(Ask(page), 1);
    }

    if (!(await server.TextAsync(Ask(plan))).Contains("id=\"layer-view\"", StringComparison.Ordinal))
        throw new InvalidOperationException("the plan page shows no layer: there is nothing to measure");
    var times = pages.ToDictionary(p => p, _ => new List<double>());
    await server.TimeReadingsAsync(archive.OpenRun, 60);
    var storing = new List<double>();
    // In turn, so that a slow moment of the machine touches all alike.
    for (var i = 0; i < rounds; i++)
    {
        foreach (var page in pages)
            times[page].AddRange(await server.TimeAsync(Ask(page), 1));
        if (i % 10 == 9)
            storing.AddRange(await server.TimeReadingsAsync(archive.OpenRun, 10));
    }

    var empty = Median(times["/bench/empty"]);
    var rows = pages
        .Select(p =>
            (
                Name: p == run ? "run page"
                : p == since ? "asking whether a reading came"
                : p.StartsWith("/log") ? "log, filtered"
                : p == "/pairings" ? "pairings page"
                : p == "/" ? "today"
                : p == plan ? "plan page, nine sections made anew"
                : p.StartsWith("/pairings/") ? "pairing page"
                : "empty Razor page",
                Ms: Median(times[p]), P95: Quantile(times[p], 0.95)))
        .Append(("storing a reading", Median(storing), Quantile(storing, 0.95)))
        .Append(("start-up, to the first answer", Median(starts), starts.Max())).ToList();
    Console.WriteLine($"{"",-36} {"median ms",10} {"95 % ms",10} {"ratio to empty",15}");
    foreach (var (name, ms, p95) in rows)
        Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{name,-36} {ms,10:0.00} {p95,10:0.00} {ms / empty,15:0.0}"));
    // The archive goes out against reading its database file once.
    var file = new List<double>();
    for (var i = 0; i < 5; i++)
    {
        var from = Stopwatch.GetTimestamp();
        await File.ReadAllBytesAsync(Path.Combine(folder, "glenfrost.db"));
        file.Add(Stopwatch.GetElapsedTime(from).TotalMilliseconds);
    }

    var before = server.MemoryMb;
    var export = await server.TimeAsync("/export/archive.json", 5);
    var bytes = (await server.TextAsync("/export/archive.json")).Length;
    Console.WriteLine(
        string.Create(
            CultureInfo.InvariantCulture,
            $"whole archive as JSON: {bytes / 1e6:0.0} MB in {Median(export):0} ms, {Median(export) / Median(file):0.0} times reading the database file; " +
                $"the server holds {server.MemoryMb:0} MB after six of them, {before:0} MB before"
        ));
    if (args.Contains("--json"))
        Console.WriteLine(JsonSerializer.Serialize(rows.Select(r => new { name = r.Item1, medianMs = r.Item2, p95Ms = r.Item3, ratio = r.Item2 / empty })));
}
finally
{
    if (Directory.Exists(folder) && !args.Contains("archive"))
        Directory.Delete(folder, true);
}

string? Option(string name) => Array.IndexOf(args, name) is >= 0 and var i && i + 1 < args.Length ? args[i + 1] : null;

static double Median(List<double> list) => Quantile(list, 0.5);

static double Quantile(List<double> list, double q)
{
    var sorted = list.Order().ToList();
    return sorted[(int)Math.Min(sorted.Count - 1, Math.Floor(q * sorted.Count))];
}
