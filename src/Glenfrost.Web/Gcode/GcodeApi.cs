using Glenfrost.Application.Gcode;
using Glenfrost.Core.Statistics;
using System.Globalization;
using System.Text;
using System.Text.Json;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Settings;
using Glenfrost.Storage;
using Glenfrost.Web.Api;
using Glenfrost.Core.Trials;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Http.Features;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Net.Http.Headers;

namespace Glenfrost.Web.Gcode;

/// <summary>Inspects and steps files over HTTP; nothing is kept.</summary>
public static class GcodeApi
{
    /// <summary>Limit of how many files are read at once.</summary>
    public const string AtOnce = "files at once";

    public static void Map(IEndpointRouteBuilder app)
    {
        app.MapPost("/api/v1/gcode/inspect", InspectAsync).DisableAntiforgery().RequireRateLimiting(AtOnce)
            .WithTags("G-code").WithSummary("Inspects a sliced file")
            .WithDescription(
                "Body: the file itself (text/x.gcode, text/plain or application/octet-stream), or multipart/form-data with a part named file. Read as a " +
                    "stream; nothing is stored. Query: maxSpeedMmPerS, accelerationMmPerS2 (limits for the time; usual ones otherwise), time=false (speeds " +
                    "of the file alone), filamentDiameterMm (1.75), densityGPerCm3 (1.24), flowLimitMm3PerS, name. Times in s, lengths in mm, volumes in " +
                    "mm³; layers and features count from 0, lines from 1."
            ).Produces<GcodeReport>().ProducesProblem(413).ProducesProblem(415).ProducesProblem(422);
        app.MapPost("/api/v1/gcode/step", StepAsync).DisableAntiforgery().RequireRateLimiting(AtOnce)
            .WithTags("G-code").WithSummary("Steps a sliced file by height")
            .WithDescription(
                "multipart/form-data with a part named plan (JSON: what, from, to, by, baseMm or baseLayers, baseToo, sectionMm or sectionLayers, dialect, again) " +
                    "and a part named file. what is one of temperature, fan, flow, retraction-length, retraction-speed, pressure-advance, speed, " +
                    "speed-percent. The answer is the stepped file; the header Glenfrost-Proof holds what was read back from it, without the sections " +
                    "where they are many. With ?proof=only the answer is that proof as JSON."
            ).Produces<ProofReport>().ProducesValidationProblem(422).ProducesProblem(413).ProducesProblem(415);
    }

    private static async Task<IResult> InspectAsync(HttpContext context, GcodeLimit limit)
    {
        var errors = new Dictionary<string, List<string>>();
        var request = Request(context.Request.Query, errors);
        if (errors.Count > 0)
            return TrialApi.Refused(errors);
        Allow(context, limit);
        if (context.Request.ContentLength > limit.MostBytes + 10_000)
            return TooLarge(limit);
        if (context.Features.Get<IHttpBodyControlFeature>() is { } sync)
            sync.AllowSynchronousIO = true;
        var body = context.Request.Body;
        var name = request.Name;
        try
        {
            if (context.Request.HasFormContentType)
            {
                if (Boundary(context) is not { } boundary || await FilePartAsync(new MultipartReader(boundary, body), context.RequestAborted) is not { } part)
                    return Results.Problem("A part named file was expected.", statusCode: 422, title: "No file");
                (body, name) = (part.Body, name.Length > 0 ? name : part.Name);
            }
            else if (context.Request.HasJsonContentType())
            {
                return Results.Problem(
                    "Send the file itself as text/x.gcode, or multipart/form-data with a part named file.", statusCode: 415, title: "Not G-code");
            }

            var measured = new Measured(body, limit.MostBytes);
            var facts = await Task.Run(() => Inspector.Inspect(measured, request with { Name = name }, context.RequestAborted));
            if (facts.Bytes == 0)
                return Results.Problem("The file is empty. Send the sliced file as the body, or in a part named file.", statusCode: 422, title: "Empty");
            if (GcodeEndpoints.Sniff(measured.Head, name.Length == 0 ? "This" : name) is { } wrong)
                return Results.Problem(wrong, statusCode: 422, title: "Not G-code");
            return Results.Json(GcodeReport.Of(facts), Json.Options);
        }
        catch (TooLargeException)
        {
            return TooLarge(limit);
        }
        catch (BadHttpRequestException e) when (e.StatusCode == 413)
        {
            return TooLarge(limit);
        }
        catch (Exception e) when (e is IOException or InvalidDataException or BadHttpRequestException)
        {
            return Results.Problem("The upload broke off before its end. Send it again.", statusCode: 400, title: "Broken off");
        }
    }

