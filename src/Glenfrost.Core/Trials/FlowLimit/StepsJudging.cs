using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

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

/// <summary>What the readings of a ladder of steps could not say, or what of it was taken as said.</summary>
public sealed record StepsLadder
{
    /// <summary>Steps below a good one that were not read and are taken as good.</summary>
    public int Taken { get; init; }

    /// <summary>A step that is said to be the last good one above one that is bad; null where nothing contradicts itself.</summary>
    public int? SaidGood { get; init; }

    /// <summary>That bad step.</summary>
    public int? SaidBad { get; init; }

    /// <summary>What was seen or heard at it.</summary>
    public string Word { get; init; } = "";

    /// <summary>Flow up to which it was good, mm³/s, where all above it was lost; null where nothing was.</summary>
    public double? LostAboveFlowMm3PerS { get; init; }
}

/// <summary>The verdict on a stepped speed.</summary>
public sealed record SteppedFlowVerdict : FlowVerdict
{
    /// <summary>What it was judged from; null where the ladder was not read, or not so that it says anything.</summary>
    [JsonIgnore]
    public StepsReadings? From { get; init; }

    /// <summary>How the ladder was read.</summary>
    [JsonIgnore]
    public StepsLadder Ladder { get; init; } = new();

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
        var basis = new SteppedFlowVerdict
        {
            Outcome = FlowOutcome.NoneGood, From = r, AreaMm2 = Flows.AreaMm2(r.Area, r.LineWidthMm, r.LayerHeightMm), MarginPercent = r.MarginPercent,
            Advised = false,
        };
        static TrialNext From(string kind, double startMmPerS) =>
            new(kind, "", FlowStepsTrial.Word, new Dictionary<string, decimal> { ["startSpeedMmPerS"] = (decimal)startMmPerS });
        if (r.LastGoodStep < 0)
            return basis with { Next = From("slower", Math.Max(5, Math.Floor(r.StartSpeedMmPerS / 2))) };
        var (speed, flow, above) = (r.Speed(r.LastGoodStep), r.Flow(r.LastGoodStep), r.Flow(r.LastGoodStep + 1));
        basis = basis with { LastGoodSpeedMmPerS = Math.Round(speed, 4), FlowMm3PerS = Math.Round(flow, 4), Basis = "the last good step" };
        if (r.Steps is { } n && r.LastGoodStep >= n - 1)
            return basis with { Outcome = FlowOutcome.NotReached, Next = From("higher", Math.Floor(speed)) };
        var recommended = Flows.Recommended(flow, r.MarginPercent);
        var next = Bracketing.Plan(flow, above, 0, Math.Max(0.2, 0.02 * flow), r.Flow(0), Math.Max(above, r.Flow((r.Steps ?? r.LastGoodStep + 2) - 1)), 0.1);
        return basis with
        {
            Outcome = FlowOutcome.Limit,
            LimitFlowMm3PerS = Math.Round(flow, 4),
            RecommendedFlowMm3PerS = recommended,
            Bracket = new(Math.Round(flow, 4), Math.Round(above, 4)),
            Speeds = Flows.Table(recommended, r.Area, r.NozzleMm),
            Settings = [new(Flows.Key, recommended, Math.Round((above - flow) / 2, 2))],
            NextPlaces = next,
            Advised = true,
            Next = new(
                "inside", "", FlowWeighedTrial.Word, new Dictionary<string, decimal>
                {
                    ["startFlowMm3PerS"] = Math.Max(1, Math.Floor((decimal)flow * 0.5m)),
                    ["stepMm3PerS"] = Math.Round(Math.Max(0.5m, (decimal)(above - flow) / 2), 1),
                }),
        };
    }
}
