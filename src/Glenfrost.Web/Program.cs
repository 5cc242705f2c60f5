using System.Threading.RateLimiting;
using Glenfrost.Application.Trials;
using Glenfrost.Storage;
using Glenfrost.Web.Api;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Application.Exchange;
using Glenfrost.Web.Exchange;
using Glenfrost.Application.Gcode;
using Glenfrost.Web.Gcode;
using Glenfrost.Application.Photos;
using Glenfrost.Web.Photos;
using Glenfrost.Web.Rights;
using Glenfrost.Web.Services;
using Glenfrost.Application.Simulated;
using Glenfrost.Web.Simulated;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.RateLimiting;
using Microsoft.Extensions.Diagnostics.HealthChecks;
using Serilog;
using Serilog.Events;

namespace Glenfrost.Web;

/// <summary>Starts the server, or takes and restores a backup.</summary>
public sealed class Program
{
    public static async Task<int> Main(string[] args)
    {
        var command = args.Length > 0 && !args[0].StartsWith('-') ? args[0] : "serve";
        var rest = args.Length > 0 && !args[0].StartsWith('-') ? args[1..] : args;
        try
        {
            return command switch
            {
                "backup" => Backup(rest),
                "restore" => Restore(rest),
                "seed" => await SeedAsync(rest),
                "schema" => Schema(),
                "bench-demo" => await BenchDemoAsync(rest),
                "inspect" => GcodeCommands.Inspect(rest, Console.Out, Console.Error),
                "step" => GcodeCommands.Step(rest, Console.Out, Console.Error),
                "printer" => await SimulationCommands.PrinterAsync(rest, Console.Out, Console.Error),
                "eyes" or "scale" or "calliper" => await SimulationCommands.InstrumentAsync(command, rest, Console.Out, Console.Error),
                _ => await ServeAsync(rest),
            };
        }
        catch (IOException e) when (e.Message.Contains("address already in use", StringComparison.OrdinalIgnoreCase))
        {
            await Console.Error.WriteLineAsync("The port is taken by another program. Choose another one with --port, for example --port 5081.");
            return 3;
        }
        catch (StartRefusedException e)
        {
            await Console.Error.WriteLineAsync($"Glenfrost can't {(command is "serve" ? "start" : $"do this ({command})")}: {e.Message}");
            return (int)e.Fault;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or InvalidDataException or ArgumentException)
        {
            await Console.Error.WriteLineAsync($"Glenfrost can't go on: {e.Message}");
            return 4;
        }
    }

    private static async Task<int> ServeAsync(string[] args)
    {
        FirstPage.BuildModel();
        var builder = WebApplication.CreateBuilder(new WebApplicationOptions { Args = args, ContentRootPath = ContentRoot() });
        var folder = builder.Configuration["data"] ?? throw new ArgumentException("no data folder was given: --data FOLDER would be right.");
        var place = new DataPlace(folder);
        var held = DataLock.Take(place, "serve");
        try
        {
            return await ServeAsync(builder, place, held);
        }
        finally
        {
            // Where it was handed to the host, the host has given it back already.
            held.Dispose();
        }
    }