    private static async Task<IResult> StepAsync(HttpContext context, DataPlace place, GcodeLimit limit)
    {
        if (Boundary(context) is not { } boundary)
            return Results.Problem(
                "Send multipart/form-data with a part named plan (JSON) and a part named file.", statusCode: 415, title: "Not a form with a file");
        Allow(context, limit);
        if (context.Request.ContentLength > limit.MostBytes + 1_000_000)
            return TooLarge(limit);
        Directory.CreateDirectory(place.IncomingFolder);
        var (source, target) = (Part(place), Part(place));
        var kept = false;
        try
        {
            StepRequest? request = null;
            var name = "";
            var reader = new MultipartReader(boundary, context.Request.Body);
            while (await reader.ReadNextSectionAsync(context.RequestAborted) is { } section)
            {
                if (!ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var d))
                    continue;
                var field = HeaderUtilities.RemoveQuotes(d.Name).Value;
                if (field == "plan")
                {
                    using var text = new StreamReader(section.Body);
                    var buffer = new char[20_000];
                    var n = await text.ReadBlockAsync(buffer);
                    var errors = new Dictionary<string, List<string>>();
                    request = Plan(new string(buffer, 0, n), errors);
                    if (errors.Count > 0)
                        return TrialApi.Refused(errors);
                }
                else if (field == "file")
                {
                    name = Path.GetFileName((d.FileNameStar.HasValue ? d.FileNameStar : HeaderUtilities.RemoveQuotes(d.FileName)).Value ?? "");
                    await using var to = new FileStream(source, FileMode.Create, FileAccess.Write, FileShare.None, 1 << 16);
                    await new Measured(section.Body, limit.MostBytes).CopyToAsync(to, context.RequestAborted);
                }
            }

            if (request is null || !File.Exists(source))
                return TrialApi.Refused(
                    new()
                    {
                        [request is null ? "plan" : "file"] =
                        [
                            request is null
                                ? "plan is missing: a part with JSON would be right, for example {\"what\": \"temperature\", \"from\": 230, \"to\": 190, " +
                                    "\"by\": 5, \"baseMm\": 1.2, \"sectionMm\": 8}."
                                : "file is missing: a part with the sliced file would be right.",
                        ],
                    });
            var (plan, proof, wrong) = await Task.Run(() => GcodeCommands.StepFile(source, target, request, name, context.RequestAborted));
            if (plan is null)
                return TrialApi.Refused(
                    wrong.GroupBy(e => e.Field).ToDictionary(g => g.Key, g => g.Select(e => e.Message).ToList()),
                    wrong.Where(e => e.Offers.Count > 0).GroupBy(e => e.Field).ToDictionary(g => g.Key, g => g.First().Offers));
            var report = ProofReport.Of(plan, proof!);
            if (context.Request.Query["proof"] == "only")
                return Results.Json(report, Json.Options);
            if (!report.Holds)
                return Results.Problem(
                    "The stepped file was read back and does not do what was planned; it is not handed out.", statusCode: 500, title: "Not proven",
                    extensions: new Dictionary<string, object?> { ["proof"] = report });
            var header = Json.Write(report with { Notes = [] });
            // Headers are short; a plate of many objects has hundreds of sections.
            if (header.Length > 8000)
                header = Json.Write(report with { Notes = [], Sections = [] });
            context.Response.Headers["Glenfrost-Proof"] = string.Concat(header.Select(c => c is >= ' ' and <= '~' ? c.ToString() : $"\\u{(int)c:x4}"));
            kept = true;
            var stream = new FileStream(target, FileMode.Open, FileAccess.Read, FileShare.Read, 1 << 16, FileOptions.DeleteOnClose | FileOptions.Asynchronous);
            return Results.File(stream, "text/x.gcode", name.Length == 0 ? "stepped.gcode" : $"{Path.GetFileNameWithoutExtension(name)}-stepped.gcode");
        }
        catch (TooLargeException)
        {
            return TooLarge(limit);
        }
        catch (Exception e) when (e is IOException or InvalidDataException or BadHttpRequestException)
        {
            return Results.Problem("The upload broke off before its end. Send it again.", statusCode: 400, title: "Broken off");
        }
        finally
        {
            File.Delete(source);
            if (!kept)
                File.Delete(target);
        }
    }

    /// <summary>A plan from JSON; what is wrong by field.</summary>
    internal static StepRequest? Plan(string text, Dictionary<string, List<string>> errors)
    {
        try
        {
            using var document = JsonDocument.Parse(text, new JsonDocumentOptions { MaxDepth = 8 });
            if (document.RootElement.ValueKind != JsonValueKind.Object)
                throw new JsonException();
            var json = new JsonFields(document.RootElement, "", errors);
            return new()
            {
                What = json.Word("what", [.. Steppable.All.Select(s => s.Key)], true),
                From = json.Number("from", true),
                To = json.Number("to", true),
                By = json.Number("by", true),
                BaseMm = json.Number("baseMm"),
                BaseLayers = json.Whole("baseLayers", 0, 1_000_000),
                SectionMm = json.Number("sectionMm"),
                SectionLayers = json.Whole("sectionLayers", 1, 1_000_000),
                Dialect = json.Word("dialect", [.. Dialect.All.Select(d => d.Key)]),
                Again = json.Flag("again"),
                BaseToo = json.Flag("baseToo"),
            };
        }
        catch (JsonException)
        {
            errors["plan"] = ["plan is not a JSON object that can be read."];
            return null;
        }
    }

    private static InspectionRequest Request(IQueryCollection q, Dictionary<string, List<string>> errors)
    {
        double? Number(string key, double min, double max)
        {
            if (q[key].ToString() is not { Length: > 0 } text)
                return null;
            if (double.TryParse(text, NumberStyles.Float, CultureInfo.InvariantCulture, out var v) && v >= min && v <= max)
                return v;
            errors[key] = [$"{key} must be a number from {min.ToString(CultureInfo.InvariantCulture)} to {max.ToString(CultureInfo.InvariantCulture)}."];
            return null;
        }

        var (speed, acceleration) = (Number("maxSpeedMmPerS", 1, 5000), Number("accelerationMmPerS2", 1, 200_000));
        var motion =
            speed is null && acceleration is null
                ? MotionLimits.Usual
                : MotionLimits.Of(speed ?? MotionLimits.Usual.MaxX, acceleration ?? MotionLimits.Usual.AccelerationX);
        return new()
        {
            Name = q["name"].ToString(),
            Motion = q["time"] == "false" ? null : motion,
            FilamentDiameterMm = Number("filamentDiameterMm", 0.5, 10) ?? 1.75,
            DensityGPerCm3 = Number("densityGPerCm3", 0.1, 25) ?? 1.24,
            FlowLimit = Number("flowLimitMm3PerS", 0.1, 500),
        };
    }

    private static string Part(DataPlace place) => Path.Combine(place.IncomingFolder, $"{Guid.NewGuid():N}.part");

    private static void Allow(HttpContext context, GcodeLimit limit)
    {
        if (context.Features.Get<IHttpMaxRequestBodySizeFeature>() is { IsReadOnly: false } size)
            size.MaxRequestBodySize = limit.MostBytes + 2_000_000;
    }

    private static IResult TooLarge(GcodeLimit limit) =>
        Results.Problem($"At most {Words.Size(limit.MostBytes)} are taken; start with --gcode-mb for larger files.", statusCode: 413, title: "Too large");

    private static string? Boundary(HttpContext context) =>
        MediaTypeHeaderValue.TryParse(context.Request.ContentType, out var type)
        && type.MediaType == "multipart/form-data"
        && HeaderUtilities.RemoveQuotes(type.Boundary).Value is { Length: > 0 and <= 200 } b
            ? b
            : null;

    private static async Task<(Stream Body, string Name)?> FilePartAsync(MultipartReader reader, CancellationToken stop)
    {
        while (await reader.ReadNextSectionAsync(stop) is { } section)
        {
            if (ContentDispositionHeaderValue.TryParse(section.ContentDisposition, out var d) && HeaderUtilities.RemoveQuotes(d.Name) == "file")
                return (section.Body, Path.GetFileName(HeaderUtilities.RemoveQuotes(d.FileName).Value ?? ""));
        }

        return null;
    }

    private sealed class TooLargeException : Exception;

    /// <summary>Counts what is read, and keeps its beginning.</summary>
    private sealed class Measured(Stream from, long most) : Stream
    {
        private readonly byte[] head = new byte[4096];
        private int headLength;
        private long read;

        public ReadOnlySpan<byte> Head => head.AsSpan(0, headLength);

        public override int Read(byte[] buffer, int offset, int count) => Count(buffer.AsSpan(offset), from.Read(buffer, offset, count));

        public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
        {
            var n = await from.ReadAsync(buffer, cancellationToken);
            return Count(buffer.Span, n);
        }

        private int Count(Span<byte> buffer, int n)
        {
            var keep = Math.Clamp(head.Length - headLength, 0, n);
            buffer[..keep].CopyTo(head.AsSpan(headLength));
            headLength += keep;
            read += n;
            return read > most ? throw new TooLargeException() : n;
        }

        public override bool CanRead => true;
        public override bool CanSeek => false;
        public override bool CanWrite => false;
        public override long Length => throw new NotSupportedException();
        public override long Position { get => read; set => throw new NotSupportedException(); }
        public override void Flush()
        {
        }

        public override long Seek(long offset, SeekOrigin origin) => throw new NotSupportedException();
        public override void SetLength(long value) => throw new NotSupportedException();
        public override void Write(byte[] buffer, int offset, int count) => throw new NotSupportedException();
    }
}
