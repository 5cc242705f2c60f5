using System.Net;
using System.Net.Sockets;
using System.Text;
using System.Threading.Channels;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Simulation.Printer;

/// <summary>
/// The simulated printer behind a TCP port of this machine: lines in, lines out, as over a cable. A line is answered when the printer has taken it at its own
/// clock; what takes longer says so every two seconds, and M112 is heard at once whatever waits before it.
/// </summary>
/// <param name="bench">What stands on the bench.</param>
/// <param name="faults">What goes wrong.</param>
/// <param name="speed">Times real time, 1 to 2000.</param>
/// <param name="stored">Settings that it remembers.</param>
public sealed class PrinterServer(SimulatedBench bench, Faults faults, double speed, PrinterSettings? stored = null) : IDisposable
{
    private const int LongestLine = 4096;
    private readonly TcpListener listener = new(IPAddress.Loopback, 0);
    private readonly Lock gate = new();
    private SimulatedPrinter printer = new(bench.Spec, faults, stored);
    private TcpListener? bound;

    /// <summary>Is told of each piece that is taken off: when the line closes after something was printed.</summary>
    public Action<PieceFile>? TakenOff { get; init; }

    /// <summary>Settings as the printer remembers them now.</summary>
    public PrinterSettings Stored { get { lock (gate) return printer.Stored; } }

    /// <summary>Begins to listen.</summary>
    /// <param name="port">0 for any free one.</param>
    /// <returns>The port.</returns>
    public int Listen(int port)
    {
        bound = port == 0 ? listener : new TcpListener(IPAddress.Loopback, port);
        bound.Start();
        return ((IPEndPoint)bound.LocalEndpoint).Port;
    }

    /// <summary>Serves one line after another until it is told to end.</summary>
    public async Task ServeAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            TcpClient client;
            try
            {
                client = await bound!.AcceptTcpClientAsync(stop);
            }
            catch (OperationCanceledException)
            {
                return;
            }

            using (client)
            {
                try
                {
                    await TalkAsync(client, stop);
                }
                catch (Exception e) when (e is IOException or SocketException or OperationCanceledException)
                {
                    // The other end hung up, or the printer is switched off.
                }
            }

            TakeOff();
        }
    }

    private void TakeOff()
    {
        lock (gate)
        {
            var trace = printer.Finish(printer.ConnectionLost ? "the line to the printer broke" : null);
            var remembered = printer.Stored;
            if (trace.Layers.Count > 0)
                TakenOff?.Invoke(bench.Take(trace));
            // The next piece begins on an empty bed; what was stored stays, the mains come back.
            printer = new SimulatedPrinter(bench.Spec, faults, remembered);
        }
    }

    private async Task TalkAsync(TcpClient client, CancellationToken stop)
    {
        client.NoDelay = true;
        await using var stream = client.GetStream();
        await using var to = new StreamWriter(stream, new UTF8Encoding(false)) { NewLine = "\n", AutoFlush = true };
        var lines = Channel.CreateBounded<string>(64);
        using var ended = CancellationTokenSource.CreateLinkedTokenSource(stop);
        var reading = ReadAsync(stream, lines.Writer, ended.Token);
        var (real, from) = (DateTime.UtcNow, printer.ClockS);
        await to.WriteLineAsync($"start {bench.Spec.Name}");
        try
        {
            while (true)
            {
                var waiting = lines.Reader.WaitToReadAsync(ended.Token).AsTask();
                if (await Task.WhenAny(waiting, Task.Delay(200, ended.Token)) != waiting)
                {
                    // Nobody asks anything: time passes all the same, and heaters with it.
                    lock (gate)
                    {
                        var ahead = printer.ClockS - from - (DateTime.UtcNow - real).TotalSeconds * speed;
                        if (ahead < 0)
                            printer.Rest(-ahead);
                    }

                    continue;
                }

                if (!await waiting || !lines.Reader.TryRead(out var line))
                    break;
                IReadOnlyList<string> answers;
                lock (gate)
                {
                    var before = printer.ClockS - from - (DateTime.UtcNow - real).TotalSeconds * speed;
                    if (before < -5)
                        printer.Rest(-before);
                    answers = printer.Receive(line);
                }

                foreach (var a in answers.SkipLast(1))
                    await to.WriteLineAsync(a);
                var said = DateTime.UtcNow;
                // Its own clock is what the other end waits for.
                while (!printer.Stopping && (printer.ClockS - from) / speed - (DateTime.UtcNow - real).TotalSeconds is > 0.01 and var left)
                {
                    await Task.Delay(TimeSpan.FromSeconds(Math.Min(left, 0.2)), ended.Token);
                    if ((DateTime.UtcNow - said).TotalSeconds >= 2)
                    {
                        said = DateTime.UtcNow;
                        await to.WriteLineAsync("echo:busy: processing");
                    }
                }

                if (answers.Count > 0)
                    await to.WriteLineAsync(answers[^1]);
                if (printer.ConnectionLost)
                    break;
            }
        }
        finally
        {
            await ended.CancelAsync();
            try
            {
                await reading;
            }
            catch (Exception e) when (e is IOException or SocketException or OperationCanceledException or ObjectDisposedException)
            {
                // It ends with the line.
            }
        }
    }

    private async Task ReadAsync(NetworkStream stream, ChannelWriter<string> to, CancellationToken stop)
    {
        var (buffer, line) = (new byte[1024], new StringBuilder());
        try
        {
            while (await stream.ReadAsync(buffer, stop) is > 0 and var n)
            {
                for (var i = 0; i < n; i++)
                {
                    var c = (char)buffer[i];
                    if (c is not ('\n' or '\r'))
                    {
                        // A line without end is cut, not kept.
                        if (line.Length < LongestLine)
                            line.Append(c);
                        continue;
                    }

                    if (line.Length == 0)
                        continue;
                    var text = line.ToString();
                    line.Clear();
                    // Heard at once, before all that waits.
                    if (text.Contains("M112", StringComparison.OrdinalIgnoreCase) && CommandLine.Read(text) is { Command: "M112", Garbled: false })
                        printer.Stop();
                    await to.WriteAsync(text, stop);
                }
            }
        }
        finally
        {
            to.TryComplete();
        }
    }

    /// <summary>Ends the connection.</summary>
    public void Dispose()
    {
        listener.Dispose();
        bound?.Dispose();
    }
}
