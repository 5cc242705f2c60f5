using System.Collections.Concurrent;
using System.Diagnostics;
using System.Globalization;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json.Nodes;

namespace Glenfrost.Bench;

/// <summary>What was sent once, as it can be sent again.</summary>
/// <param name="Kind">Word for the table: what of the application it goes to.</param>
public sealed record FuzzInput(string Kind, HttpMethod Method, string Path, byte[]? Body, string? Type, IReadOnlyList<(string Name, string Value)> Headers)
{
    public HttpRequestMessage Message()
    {
        var message = new HttpRequestMessage(Method, Path);
        if (Body is not null)
        {
            message.Content = new ByteArrayContent(Body);
            if (Type is not null)
                message.Content.Headers.TryAddWithoutValidation("Content-Type", Type);
        }

        foreach (var (name, value) in Headers)
            message.Headers.TryAddWithoutValidation(name, value);
        return message;
    }
}

/// <summary>
/// Sends what nobody should send to every address and every parser of the running application, and holds it to its promises: no answer of 5xx but "busy",
/// none after more than five seconds, and the memory comes back. Each input is made from the seed and its own number.
/// </summary>
public sealed class Fuzz(Server server, FuzzSource source, int seed)
{
    /// <summary>Longest that an answer may take, s.</summary>
    private const double LongestS = 5;

    /// <summary>Bytes that the memory may be above what it was when warm: at its peak, and 60 s after the last input.</summary>
    private const double PeakMb = 200, AfterMb = 50;

    private const int LongRun = 20_000;

    private readonly ConcurrentDictionary<string, Tally> tallies = new();

    private readonly ConcurrentQueue<string> faults = new();

    // A short run stands in the tests, on machines that do other work beside it.
    private bool holdsTimes;

    private sealed class Tally
    {
        public int Sent, Taken, Told, Busy;

        public double WorstMs;
    }

    /// <summary>Lays out a demo, starts the application on it, sends the inputs and prints what came of them.</summary>
    /// <param name="app">Folder of the published application.</param>
    /// <param name="inputs">How many.</param>
    /// <param name="seed">Of all of them.</param>
    /// <param name="first">Number of the first, to send one again that failed.</param>
    /// <param name="year">A data folder with the demo's year; null to lay one out.</param>
    /// <returns>True where every promise held.</returns>
    public static async Task<bool> RunAsync(string app, int inputs, int seed, int first, string? year)
    {
        using var place = new DemoPlace(app, year);
        await using var server = await Server.StartAsync(app, place.Folder);
        var source = await FuzzSource.GatherAsync(server);
        return await new Fuzz(server, source, seed).SendAsync(inputs, first);
    }

    private async Task<bool> SendAsync(int inputs, int first)
    {
        var clock = Stopwatch.StartNew();
        holdsTimes = inputs >= LongRun;
        Console.WriteLine($"{inputs:N0} inputs from seed {seed}: {source.Said}");
        var warm = Math.Clamp(inputs / 10, 200, 5000);
        await SpanAsync(first, Math.Min(warm, inputs));
        await Task.Delay(3000);
        var (warmMb, peakMb) = (server.MemoryMb, server.MemoryMb);
        using var stop = new CancellationTokenSource();
        var watch = Task.Run(async () =>
        {
            while (!stop.IsCancellationRequested)
            {
                peakMb = Math.Max(peakMb, server.MemoryMb);
                await Task.Delay(200);
            }
        });
        if (inputs > warm)
            await SpanAsync(first + warm, inputs - warm);
        var took = clock.Elapsed;
        // A small run, in the tests, doesn't wait a minute for what it can't show.
        await Task.Delay(inputs >= LongRun ? TimeSpan.FromSeconds(60) : TimeSpan.FromSeconds(2));
        await stop.CancelAsync();
        await watch;
        var afterMb = server.MemoryMb;
        Console.WriteLine($"{"",-28} {"sent",8} {"taken",8} {"told",8} {"busy",6} {"longest ms",11}");
        foreach (var (kind, t) in tallies.OrderBy(t => t.Key))
            Console.WriteLine(string.Create(CultureInfo.InvariantCulture, $"{kind,-28} {t.Sent,8} {t.Taken,8} {t.Told,8} {t.Busy,6} {t.WorstMs,11:0}"));
        Console.WriteLine(
            string.Create(
                CultureInfo.InvariantCulture,
                $"{tallies.Values.Sum(t => t.Sent):N0} in {took.TotalSeconds:0} s; memory {warmMb:0} MB when warm, {peakMb:0} at its peak, {afterMb:0} after"));
        // A short run is over before it is warm: its memory is printed and held to nothing.
        var isLong = inputs >= LongRun;
        if (isLong && peakMb - warmMb > PeakMb)
            faults.Enqueue($"memory: the peak lies {peakMb - warmMb:0} MB above what it was when warm; {PeakMb} are promised");
        if (isLong && afterMb - warmMb > AfterMb)
            faults.Enqueue($"memory: {afterMb - warmMb:0} MB more than when warm are held afterwards; {AfterMb} are promised");
        foreach (var fault in faults.Take(40))
            Console.WriteLine(fault);
        Console.WriteLine(faults.IsEmpty ? "every promise held" : $"{faults.Count} faults; one is sent again by --seed {seed} --from NUMBER --inputs 1");
        return faults.IsEmpty;
    }

