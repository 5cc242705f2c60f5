using Glenfrost.Core.Gcode.Writing;
using System.Globalization;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>From a planned tower to its piece, its moves and the file's own figures.</summary>
public static class TowerPiece
{
    /// <summary>Seconds that a controller needs to settle after a step.</summary>
    public const double SettleS = 10;

    /// <summary>The measures of one section.</summary>
    public static Stile StileOf(TowerRequest r)
    {
        var nozzle = (double)(r.NozzleDiameterMm ?? 0.4m);
        return new Stile(nozzle, (double)r.SectionHeightMm!.Value, (double?)r.PieceDepthMm ?? Stile.StandardDepthMm(nozzle))
        {
            ReedGapMm = (double?)r.ReedGapMm ?? Stile.UsualReedGapMm,
            FlareAngleDeg = (double?)r.SlabAngleDeg ?? Stile.UsualFlareAngleDeg,
            AskedNotchesMm = (double?)r.TextHeightMm,
            AskedBridgeSpanMm = (double?)r.BridgeSpanMm,
        };
    }

    /// <summary>The layers of a plan, for its piece.</summary>
    public static TowerLayers LayersOf(TowerPlan plan) =>
        new(
            plan.Sections.Count, plan.LayersPerSection!.Value, plan.BaseLayers, (double)plan.Request.LayerHeightMm!.Value,
            (double)plan.Request.FirstLayerHeightMm!.Value);

    /// <summary>The piece, or the separate pieces in the order of printing.</summary>
    public static IReadOnlyList<TestPieces.Shapes.Piece> PiecesOf(TowerPlan plan, PieceMemory memory)
    {
        var (stile, layers) = (StileOf(plan.Request), LayersOf(plan));
        return plan.Request.Separate
            ? [.. plan.Sections.Select(s => TowerOfStiles.BuildOne(stile, layers, s.Index, memory))]
            : [TowerOfStiles.Build(stile, layers, memory)];
    }

    /// <summary>Makes the job of a plan for Glenfrost's own piece.</summary>
    /// <param name="plan">The plan; not one for somebody's own model.</param>
    /// <param name="m">The machine.</param>
    /// <param name="s">Settings in force.</param>
    /// <param name="subject">Filament and toolhead, for the head of the file.</param>
    /// <param name="memory">Where pieces and lines are remembered; null for nowhere.</param>
    public static (PieceJob? Job, IReadOnlyList<FieldError> Errors) Make(
        TowerPlan plan, Machine m, PrintSettings s, string subject, PieceMemory? memory = null)
    {
        var r = plan.Request;
        s = s.With(r.Print);
        if (r.Brim)
            s = s with { BrimWidthMm = Math.Max(s.BrimWidthMm, 6) };
        var request = new JobRequest
        {
            Pieces = PiecesOf(plan, memory ?? PieceMemory.None),
            WaitAtChanges = r.WaitAtChanges,
            Temperatures =
            [
                .. plan.Checkpoints.Select(c => new TemperatureFrom(c.Piece ?? 0, c.Layer, (double)c.TemperatureC, $"section {c.SectionIndex + 1}")),
            ],
            PlanLines =
            [
                $"temperature tower, {subject}",
                $"{plan.Sections.Count} sections, {Say.N(r.HottestC ?? 0)} to {Say.N(r.CoolestC ?? 0)} C by {Say.N(r.StepC ?? 0)}, " +
                    $"{(r.Separate ? "separate pieces printed one after another, hottest first" : "hottest at the bottom")}",
                $"{Say.N(r.LayerHeightMm ?? 0)} mm layers, first {Say.N(r.FirstLayerHeightMm ?? 0)} mm, base {Say.N(r.BaseHeightMm ?? 0)} mm, " +
                $"{Say.N(r.SectionHeightMm ?? 0)} mm and " +
                    $"{plan.LayersPerSection} layers a section",
            ],
        };
        var (job, errors) = PieceJob.Make(request, m, s, memory);
        // What the job calls its temperature is one end of the plan's range.
        return (
            job,
            [
                .. errors.Select(e =>
                    e.Field == "nozzleTemperatureC" ? e with { Field = (double)r.HottestC!.Value > m.Limits.MaxC ? "hottestC" : "coolestC" } : e),
            ]);
    }

