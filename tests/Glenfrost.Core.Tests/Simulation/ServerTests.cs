using System.Net.Sockets;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;

namespace Glenfrost.Core.Tests.Simulation;

/// <summary>The printer behind its port, spoken to as any sender of lines would.</summary>
public sealed class ServerTests
{
    private sealed class Line : IDisposable
    {
        private readonly TcpClient client = new();
        private readonly StreamReader reader;
        private readonly StreamWriter writer;

        public Line(int port)
        {
            client.Connect("127.0.0.1", port);
            var stream = client.GetStream();
            (reader, writer) = (new(stream), new(stream) { NewLine = "\n", AutoFlush = true });
        }

        public Task Say(string line) => writer.WriteLineAsync(line);

        public async Task<List<string>> Hear(string until = "ok")
        {
            var heard = new List<string>();
            while (await reader.ReadLineAsync().WaitAsync(TimeSpan.FromSeconds(30)) is { } line)
            {
                heard.Add(line);
                if (line.StartsWith(until, StringComparison.Ordinal))
                    break;
            }

            return heard;
        }

        public async Task<List<string>> Ask(string line)
        {
            await Say(line);
            return await Hear();
        }

        public void Dispose() => client.Dispose();
    }

    private static async Task WithServer(Func<int, List<PieceFile>, Task> test, Faults? faults = null, double speed = 2000)
    {
        var taken = new List<PieceFile>();
        var spec = new PrinterSpec { Name = "Dunnock 180", BedXMm = 180, BedYMm = 180, HeightMm = 180 };
        using var server = new PrinterServer(new(spec, HiddenMaterial.Draw("PLA", 1), HiddenMachine.Draw(2), 3), faults ?? new(), speed)
        {
            TakenOff = taken.Add,
        };
        var port = server.Listen(0);
        using var stop = new CancellationTokenSource();
        var serving = server.ServeAsync(stop.Token);
        try
        {
            await test(port, taken);
        }
        finally
        {
            await stop.CancelAsync();
            await serving;
        }
    }

    private static async Task Until(Func<bool> there)
    {
        for (var i = 0; i < 300 && !there(); i++)
            await Task.Delay(50);
        Assert.True(there());
    }

    [Fact]
    public Task A_program_that_streams_lines_can_print_and_the_piece_is_taken_off_when_it_hangs_up() => WithServer(async (port, taken) =>
    {
        using (var line = new Line(port))
        {
            Assert.Equal("start Dunnock 180", (await line.Hear("start"))[0]);
            Assert.Contains("MACHINE_TYPE:Dunnock 180", (await line.Ask("M115"))[0]);
            var heating = await line.Ask("M109 S210");
            Assert.Contains(heating, l => l.StartsWith("T:", StringComparison.Ordinal));
            foreach (var g in new[] { "G28", "G90", "M83", "G1 Z0.2 F600", "G1 X50 E2 F1800", "G1 Y50 E2", "M400" })
                Assert.Equal("ok", (await line.Ask(g))[^1]);
            Assert.StartsWith("X:50.00 Y:50.00", (await line.Ask("M114"))[0]);
        }

        await Until(() => taken.Count == 1);
        Assert.Single(taken[0].Trace.Layers);
        // The bed is empty for the next one.
        using var again = new Line(port);
        await again.Hear("start");
        Assert.StartsWith("X:0.00", (await again.Ask("M114"))[0]);
    });

    [Fact]
    public Task M112_is_heard_while_something_long_goes_on() => WithServer(async (port, _) =>
    {
        using var line = new Line(port);
        await line.Hear("start");
        // A minute of its own time at once its own speed: nobody waits for that here.
        await line.Say("G4 S600");
        await line.Say("M112");
        var heard = await line.Hear();
        Assert.Equal("ok", heard[^1]);
        await line.Hear();
        Assert.Contains("Error:stopped by M112", (await line.Ask("G1 X10 F600"))[0]);
    }, speed: 1);

    [Fact]
    public Task What_takes_long_says_that_it_is_busy() => WithServer(async (port, _) =>
    {
        using var line = new Line(port);
        await line.Hear("start");
        Assert.Contains("echo:busy: processing", await line.Ask("G4 S9"));
    }, speed: 2);

    [Fact]
    public Task A_broken_line_closes_the_connection_and_keeps_what_stands() => WithServer(async (port, taken) =>
    {
        using var line = new Line(port);
        await line.Hear("start");
        await line.Ask("M109 S210");
        foreach (var g in new[] { "G28", "G90", "M83", "G1 Z0.2 F600", "G1 X50 E2 F1800", "G1 Z0.4", "G1 X0 E2 F1800", "M400", "G1 Z0.6", "G1 X50 E2", "M400" })
            await line.Say(g);
        await line.Hear("never said");
        await Until(() => taken.Count == 1);
        Assert.Contains("broke", taken[0].Trace.EndedBecause);
        Assert.NotEmpty(taken[0].Trace.Layers);
    }, new Faults { LostConnectionAtMm = 0.35 });

    [Fact]
    public Task Lines_without_end_and_rubbish_are_borne() => WithServer(async (port, _) =>
    {
        using var line = new Line(port);
        await line.Hear("start");
        await line.Say(new string('G', 200_000));
        Assert.Equal("ok", (await line.Hear())[^1]);
        await line.Say("\0\u0001\u00FF");
        Assert.Equal("ok", (await line.Hear())[^1]);
    });
}