    private static async Task<int> ServeAsync(WebApplicationBuilder builder, DataPlace place, DataLock held)
    {
        builder.Services.AddSingleton(_ => held);
        builder.Services.AddSerilog(c =>
        {
            c.MinimumLevel.Warning().MinimumLevel.Override("Microsoft.AspNetCore.DataProtection", LogEventLevel.Error)
                .MinimumLevel.Override("Microsoft.AspNetCore.Antiforgery", LogEventLevel.Fatal)
                .MinimumLevel.Override("Microsoft.Extensions.Diagnostics.HealthChecks", LogEventLevel.Fatal)
                .WriteTo.Console(formatProvider: System.Globalization.CultureInfo.InvariantCulture);
            foreach (var category in DiskProbe.ToldElsewhere)
                c.MinimumLevel.Override(category, LogEventLevel.Fatal);
        });
        var reach = new Reach(TimeProvider.System);
        if (builder.Configuration["port"] is { } portText)
        {
            if (!int.TryParse(portText, out var port) || port is < 0 or > 65535)
                throw new ArgumentException($"\"{portText}\" is no port: a number between 1 and 65535 would be right.");
            var lan = builder.Configuration["lan"] is "yes";
            if (lan)
                reach.OpenTo(port, (builder.Configuration["host"] ?? "").Split(','));
            builder.WebHost.UseUrls($"http://{(lan ? "0.0.0.0" : "127.0.0.1")}:{port}");
        }

        if (builder.Configuration["proxy"] is { } proxy)
            reach.OpenThrough(proxy);
        builder.WebHost.ConfigureKestrel(k =>
        {
            k.AddServerHeader = false;
            k.Limits.MaxRequestBodySize = 2 * 1024 * 1024;
        });
        builder.Services.AddApplication(place, builder.Configuration["gcode-mb"]);
        builder.Services.AddSingleton(reach);
        builder.Services.AddSingleton<BenchPin>();
        builder.Services.AddSingleton<Attempts>();
        builder.Services.AddAuthentication(CallerScheme.Name).AddScheme<AuthenticationSchemeOptions, CallerScheme>(CallerScheme.Name, null);
        builder.Services.AddAuthorization(RightsTable.AddPolicies);
        builder.Services.AddHostedService<FactorWorker>();
        builder.Services.AddDataProtection().PersistKeysToFileSystem(new DirectoryInfo(place.KeysFolder)).SetApplicationName("glenfrost");
        builder.Services.AddAntiforgery(o => o.HeaderName = "X-Ticket");
        builder.Services.Configure<FormOptions>(o => o.ValueLengthLimit = 2 * 1024 * 1024);
        builder.Services.Configure<RouteOptions>(o => o.ConstraintMap["trial"] = typeof(Pages.Trials.TrialRoute));
        builder.Services.AddRazorPages(o =>
        {
            o.Conventions.ConfigureFilter(new BenchHandlerFilter());
            o.Conventions.AddPageRoute("/Filaments/Edit", "/filaments/{id:guid}/edit");
            o.Conventions.AddPageRoute("/Spools/Edit", "/spools/{id:guid}/edit");
            o.Conventions.AddPageRoute("/Printers/Edit", "/printers/{id:guid}/edit");
            o.Conventions.AddPageRoute("/Trials/Plan", "/toolheads/{id:guid}/{kind:trial}");
            o.Conventions.AddPageRoute("/Printers/Toolhead", "/toolheads/{id:guid}/edit");
        });
        // Whole files are read by two at a time, as many as this machine has hands for; a few more wait.
        builder.Services.AddRateLimiter(o =>
        {
            o.AddConcurrencyLimiter(GcodeApi.AtOnce, l => (l.PermitLimit, l.QueueLimit) = (2, 16));
            // It writes, and anybody may ask: one at a time, so that a save waits for one at most.
            o.AddConcurrencyLimiter(WritesCheck.AtOnce, l => (l.PermitLimit, l.QueueLimit) = (1, 8));
            // Pages that ask whether anything came stand in a line of their own: whoever saves is not in it.
            o.GlobalLimiter = PartitionedRateLimiter.Create<HttpContext, bool>(c => c.Request.Query["handler"] == "Since"
                ? RateLimitPartition.GetConcurrencyLimiter(true, _ => new() { PermitLimit = 1, QueueLimit = 5000 })
                : RateLimitPartition.GetNoLimiter(false));
            o.RejectionStatusCode = StatusCodes.Status503ServiceUnavailable;
            o.OnRejected = async (c, stop) =>
            {
                c.HttpContext.Response.Headers.RetryAfter = "5";
                await Results.Problem("As much as can be done at once is being done. Send it again in a moment.", statusCode: 503, title: "Busy")
                    .ExecuteAsync(c.HttpContext);
            };
        });
        builder.Services.AddProblemDetails();
        builder.Services.AddOpenApi("v1", TrialApi.Describe);
        builder.Services.AddSingleton<DiskTrouble>();
        builder.Services.AddHealthChecks().AddCheck<WritesCheck>("writes");
        builder.Services.Configure<HostOptions>(o => o.BackgroundServiceExceptionBehavior = BackgroundServiceExceptionBehavior.Ignore);
        builder.Services.ConfigureHttpJsonOptions(o =>
        {
            o.SerializerOptions.Converters.Add(new SaidWarningConverter());
            foreach (var c in Json.Options.Converters)
                o.SerializerOptions.Converters.Add(c);
        });

        var app = builder.Build();
        app.Services.GetRequiredService<DataLock>();
        // The data are made ready beside the addresses, and what the first page needs of them behind that; nothing is listened to before both stand.
        var ready = Task.Run(async () =>
        {
            await using (var scope = app.Services.CreateAsyncScope())
                await ApplicationServices.MakeReadyAsync(scope.ServiceProvider, builder.Configuration["demo"]);
            if (builder.Configuration["port"] is not null)
                FirstPage.Prepare(app.Services);
        });
        try
        {
            Map(app, place, reach);
        }
        catch
        {
            // What is wrong with the data is said before anything else.
            await ready;
            throw;
        }

        await ready;
        await app.RunAsync();
        return 0;
    }