    /// <summary>Puts the file's own minutes, grams, cost, checkpoint times and lag in place of the rough ones.</summary>
    public static TowerPlan WithFile(TowerPlan plan, PieceJob job)
    {
        var checkpoints = plan.Checkpoints.Select(c => c with { AtSeconds = Math.Round(job.SecondsAt(c.Piece ?? 0, c.Layer)) }).ToList();
        var lag = plan.Request.WaitAtChanges ? 0 : SettleS + (double)plan.StepC / HotendLimits.FollowCPerS;
        var lagLayers = plan.Sections.Select(s => s.Index == 0 || plan.Request.Separate ? 0 : LagLayers(job, s, lag)).ToList();
        var above = plan.Request.Limits?.ContinuousMax is { } limit
            ? (int)Math.Ceiling(plan.Sections.Where(s => s.TemperatureC > limit).Sum(s => SecondsOf(job, plan, s)) / 60)
            : 0;
        var warnings = plan.Warnings.Where(w => w.Kind != PlanWarningKind.SectionsAboveContinuous).Concat(job.Warnings).ToList();
        if (above > 0)
            warnings.Add(TowerLimits.ContinuousWarning(plan.Request, above));
        if (lagLayers.Count > 0 && lagLayers.Max() > plan.LayersPerSection / 3)
            warnings.Add(new(PlanWarningKind.HeaterLag, lagLayers.Max(), plan.LayersPerSection!.Value));
        return plan with
        {
            Checkpoints = checkpoints,
            LagLayers = lagLayers,
            Estimate = new(job.Minutes, Math.Round(job.MassG, 1), above, true, job.CostMinor is { } c ? Math.Round(c) : null, lag),
            Warnings = warnings,
            Offers =
            [
                .. plan.Offers, .. PieceFields.Roomier(job, "pieceDepthMm", "a piece", (decimal)StileOf(plan.Request).DepthMm, TowerFields.All["pieceDepthMm"].Max),
            ],
        };
    }

    /// <summary>Whole layers that pass before the nozzle has followed the step.</summary>
    private static int LagLayers(PieceJob job, TowerSection s, double lag)
    {
        var from = s.FirstLayer - 1;
        var n = 0;
        while (from + n < job.Layers.Count && n <= s.LastLayer - s.FirstLayer && job.StartSeconds[from + n] - job.StartSeconds[from] < lag)
            n++;
        return lag <= 0 ? 0 : n;
    }

    private static double SecondsOf(PieceJob job, TowerPlan plan, TowerSection s) => job.Layers
        .Where(l => plan.Request.Separate ? l.Piece == s.Index : l.Section == s.Index || (l.Section is null && s.Index == 0)).Sum(l => l.Seconds);

    /// <summary>
    /// Why a file that was written earlier must not be printed with the parts of today: limits win, also over files. Null where it may be.
    /// </summary>
    /// <param name="plan">The plan that the file was written from.</param>
    /// <param name="limits">Limits of the parts fitted now, °C.</param>
    public static string? Refused(TowerPlan plan, HotendLimits limits)
    {
        var (hottest, coolest) = ((double)plan.Sections.Max(s => s.TemperatureC), (double)plan.Sections.Min(s => s.TemperatureC));
        return hottest > limits.MaxC
                ? $"The file heats to {Say.N(hottest)} °C; with the parts fitted now the limit is {Say.N(limits.MaxC)} °C ({limits.MaxBecause}). " +
                    $"Change the plan, " +
                    $"then a new file is written."
            : coolest < limits.MinC
                ? $"The file cools to {Say.N(coolest)} °C; the cold-extrusion limit is {Say.N(limits.MinC)} °C now. Change the plan, then a new " +
                    $"file is written."
            : null;
    }
}
