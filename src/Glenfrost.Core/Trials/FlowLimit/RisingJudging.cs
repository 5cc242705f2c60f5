using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>Readings of a spiral whose flow rises with height.</summary>
public sealed record RisingReadings
{
    /// <summary>Flow where the rise begins, mm³/s.</summary>
    public double StartFlowMm3PerS { get; init; } = 5;

    /// <summary>Rise for each mm of height, mm³/s.</summary>
    public double FlowPerMm { get; init; } = 0.3;

    /// <summary>Height of the first fault from where the rise begins, mm; null where none was seen.</summary>
    public double? FailHeightMm { get; init; }

    /// <summary>How surely that height is read, ± mm.</summary>
    public double HeightUncertaintyMm { get; init; } = 0.5;

    /// <summary>Height of the rise up to its top, mm; null where nobody said.</summary>
    public double? TopHeightMm { get; init; }

    /// <summary>Margin, %.</summary>
    public double MarginPercent { get; init; } = 10;

    /// <summary>What was seen or heard there; empty where nobody said.</summary>
    public string Fault { get; init; } = "";

    /// <summary>Area model of the table of speeds.</summary>
    public string Area { get; init; } = "rectangular";

    /// <summary>Nozzle, mm, for the table of speeds.</summary>
    public double NozzleMm { get; init; } = 0.4;
}

/// <summary>The verdict on a rising spiral.</summary>
public sealed record RisingFlowVerdict : FlowVerdict
{
    /// <summary>Flow that was reached at the top, mm³/s; null where nobody said how high it is.</summary>
    public double? TopFlowMm3PerS { get; init; }

    /// <summary>Half of the interval of the limit, mm³/s.</summary>
    public double? UncertaintyMm3PerS { get; init; }
}

