using Glenfrost.Core.Equipment;
using System.Text;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Api;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.QuickCheck;

/// <summary>The quick check piece of a pairing: a square of single walls and two posts, as file and as model.</summary>
internal sealed class PieceModel(Bench bench, Profiles profiles, AreaEvidence areas, Pieces pieces) : BenchPage(bench)
{
    public static readonly string[] Fields = ["nozzleTemperatureC", "layerHeightMm", "wallMm", "heightMm", "postGapMm", "startCode"];

    public Pairing P { get; private set; } = null!;

    public PieceJob? Job { get; private set; }

    public LayerView? Shown { get; private set; }

    /// <summary>Where the proposed temperature comes from.</summary>
    public string TemperatureFrom { get; private set; } = "";

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        var kept = (await profiles.LatestAsync(id))?.Settings.ToDictionary(s => s.Key) ?? [];
        var limits = Facts.LimitsOf(P.Toolhead!);
        var t = kept.GetValueOrDefault("nozzleTemperatureC");
        var size = new CheckPieceSize();
        Sheet.Put("nozzleTemperatureC", t?.Value ?? Math.Clamp(Facts.NozzleRange(P.Filament!).Span?.Middle ?? 210, limits.MinC, limits.MaxC));
        Sheet.Put("layerHeightMm", kept.GetValueOrDefault("layerHeightMm")?.Value ?? P.NozzleDiameterMm / 2);
        Sheet.Put("wallMm", size.WallMm);
        Sheet.Put("heightMm", size.HeightMm);
        Sheet.Put("postGapMm", size.PostGapMm);
        await ComputeAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostPreviewAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        await ComputeAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostOfferAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        foreach (var change in Sheet["offer"].Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            if (change.Split('=') is [var name, var value]
                && Fields.Contains(name)
                && decimal.TryParse(value, System.Globalization.CultureInfo.InvariantCulture, out var d))
                Sheet.Put(name, d);
        }

        await ComputeAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostGcodeAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        await ComputeAsync();
        if (Job is null)
            return Refused();
        var text = pieces.Text(Job);
        if (FileRefusedException.Of(text, Job.Machine) is { } left)
        {
            Sheet.Notice = left.Errors[0].Message;
            return Refused();
        }

