using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials;

/// <summary>Checks and advice that every printed piece shares.</summary>
internal static class PieceFields
{
    /// <summary>Ovality from which a filament is called oval, mm; spread from which it is called uneven.</summary>
    internal const double OvalMm = 0.03, UnevenMm = 0.05;

    /// <summary>Temperature against the machine's limits, layer and line against the nozzle.</summary>
    internal static void Check(
        List<FieldError> errors, PlanContext c, decimal? nozzleC, decimal layerHeightMm, decimal? lineWidthMm, string temperatureField = "nozzleTemperatureC",
        string lineField = "targetWidthMm")
    {
        if (c.Machine is not { } m)
            return;
        if (nozzleC is { } t)
            Temperature(errors, c, t, temperatureField);
        var nozzle = (decimal)m.NozzleDiameterMm;
        if (layerHeightMm > 0.8m * nozzle)
            errors.Add(
                new(
                    "layerHeightMm", $"{Say.N(layerHeightMm, 3)} mm is more than a {Say.N(nozzle)} mm nozzle lays: at most {Say.N(0.8m * nozzle, 3)} mm.",
                    [new($"{Say.N(0.5m * nozzle, 3)} mm", new Dictionary<string, decimal> { ["layerHeightMm"] = 0.5m * nozzle })]));
        if (lineWidthMm is { } w && (w < 0.6m * nozzle || w > 2 * nozzle))
            errors.Add(
                new(
                    lineField, $"A {Say.N(nozzle)} mm nozzle lays lines of {Say.N(0.6m * nozzle)} to {Say.N(2 * nozzle)} mm; {Say.N(w, 3)} is outside.",
                    [new($"{Say.N(1.1m * nozzle)} mm", new Dictionary<string, decimal> { [lineField] = 1.1m * nozzle })]));
        else if (lineWidthMm is { } width && width < layerHeightMm)
            errors.Add(
                new(
                    lineField,
                    $"A line of {Say.N(width, 3)} mm is narrower than its layer is high, {Say.N(layerHeightMm, 3)} mm: it would stand like a string. A " +
                        $"wider line or thinner layers would be right."
                ));
    }

    /// <summary>A temperature against the machine's limits.</summary>
    internal static void Temperature(List<FieldError> errors, PlanContext c, decimal t, string field)
    {
        if (c.Machine?.Limits is not { } limits)
            return;
        if ((double)t > limits.MaxC)
            errors.Add(
                new(
                    field, $"{Say.N(t)} °C is above this machine's limit of {Say.N(limits.MaxC)} °C ({limits.MaxBecause}).",
                    [new($"{Say.N(limits.MaxC, 0)} °C", new Dictionary<string, decimal> { [field] = (decimal)limits.MaxC })]));
        else if ((double)t < limits.MinC)
            errors.Add(
                new(
                    field, $"{Say.N(t)} °C is below the cold-extrusion limit of {Say.N(limits.MinC)} °C: the printer would refuse to feed.",
                    [new($"{Say.N(limits.MinC, 0)} °C", new Dictionary<string, decimal> { [field] = (decimal)limits.MinC })]));
    }

    /// <summary>What label and liner say of a temperature.</summary>
    internal static IEnumerable<PlanWarning> Advice(PlanContext c, decimal t)
    {
        if (c.AdvisedC is { Max: { } max } && (double)t > max)
            yield return new(PlanWarningKind.AboveAdvised, (double)t, max);
        if (c.AdvisedC is { Min: { } min } && (double)t < min)
            yield return new(PlanWarningKind.BelowAdvised, (double)t, min);
        if (c.Machine?.Limits.ContinuousMaxC is { } liner && (double)t > liner)
            yield return new(PlanWarningKind.AboveContinuous, (double)t, liner);
    }

    /// <summary>What the spool's diameter readings say about a flow figure.</summary>
    internal static IEnumerable<PlanWarning> DiameterAdvice(PlanContext c)
    {
        if (c.Diameter is not { } d)
        {
            yield return new(PlanWarningKind.DiameterUnknown);
            yield break;
        }

        if (d.OvalityMm > OvalMm)
            yield return new(PlanWarningKind.Oval, d.OvalityMm.Value);
        if (d.SpreadMm > UnevenMm)
            yield return new(PlanWarningKind.Uneven, d.SpreadMm, d.MeanMm);
        if (c.Settings is { } s && Math.Abs(d.MeanMm * d.MeanMm / (s.FilamentDiameterMm * s.FilamentDiameterMm) - 1) > 0.005)
            yield return new(PlanWarningKind.OtherDiameter, s.FilamentDiameterMm, d.MeanMm);
    }