/// <summary>Flow limit from a rising spiral: flow = start + rise × height.</summary>
public static class RisingJudging
{
    /// <summary>Height of the rise that a plan proposes, mm.</summary>
    private const double UsualRiseMm = 40;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(RisingReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.StartFlowMm3PerS is > 0 and <= 200))
            errors.Add(new("startFlowMm3PerS", $"{Say.N(r.StartFlowMm3PerS)} mm³/s is no start: above 0 to 200 would be right, 3 to 8 is usual."));
        if (!(r.FlowPerMm is > 0 and <= 20))
            errors.Add(new("flowPerMm", $"{Say.N(r.FlowPerMm, 3)} mm³/s for each mm is no rise: above 0 to 20 would be right, 0.2 to 0.6 is usual."));
        if (r.FailHeightMm is { } f && !(f is >= 0 and <= 1000))
            errors.Add(new("failHeightMm", $"{Say.N(f)} mm is no height of the rise: from 0, where it begins, up."));
        if (r.TopHeightMm is { } t && !(t is > 0 and <= 1000))
            errors.Add(new("topHeightMm", $"{Say.N(t)} mm is no height: above 0 to 1,000 would be right."));
        if (r is { FailHeightMm: { } fail, TopHeightMm: { } top } && fail > top)
            errors.Add(
                new("failHeightMm", $"{Say.N(fail)} mm lies above the top of the rise, {Say.N(top)} mm. Measure from where the rise begins, not from the bed.")
            );
        if (!(r.HeightUncertaintyMm is >= 0 and <= 50))
            errors.Add(new("heightUncertaintyMm", $"± {Say.N(r.HeightUncertaintyMm)} mm is none: 0 to 50 would be right, 0.5 is usual."));
        Flows.CheckMargin(errors, r.MarginPercent);
        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static RisingFlowVerdict Judge(RisingReadings r)
    {
        var top = r.TopHeightMm is { } h ? r.StartFlowMm3PerS + r.FlowPerMm * h : (double?)null;
        if (r.FailHeightMm is not { } at)
        {
            return new()
            {
                Verdict = "not-reached",
                Sentence = top is { } reached
                    ? $"At least {Say.N(Math.Floor(reached * 10) / 10, 1)} mm³/s: nothing failed up to the top."
                    : "Nothing failed; how high the rise went was not said.",
                Reasons = ["Without a fault there is no limit yet: only what was printed well is known."],
                TopFlowMm3PerS = top,
                MarginPercent = r.MarginPercent,
                Next = top is { } t
                    ? new(
                        "higher", $"A higher range, from {Say.N(Math.Floor(t * 0.8))} mm³/s.", FlowRisingTrial.Word, new Dictionary<string, decimal>
                        {
                            ["startFlowMm3PerS"] = (decimal)Math.Floor(t * 0.8), ["topFlowMm3PerS"] = (decimal)Math.Ceiling(t * 1.6),
                        })
                    : null,
                Advised = false,
            };
        }

        var limit = r.StartFlowMm3PerS + r.FlowPerMm * at;
        var u = r.FlowPerMm * r.HeightUncertaintyMm;
        var recommended = Flows.Recommended(limit, r.MarginPercent);
        var early = at <= r.HeightUncertaintyMm;
        var (lower, from, to) = (Math.Max(1, Math.Floor(limit / 2)), Math.Max(1, Math.Floor(0.7 * limit)), Math.Ceiling(1.2 * limit));
        return new()
        {
            Verdict = early ? "none-good" : "limit",
            Sentence = early
                ? $"It failed where the rise begins, at {Say.N(limit, 1)} mm³/s: start lower."
                : $"{Say.N(recommended, 1)} mm³/s. The wall fails at {Say.N(at, 1)} mm, {Say.N(limit, 1)} ± {Say.N(u, 1)} " +
                    $"mm³/s{(r.Fault.Length > 0 ? $" ({r.Fault})" : "")}; {Flows.Below(r.MarginPercent)}.",
            Reasons = [$"{Say.N(r.StartFlowMm3PerS)} + {Say.N(r.FlowPerMm, 3)} × {Say.N(at, 1)} = {Say.N(limit, 2)} mm³/s."],
            Warnings =
                u > 0.1 * limit ? [$"± {Say.N(r.HeightUncertaintyMm)} mm of height are ± {Say.N(100 * u / limit)} % of flow: a gentler rise tells more."] : [],
            LimitFlowMm3PerS = Math.Round(limit, 4),
            RecommendedFlowMm3PerS = early ? null : recommended,
            UncertaintyMm3PerS = Math.Round(u, 4),
            Bracket = new(Math.Round(Math.Max(0, limit - u), 4), Math.Round(limit + u, 4)),
            TopFlowMm3PerS = top,
            MarginPercent = r.MarginPercent,
            Basis = "where the wall fails",
            Speeds = early ? null : Flows.Table(recommended, r.Area, r.NozzleMm),
            Settings = early ? [] : [new(Flows.Key, recommended, Math.Round(u, 2))],
            Next = early
                ? new(
                    "lower", $"Start at {Say.N(lower)} mm³/s.", FlowRisingTrial.Word, new Dictionary<string, decimal> { ["startFlowMm3PerS"] = (decimal)lower })
                : new(
                    "check",
                    $"A second spiral from {Say.N(from)} to {Say.N(to)} mm³/s, with a gentler rise, confirms it within about ± " +
                        $"{Say.N((to - from) / UsualRiseMm * Math.Max(0.3, r.HeightUncertaintyMm), 2)}.",
                    FlowRisingTrial.Word, new Dictionary<string, decimal> { ["startFlowMm3PerS"] = (decimal)from, ["topFlowMm3PerS"] = (decimal)to }),
            Advised = !early,
            Arithmetic =
            [
                $"flow at the fault = {Say.N(r.StartFlowMm3PerS, 2)} + {Say.N(r.FlowPerMm, 4)} × {Say.N(at, 2)} = {Say.N(limit, 3)} mm³/s",
                $"± {Say.N(r.FlowPerMm, 4)} × {Say.N(r.HeightUncertaintyMm, 2)} = ± {Say.N(u, 3)} mm³/s",
                $"less {Say.N(r.MarginPercent)} %, rounded down: {Say.N(recommended, 1)} mm³/s",
            ],
        };
    }
}
