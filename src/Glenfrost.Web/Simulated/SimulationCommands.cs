using Glenfrost.Application.Simulated;
using Glenfrost.Core.Equipment;
using System.Globalization;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Materials;
using Glenfrost.Core.Trials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Simulated;

/// <summary>The stand-ins as processes of their own: a printer behind a port, and instruments that post over the device API as real ones would.</summary>
public static class SimulationCommands
{
    private const string PrinterHelp = """
        ./glenfrost printer --printer "Dunnock 180" [--port 5090] [--speed 60] [--filament "Brackenfell Heath"] [--seed 1]
                            [--fault knocked=40] [--pieces FOLDER] [--settings FILE]
        Speaks the line protocol on 127.0.0.1. A piece is taken off when the line closes, and kept in --pieces as JSON for the instruments.
        Faults: runaway, tangle, slip, blocked, knocked, power-cut, lost-connection (height in mm), garbled (every n-th line).
        """;

    private const string InstrumentHelp = """
        ./glenfrost eyes --run ADDRESS --token gfr_… --piece FILE [--seed 1] [--every 1.5]      scores sections, one open cell after another
        ./glenfrost scale --run ADDRESS --token gfr_… --piece FILE [--resolution 0.01]          weighs the piece and posts its mass
        ./glenfrost calliper --piece FILE --from 1.2 --to 11.2 [--times 4]                      prints wall readings of a part of the piece
        ADDRESS is that of the run's page, for example http://127.0.0.1:5080/runs/…; FILE is a piece that ./glenfrost printer kept, or a G-code file,
        which is then printed first (--printer, --filament and --seed as there).
        """;

    /// <summary>Runs the printer until it is ended.</summary>
    public static async Task<int> PrinterAsync(string[] args, TextWriter say, TextWriter complain)
    {
        if (Wrong(args, ["--printer", "--port", "--speed", "--filament", "--seed", "--fault", "--pieces", "--settings"], PrinterHelp, complain, out var o))
            return 2;
        if (Bench(o, complain) is not { } bench)
            return 2;
        var (port, speed) = (Number(o, "--port", 5090), Number(o, "--speed", 60));
        if (port is not (>= 0 and <= 65535) || port != Math.Floor(port.Value) || speed is not (>= 1 and <= LivePrint.MostSpeed))
        {
            await complain.WriteLineAsync(
                port is not (>= 0 and <= 65535) ? "--port needs a number from 1 to 65535." : "--speed needs a number from 1 to 2000: times real time.");
            return 2;
        }

        var faults = new Faults();
        foreach (var f in o.Where(x => x.Name == "--fault").Select(x => x.Value))
        {
            var parts = f.Split('=');
            if (!Faults.Names.Contains(parts[0]) || parts.Length != 2 || !double.TryParse(parts[1], CultureInfo.InvariantCulture, out var at) || at < 0)
            {
                await complain.WriteLineAsync(
                    $"\"{f}\" is no fault: {string.Join(", ", Faults.Names)} with =HEIGHT in mm would be right, for example --fault knocked=40.");
                return 2;
            }

            faults = faults.With(parts[0], at);
        }

        var settingsFile = One(o, "--settings");
        PrinterSettings? stored = null;
        try
        {
            stored =
                settingsFile is not null && File.Exists(settingsFile)
                    ? JsonSerializer.Deserialize<PrinterSettings>(await File.ReadAllTextAsync(settingsFile))
                    : null;
        }
        catch (JsonException)
        {
            await complain.WriteLineAsync($"{settingsFile} holds no settings of this printer; it starts with its factory's. The file is written anew on M500.");
        }

        var pieces = One(o, "--pieces");
        if (pieces is not null)
            Directory.CreateDirectory(pieces);
        var taken = 0;
        using var server = new PrinterServer(bench, faults, speed.Value, stored)
        {
            TakenOff = piece =>
            {
                var text =
                    $"taken off: {Words.Plural(piece.Trace.Layers.Count, "layer")}, {piece.Piece().HeightMm().ToString("0.0", CultureInfo.InvariantCulture)} " +
                        $"mm{(piece.Trace.EndedBecause is { } b ? $" ({b})" : "")}";
                if (pieces is not null)
                {
                    var path = Path.Combine(pieces, $"piece-{++taken:000}.json");
                    File.WriteAllBytes(path, piece.ToBytes());
                    text += $", kept as {path}";
                }

                say.WriteLine(text);
            },
        };
        using var stop = new CancellationTokenSource();
        Console.CancelKeyPress += (_, e) =>
        {
            e.Cancel = true;
            stop.Cancel();
        };
        using var term = System.Runtime.InteropServices.PosixSignalRegistration.Create(System.Runtime.InteropServices.PosixSignal.SIGTERM, c =>
        {
            c.Cancel = true;
            stop.Cancel();
        });
        var listening = server.Listen((int)port.Value);
        await say.WriteLineAsync(
            $"{bench.Spec.Name}, simulated, listens on 127.0.0.1:{listening} at {speed.Value.ToString("0.##", CultureInfo.InvariantCulture)} times its own " +
                $"time. M115 says what it is; the line closed takes the piece off."
        );
        await server.ServeAsync(stop.Token);
        if (settingsFile is not null)
            await File.WriteAllTextAsync(settingsFile, JsonSerializer.Serialize(server.Stored));
        return 0;
    }