    // The same in every process, so that a number can be sent again: the framework's own mixing is salted anew each time.
    private static int Mixed(int seed, int number)
    {
        var x = ((ulong)(uint)seed << 32 | (uint)number) + 0x9E3779B97F4A7C15;
        x = (x ^ x >> 30) * 0xBF58476D1CE4E5B9;
        x = (x ^ x >> 27) * 0x94D049BB133111EB;
        return (int)((x ^ x >> 31) & int.MaxValue);
    }

    private Task SpanAsync(int first, int count) =>
        Parallel.ForEachAsync(
            Enumerable.Range(first, count), new ParallelOptions { MaxDegreeOfParallelism = 2 }, async (number, stop) => await OneAsync(number, stop));

    private async Task OneAsync(int number, CancellationToken stop)
    {
        var input = source.Input(new Random(Mixed(seed, number)));
        var tally = tallies.GetOrAdd(input.Kind, _ => new());
        var from = Stopwatch.GetTimestamp();
        var workedFrom = server.Worked;
        var code = 0;
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
        patience.CancelAfter(TimeSpan.FromSeconds((holdsTimes ? 4 : 24) * LongestS));
        try
        {
            using var message = input.Message();
            using var answer = await server.Client.SendAsync(message, HttpCompletionOption.ResponseHeadersRead, patience.Token);
            code = (int)answer.StatusCode;
            await using var body = await answer.Content.ReadAsStreamAsync(patience.Token);
            await body.CopyToAsync(Stream.Null, patience.Token);
        }
        catch (Exception e) when (e is HttpRequestException or IOException or TaskCanceledException)
        {
            // The server hangs up on what is no HTTP; whether it still stands is seen by the next one.
            if (e is TaskCanceledException)
                code = 599;
        }

        var ms = Stopwatch.GetElapsedTime(from).TotalMilliseconds;
        lock (tally)
        {
            tally.Sent++;
            tally.WorstMs = Math.Max(tally.WorstMs, ms);
            _ = code switch
            {
                503 => tally.Busy++,
                >= 400 => tally.Told++,
                _ => tally.Taken++,
            };
        }

        if (code >= 500 && code != 503)
            faults.Enqueue($"{number}: {code} {Describe(input)}");
        // On a loaded machine what counts is the work: the server's own time on the processors while this was answered.
        var longS = holdsTimes ? ms / 1000 : Math.Min(ms / 1000, (server.Worked - workedFrom).TotalSeconds);
        if (longS > LongestS)
            faults.Enqueue(string.Create(CultureInfo.InvariantCulture, $"{number}: {longS:0.0} s {Describe(input)}"));
        if (server.HasEnded)
            throw new InvalidOperationException($"the server ended at input {number}: {Describe(input)}");
    }

    private static string Describe(FuzzInput input)
    {
        var body = input.Body is null ? "" : Encoding.Latin1.GetString(input.Body[..Math.Min(400, input.Body.Length)]).ReplaceLineEndings("\\n");
        return $"{input.Kind}: {input.Method} {input.Path[..Math.Min(300, input.Path.Length)]} {input.Type} {body}";
    }
}

/// <summary>What inputs are made from: pages, forms and schemas of the running application, and files that it takes.</summary>
public sealed class FuzzSource
{
    // What would shut the bench out of itself, or the instrument that the readings come from.
    private static readonly string[] LeftOut = ["handler=Pin", "handler=Withdraw", "/pin"];

