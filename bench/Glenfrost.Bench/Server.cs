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

    /// <summary>Asks it, with what it set as cookies.</summary>
    public HttpClient Client => client;

    /// <summary>True where its process is gone.</summary>
    public bool HasEnded => process.HasExited;

    /// <summary>True where its process is gone, now or in so short a time.</summary>
    public bool EndsWithin(TimeSpan time) => process.WaitForExit(time);

    /// <summary>What it used of the processors until now; zero once it is gone.</summary>
    public TimeSpan Worked => process.HasExited ? TimeSpan.Zero : process.TotalProcessorTime;

    /// <summary>Working set of the process now, MB.</summary>
    public double MemoryMb
    {
        get
        {
            process.Refresh();
            return process.WorkingSet64 / 1e6;
        }
    }

    /// <summary>Has the system count the peak of its working set from now on (proc(5), clear_refs).</summary>
    public void BeginPeak() => File.WriteAllText($"/proc/{process.Id}/clear_refs", "5");

    /// <summary>The largest working set since <see cref="BeginPeak"/>, MB.</summary>
    public double PeakMb()
    {
        var peak = File.ReadLines($"/proc/{process.Id}/status").First(l => l.StartsWith("VmHWM:", StringComparison.Ordinal));
        return double.Parse(peak.Split(' ', StringSplitOptions.RemoveEmptyEntries)[^2], System.Globalization.CultureInfo.InvariantCulture) * 1024 / 1e6;
    }

    /// <summary>Starts it on a data folder and waits until it answers.</summary>
    /// <param name="app">Folder of the published application.</param>
    /// <param name="data">The data folder.</param>
    /// <param name="kill">Where its process is ended from within; null for nowhere.</param>
    /// <param name="saying">Is told each line that it prints.</param>
    /// <exception cref="InvalidOperationException">It did not answer, or ended before it did.</exception>
    public static async Task<Server> StartAsync(string app, string data, (string Point, int Times, string? Folder)? kill = null, Action<string?>? saying = null)
    {
        var port = FreePort();
        var info = new ProcessStartInfo("dotnet", [Path.Combine(app, "Glenfrost.Web.dll"), "serve", "--data", data, "--port", port.ToString()])
        {
            RedirectStandardOutput = true, RedirectStandardError = kill is not null,
        };
        KillAt(info, kill);
        var clock = Stopwatch.StartNew();
        var process = Process.Start(info)!;
        // What it says is read, or it would wait for room to say more.
        process.OutputDataReceived += (_, said) => saying?.Invoke(said.Data);
        process.BeginOutputReadLine();
        if (info.RedirectStandardError)
            process.BeginErrorReadLine();
        var client = new HttpClient { BaseAddress = new Uri($"http://127.0.0.1:{port}") };
        while (clock.Elapsed < TimeSpan.FromMinutes(3) && !process.HasExited)
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

        // What a kill left half done is finished at the next start, and the next kill may meet it there.
        if (process.HasExited && kill is not null)
            return new Server(process, client, clock.Elapsed.TotalMilliseconds);
        if (process.HasExited)
            throw new InvalidOperationException($"the server ended with {process.ExitCode} before it answered");
        process.Kill();
        throw new InvalidOperationException("the server did not answer within three minutes");
    }

    /// <summary>Has the process that is started end itself at a point; see <c>StartupHook</c>.</summary>
    public static void KillAt(ProcessStartInfo info, (string Point, int Times, string? Folder)? kill)
    {
        if (kill is not { } at)
            return;
        info.Environment["DOTNET_STARTUP_HOOKS"] = typeof(Server).Assembly.Location;
        info.Environment[StartupHook.Variable] = $"{at.Point} {at.Times} {at.Folder}".TrimEnd();
    }

    /// <summary>A ticket for forms.</summary>
    public async Task<string> TicketAsync() => Ticket().Match(await TextAsync("/gcode")).Groups[1].Value;

    /// <summary>A token of an instrument for the readings' door.</summary>
    public async Task<string> TokenAsync()
    {
        using var given = await client.PostAsync(
            "/devices?handler=Token",
            new FormUrlEncodedContent(
                new Dictionary<string, string> { ["__RequestVerificationToken"] = await TicketAsync(), ["name"] = "scale of the bench", ["person"] = "Ruan" }));
        return Token().Match(await given.Content.ReadAsStringAsync()) is { Success: true } m
            ? m.Value
            : throw new InvalidOperationException("no token was given: the readings' door can't be tried");
    }

    /// <summary>Presses a button of a page with its form as it stands.</summary>
    public async Task<HttpResponseMessage> PressAsync(string path, string handler)
    {
        var page = new AngleSharp.Html.Parser.HtmlParser().ParseDocument(await TextAsync(path));
        var form = page.QuerySelector($"form[action*='handler={handler}']") ?? page.QuerySelector($"[formaction*='handler={handler}']")?.Closest("form")
            ?? throw new InvalidOperationException($"{path} has no button for {handler}: {page.QuerySelector("main")?.TextContent}");
        var fields = form.QuerySelectorAll("input[name]").Where(f => f.GetAttribute("type") != "checkbox" || f.HasAttribute("checked"))
            .Select(f => new KeyValuePair<string, string>(f.GetAttribute("name")!, f.GetAttribute("value") ?? "on"));
        return await client.PostAsync($"{path}?handler={handler}", new FormUrlEncodedContent(fields));
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

    [GeneratedRegex("gfr_[A-Za-z0-9_-]+")]
    private static partial Regex Token();

    [GeneratedRegex("name=\"was\\.(\\d+)\\.([a-z]+)\"[^>]*value=\"([^\"]+)\"")]
    private static partial Regex Cell();

    /// <summary>The body of a page.</summary>
    public Task<string> TextAsync(string path) => client.GetStringAsync(path);

    public async ValueTask DisposeAsync()
    {
        client.Dispose();
        if (!process.HasExited)
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
