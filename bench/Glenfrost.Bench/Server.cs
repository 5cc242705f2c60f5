using System.Diagnostics;
using System.Net;
using System.Net.Sockets;

namespace Glenfrost.Bench;

/// <summary>The published application as a process of its own.</summary>
public sealed class Server : IAsyncDisposable
{
    private readonly Process process;
    private readonly HttpClient client;

    private Server(Process process, HttpClient client, double startMs) => (this.process, this.client, StartMs) = (process, client, startMs);

    /// <summary>Milliseconds from the start of the process to its first answered page.</summary>
    public double StartMs { get; }

    /// <summary>Working set of the process now, MB.</summary>
    public double MemoryMb
    {
        get
        {
            process.Refresh();
            return process.WorkingSet64 / 1e6;
        }
    }

    public static async Task<Server> StartAsync(string app, string data)
    {
        var port = FreePort();
        var info = new ProcessStartInfo("dotnet", [Path.Combine(app, "Glenfrost.Web.dll"), "serve", "--data", data, "--port", port.ToString()]) { RedirectStandardOutput = true };
        var clock = Stopwatch.StartNew();
        var process = Process.Start(info)!;
        var client = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{port}") };
        while (clock.Elapsed < TimeSpan.FromSeconds(60))
        {
            try
            {
                (await client.GetAsync("/bench/empty")).EnsureSuccessStatusCode();
                return new Server(process, client, clock.Elapsed.TotalMilliseconds);
            }
            catch (HttpRequestException)
            {
                await Task.Delay(5);
            }
        }

        process.Kill();
        throw new InvalidOperationException("the server did not answer within a minute");
    }

    /// <summary>Milliseconds of each of a number of requests, the body read to its end.</summary>
    public async Task<List<double>> TimeAsync(string path, int times)
    {
        var list = new List<double>();
        for (var i = 0; i < times; i++)
        {
            var clock = Stopwatch.GetTimestamp();
            var reply = await client.GetAsync(path);
            await reply.Content.ReadAsByteArrayAsync();
            list.Add(Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
            reply.EnsureSuccessStatusCode();
        }

        return list;
    }

    /// <summary>The body of a page.</summary>
    public Task<string> TextAsync(string path) => client.GetStringAsync(path);

    public async ValueTask DisposeAsync()
    {
        client.Dispose();
        process.Kill();
        await process.WaitForExitAsync();
        process.Dispose();
    }

    private static int FreePort()
    {
        using var listener = new TcpListener(IPAddress.Loopback, 0);
        listener.Start();
        return ((IPEndPoint)listener.LocalEndpoint).Port;
    }
}