    private static readonly string[] Texts =
    [
        "", " ", "0", "-1", "1e309", "-1e-300", "NaN", "Infinity", "99999999999999999999", "0,2", "1.5.5", "2 h 15", "12 mm", "'", "\"><script>alert(1)</script>",
        "\0", "\u202e", "\ufeff", "\ud83e\uddea", "\r\n\r\n", "../../../etc/passwd", "{{7*7}}", "%00", "=1+1", new('x', 3000), new('9', 400), "null", "true", "1/0",
        "00000000-0000-0000-0000-000000000000", "2026-02-30", "9999-12-31T23:59:60Z", "\t3", "3\n", "½", "٣", "1_000",
    ];

    private static readonly string[] Values =
    [
        "null", "true", "-1", "0", "1e308", "-1e-300", "0.1", "99999999999999999999", "\"\"", "\"12 mm\"", "\"\\u0000\"", "\"\\ud800\"", "[]", "{}", "[[]]",
        "[null]", "[1,\"x\"]", "{\"a\":1}", $"\"{new string('x', 3000)}\"", "[" + string.Join(',', Enumerable.Repeat("1", 1200)) + "]", "2147483648", "-0",
    ];

    private readonly List<string> pages = [];

    private readonly List<(string Action, List<(string Name, string Value)> Fields)> forms = [];

    private readonly List<(string Path, JsonNode? Schema)> doors = [];

    private readonly List<(string Path, JsonNode Body)> plans = [];

    private JsonNode schemas = new JsonObject();

    private string token = "", run = "", ticket = "";

    private byte[] archive = [], gcode = [], photo = [], notes = "filament,printer,nozzle\nHeath,Dunnock 180,209\n"u8.ToArray();

    private FuzzSource()
    {
    }

    /// <summary>What was found, in words.</summary>
    public string Said => $"{pages.Count} pages, {forms.Count} forms, {doors.Count} doors of the API, {plans.Count} plans, archive, G-code, photo, notes";

    /// <summary>Walks the application as a visitor would and keeps what it shows.</summary>
    public static async Task<FuzzSource> GatherAsync(Server server)
    {
        var client = server.Client;
        var s = new FuzzSource();
        var parser = new AngleSharp.Html.Parser.HtmlParser();
        var (seen, wait) = (new HashSet<string> { "/" }, new Queue<string>(["/"]));
        while (wait.TryDequeue(out var path) && s.pages.Count < 400)
        {
            using var answer = await client.GetAsync(path);
            if (!answer.IsSuccessStatusCode)
                continue;
            s.pages.Add(path);
            if (answer.Content.Headers.ContentType?.MediaType != "text/html")
                continue;
            var page = parser.ParseDocument(await answer.Content.ReadAsStringAsync());
            // Of pages of one kind a few: a year has hundreds of runs.
            foreach (var href in page.QuerySelectorAll("a[href^='/']").Select(a => a.GetAttribute("href")!.Split('#')[0]))
            {
                if (seen.Count(x => Shape(x) == Shape(href)) < 8 && seen.Add(href))
                    wait.Enqueue(href);
            }

            foreach (var form in page.QuerySelectorAll("form"))
            {
                var action = form.GetAttribute("action") is { Length: > 0 } a ? a.StartsWith('?') ? path.Split('?')[0] + a : a : path;
                if (form.GetAttribute("method")?.Equals("post", StringComparison.OrdinalIgnoreCase) != true || LeftOut.Any(action.Contains))
                    continue;
                var fields = form.QuerySelectorAll("input[name],select[name],textarea[name],button[name]")
                    .Select(f => (f.GetAttribute("name")!, f.GetAttribute("value") ?? f.QuerySelector("option[selected]")?.GetAttribute("value") ?? f.TextContent))
                    .ToList();
                if (s.forms.Count(f => Shape(f.Action) == Shape(action)) < 6)
                    s.forms.Add((action, fields));
                s.ticket = fields.FirstOrDefault(f => f.Item1 == "__RequestVerificationToken").Item2 ?? s.ticket;
            }
        }

        var api = JsonNode.Parse(await client.GetStringAsync("/openapi/v1.json"))!;
        s.schemas = api["components"]?["schemas"] ?? new JsonObject();
        foreach (var (path, at) in api["paths"]!.AsObject())
        {
            if (at?["post"] is { } post)
                s.doors.Add((path, post["requestBody"]?["content"]?["application/json"]?["schema"]));
        }

        s.archive = await client.GetByteArrayAsync("/export/archive.json");
        var rows = JsonNode.Parse(s.archive)!["rows"]!;
        foreach (var r in rows["runs"]!.AsArray())
        {
            if (r!["plan"]?["request"] is JsonObject request)
                s.plans.Add(($"/api/v1/trials/{r["kind"]}/", request));
        }

        s.run = (string)rows["runs"]!.AsArray().First(r => (string?)r!["stage"] == "printed")!["id"]!;
        s.gcode = Encoding.ASCII.GetBytes(await Gcode(client, rows));
        s.photo = await client.GetByteArrayAsync($"/photos/{rows["photos"]!.AsArray()[0]!["id"]}/small");
        s.token = await server.TokenAsync();
        return s;
    }