    /// <summary>Runs an instrument: eyes, scale or calliper.</summary>
    public static async Task<int> InstrumentAsync(string kind, string[] args, TextWriter say, TextWriter complain)
    {
        if (Wrong(
                args, ["--run", "--token", "--piece", "--seed", "--every", "--resolution", "--from", "--to", "--times", "--printer", "--filament"],
                InstrumentHelp, complain, out var o))
            return 2;
        if (One(o, "--piece") is not { } path || !File.Exists(path))
        {
            await complain.WriteLineAsync(
                $"{(One(o, "--piece") is null ? "Which piece? --piece FILE would be right." : $"There is no file {One(o, "--piece")}.")}\n{InstrumentHelp}");
            return One(o, "--piece") is null ? 2 : 3;
        }

        SimulatedPiece piece;
        try
        {
            if (path.EndsWith(".json", StringComparison.OrdinalIgnoreCase))
            {
                await using var file = File.OpenRead(path);
                piece = PieceFile.Read(file).Piece();
            }
            else
            {
                if (Bench(o, complain) is not { } bench)
                    return 2;
                piece = bench.Print(File.ReadLines(path)).Piece();
            }
        }
        catch (InvalidDataException e)
        {
            await complain.WriteLineAsync($"{path}: {e.Message}");
            return 1;
        }

        if (Number(o, "--seed", 1) is not (>= 0 and var seed))
        {
            await complain.WriteLineAsync("--seed needs a whole number.");
            return 2;
        }

        if (kind == "calliper")
        {
            var (from, to, times) = (Number(o, "--from", 0), Number(o, "--to", 1000), Number(o, "--times", 4));
            var look = piece.Look(from ?? 0, to ?? 1000);
            if (look.Layers == 0)
            {
                await complain.WriteLineAsync(
                    $"Nothing of the piece stands there; it is {piece.HeightMm().ToString("0.0", CultureInfo.InvariantCulture)} mm tall.");
                return 1;
            }

            var calliper = new Calliper((ulong)seed);
            for (var i = 0; i < Math.Clamp(times ?? 4, 1, 200); i++)
                await say.WriteLineAsync(calliper.Measure(look.LineMm).Value.ToString("0.00", CultureInfo.InvariantCulture));
            return 0;
        }

        if (One(o, "--run") is not { } address
            || !Uri.TryCreate(address, UriKind.Absolute, out var uri)
            || uri.Segments.Length < 3
            || !Guid.TryParse(uri.Segments[2].Trim('/'), out var run)
            || One(o, "--token") is not { } token)
        {
            await complain.WriteLineAsync(
                $"Which run, and with which token? Both are needed to post readings; the token comes from the page Devices.\n{InstrumentHelp}");
            return 2;
        }

        using var http = new HttpClient { BaseAddress = new Uri(uri.GetLeftPart(UriPartial.Authority)), Timeout = TimeSpan.FromSeconds(20) };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        try
        {
            return kind == "scale" ? await WeighAsync(http, run, piece, (ulong)seed, Number(o, "--resolution", 0.01) ?? 0.01, say, complain)
                : await LookAsync(http, run, piece, (ulong)seed, TimeSpan.FromSeconds(Math.Clamp(Number(o, "--every", 0.5) ?? 0.5, 0, 60)), say, complain);
        }
        catch (Exception e) when (e is HttpRequestException or TaskCanceledException)
        {
            await complain.WriteLineAsync($"Glenfrost does not answer at {http.BaseAddress}: {e.Message}");
            return 1;
        }
    }

    private static async Task<int> WeighAsync(
        HttpClient http, Guid run, SimulatedPiece piece, ulong seed, double resolutionG, TextWriter say, TextWriter complain)
    {
        if (resolutionG is not (0.1 or 0.01 or 0.001))
        {
            await complain.WriteLineAsync("--resolution needs 0.1, 0.01 or 0.001 g.");
            return 2;
        }

        var scale = new Scale(seed, resolutionG);
        scale.Tare();
        var shown = scale.Weigh(piece.MassG);
        var answer = await http.PostAsJsonAsync(
            $"/api/v1/runs/{run}/readings", new
            {
                key = $"scale-{seed}-{run}", aspect = CellAspects.Mass, section = 0, value = shown.Value, instrument = "simulated scale",
                resolution = shown.Resolution,
            });
        if (!answer.IsSuccessStatusCode)
            return await SaidAsync(answer, complain);
        await say.WriteLineAsync(string.Create(CultureInfo.InvariantCulture, $"{shown.Value} g"));
        return 0;
    }

