using AngleSharp;
using AngleSharp.Html.Dom;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Hosting;
using Microsoft.AspNetCore.Mvc.Testing;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.Extensions.DependencyInjection.Extensions;
using Microsoft.Extensions.Hosting;

namespace Glenfrost.Web.Tests;

/// <summary>A clock that tests move.</summary>
public sealed class TestClock : TimeProvider
{
    public TimeSpan Ahead { get; set; }

    public override DateTimeOffset GetUtcNow() => DateTimeOffset.UtcNow + Ahead;
}

/// <summary>The whole application on a fresh data place, with the demo's year unless asked otherwise.</summary>
public class TestApp : WebApplicationFactory<Program>
{
    public string Folder { get; init; } = Path.Combine(Path.GetTempPath(), "glenfrost-test-" + Guid.NewGuid().ToString("N"));

    public TestClock Clock { get; } = new();

    /// <summary>The folder outlives the house.</summary>
    public bool KeepFolder { get; set; }

    protected virtual bool WithDemo => true;

    public static string Root
    {
        get
        {
            var at = AppContext.BaseDirectory;
            while (!File.Exists(Path.Combine(at, "Glenfrost.slnx")))
                at = Path.GetDirectoryName(at)!;
            return at;
        }
    }

    /// <summary>The demo's year, laid out once and copied for each house: by whoever runs all tests (GLENFROST_YEAR names the folder), or here.</summary>
    private static readonly Lazy<string> Year = new(() =>
    {
        if (Environment.GetEnvironmentVariable("GLENFROST_YEAR") is { Length: > 0 } laid)
            return laid;
        var folder = Path.Combine(Path.GetTempPath(), "glenfrost-year-" + Guid.NewGuid().ToString("N"));
        if (Program.Main(["seed", "--data", folder, "--demo", Path.Combine(Root, "demo")]).GetAwaiter().GetResult() != 0)
            throw new InvalidOperationException("the demo's year could not be laid out");
        AppDomain.CurrentDomain.ProcessExit += (_, _) => Directory.Delete(folder, true);
        return folder;
    });

    protected override IHost CreateHost(IHostBuilder builder)
    {
        if (WithDemo)
        {
            foreach (var file in Directory.EnumerateFiles(Year.Value, "*", SearchOption.AllDirectories))
            {
                var to = Path.Combine(Folder, Path.GetRelativePath(Year.Value, file));
                Directory.CreateDirectory(Path.GetDirectoryName(to)!);
                File.Copy(file, to);
            }
        }

        builder.ConfigureHostConfiguration(c => c.AddInMemoryCollection(new Dictionary<string, string?> { ["data"] = Folder }));
        return base.CreateHost(builder);
    }

    protected override void ConfigureWebHost(IWebHostBuilder builder) =>
        builder.ConfigureServices(s => s.Replace(ServiceDescriptor.Singleton<TimeProvider>(Clock)));

    public async Task<T> WithDb<T>(Func<GlenfrostDb, Task<T>> read)
    {
        await using var scope = Services.CreateAsyncScope();
        return await read(scope.ServiceProvider.GetRequiredService<GlenfrostDb>());
    }

    /// <summary>A real pairing of the demo by filament and printer.</summary>
    public Task<Guid> PairingAsync(string line, string printer) => WithDb(db => db.Pairings
        .Where(p => p.Filament!.Line == line && p.Toolhead!.Printer!.Name == printer && p.RemovedAt == null && p.World == Worlds.Real)
        .Select(p => p.Id).FirstAsync());

    public Visitor Visit() => new(CreateClient(new WebApplicationFactoryClientOptions { AllowAutoRedirect = true }));

    protected override void Dispose(bool disposing)
    {
        base.Dispose(disposing);
        if (!KeepFolder && Directory.Exists(Folder))
            Directory.Delete(Folder, true);
    }
}

/// <summary>The same with an empty bench.</summary>
public sealed class EmptyApp : TestApp
{
    protected override bool WithDemo => false;
}

/// <summary>Somebody who fills forms as a browser does: every field of the form is sent, hidden ones too.</summary>
public sealed class Visitor(HttpClient client)
{
    public HttpClient Client => client;

