using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.LayerTime;

/// <summary>
/// The shortest layer time that is about as good as the best: too short, and a layer is laid on one that is soft still, so that corners round and walls wave;
/// longer than that only takes time, and strength in a cold room.
/// </summary>
public static class LayerTimeJudging
{
    /// <summary>Shortest and longest layer time that is taken, s.</summary>
    public const double LeastS = 1, MostS = 120;

    /// <summary>How far a next column goes beyond an end, as a factor.</summary>
    private const double Onward = 1.45;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(LayerTimeReadings r) =>
    [
        .. LeastLevel.Check(
            Levels(r), r.Margin, r.ScoreNoise, "a shortest time", "corners", "its corners or its walls",
            s => s is >= LeastS and <= MostS ? null : ("seconds", $"{Say.N(s)} s is no layer time: {Say.N(LeastS)} to {Say.N(MostS)} would be right.")),
        .. r.InForceS is { } now && !(now is > 0 and <= MostS)
            ? new FieldError[] { new("inForceS", $"{Say.N(now)} s is no layer time: above 0 to {Say.N(MostS)} would be right.") } : [],
    ];

    private static IReadOnlyList<ScoredLevel> Levels(LayerTimeReadings r) =>
        [.. r.Points.Select(p => new ScoredLevel(p.Seconds, p.Looks, p.Bond) { Forces = p.Forces })];

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static LayerTimeVerdict Judge(LayerTimeReadings r)
    {
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = LayerTimeOutcome.Insufficient, From = r, Refusal = refusal, Advised = false };
        var l = LeastLevel.Of(Levels(r), r.Margin, r.ScoreNoise);
        var basis = new LayerTimeVerdict
        {
            Outcome = LayerTimeOutcome.Insufficient, From = r, Advised = false, Times = l.Levels, Looks = l.Looks, Halves = l.Halves, Bond = l.Bond,
            Curve = l.Curve, Forces = l.Forces,
        };
        if (l.IsNotIt)
            return basis with { Outcome = LayerTimeOutcome.NotTime };
        if (l.Chosen is not { } chosen)
            return basis;
        var (at, step) = (l.Levels[chosen], l.Step);
        var (atLongest, atShortest) = (chosen == l.Levels.Count - 1, chosen == 0 && at > LeastS + 1e-9);
        var outcome = atLongest || atShortest ? LayerTimeOutcome.Edge : l.IsClear ? LayerTimeOutcome.Clear : LayerTimeOutcome.Noise;
        // No wider than one column shows at slow speeds too, and no narrower than three steps of half a second.
        var (from, to) = atLongest ? (at, Math.Min(MostS, Math.Max(Onward * at, at + 1.5)))
            : atShortest ? (Math.Max(LeastS, Math.Min(at / Onward, at - 1.5)), at) : (l.Levels[0], l.Levels[^1]);
        return basis with
        {
            Outcome = outcome,
            Seconds = at,
            AsGood = [.. l.Good.Select(i => l.Levels[i])],
            AtLongest = atLongest,
            Advised = outcome == LayerTimeOutcome.Clear,
            Settings = [new("minLayerTimeS", at, Math.Round(l.Half, 1))],
            PercentOfBefore = r.InForceS is { } now && now > 0 ? Math.Round(100 * at / now) : null,
            Next = outcome == LayerTimeOutcome.Clear ? null
                : new(outcome == LayerTimeOutcome.Edge ? "edge" : "repeat", "", LayerTimeTrial.Word, new Dictionary<string, decimal>
                {
                    ["shortestS"] = (decimal)Math.Round(from, 1), ["longestS"] = (decimal)Math.Round(to, 1),
                    ["stepS"] = (decimal)Math.Max(0.5, Math.Round(outcome == LayerTimeOutcome.Edge ? (to - from) / 4 : step, 1)),
                }),
        };
    }
}