        await Bench.LogAsync("run", $"Quick check piece written: {Facts.NameOf(P)} at {Sheet["nozzleTemperatureC"]} °C", $"/pairings/{id}/quick-check");
        await Bench.SaveAsync();
        return File(Encoding.ASCII.GetBytes(text), "text/x.gcode", Pieces.FileName("gcode", "quick check", P.Filament!.Line, P.Toolhead!.FullName));
    }

    public async Task<IActionResult> OnPostMeshAsync(Guid id, string kind)
    {
        ReadForm();
        if (!await LoadAsync(id) || kind is not ("stl" or "3mf"))
            return NotFound();
        await ComputeAsync();
        if (Job is null)
            return Refused();
        var (bytes, type) = RunFiles.MeshBytes(
            kind, $"check/{Sheet["wallMm"]}/{Sheet["heightMm"]}/{Sheet["postGapMm"]}/{Sheet["layerHeightMm"]}/{Job.Settings.LineWidthMm}/{Job.Machine.Name}",
            Job.Layout.Pieces, Job.Settings.LineWidthMm, "Quick check", Bench.Now);
        return File(bytes, type, Pieces.FileName(kind, "quick check", P.Filament!.Line));
    }

    private List<Spool> spools = [];

    /// <summary>Spools of this filament.</summary>
    public IEnumerable<KeyValuePair<string, string>> Spools =>
        spools.Select(s => KeyValuePair.Create(s.Id.ToString(), s.Name)).Prepend(KeyValuePair.Create("", "choose the spool"));

    /// <summary>How it may go.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Results { get; } =
    [
        KeyValuePair.Create("", "choose"), KeyValuePair.Create("passed", "passed: wall and strings as on the kept run"),
        KeyValuePair.Create("flow", "differs: the wall is worse"), KeyValuePair.Create("strings", "differs: the strings are worse"),
    ];

    /// <summary>Keeps how the piece went: a spool that passed counts like the one before; what is shown worse becomes doubtful.</summary>
    public async Task<IActionResult> OnPostResultAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var spool = spools.FirstOrDefault(s => s.Id == Sheet.Id("spool", "a spool", true));
        var result = Sheet.Choice("result", "How it went", ["passed", "flow", "strings"]);
        var text = Sheet.Text("seen", "What was seen", 200, result is "flow" or "strings");
        if (spool is null)
            Sheet.Refuse("spool", "Choose the spool that it was printed from.");
        if (!Sheet.IsGood)
        {
            await ComputeAsync();
            return Refused();
        }

        await areas.SayAsync(
            P, "quick-check", result == "passed" ? "passed" : "failed", $"spool {spool!.Name}{(text is null ? "" : $": {text}")}", spool.Id,
            result == "passed" ? null : [result]);
        Tell(
            result == "passed"
                ? $"Spool {spool.Name} counts like the one before: its runs are taken together with earlier ones."
                : $"{(result == "flow" ? "Flow" : "Retraction and strings")} {(result == "flow" ? "is" : "are")} doubtful now; measure there next.");
        return Redirect($"/pairings/{id}#areas");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        P = (await Db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(p => p.Id == id && p.RemovedAt == null))!;
        if (P is null)
            return false;
        spools = await Db.Spools.AsNoTracking().Where(s => s.FilamentId == P.FilamentId && s.RemovedAt == null && s.World == P.World)
            .OrderByDescending(s => s.OpenedAt).ToListAsync();
        var t = (await profiles.LatestAsync(id))?["nozzleTemperatureC"];
        TemperatureFrom = t is null ? "No temperature kept yet: the middle of the range." : $"Kept: {t.OriginText}, {t.State.ToString().ToLowerInvariant()}.";
        return true;
    }

    private async Task ComputeAsync()
    {
        var v = Fields.Where(CheckPieceSize.Fields.ContainsKey).ToDictionary(f => f, f => Sheet.Double(f, CheckPieceSize.Fields[f], true));
        if (!Sheet.IsGood)
            return;
        var m = await pieces.MachineOfAsync(P);
        var s = await pieces.SettingsOfAsync(P, m);
        var size = new CheckPieceSize(v["wallMm"]!.Value, v["heightMm"]!.Value, v["postGapMm"]!.Value, v["layerHeightMm"]!.Value);
        var temperature = v["nozzleTemperatureC"]!.Value;
        var subject = $"{Facts.FilamentName(P)} on {P.Toolhead!.FullName}, nozzle {P.NozzleName}";
        var (job, errors) = Pieces.Once(
            Json.Write(new { size, temperature, m, s, subject }), () =>
                CheckPiece.Check(size, s) is { Count: > 0 } wrong
                    ? (null, wrong)
                    : PieceJob.Make(
                        new JobRequest
                        {
                            Pieces = [CheckPiece.Build(size, s)], Temperatures = [new(0, 1, temperature, "all of it")], PlanLines =
                            [
                                $"quick check, {subject}",
                                $"walls of one line, {size.WallMm:0.##} mm outside, posts {size.PostGapMm:0.##} mm apart, {size.LayerHeightMm:0.##} mm layers",
                            ],
                        },
                        m, s));
        Job = job;
        foreach (var e in errors)
            Sheet.Refuse(
                e.Field switch
                {
                    "pieceDepthMm" => "wallMm",
                    "sectionHeightMm" => "heightMm",
                    "endCode" or "bedTemperatureC" => "startCode",
                    var f => f,
                },
                e.Message, e.Offers);
        if (errors.FirstOrDefault(e => e.Field == "lineWidthMm") is { } elsewhere)
            Sheet.Notice = elsewhere.Message;
        if (job is not null)
            Shown = new(job, (int.TryParse(Sheet["layer"], out var asked) ? Math.Clamp(asked, 1, job.Layers.Count) : Math.Min(20, job.Layers.Count)) - 1);
    }
}