    /// <summary>
    /// A larger piece, where the least layer time slows half of the layers or more: so large that they last that long at the speeds in force. A layer whose
    /// time grows with the size is then not slowed at all.
    /// </summary>
    /// <param name="job">The piece as it is.</param>
    /// <param name="field">Field of its size.</param>
    /// <param name="label">What the size is of, as a button says it.</param>
    /// <param name="size">Its size now, mm.</param>
    /// <param name="most">Largest that is taken, mm.</param>
    internal static IReadOnlyList<Offer> Roomier(PieceJob job, string field, string label, decimal size, decimal most)
    {
        if (ShareOfTime(job) is not { } share)
            return [];
        var roomier = Math.Ceiling(size / (decimal)share);
        return roomier <= size || roomier > most
            ? []
            : [new($"{label} of {Say.N(roomier)} mm", new Dictionary<string, decimal> { [field] = roomier }, "near the speeds in force")];
    }

    /// <summary>More of the same in each layer, where the least layer time slows half of the layers or more and a larger piece would not do.</summary>
    /// <param name="job">The piece as it is.</param>
    /// <param name="field">Field of their number.</param>
    /// <param name="label">What they are, as a button says it.</param>
    /// <param name="now">How many they are.</param>
    /// <param name="most">How many are taken; so many are offered where more would be needed.</param>
    internal static IReadOnlyList<Offer> MoreAtOnce(PieceJob job, string field, string label, int now, int most)
    {
        if (ShareOfTime(job) is not { } share || now >= most)
            return [];
        var wanted = (int)Math.Ceiling(now / share);
        var more = Math.Min(most, wanted);
        return more <= now
            ? []
            :
            [
                new(
                    $"{more} {label}", new Dictionary<string, decimal> { [field] = more },
                    wanted > most ? "nearer the speeds in force" : "near the speeds in force"),
            ];
    }

    /// <summary>The share of its least time that a slowed layer lasts at the speeds in force; null where less than half of the layers are slowed.</summary>
    private static double? ShareOfTime(PieceJob job)
    {
        var s = job.Settings;
        // Nothing is laid slower than the slowest speed; a layer that lasts too short even so would have to grow by that too.
        var floor = Math.Min(1, s.MinPrintSpeedMmPerS / s.OuterWallSpeedMmPerS);
        var slow = job.Layers.Where(l => l.Slowed < PieceJob.NotSlowed)
            .Select(l => Math.Max(l.Slowed, floor) * (l.TooShort ? l.Seconds / s.MinLayerTimeS : 1)).Order().ToList();
        return slow.Count == 0 || 2 * slow.Count < job.Layers.Count ? null : slow[slow.Count / 4];
    }

    /// <summary>The file's own minutes, grams and cost.</summary>
    internal static TrialEstimate EstimateOf(PieceJob job, int minutesAbove = 0, double? lag = null) =>
        new(job.Minutes, Math.Round(job.MassG, 1), minutesAbove, true, job.CostMinor is { } c ? Math.Round(c) : null, lag);

    /// <summary>Minutes and grams of a file of somebody's own.</summary>
    internal static TrialEstimate EstimateOf(TrialEstimate before, Gcode.Inspection.FileFacts facts) =>
        before with { Minutes = (int)Math.Ceiling(facts.Seconds / 60), MassG = Math.Round(facts.Grams, 1), FromFile = true };

    /// <summary>Refusals of the plate, at the fields of a single piece.</summary>
    internal static FieldError At(FieldError e) => e.Field switch
    {
        "pieceDepthMm" => e with { Field = "sideMm", Offers = [] },
        "sectionHeightMm" => e with { Field = "heightMm", Offers = [] },
        "lineWidthMm" => e with { Field = "targetWidthMm" },
        _ => e,
    };
}
