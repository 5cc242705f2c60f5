using Glenfrost.Core.Settings;
using Glenfrost.Application.Gcode;
using System.Globalization;
using System.Runtime.InteropServices;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Exchange;
using Glenfrost.Web.Exchange;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.AspNetCore.Mvc.ViewFeatures;

namespace Glenfrost.Web.Gcode;

/// <summary>Where files come into the room and go out of it, and what the view is drawn from.</summary>
public static class GcodeEndpoints
{
    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/gcode/files", InAsync).DisableAntiforgery().ExcludeFromDescription();
        app.MapGet("/gcode/{id:guid}/file", OutAsync).ExcludeFromDescription();
        app.MapGet("/gcode/{id:guid}/facts.json", FactsAsync).ExcludeFromDescription();
        app.MapGet("/gcode/{id:guid}/moves", MovesAsync).ExcludeFromDescription();
        app.MapGet("/gcode/{id:guid}/layers.csv", LayersAsync).ExcludeFromDescription();
    }

    /// <summary>Says that a file is wanted though it leaves limits.</summary>
    public const string AsItCame = "it-came";

    private static async Task<IResult> InAsync(HttpContext context, DataPlace place, GcodeRoom room, GcodeLimit limit, ITempDataDictionaryFactory told)
    {
        using var upload = await Upload.ReadAsync(context, place, limit.MostBytes, 20);
        var error = upload.Error ?? (upload.Files.Count == 0 ? "No file was chosen. A sliced file (.gcode) would be right." : null);
        var kept = new List<GcodeFile>();
        foreach (var f in error is null ? upload.Files : [])
        {
            if (f.TooLarge)
                error =
                    $"{f.Name} has {Words.Size(f.Bytes)}; at most {Words.Size(limit.MostBytes)} are taken. Start with --gcode-mb for larger ones. Nothing " +
                        $"of it was stored.";
            else if (Sniff(f) is { } wrong)
                error = wrong;
            else
                kept.Add(
                    await room.KeepAsync(
                        f.Name, f.Path, Guid.TryParse(upload.Fields.GetValueOrDefault("pairing"), out var pairing) && pairing != Guid.Empty ? pairing : null));
        }

        // Dropped in a plan, it goes back there; else it is looked at here.
        var plan = Core.Trials.TrialCatalogue.Find(upload.Fields.GetValueOrDefault("plan") ?? "") is { } trial
            && Guid.TryParse(upload.Fields.GetValueOrDefault("pairing"), out var of)
            ? trial is Core.Trials.IStepsOwnFile steps ? $"/pairings/{of}/{trial.Kind}?mode={steps.OwnMode}"
            : trial.Modes.FirstOrDefault(trial.PrintsOwnFile) is { } mode ? $"/pairings/{of}/{trial.Kind}?mode={mode}" : null : null;
        // The run that it follows is the one of the plan that it was dropped in.
        var after = Guid.TryParse(upload.Fields.GetValueOrDefault("after"), out var before) ? $"&after={before}" : "";
        if (kept.Count == 1 && error is null)
            return Results.LocalRedirect(plan is null ? $"/gcode/{kept[0].Id}" : $"{plan}&file={kept[0].Id}{after}");
        var temp = told.GetTempData(context);
        if (error is not null)
            temp["refused"] = error;
        temp.Save();
        return Results.LocalRedirect(plan is null ? "/gcode" : plan + after);
    }

    /// <summary>What a file is that can't be G-code; null where it may be.</summary>
    internal static string? Sniff(UploadedFile f)
    {
        if (f.Bytes == 0)
            return $"{f.Name} is empty. Nothing was stored.";
        var head = new byte[4096];
        int n;
        using (var from = File.OpenRead(f.Path))
            n = from.ReadAtLeast(head, head.Length, false);
        return Sniff(head.AsSpan(0, n), f.Name);
    }

    internal static string? Sniff(ReadOnlySpan<byte> head, string name)
    {
        if (head.StartsWith("PK\u0003\u0004"u8))
            return $"{name} is a zip, whatever its name says. Unpack it and drop the G-code in it. Nothing was stored.";
        if (head.StartsWith("solid "u8) && head.IndexOf("facet"u8) >= 0)
            return $"{name} is a model, not a sliced file. Slice it first. Nothing was stored.";
        var odd = 0;
        foreach (var b in head)
        {
            if (b is 0 or (< 32 and not 9 and not 10 and not 13 and not 12))
                odd++;
        }

        return odd > head.Length / 10 ? $"{name} is not text: a printer's binary format or something else. Save it as plain G-code. Nothing was stored." : null;
    }

    /// <summary>
    /// A file as it came. One that would leave the limits of the printer that it is looked at for is handed out only to who says to know that.
    /// </summary>
    private static async Task<IResult> OutAsync(Guid id, [FromQuery(Name = "as")] string? how, GcodeRoom room, HttpContext context)
    {
        if (await room.FindAsync(id) is not { } file)
            return Results.NotFound();
        try
        {
            if (how != AsItCame && await room.BeyondAsync(file) is { Count: > 0 } wrong)
                return context.Request.Headers.Accept.Any(a => a?.Contains("text/html", StringComparison.Ordinal) == true)
                    ? Results.LocalRedirect($"/gcode/{id}?held=1#held")
                    : Results.Problem(
                        $"{string.Join("; ", wrong)}. With ?as={AsItCame} it is handed out all the same.", statusCode: StatusCodes.Status409Conflict,
                        title: "It would leave the printer's limits");
            return Results.File(room.Open(file), "text/x.gcode", file.Name, file.At, new($"\"{file.Sha256}\""), enableRangeProcessing: true);
        }
        catch (FileNotFoundException e)
        {
            return Results.Problem(e.Message, statusCode: StatusCodes.Status404NotFound, title: "Content missing");
        }
    }

    private static async Task<IResult> FactsAsync(Guid id, GcodeRoom room, HttpContext context)
    {
        if (await room.WithContentAsync(id) is not { } file)
            return Results.NotFound();
        var f = (await room.InspectAsync(file, context.RequestAborted)).Facts;
        var priming = f.Layers.TakeWhile(l => l.Priming).Count();
        return Results.Json(new
        {
            seconds = Math.Round(f.Seconds, 2),
            limit = f.Request.FlowLimit,
            maxFlow = Math.Round(f.MaxFlow, 2),
            box = new[] { f.Box.MinX, f.Box.MinY, f.Box.MaxX, f.Box.MaxY },
            features = f.Features.Select(x => x.Name),
            slices = f.Chart.Slices().Select(s => new[] { Math.Round(s.At, 2), Math.Round(s.Mean, 2), Math.Round(s.Max, 2), s.Layer, s.Line }),
            layers = f.Layers.Select(l => new
            {
                number = l.Index - priming + 1,
                z = Math.Round(l.Z, 3),
                h = Math.Round(l.Thickness, 3),
                s = Math.Round(l.Seconds, 1),
                line = l.FirstLine,
                flow = Math.Round(l.MaxFlow, 2),
                mean = Math.Round(l.MeanFlow, 2),
                width = Math.Round(l.MeanWidth, 3),
                g = Math.Round(l.Volume / 1000 * f.Request.DensityGPerCm3, 3),
                part = l.Object,
            }),
            objects = f.Objects,
        });
    }

    /// <summary>
    /// Moves of some layers as little-endian columns: int32 count, int32 1 where more were left out, float32 x and y of the start; then per column all moves:
    /// float32 x, y, z, flow, speed, width, nozzle, fan, e; int32 line, layer, feature.
    /// </summary>
    private static async Task<IResult> MovesAsync(Guid id, int from, int to, GcodeRoom room, HttpContext context)
    {
        if (await room.WithContentAsync(id) is not { } file)
            return Results.NotFound();
        var f = (await room.InspectAsync(file, context.RequestAborted)).Facts;
        if (from < 0 || to < from || to >= f.Layers.Count)
            return Results.Problem(
                $"Layers 0 to {f.Layers.Count - 1} are in this file.", statusCode: StatusCodes.Status422UnprocessableEntity, title: "No such layers");
        var m = await Task.Run(() =>
        {
            using var stream = room.Open(file);
            return LayerMoves.Read(stream, f, from, to, context.RequestAborted);
        });
        var body = new MemoryStream(16 + m.X.Count * 48);
        using (var w = new BinaryWriter(body, System.Text.Encoding.UTF8, true))
        {
            w.Write(m.X.Count);
            w.Write(m.Cut ? 1 : 0);
            w.Write(m.StartX);
            w.Write(m.StartY);
            foreach (var column in new[] { m.X, m.Y, m.Z, m.Flow, m.Speed, m.Width, m.Nozzle, m.Fan, m.E })
                w.Write(MemoryMarshal.AsBytes(CollectionsMarshal.AsSpan(column)));
            foreach (var column in new[] { m.Line, m.Layer, [.. m.Feature.Select(x => (int)x)] })
                w.Write(MemoryMarshal.AsBytes(CollectionsMarshal.AsSpan(column)));
        }

        return Results.Bytes(body.ToArray(), "application/octet-stream");
    }

    private static async Task<IResult> LayersAsync(Guid id, GcodeRoom room, HttpContext context)
    {
        if (await room.WithContentAsync(id) is not { } file)
            return Results.NotFound();
        var f = (await room.InspectAsync(file, context.RequestAborted)).Facts;
        string[] head =
        [
            "layer", "object", "zMm", "thicknessMm", "seconds", "filamentMm", "massG", "widthMm", "flowMm3PerS", "maxFlowMm3PerS", "maxFlowLine", "nozzleMinC",
            "nozzleMaxC", "fanMinPercent", "fanMaxPercent", "retractions", "firstLine", "features",
        ];
        var rows = f.Layers.Select(l => GcodeReport.Layer(f, l))
            .Select(l =>
                (IReadOnlyList<object?>)
                    [
                        l.Priming ? "priming" : T(l.Layer - f.Layers.TakeWhile(x => x.Priming).Count() + 1), T(l.Object), T(l.ZMm), T(l.ThicknessMm),
                        T(l.Seconds), T(l.FilamentMm), T(l.MassG), T(l.WidthMm), T(l.FlowMm3PerS), T(l.MaxFlowMm3PerS), T(l.MaxFlowLine), T(l.NozzleMinC),
                        T(l.NozzleMaxC), T(l.FanMinPercent), T(l.FanMaxPercent), T(l.Retractions), T(l.FirstLine),
                        string.Join(" + ", l.Features.Select(x => f.Features[x].Name)),
                    ]);
        return Results.File(Tables.Bytes(head, rows), "text/csv; charset=utf-8", Path.ChangeExtension(file.Name, "layers.csv"));
    }

    private static string T(double? v) => v is { } x ? Say.N(x, 4) : "";
}
