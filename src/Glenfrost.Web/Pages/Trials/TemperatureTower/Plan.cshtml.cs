using System.Globalization;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Trials.TemperatureTower;

public sealed class PlanModel(Bench bench, TowerRuns runs, Pieces pieces, Glenfrost.Web.Simulated.Paces paces) : BenchPage(bench)
{
    private static readonly string[] Typed = ["hottestC", "coolestC", "stepC", "sectionHeightMm", "baseHeightMm", "layerHeightMm", "firstLayerHeightMm", "totalLayers", "baseLayers", "sections", "pieceDepthMm", "bridgeSpanMm", "reedGapMm", "slabAngleDeg", "textHeightMm"];
    private static readonly string[] OwnOnly = ["totalLayers", "baseLayers", "sections"];
    private static readonly string[] PieceOnly = ["sectionHeightMm", "baseHeightMm", "pieceDepthMm", "bridgeSpanMm", "reedGapMm", "slabAngleDeg", "textHeightMm"];

    public static IEnumerable<KeyValuePair<string, string>> Arrangements { get; } = [KeyValuePair.Create("", "one tower"), KeyValuePair.Create("separate", "separate pieces")];

    public static IEnumerable<KeyValuePair<string, string>> Orders { get; } = [KeyValuePair.Create("", "inner walls first"), KeyValuePair.Create("outer", "outer wall first")];

    public static IEnumerable<KeyValuePair<string, string>> Beads { get; } = [KeyValuePair.Create("", "rectangle, width × height"), KeyValuePair.Create("stadium", "with half-round ends")];

    /// <summary>How this printer keeps to its files; null while nothing is known.</summary>
    public Core.Equipment.PrinterPace? Pace { get; private set; }

    public Pairing P { get; private set; } = null!;

    public bool Own { get; private set; }

    public Guid? RunId { get; private set; }

    public TowerPlanV1? Plan { get; private set; }

    public PieceJob? Job { get; private set; }

    /// <summary>The layer that is shown; null while there is no job.</summary>
    public LayerView? Shown { get; private set; }

    public IEnumerable<string> Fields => Typed.Where(f => Own ? !PieceOnly.Contains(f) : !OwnOnly.Contains(f)).Concat(Own ? ["roundByHeight"] : ["brim", "arrangement", "waitAtChanges", "walls", "wallOrder", "bead", "startCode"]);

    /// <summary>True where one of the folded fields holds something unusual or is refused.</summary>
    public bool MoreOpen => Folded.Any(f => Sheet.Errors.ContainsKey(f) || (Sheet[f].Length > 0 && f != "walls"));

    private static readonly string[] Folded = ["pieceDepthMm", "bridgeSpanMm", "reedGapMm", "slabAngleDeg", "textHeightMm", "walls", "wallOrder", "bead", "waitAtChanges"];

    public string RangeWhy
    {
        get
        {
            var (span, label) = Facts.NozzleRange(P.Filament!);
            return span is null ? "No source says a range: start where you print now." : $"Proposed from {(label ? "the union of the sources" : $"the family {P.Filament!.Family}")}, {Words.N(span.Min)} to {Words.N(span.Max)} °C, within the machine's limits. Advice may be left behind; limits may not.";
        }
    }

