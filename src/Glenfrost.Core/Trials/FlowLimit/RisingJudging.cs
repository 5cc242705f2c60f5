using System.Text.Json.Serialization;
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
    /// <summary>What it was judged from; null where there is no height to judge.</summary>
    [JsonIgnore]
    public RisingReadings? From { get; init; }

    /// <summary>What was seen or heard where nobody said at which height; empty where nothing was.</summary>
    [JsonIgnore]
    public string WithoutHeight { get; init; } = "";

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
        var basis = new RisingFlowVerdict
        {
            Outcome = FlowOutcome.NotReached, From = r, TopFlowMm3PerS = r.TopHeightMm is { } h ? r.StartFlowMm3PerS + r.FlowPerMm * h : null,
            MarginPercent = r.MarginPercent, Advised = false,
        };
        static TrialNext Between(string kind, double from, double? to) => new(
            kind, "", FlowRisingTrial.Word,
            new Dictionary<string, decimal>(
                to is { } t
                    ? [new("startFlowMm3PerS", (decimal)from), new("topFlowMm3PerS", (decimal)t)]
                    : [new("startFlowMm3PerS", (decimal)from)]));
        if (r.FailHeightMm is not { } at)
            return basis with { Next = basis.TopFlowMm3PerS is { } t ? Between("higher", Math.Floor(t * 0.8), Math.Ceiling(t * 1.6)) : null };
        var limit = r.StartFlowMm3PerS + r.FlowPerMm * at;
        var u = r.FlowPerMm * r.HeightUncertaintyMm;
        basis = basis with
        {
            LimitFlowMm3PerS = Math.Round(limit, 4),
            UncertaintyMm3PerS = Math.Round(u, 4),
            Bracket = new(Math.Round(Math.Max(0, limit - u), 4), Math.Round(limit + u, 4)),
            Basis = "where the wall fails",
        };
        if (at <= r.HeightUncertaintyMm)
            return basis with { Outcome = FlowOutcome.NoneGood, Next = Between("lower", Math.Max(1, Math.Floor(limit / 2)), null) };
        var recommended = Flows.Recommended(limit, r.MarginPercent);
        return basis with
        {
            Outcome = FlowOutcome.Limit,
            RecommendedFlowMm3PerS = recommended,
            Speeds = Flows.Table(recommended, r.Area, r.NozzleMm),
            Settings = [new(Flows.Key, recommended, Math.Round(u, 2))],
            Next = Between("check", Math.Max(1, Math.Floor(0.7 * limit)), Math.Ceiling(1.2 * limit)),
            Advised = true,
        };
    }

    /// <summary>How surely a second, gentler rise over a range would tell it, ± mm³/s.</summary>
    /// <param name="fromMm3PerS">Where it would begin.</param>
    /// <param name="toMm3PerS">Its top.</param>
    /// <param name="heightUncertaintyMm">How surely a height is read.</param>
    public static double ThenWithin(double fromMm3PerS, double toMm3PerS, double heightUncertaintyMm) =>
        (toMm3PerS - fromMm3PerS) / UsualRiseMm * Math.Max(0.3, heightUncertaintyMm);
}