    private static async Task<string> Gcode(HttpClient client, JsonNode rows)
    {
        var id = rows["gcodeFiles"]?.AsArray().FirstOrDefault()?["id"];
        return id is null ? "G28\nG1 X1 Y1 E1 F600\n" : await client.GetStringAsync($"/gcode/{id}/file");
    }

    private static string Shape(string path) =>
        System.Text.RegularExpressions.Regex.Replace(path, "[0-9a-f]{8}-[0-9a-f-]{27}|\\d+", "#");

    /// <summary>One input, wholly of the numbers that come.</summary>
    public FuzzInput Input(Random r) => r.Next(100) switch
    {
        < 22 => Page(r),
        < 42 => Form(r),
        < 58 => Plan(r),
        < 76 => Door(r),
        < 86 => Reading(r),
        < 90 => Upload(r, "archive", "/import", "a.json", archive),
        < 92 => Upload(r, "notes", "/import", "n.csv", notes),
        < 95 => Upload(r, "photo", $"/runs/{run}/photos/add", "p.jpg", photo),
        < 97 => Raw(r, "G-code", r.Next(2) == 0 ? "/api/v1/gcode/inspect" : "/api/v1/gcode/step?what=temperature&from=210&to=190&by=5", gcode),
        _ => Odd(r),
    };

    private static T Any<T>(Random r, IReadOnlyList<T> of) => of[r.Next(of.Count)];

    private FuzzInput Page(Random r)
    {
        var path = Any(r, pages).Split('?')[0];
        if (r.Next(6) == 0)
            path = System.Text.RegularExpressions.Regex.Replace(path, "[0-9a-f]{8}-[0-9a-f-]{27}", _ => r.Next(2) == 0 ? Guid.NewGuid().ToString() : Any(r, Texts));
        var names = forms.SelectMany(f => f.Fields.Select(x => x.Name)).Concat(["open", "handler", "seen", "stage", "after", "run", "across", "q", "kind", "f"]).ToList();
        var query = Enumerable.Range(0, r.Next(5)).Select(_ => $"{Uri.EscapeDataString(Any(r, names))}={Uri.EscapeDataString(Any(r, Texts))}").ToList();
        return new("page", r.Next(30) == 0 ? HttpMethod.Head : HttpMethod.Get, path + (query.Count > 0 ? "?" + string.Join('&', query) : ""), null, null, []);
    }

    private FuzzInput Form(Random r)
    {
        var (action, fields) = Any(r, forms);
        var sent = new List<(string, string)>();
        foreach (var (name, value) in fields)
        {
            var ticketed = name == "__RequestVerificationToken";
            switch (r.Next(ticketed ? 60 : 8))
            {
                case 0:
                    sent.Add((name, Any(r, Texts)));
                    break;
                case 1:
                    break;
                case 2:
                    sent.AddRange([(name, value), (name, Any(r, Texts))]);
                    break;
                default:
                    sent.Add((name, ticketed ? ticket : value));
                    break;
            }
        }

        var body = string.Join('&', sent.Select(f => $"{Uri.EscapeDataString(f.Item1)}={Uri.EscapeDataString(f.Item2)}"));
        return new("form", HttpMethod.Post, action, Encoding.ASCII.GetBytes(body), "application/x-www-form-urlencoded", []);
    }

    private FuzzInput Plan(Random r)
    {
        var (path, body) = Any(r, plans);
        var changed = body.DeepClone();
        for (var i = r.Next(4); i > 0; i--)
            Change(r, changed);
        // Files cost more than plans: fewer of them.
        return Json("plan", path + (r.Next(8) == 0 ? "gcode" : r.Next(3) == 0 ? "evaluate" : "plan"), changed.ToJsonString(), []);
    }