    public HttpResponseMessage Last { get; private set; } = null!;

    public IHtmlDocument Page { get; private set; } = null!;

    /// <summary>True where a test wants to see how a page breaks.</summary>
    public bool MayBreak { get; set; }

    public string Path => Last.RequestMessage!.RequestUri!.PathAndQuery;

    public async Task<IHtmlDocument> Go(string path) => await Take(await client.GetAsync(path));

    /// <summary>Submits the form whose action or button matches, with some fields typed over.</summary>
    public async Task<IHtmlDocument> Submit(string selector, params (string Name, string Value)[] typed)
    {
        var form = Page.QuerySelector(selector) as IHtmlFormElement ?? throw new InvalidOperationException($"no form {selector} on {Path}");
        return await Send(form, form.GetAttribute("action") ?? "", typed);
    }

    /// <summary>Presses a button that sends its form elsewhere.</summary>
    public async Task<IHtmlDocument> Press(string formSelector, string action, params (string Name, string Value)[] typed) =>
        await Send((IHtmlFormElement)Page.QuerySelector(formSelector)!, action, typed);

    /// <summary>The run that was just planned: its page is there, nothing is printed of it, and nothing was refused.</summary>
    public Guid Planned()
    {
        var refused = string.Join(" ", Page.QuerySelectorAll(".err:not([hidden])").Select(e => e.TextContent.Trim()).Where(t => t.Length > 0));
        Xunit.Assert.True(Last.IsSuccessStatusCode, $"{Last.StatusCode} on {Path}: {refused}");
        Xunit.Assert.Matches("^/runs/[0-9a-f-]{36}(#|$)", Path);
        Xunit.Assert.Equal("planned", Page.QuerySelector(".run")?.GetAttribute("data-stage"));
        return Guid.Parse(Path[6..42]);
    }

    /// <summary>Text as a browser shows it: runs of white space are one space.</summary>
    public string Text(string selector) => string.Join(' ', (Page.QuerySelector(selector)?.TextContent ?? "").Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries));

    public string Value(string name) => (Page.QuerySelector($"[name='{name}']") as IHtmlInputElement)?.Value ?? "";

    private async Task<IHtmlDocument> Send(IHtmlFormElement form, string action, (string Name, string Value)[] typed)
    {
        var fields = new List<KeyValuePair<string, string>>();
        foreach (var e in form.Elements)
        {
            switch (e)
            {
                case IHtmlInputElement { Type: "checkbox" or "radio" } box when !box.IsChecked || box.Name is null:
                case IHtmlInputElement { Name: null }:
                    break;
                case IHtmlInputElement input:
                    fields.Add(new(input.Name!, input.Value));
                    break;
                case IHtmlSelectElement { Name: { } name } select:
                    fields.Add(new(name, select.Value ?? ""));
                    break;
                case IHtmlTextAreaElement { Name: { } name } area:
                    fields.Add(new(name, area.Value));
                    break;
            }
        }

        foreach (var (name, value) in typed)
        {
            fields.RemoveAll(f => f.Key == name);
            fields.Add(new(name, value));
        }

        var url = action.Length == 0 ? Path : action.StartsWith('?') ? new Uri(Last.RequestMessage!.RequestUri!, action).PathAndQuery : action;
        return await Take(await client.PostAsync(url, new FormUrlEncodedContent(fields)));
    }

    /// <summary>Looks at an answer as at a page.</summary>
    public async Task<IHtmlDocument> Take(HttpResponseMessage reply)
    {
        Last = reply;
        var html = await reply.Content.ReadAsStringAsync();
        // A page that broke holds nothing that should not be on it: no test may take that for an answer.
        Xunit.Assert.True(MayBreak || reply.StatusCode != System.Net.HttpStatusCode.InternalServerError, $"{Path} broke");
        return Page = (IHtmlDocument)
            await BrowsingContext.New(Configuration.Default).OpenAsync(r => r.Content(html).Address(reply.RequestMessage!.RequestUri!));
    }
}