    /// <summary>What each request passes, and the addresses.</summary>
    private static void Map(WebApplication app, DataPlace place, Reach reach)
    {
        app.UseMiddleware<HostGuard>();
        // A disk that is full is no fault of the program, nor is what somebody sent: a sentence, not where in the program it was met.
        app.UseExceptionHandler(new ExceptionHandlerOptions
        {
            ExceptionHandlingPath = "/problem",
            SuppressDiagnosticsCallback = c => c.Exception is BadHttpRequestException || Disk.FaultOf(c.Exception) is not null,
        });
        app.UseStatusCodePagesWithReExecute("/problem", "?code={0}");
        app.UseRouting();
        app.UseAuthentication();
        app.UseAuthorization();
        app.UseRateLimiter();
        app.UseAntiforgery();
        app.MapStaticAssets().AllowAnonymous();
        app.MapRazorPages().WithStaticAssets().Add(RightsTable.Apply);
        var all = app.MapGroup("");
        ((IEndpointConventionBuilder)all).Add(RightsTable.Apply);
        all.MapOpenApi("/openapi/{documentName}.json");
        all.MapHealthChecks("/health", new() { ResponseWriter = SayHealthAsync }).RequireRateLimiting(WritesCheck.AtOnce);
        TrialApi.Map(all);
        SwapApi.Map(all);
        RouteApi.Map(all);
        CompareApi.Map(all);
        PairingsCompareApi.Map(all);
        ReportApi.Map(all);
        RunFiles.Map(all);
        PhotoEndpoints.Map(all);
        ReadingApi.Map(all);
        AirApi.Map(all);
        CoolingApi.Map(all);
        ExportEndpoints.Map(all);
        ImportEndpoints.Map(all);
        GcodeEndpoints.Map(all);
        GcodeApi.Map(all);
        app.Lifetime.ApplicationStarted.Register(() =>
        {
            Console.WriteLine($"Glenfrost listens on {app.Urls.FirstOrDefault()?.Replace("0.0.0.0", "127.0.0.1")}  (data: {place.Folder})");
            if (!reach.Lan)
                return;
            Console.WriteLine($"Tablets and phones of this network: {string.Join("  ", reach.Addresses)}");
            Console.WriteLine("Plain HTTP: keep it to a network that you trust. Each device types the code once:");
            reach.CodeChanged += code => Console.WriteLine($"Device code: {code}  (good for {Reach.CodeTime.TotalMinutes:0} minutes, for one device)");
            reach.Code();
        });
    }

    /// <summary>"Healthy", or "Unhealthy" with the reason.</summary>
    private static Task SayHealthAsync(HttpContext context, HealthReport report)
    {
        context.Response.ContentType = "text/plain; charset=utf-8";
        var why = report.Entries.Values.Select(e => e.Description).OfType<string>().FirstOrDefault();
        return context.Response.WriteAsync(report.Status + (why is null ? "" : $": {why}"));
    }

