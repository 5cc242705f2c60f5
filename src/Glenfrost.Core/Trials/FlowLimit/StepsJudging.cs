using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>Readings of a print whose speed rises in steps.</summary>
public sealed record StepsReadings
{
    /// <summary>Speed of step 0, mm/s.</summary>
    public double StartSpeedMmPerS { get; init; } = 40;

    /// <summary>Rise for each step, % ; null where mm/s are given.</summary>
    public double? IncreasePercent { get; init; }

    /// <summary>True where each step rises by per cent of the one before; false for per cent of the start each time.</summary>
    public bool Compounding { get; init; }

    /// <summary>Rise for each step, mm/s; null where per cent are given.</summary>
    public double? IncreaseMmPerS { get; init; }

    /// <summary>The last step that came out well; 0 is the start, −1 where not even that did.</summary>
    public int LastGoodStep { get; init; }

    /// <summary>Steps that were printed; null where nobody said.</summary>
    public int? Steps { get; init; }

    /// <summary>Layer height, mm.</summary>
    public double LayerHeightMm { get; init; } = 0.2;

    /// <summary>Line width, mm.</summary>
    public double LineWidthMm { get; init; } = 0.44;

    /// <summary>rectangular or stadium.</summary>
    public string Area { get; init; } = "rectangular";

    /// <summary>Margin, %.</summary>
    public double MarginPercent { get; init; } = 10;

    /// <summary>What was seen or heard at the step above the last good one; empty where nobody said.</summary>
    public string Fault { get; init; } = "";

    /// <summary>Nozzle, mm, for the table of speeds.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>What a flow as the file counts it is in real prints; 1 but where a flow override of the start code goes.</summary>
    public double FlowFactor { get; init; } = 1;

    /// <summary>Speed of a step, mm/s.</summary>
    public double Speed(int step) => IncreasePercent is { } p
        ? Compounding ? StartSpeedMmPerS * Math.Pow(1 + p / 100, step) : StartSpeedMmPerS * (1 + p / 100 * step)
        : StartSpeedMmPerS + (IncreaseMmPerS ?? 0) * step;

    /// <summary>Flow of a step, mm³/s.</summary>
    public double Flow(int step) => Speed(step) * Flows.AreaMm2(Area, LineWidthMm, LayerHeightMm) * FlowFactor;
}

/// <summary>The verdict on a stepped speed.</summary>
public sealed record SteppedFlowVerdict : FlowVerdict
{
    /// <summary>Speed of the last good step, mm/s.</summary>
    public double? LastGoodSpeedMmPerS { get; init; }

    /// <summary>Flow of the last good step, mm³/s.</summary>
    public double? FlowMm3PerS { get; init; }

    /// <summary>Cross-section of the line, mm².</summary>
    public double AreaMm2 { get; init; }
}

