using System.Diagnostics;
using System.Net;
using System.Net.Http.Json;
using System.Net.Sockets;
using System.Text.RegularExpressions;

namespace Glenfrost.Bench;

/// <summary>The published application as a process of its own.</summary>
public sealed partial class Server : IAsyncDisposable
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
        var info = new ProcessStartInfo("dotnet", [Path.Combine(app, "Glenfrost.Web.dll"), "serve", "--data", data, "--port", port.ToString()])
        {
            RedirectStandardOutput = true,
        };
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

    /// <summary>
    /// Milliseconds of storing a score each, as the page's script sends it: the cells of a tower in turn, each time another score than stands there.
    /// </summary>
    /// <param name="run">A printed tower with nine sections, with no reading younger than a minute.</param>
    public async Task<List<double>> TimeReadingsAsync(Guid run, int times)
    {
        var page = await TextAsync($"/runs/{run}?open=read");
        var ticket = Ticket().Match(page).Groups[1].Value;
        var standing = new Dictionary<(int, string), string?>();
        foreach (Match cell in Cell().Matches(page))
            standing[(int.Parse(cell.Groups[1].Value), cell.Groups[2].Value)] = cell.Groups[3].Value;
        if (ticket.Length == 0 || standing.Count < 40)
            throw new InvalidOperationException($"the run's page has {standing.Count} cells with readings: there is nothing to measure");
        var list = new List<double>();
        for (var i = 0; i < times; i++)
        {
            var (section, aspect) = standing.Keys.ElementAt(i % standing.Count);
            var fields = new Dictionary<string, string>
            {
                ["key"] = Guid.CreateVersion7().ToString(), ["section"] = section.ToString(), ["aspect"] = aspect,
                ["text"] = (i / standing.Count % 2 == 0 ? i % 5 : (i + 2) % 5).ToString(), ["why"] = "looked again",
            };
            if (standing[(section, aspect)] is { Length: > 0 } was)
                fields["supersedes"] = was;
            using var message = new HttpRequestMessage(HttpMethod.Post, $"/runs/{run}?handler=Reading") { Content = new FormUrlEncodedContent(fields) };
            message.Headers.Add("X-Ticket", ticket);
            var clock = Stopwatch.GetTimestamp();
            var reply = await client.SendAsync(message);
            var answer = await reply.Content.ReadFromJsonAsync<System.Text.Json.JsonElement>();
            list.Add(Stopwatch.GetElapsedTime(clock).TotalMilliseconds);
            if (!reply.IsSuccessStatusCode)
                throw new InvalidOperationException($"a reading was not stored: {answer}");
            standing[(section, aspect)] = answer.GetProperty("id").GetString();
        }

        return list;
    }

    [GeneratedRegex("name=\"__RequestVerificationToken\"[^>]*value=\"([^\"]+)\"")]
    private static partial Regex Ticket();

    [GeneratedRegex("name=\"was\\.(\\d+)\\.([a-z]+)\"[^>]*value=\"([^\"]+)\"")]
    private static partial Regex Cell();

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