    private FuzzInput Door(Random r)
    {
        var (path, schema) = Any(r, doors);
        path = path.Replace("{id}", r.Next(4) == 0 ? Guid.NewGuid().ToString() : run, StringComparison.Ordinal);
        var budget = 400;
        var text = schema is null ? Any(r, Values) : Made(r, schema, 0, ref budget);
        if (r.Next(12) == 0 && text.Length > 2)
            text = text[..r.Next(text.Length)];
        return Json("API by its schema", path, text, path.EndsWith("readings", StringComparison.Ordinal) ? [("Authorization", "Bearer " + token)] : []);
    }

    private FuzzInput Reading(Random r)
    {
        string[] aspects = ["overhang", "bridge", "strings", "bond", "massG", "state", "hue", ""];
        var fields = new List<string>();
        void Add(string name, string right) => fields.Add($"\"{name}\":{(r.Next(7) == 0 ? Any(r, Values) : right)}");
        Add("key", $"\"f{r.Next()}\"");
        Add("value", r.Next(5).ToString(CultureInfo.InvariantCulture));
        if (r.Next(3) > 0)
            Add("section", r.Next(-1, 10).ToString(CultureInfo.InvariantCulture));
        if (r.Next(3) > 0)
            Add("aspect", $"\"{Any(r, aspects)}\"");
        if (r.Next(4) == 0)
            Add("why", "\"seen by daylight\"");
        if (r.Next(6) == 0)
            Add("supersedes", $"\"{Guid.NewGuid()}\"");
        if (r.Next(6) == 0)
            Add("instrument", "\"scale\"");
        return Json("reading", $"/api/v1/runs/{run}/readings", "{" + string.Join(',', fields) + "}", [("Authorization", "Bearer " + token)]);
    }

    private static FuzzInput Json(string kind, string path, string text, IReadOnlyList<(string, string)> headers) =>
        new(kind, HttpMethod.Post, path, Encoding.UTF8.GetBytes(text), "application/json", headers);

    private static FuzzInput Raw(Random r, string kind, string path, byte[] file) => new(kind, HttpMethod.Post, path, Spoilt(r, file), "text/plain", []);