    /// <summary>Assets stand beside the assembly once published; a relative content root would miss them.</summary>
    private static string ContentRoot() =>
        Directory.Exists(Path.Combine(AppContext.BaseDirectory, "wwwroot")) ? AppContext.BaseDirectory : Directory.GetCurrentDirectory();

    private static int Backup(string[] args)
    {
        var c = new ConfigurationBuilder().AddCommandLine(args).Build();
        var place = new DataPlace(c["data"] ?? throw new ArgumentException("no data folder was given: --data FOLDER."));
        if (!File.Exists(place.DatabasePath))
            throw new ArgumentException($"{place.Folder} holds no Glenfrost data.");
        var target = c["to"] ?? Path.Combine(place.BackupsFolder, $"glenfrost-{DateTime.UtcNow:yyyyMMdd-HHmmss}.zip");
        try
        {
            place.Backups.Take(target);
        }
        catch (Exception e) when (Disk.FaultOf(e) is { } fault)
        {
            throw fault switch
            {
                DiskFault.Full => new StartRefusedException(
                    StartFault.Full,
                    $"the disk is full: no backup was written to {target}, and nothing is left of it. Free some space, or name a file elsewhere.", e),
                DiskFault.ReadOnly => new(StartFault.ReadOnly, $"{target} can't be written: its folder is read-only, or belongs to another user.", e),
                _ => place.Refusal(fault, e),
            };
        }

        Console.WriteLine($"Backup written: {target}");
        return 0;
    }

    /// <summary>Writes the demo's year into a folder and ends: the launcher copies it for each fresh demo of the day.</summary>
    private static async Task<int> SeedAsync(string[] args)
    {
        var c = new ConfigurationBuilder().AddCommandLine(args).Build();
        var place = new DataPlace(c["data"] ?? throw new ArgumentException("no data folder was given: --data FOLDER."));
        using var held = DataLock.Take(place, "seed");
        await ApplicationServices.LayOutDemoAsync(place, c["demo"] ?? throw new ArgumentException("no demo folder was given: --demo FOLDER."));
        return 0;
    }

    /// <summary>Prints what the simulated bench says of the demo's towers, one JSON line each.</summary>
    private static async Task<int> BenchDemoAsync(string[] args)
    {
        var c = new ConfigurationBuilder().AddCommandLine(args).Build();
        var place = new DataPlace(c["data"] ?? throw new ArgumentException("no data folder was given: --data FOLDER."));
        using var held = DataLock.Take(place, "bench-demo");
        await ApplicationServices.LayOutDemoAsync(
            place, c["demo"] ?? throw new ArgumentException("no demo folder was given: --demo FOLDER."), loader =>
            {
                loader.Read = (e, cells) =>
                    Console.WriteLine(
                        Json.Write(new { daysAgo = e.GetProperty("daysAgo").GetInt32(), run = e.GetProperty("run"), of = e.GetProperty("of"), cells }));
                loader.Benched = (e, tower) =>
                    Console.WriteLine(Json.Write(new { daysAgo = e.GetProperty("daysAgo").GetInt32(), tower = e.GetProperty("tower"), said = tower }));
            });
        return 0;
    }

    /// <summary>Prints the JSON schema of an archive, as it stands in docs.</summary>
    private static int Schema()
    {
        Console.Write(Storage.Exchange.ArchiveSchema.Text());
        return 0;
    }

    private static int Restore(string[] args)
    {
        var c = new ConfigurationBuilder().AddCommandLine(args).Build();
        var place = new DataPlace(c["data"] ?? throw new ArgumentException("no data folder was given: --data FOLDER."));
        using var held = DataLock.Take(place, "restore");
        place.Sweep();
        var from = c["from"] ?? throw new ArgumentException("no backup was named: --from FILE.");
        string? kept;
        try
        {
            kept = place.Backups.RestoreFrom(from);
        }
        catch (Exception e) when (Disk.FaultOf(e) is { } fault)
        {
            throw place.Refusal(fault, e);
        }

        Console.WriteLine($"Restored into {place.Folder}.{(kept is null ? "" : $" What was there before: {kept}")}");
        return 0;
    }
}