    private static async Task<int> LookAsync(HttpClient http, Guid run, SimulatedPiece piece, ulong seed, TimeSpan every, TextWriter say, TextWriter complain)
    {
        var asked = await http.GetAsync($"/api/v1/runs/{run}/open");
        if (!asked.IsSuccessStatusCode)
            return await SaidAsync(asked, complain);
        var sheet = await asked.Content.ReadFromJsonAsync<Api.ReadingApi.OpenSheet>(Json.Options);
        var eyes = new Eyes(seed);
        foreach (var cell in sheet!.Open)
        {
            var s = sheet.Sections[cell.Section];
            var look = sheet.Separate ? piece.Look(0, 1000, cell.Section) : piece.Look(s.FromZMm ?? 0, s.ToZMm ?? 0);
            var shown = eyes.Score(look, cell.Aspect, cell.Section);
            var answer = await http.PostAsJsonAsync($"/api/v1/runs/{run}/readings", new
            {
                key = $"eyes-{seed}-{cell.Section}-{cell.Aspect}",
                section = cell.Section,
                aspect = cell.Aspect,
                text = shown is null ? "m" : shown.Value.ToString(CultureInfo.InvariantCulture),
                instrument = "simulated eyes",
                resolution = 1,
            });
            if (!answer.IsSuccessStatusCode)
                return await SaidAsync(answer, complain);
            await say.WriteLineAsync(
                string.Create(
                    CultureInfo.InvariantCulture,
                    $"{cell.TemperatureC:0.#} °C, {cell.Aspect}: {shown?.Value.ToString(CultureInfo.InvariantCulture) ?? "can't be seen"}"));
            await Task.Delay(every);
        }

        return 0;
    }

    private static async Task<int> SaidAsync(HttpResponseMessage answer, TextWriter complain)
    {
        var text = await answer.Content.ReadAsStringAsync();
        try
        {
            var problem = JsonDocument.Parse(text).RootElement;
            text =
                problem.TryGetProperty("errors", out var errors)
                    ? string.Join(" ", errors.EnumerateObject().SelectMany(e => e.Value.EnumerateArray()).Select(e => e.GetString()))
                : problem.TryGetProperty("detail", out var detail) ? detail.GetString()!
                : text;
        }
        catch (JsonException)
        {
            text = $"status {(int)answer.StatusCode}";
        }

        await complain.WriteLineAsync($"Glenfrost says: {text}");
        return 1;
    }

    /// <summary>A printer of the demo by its name, with a filament of the demo.</summary>
    private static SimulatedBench? Bench(List<(string Name, string Value)> o, TextWriter complain)
    {
        var demo = Path.Combine(AppContext.BaseDirectory, "demo");
        var printers = JsonDocument.Parse(File.ReadAllText(Path.Combine(demo, "printers.json"))).RootElement.EnumerateArray().Select(DemoLoader.PrinterOf)
            .ToList();
        var name = One(o, "--printer") ?? printers[0].Name;
        if (printers.FirstOrDefault(p => string.Equals(p.Name, name, StringComparison.OrdinalIgnoreCase)) is not { } printer)
        {
            complain.WriteLine($"There is no printer \"{name}\" on the simulated bench: {string.Join(", ", printers.Select(p => p.Name))} would be right.");
            return null;
        }

        var filaments = JsonDocument.Parse(File.ReadAllText(Path.Combine(demo, "filaments.json"))).RootElement.EnumerateArray()
            .Select(f =>
                (
                    Name: $"{f.GetProperty("maker").GetString()} {f.GetProperty("line").GetString()}", Family: f.GetProperty("family").GetString()!,
                    Key: $"{f.GetProperty("maker").GetString()}/{f.GetProperty("line").GetString()}"))
            .ToList();
        var wanted = One(o, "--filament") ?? filaments[0].Name;
        var filament = filaments.FirstOrDefault(f => string.Equals(f.Name, wanted, StringComparison.OrdinalIgnoreCase));
        if (filament.Name is null)
        {
            complain.WriteLine($"There is no filament \"{wanted}\": {string.Join(", ", filaments.Select(f => f.Name))} would be right.");
            return null;
        }

        if (Number(o, "--seed", 1) is not (>= 0 and var seed))
        {
            complain.WriteLine("--seed needs a whole number.");
            return null;
        }

        var head = printer.Toolheads[0];
        return new SimulatedBench(
            BenchOf.Spec(printer, head, printer.Toolheads.Count, 20), HiddenMaterial.Draw(filament.Family, Chance.Hash(filament.Key)),
            BenchOf.Machine(printer, head), (ulong)seed);
    }

    private static bool Wrong(string[] args, string[] known, string help, TextWriter complain, out List<(string Name, string Value)> options)
    {
        options = [];
        for (var i = 0; i < args.Length; i += 2)
        {
            if (!known.Contains(args[i]) || i + 1 >= args.Length)
            {
                complain.WriteLine($"{(known.Contains(args[i]) ? $"{args[i]} needs a value." : $"There is no option {args[i]}.")}\n{help}");
                return true;
            }

            options.Add((args[i], args[i + 1]));
        }

        return false;
    }

    private static string? One(List<(string Name, string Value)> o, string name) => o.LastOrDefault(x => x.Name == name).Value;

    private static double? Number(List<(string Name, string Value)> o, string name, double otherwise) =>
        One(o, name) is not { } text ? otherwise
        : double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && double.IsFinite(v) ? v
        : null;
}