/// <summary>Flow limit from stepped speed: flow = speed × area of the last good step.</summary>
public static class StepsJudging
{
    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(StepsReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.StartSpeedMmPerS is >= 1 and <= 1000))
            errors.Add(new("startSpeedMmPerS", $"{Say.N(r.StartSpeedMmPerS)} mm/s is outside 1 to 1,000; per second, not per minute."));
        if (r.IncreasePercent is null == r.IncreaseMmPerS is null)
            errors.Add(new("increasePercent", "A rise is given in per cent or in mm/s: one of increasePercent and increaseMmPerS would be right."));
        if (r.IncreasePercent is { } p && !(p is > 0 and <= 200))
            errors.Add(new("increasePercent", $"{Say.N(p)} % is no rise: above 0 to 200 would be right, 10 to 25 is usual."));
        if (r.IncreaseMmPerS is { } mm && !(mm is > 0 and <= 500))
            errors.Add(new("increaseMmPerS", $"{Say.N(mm)} mm/s is no rise: above 0 to 500 would be right."));
        if (r.LastGoodStep is < -1 or > 200)
            errors.Add(new("lastGoodStep", $"{r.LastGoodStep} is no step: 0 is the start, −1 says that not even the start came out well."));
        if (r.Steps is { } n && (n is < 1 or > 201 || r.LastGoodStep >= n))
            errors.Add(new("steps", $"{n} steps count from 0 to {n - 1}; the last good one is given as {r.LastGoodStep}."));
        Flows.CheckLine(errors, r.LayerHeightMm, r.LineWidthMm, r.Area, r.MarginPercent);
        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static SteppedFlowVerdict Judge(StepsReadings r)
    {
        var area = Flows.AreaMm2(r.Area, r.LineWidthMm, r.LayerHeightMm);
        if (r.LastGoodStep < 0)
        {
            return new()
            {
                Verdict = "none-good",
                Sentence = $"Not even the start at {Say.N(r.Speed(0))} mm/s, {Say.N(r.Flow(0), 1)} mm³/s, came out well.",
                Reasons = ["A limit below the slowest step is no flow limit yet: a slower start, or the nozzle first."],
                Next = new(
                    "slower", "Start at half of that speed, with the nozzle checked.", FlowStepsTrial.Word,
                    new Dictionary<string, decimal> { ["startSpeedMmPerS"] = (decimal)Math.Max(5, Math.Floor(r.StartSpeedMmPerS / 2)) }),
                AreaMm2 = area,
                MarginPercent = r.MarginPercent,
                Advised = false,
            };
        }

        var (speed, flow, above) = (r.Speed(r.LastGoodStep), r.Flow(r.LastGoodStep), r.Flow(r.LastGoodStep + 1));
        var reached = r.Steps is not { } n || r.LastGoodStep < n - 1;
        var recommended = Flows.Recommended(flow, r.MarginPercent);
        var uncertainty = Math.Round((above - flow) / 2, 2);
        List<string> arithmetic =
        [
            $"speed of step {r.LastGoodStep} = {(r.IncreasePercent is { } p ? r.Compounding ? $"{Say.N(r.StartSpeedMmPerS)} × {Say.N(1 + p / 100, 3)}^{r.LastGoodStep}" : $"{Say.N(r.StartSpeedMmPerS)} × (1 + {r.LastGoodStep} × {Say.N(p)} ÷ 100)" : $"{Say.N(r.StartSpeedMmPerS)} + {r.LastGoodStep} × {Say.N(r.IncreaseMmPerS!.Value)}")} = {Say.N(speed)} mm/s",
            $"area, {(r.Area == "stadium" ? "half-round ends: (w − h)·h + π(h ÷ 2)²" : "rectangle: w × h")} = {Say.N(area, 4)} mm²",
            $"flow = {Say.N(speed)} × {Say.N(area, 4)}{(r.FlowFactor == 1 ? "" : $" × {Say.N(r.FlowFactor, 3)}")} = {Say.N(flow, 2)} mm³/s",
            $"less {Say.N(r.MarginPercent)} %, rounded down: {Say.N(recommended, 1)} mm³/s",
        ];
        var shared = new SteppedFlowVerdict
        {
            Verdict = "limit",
            Sentence = "",
            LastGoodSpeedMmPerS = Math.Round(speed, 4),
            FlowMm3PerS = Math.Round(flow, 4),
            AreaMm2 = area,
            MarginPercent = r.MarginPercent,
            Basis = "the last good step",
            Arithmetic = arithmetic,
        };
        if (!reached)
        {
            return shared with
            {
                Verdict = "not-reached",
                Sentence = $"At least {Say.N(flow, 1)} mm³/s: all steps up to {Say.N(speed)} mm/s came out well.",
                Reasons = ["The fault was not reached, so there is no limit yet. What is known good may be used."],
                Next = new(
                    "higher", $"Go on from there: a start at {Say.N(Math.Floor(speed))} mm/s.", FlowStepsTrial.Word,
                    new Dictionary<string, decimal> { ["startSpeedMmPerS"] = (decimal)Math.Floor(speed) }),
                Advised = false,
            };
        }

        var next = Bracketing.Plan(flow, above, 0, Math.Max(0.2, 0.02 * flow), r.Flow(0), Math.Max(above, r.Flow((r.Steps ?? r.LastGoodStep + 2) - 1)), 0.1);
        return shared with
        {
            Sentence =
                $"{Say.N(recommended, 1)} mm³/s. {Say.N(flow, 1)} came out well, {Say.N(above, 1)} did not{(r.Fault.Length > 0 ? $" ({r.Fault})" : "")}; " +
                    $"{Flows.Below(r.MarginPercent, " the last good one")}.",
            Reasons = [$"The limit lies between {Say.N(flow, 2)} and {Say.N(above, 2)} mm³/s: a step is as fine as this way tells."],
            Warnings =
                (above - flow) / flow > 0.2 ? [$"One step is {Say.N(100 * (above - flow) / flow)} % of flow: a finer way inside the bracket tells more."] : [],
            LimitFlowMm3PerS = Math.Round(flow, 4),
            RecommendedFlowMm3PerS = recommended,
            Bracket = new(Math.Round(flow, 4), Math.Round(above, 4)),
            Speeds = Flows.Table(recommended, r.Area, r.NozzleMm),
            Settings = [new(Flows.Key, recommended, uncertainty)],
            NextPlaces = next,
            Next = new(
                "inside",
                $"Weighed samples from {Say.N(Math.Floor(flow * 10) / 10, 1)} to {Say.N(Math.Ceiling(above * 10) / 10, 1)} mm³/s settle it inside the bracket{(next is null ? "" : $": {Say.Plural(next.Places.Count, "flow")} bring it from ± {Say.N(next.HalfNow, 1)} to about ± {Say.N(next.HalfThen, 1)}")}.",
                FlowWeighedTrial.Word, new Dictionary<string, decimal>
                {
                    ["startFlowMm3PerS"] = Math.Max(1, Math.Floor((decimal)flow * 0.5m)),
                    ["stepMm3PerS"] = Math.Round(Math.Max(0.5m, (decimal)(above - flow) / 2), 1),
                }),
        };
    }
}