    private FuzzInput Upload(Random r, string kind, string path, string name, byte[] file)
    {
        const string edge = "----edge";
        var bytes = kind == "archive" && r.Next(2) == 0 ? Rows(r) : Spoilt(r, file);
        var to = new MemoryStream();
        void Part(string head, byte[] content)
        {
            to.Write(Encoding.UTF8.GetBytes($"--{edge}\r\nContent-Disposition: form-data; {head}\r\n\r\n"));
            to.Write(content);
            to.Write("\r\n"u8);
        }

        if (r.Next(20) > 0)
            Part("name=\"__RequestVerificationToken\"", Encoding.ASCII.GetBytes(ticket));
        if (kind == "photo")
            Part("name=\"section\"", Encoding.UTF8.GetBytes(r.Next(3) == 0 ? Any(r, Texts) : r.Next(-2, 12).ToString(CultureInfo.InvariantCulture)));
        Part($"name=\"file\"; filename=\"{(r.Next(8) == 0 ? Any(r, Texts).Replace('"', '\'').ReplaceLineEndings(" ") : name)}\"", bytes);
        if (r.Next(20) > 0)
            to.Write(Encoding.ASCII.GetBytes($"--{edge}--\r\n"));
        return new(kind, HttpMethod.Post, path, to.ToArray(), $"multipart/form-data; boundary={edge}", []);
    }

    /// <summary>A small archive: some rows of the whole one, some of them changed.</summary>
    private byte[] Rows(Random r)
    {
        var whole = JsonNode.Parse(archive)!;
        var rows = new JsonObject();
        foreach (var (table, list) in whole["rows"]!.AsObject())
        {
            var some = new JsonArray();
            foreach (var row in list!.AsArray().Where(_ => r.Next(6) == 0).Take(8))
            {
                var copy = row!.DeepClone();
                if (r.Next(2) == 0)
                    Change(r, copy);
                some.Add(copy);
            }

            rows[table] = some;
        }

        whole["rows"] = rows;
        return Encoding.UTF8.GetBytes(whole.ToJsonString());
    }

    private FuzzInput Odd(Random r)
    {
        string[] methods = ["PUT", "DELETE", "PATCH", "OPTIONS", "TRACE", "POST", "GET", "BREW"];
        string[] types = ["application/json; charset=utf-7", "text/xml", "multipart/form-data", "multipart/form-data; boundary=", "application/x-www-form-urlencoded", "x"];
        var headers = new List<(string, string)>();
        foreach (var (name, value) in new[]
            {
                ("Origin", "http://evil.example"), ("X-Forwarded-For", "192.0.2.9"), ("Range", "bytes=9-1"), ("Accept-Encoding", "gzip, x"), ("Cookie", "glenfrost=%%%; a"),
                ("Authorization", "Bearer " + new string('é', 20)), ("X-Ticket", new string('x', 5000)), ("If-None-Match", "\"x"), ("Accept-Language", "xx;q=9"),
                ("Content-Encoding", "br"),
            })
        {
            if (r.Next(4) == 0)
                headers.Add((name, value));
        }

        var path = r.Next(2) == 0 ? Any(r, doors).Path.Replace("{id}", run, StringComparison.Ordinal) : Any(r, pages);
        var method = new HttpMethod(Any(r, methods));
        var body = method == HttpMethod.Get || method.Method == "TRACE" ? null : Encoding.UTF8.GetBytes(Any(r, Values));
        return new("odd request", method, path, body, body is null ? null : Any(r, types), headers);
    }

    // The beginning of a large file, so that most inputs stay quick.
    private static byte[] Spoilt(Random r, byte[] file) =>
        Samples.Mutations.Spoil(r, file[..(r.Next(10) == 0 ? file.Length : Math.Min(file.Length, r.Next(50, 60_000)))], file);

    /// <summary>Puts another value, or none, at some place of a document.</summary>
    private static void Change(Random r, JsonNode node)
    {
        while (true)
        {
            var children = node switch
            {
                JsonObject o => o.Select(p => p.Value).ToList(),
                JsonArray a => [.. a],
                _ => [],
            };
            if (children.Count == 0)
                return;
            var at = r.Next(children.Count);
            if (children[at] is JsonObject or JsonArray && r.Next(3) > 0)
            {
                node = children[at]!;
                continue;
            }

            var value = r.Next(5) == 0 ? null : JsonNode.Parse(Parsable(Any(r, Values)));
            if (node is JsonArray list)
            {
                if (r.Next(4) == 0)
                    list.RemoveAt(at);
                else
                    list[at] = value;
            }
            else
            {
                var name = node.AsObject().ElementAt(at).Key;
                if (r.Next(5) == 0)
                    node.AsObject().Remove(name);
                else
                    node.AsObject()[name] = value;
            }

            return;
        }
    }

    // Half a character is written by hand elsewhere: a document can't hold one.
    private static string Parsable(string value) => value.Contains("\\ud800", StringComparison.Ordinal) ? "\"\\ufffd\"" : value;

    /// <summary>A value as a schema describes it, here and there not.</summary>
    private string Made(Random r, JsonNode schema, int depth, ref int budget)
    {
        if (--budget < 0 || depth > 7 || r.Next(40) == 0)
            return Any(r, Values);
        if ((string?)schema["$ref"] is { } reference && schemas[reference.Split('/')[^1]] is { } named)
            return Made(r, named, depth + 1, ref budget);
        foreach (var many in new[] { "oneOf", "anyOf", "allOf" })
        {
            if (schema[many] is JsonArray { Count: > 0 } list)
                return Made(r, list[r.Next(list.Count)]!, depth + 1, ref budget);
        }

        if (schema["enum"] is JsonArray { Count: > 0 } of)
            return of[r.Next(of.Count)]?.ToJsonString() ?? "null";
        var type = schema["type"] is JsonArray types ? (string?)types[r.Next(types.Count)] : (string?)schema["type"];
        switch (type)
        {
            case "object":
                var parts = new List<string>();
                foreach (var (name, of2) in schema["properties"]?.AsObject() ?? [])
                {
                    if (of2 is not null && r.Next(5) > 0)
                        parts.Add($"\"{name}\":{Made(r, of2, depth + 1, ref budget)}");
                }

                return "{" + string.Join(',', parts) + "}";
            case "array":
                var items = new List<string>();
                for (var i = r.Next(7); i > 0 && schema["items"] is { } item; i--)
                    items.Add(Made(r, item, depth + 1, ref budget));
                return "[" + string.Join(',', items) + "]";
            case "integer":
                return r.Next(-1, 12).ToString(CultureInfo.InvariantCulture);
            case "number":
                return (Math.Pow(10, r.NextDouble() * 5 - 2) * (r.Next(12) == 0 ? -1 : 1)).ToString("0.###", CultureInfo.InvariantCulture);
            case "boolean":
                return r.Next(2) == 0 ? "true" : "false";
            default:
                return $"\"{new string([.. "abc 12.5mm".Take(r.Next(10))])}\"";
        }
    }
}