    public async Task<IActionResult> OnGetAsync(Guid id, string? mode, Guid? run, Guid? after, decimal? hottestC, decimal? coolestC, decimal? stepC, decimal? pieceDepthMm)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Own = mode == "own";
        TowerRequest request;
        if (run is not null)
        {
            var stored = await Db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == run && r.PairingId == id && r.RemovedAt == null);
            if (stored is null)
                return NotFound();
            if (stored.Stage != RunStages.Planned)
                return Redirect($"/pairings/{id}/temperature-tower?after={run}");
            RunId = run;
            request = Json.Read<TowerPlanV1>(stored.PlanJson).Request;
            Own = mode is null ? request.IsOwnModel : Own;
            Sheet["version"] = stored.Version.ToString();
        }
        else
        {
            request = TowerRuns.Propose(P);
            if (after is not null && await Db.Runs.AsNoTracking().FirstOrDefaultAsync(r => r.Id == after && r.PairingId == id) is { } before)
            {
                request = Json.Read<TowerPlanV1>(before.PlanJson).Request;
                Own = mode is null ? request.IsOwnModel : Own;
                Sheet["after"] = after.Value.ToString();
            }

            request = request with { HottestC = hottestC ?? request.HottestC, CoolestC = coolestC ?? request.CoolestC, StepC = stepC ?? request.StepC, PieceDepthMm = pieceDepthMm ?? request.PieceDepthMm };
        }

        Put(request);
        await ComputeAsync();
        if (Own && Sheet["totalLayers"].Length == 0)
            Sheet.Errors.Clear();
        return Page();
    }

    public async Task<IActionResult> OnPostPreviewAsync(Guid id)
    {
        if (!await ReadAsync(id))
            return NotFound();
        await ComputeAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostOfferAsync(Guid id)
    {
        if (!await ReadAsync(id))
            return NotFound();
        foreach (var change in Sheet["offer"].Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            var (name, value) = change.Split('=') is [var n, var v] ? (n, v) : ("", "");
            if (decimal.TryParse(value, CultureInfo.InvariantCulture, out var d) && (Typed.Contains(name) || name is "brim" or "roundByHeight"))
                Sheet.Put(name, d);
        }

        await ComputeAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(Guid id)
    {
        if (!await ReadAsync(id))
            return NotFound();
        await ComputeAsync();
        if (Plan is null)
            return Refused();
        if (RunId is null)
        {
            var run = await runs.CreateAsync(P, Plan, Job, Sheet.Id("after", "a run"));
            Tell(Job is null ? $"Temperature tower {run.Number} is planned. Print its bench sheet and take it to the printer." : $"Temperature tower {run.Number} is planned and its file is ready.");
            return Redirect($"/runs/{run.Id}#print");
        }

        var stored = await Db.Runs.FirstOrDefaultAsync(r => r.Id == RunId && r.PairingId == id && r.RemovedAt == null);
        if (stored is null)
            return NotFound();
        if (stored.Stage != RunStages.Planned)
        {
            Sheet.Notice = "This tower was printed meanwhile; its plan stands. Take this one as a new run.";
            Sheet["after"] = RunId.ToString()!;
            RunId = null;
            return Refused(409);
        }

        if (IsStale(stored, new Dictionary<string, string>()))
            return Refused(409);
        stored.PlanJson = Json.Write(Plan);
        stored.ForeseenMinutes = Plan.Estimate.Minutes > 0 ? Plan.Estimate.Minutes : null;
        stored.MassUg = Plan.Estimate.MassG is { } g ? (long)(g * 1e6) : null;
        if (Job is not null)
            Db.RunFiles.Add(Pieces.Row(stored, pieces.Store(Job), TowerRuns.FileName(P, Plan, stored.Number), Bench.Now, (await Bench.PersonAsync()).Id));
        Bench.Touch(stored);
        await Bench.LogAsync("run", $"Temperature tower {stored.Number} planned anew: {Facts.NameOf(P)}", $"/runs/{stored.Id}");
        if (!await TrySaveAsync())
            return Refused(409);
        Tell("The plan is saved.");
        return Redirect($"/runs/{stored.Id}#print");
    }

    private async Task<bool> ReadAsync(Guid id)
    {
        ReadForm();
        Own = Sheet.Ticked("own");
        RunId = Guid.TryParse(Sheet["run"], out var run) ? run : null;
        return await LoadAsync(id);
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        P = (await Db.Pairings.AsNoTracking().Full().FirstOrDefaultAsync(p => p.Id == id && p.RemovedAt == null))!;
        if (P is not null && await paces.OfAsync(P.Toolhead!.PrinterId, P.World) is { Prints: > 0 } pace)
            Pace = pace;
        return P is not null;
    }

    private void Put(TowerRequest r)
    {
        Sheet.Put("hottestC", r.HottestC);
        Sheet.Put("coolestC", r.CoolestC);
        Sheet.Put("stepC", r.StepC);
        Sheet.Put("layerHeightMm", r.LayerHeightMm);
        Sheet.Put("firstLayerHeightMm", r.FirstLayerHeightMm);
        Sheet.Put("sectionHeightMm", r.SectionHeightMm ?? TowerRuns.Propose(P).SectionHeightMm);
        Sheet.Put("baseHeightMm", r.BaseHeightMm ?? TowerRuns.Propose(P).BaseHeightMm);
        Sheet.Put("pieceDepthMm", r.PieceDepthMm);
        Sheet["brim"] = r.Brim ? "1" : "";
        Sheet["roundByHeight"] = r.RoundByHeight ? "1" : "";
        Sheet.Put("bridgeSpanMm", r.BridgeSpanMm);
        Sheet.Put("reedGapMm", r.ReedGapMm);
        Sheet.Put("slabAngleDeg", r.SlabAngleDeg);
        Sheet.Put("textHeightMm", r.TextHeightMm);
        Sheet["arrangement"] = r.Separate ? "separate" : "";
        Sheet["waitAtChanges"] = r.WaitAtChanges ? "1" : "";
        Sheet.Put("walls", (decimal?)(r.Print?.Walls ?? new PrintChoices().Walls));
        Sheet["wallOrder"] = r.Print?.OuterFirst == true ? "outer" : "";
        Sheet["bead"] = r.Print?.Stadium == true ? "stadium" : "";
        if (Own && r is { HottestC: { } h, CoolestC: { } c, StepC: > 0 })
        {
            Sheet.Put("sections", r.Sections ?? (decimal?)Math.Floor((h - c) / r.StepC.Value) + 1);
            Sheet.Put("totalLayers", r.TotalLayers);
            Sheet.Put("baseLayers", r.BaseLayers ?? 6);
        }
    }

    private async Task ComputeAsync()
    {
        string[] needed = Own ? ["hottestC", "coolestC", "stepC", "totalLayers", "baseLayers", "sections"] : ["hottestC", "coolestC", "stepC", "layerHeightMm", "firstLayerHeightMm", "sectionHeightMm", "baseHeightMm"];
        var v = Fields.Where(TowerFields.All.ContainsKey).ToDictionary(f => f, f => Sheet.Number(f, TowerFields.All[f], needed.Contains(f)));
        var walls = Own ? null : Sheet.Number("walls", PrintChoices.WallsField);
        if (!Sheet.IsGood)
            return;
        var request = TowerRuns.WithMachine(P, new TowerRequest
        {
            HottestC = v["hottestC"],
            CoolestC = v["coolestC"],
            StepC = v["stepC"],
            LayerHeightMm = v["layerHeightMm"],
            FirstLayerHeightMm = v["firstLayerHeightMm"],
            SectionHeightMm = v.GetValueOrDefault("sectionHeightMm"),
            BaseHeightMm = v.GetValueOrDefault("baseHeightMm"),
            PieceDepthMm = v.GetValueOrDefault("pieceDepthMm"),
            TotalLayers = v.GetValueOrDefault("totalLayers"),
            BaseLayers = v.GetValueOrDefault("baseLayers"),
            Sections = v.GetValueOrDefault("sections"),
            Brim = Sheet.Ticked("brim"),
            RoundByHeight = Sheet.Ticked("roundByHeight"),
            BridgeSpanMm = v.GetValueOrDefault("bridgeSpanMm"),
            ReedGapMm = v.GetValueOrDefault("reedGapMm"),
            SlabAngleDeg = v.GetValueOrDefault("slabAngleDeg"),
            TextHeightMm = v.GetValueOrDefault("textHeightMm"),
            Separate = !Own && Sheet["arrangement"] == "separate",
            WaitAtChanges = !Own && Sheet.Ticked("waitAtChanges"),
            Print = Own ? null : new((int)(walls ?? 2), Sheet["wallOrder"] == "outer", Sheet["bead"] == "stadium"),
        });
        var (plan, errors) = TowerPlanning.Plan(request);
        Plan = plan;
        if (plan is not null)
        {
            (var made, Job, errors) = await pieces.TowerAsync(P, plan);
            Plan = errors.Count > 0 ? null : made;
            if (Job is not null)
            {
                // The first look goes to the first bridge over the window: the layer that tells most.
                var first = plan.BaseLayers + plan.LayersPerSection!.Value - TowerOfStiles.LintelLayers(TowerPiece.StileOf(plan.Request), TowerPiece.LayersOf(plan)) + 1;
                Shown = new(Job, (int.TryParse(Sheet["layer"], out var asked) ? Math.Clamp(asked, 1, Job.Layers.Count) : first) - 1);
            }
        }

        foreach (var e in errors)
            Sheet.Refuse(e.Field, e.Message, e.Offers);
        // What has no field here stands in the profile or on the printer: said at the head of the form.
        if (errors.FirstOrDefault(e => !Fields.Contains(e.Field) && e.Field is not ("endCode" or "bedTemperatureC")) is { } elsewhere)
            Sheet.Notice = elsewhere.Message;
    }
}
