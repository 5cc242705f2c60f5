using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.ExtruderFeed;

/// <summary>
/// Steps of the extruder from what it delivered: delivered = mark − remaining; new steps = steps × commanded ÷ mean delivered; a rotation distance the other
/// way round.
/// </summary>
public static class FeedJudging
{
    /// <summary>Spread over the mean from which a feed is unsteady, per cent.</summary>
    public const double UnsteadyPercent = 1;

    /// <summary>Fewer repeats can't tell a feed that slips from one that is off.</summary>
    public const int LeastRepeats = 3;

    /// <summary>Change over which unit, gear or microsteps are asked about, per cent.</summary>
    public const double LargeChangePercent = 10;

    /// <summary>
    /// 95 % point of the range of n normal values over their standard deviation (studentized range, infinite degrees of freedom), from n = 2.
    /// </summary>
    private static readonly double[] Range95 = [2.77, 3.31, 3.63, 3.86, 4.03, 4.17, 4.29, 4.39, 4.47];

    /// <summary>
    /// Range that ruler and marker alone would stay within in 95 of 100 cases, mm: two steps of the instrument in each value, one for the mark, one for the
    /// reading.
    /// </summary>
    public static double RulerRangeMm(int count, double resolutionMm) =>
        count < 2 ? 0 : Range95[Math.Min(count, Range95.Length + 1) - 2] * resolutionMm * Math.Sqrt(2.0 / 12);

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(FeedReadings r)
    {
        var errors = new List<FieldError>();
        if (r.StepsPerMm is null == r.RotationDistanceMm is null)
            errors.Add(new("stepsPerMm", "One of stepsPerMm and rotationDistanceMm would be right: the value at which it was fed."));
        if (r.StepsPerMm is { } steps && FeedFields.Steps.Check((decimal)Math.Clamp(steps, -1e9, 1e9)).Error is { } wrongSteps)
            errors.Add(new("stepsPerMm", wrongSteps));
        if (r.RotationDistanceMm is { } rotation && FeedFields.Rotation.Check((decimal)Math.Clamp(rotation, -1e9, 1e9)).Error is { } wrongRotation)
            errors.Add(new("rotationDistanceMm", wrongRotation));
        if (r.CommandedMm is < 10 or > 1000)
            errors.Add(new("commandedMm", $"{Say.N(r.CommandedMm)} mm is outside 10 to 1000 mm: less can't be measured, more is a whole spool's patience."));
        if (r.ResolutionMm is <= 0 or > 5)
            errors.Add(new("resolutionMm", "The step of ruler and marker lies above 0 and up to 5 mm; 0.5 is usual."));
        if (r.ToleranceMm is <= 0 or > 50)
            errors.Add(new("toleranceMm", "The tolerance lies above 0 and up to 50 mm; 0.5 for each 100 is usual."));
        foreach (var (x, i) in r.Readings.Select((x, i) => (x, i)))
        {
            if (x.MarkMm is <= 0 or > 2000)
                errors.Add(new($"readings[{i}].markMm", $"{Say.N(x.MarkMm)} mm is no place for a mark: above 0, and more than is fed, would be right."));
            else if (x is { MarkGone: false, RemainingMm: null })
                errors.Add(new($"readings[{i}].remainingMm", "remainingMm is missing: what was left to the mark, or markGone where it went in."));
            else if (x.MarkGone && x.RemainingMm is > 0)
                errors.Add(new($"readings[{i}].remainingMm", "A mark that went in leaves nothing to measure: one of the two would be right."));
            else if (x.RemainingMm is < 0)
                errors.Add(new($"readings[{i}].remainingMm", "What is left can't be below 0. A mark that went in is said with markGone."));
            else if (x.RemainingMm > x.MarkMm)
                errors.Add(
                    new(
                        $"readings[{i}].remainingMm",
                        $"{Say.N(x.RemainingMm.Value)} mm left is more than the mark was away, {Say.N(x.MarkMm)} mm: it would have fed backwards."));
            else if (x.RemainingMm == x.MarkMm)
                errors.Add(new($"readings[{i}].remainingMm", "Nothing was fed. Grip, tension, a cold or blocked nozzle: mend that first, then measure."));
            if (x.StepsPerMm is <= 0)
                errors.Add(new($"readings[{i}].stepsPerMm", "The steps of a reading lie above 0."));
        }

        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static FeedVerdict Judge(FeedReadings r)
    {
        var turns = r.StepsPerMm is null;
        var tried = r.StepsPerMm ?? r.RotationDistanceMm!.Value;
        // Fed at other steps, it would have delivered in proportion (with a rotation distance the other way round).
        double Brought(FeedReading x) => (x.MarkMm - x.RemainingMm!.Value) * (x.StepsPerMm is not { } at ? 1 : turns ? at / tried : tried / at);
        var delivered = r.Readings.Select(x => x.MarkGone ? (double?)null : Brought(x)).ToList();
        var read = delivered.OfType<double>().ToList();
        var gone = r.Readings.Any(x => x.MarkGone);
        if (read.Count == 0)
            return new() { Outcome = FeedOutcome.Insufficient, From = r, DeliveredMm = delivered, Advised = false, Next = gone ? LongerMark(r) : null };
        var m = Measured.Of(read, r.ResolutionMm);
        var ratio = r.CommandedMm / m.Mean;
        var n = new FeedNumbers(
            tried, m, read.Min(), read.Max(), RulerRangeMm(read.Count, r.ResolutionMm), r.ToleranceMm ?? 0.5 * r.CommandedMm / 100,
            turns ? Math.Round(tried / ratio, 3) : Math.Round(tried * ratio, 2));
        var outcome =
            read.Count > 1 && n.SpreadPercent > UnsteadyPercent && n.RangeMm > n.RulerMm ? FeedOutcome.Unsteady
            : Math.Abs(m.Mean - r.CommandedMm) <= n.ToleranceMm + 1e-9 ? FeedOutcome.WithinTolerance
            : FeedOutcome.Adjust;
        var lasting = outcome == FeedOutcome.WithinTolerance ? tried : n.Value;
        return new()
        {
            Outcome = outcome,
            From = r,
            Numbers = n,
            Cautions =
            [
                .. gone ? [FeedCaution.MarksWentIn] : Array.Empty<FeedCaution>(),
                .. Math.Abs(n.ChangePercent) > LargeChangePercent ? [FeedCaution.LargeChange] : Array.Empty<FeedCaution>(),
                .. read.Count < LeastRepeats ? [FeedCaution.FewRepeats] : Array.Empty<FeedCaution>(),
            ],
            Next = outcome switch
            {
                FeedOutcome.Unsteady => new("guide", "") { Guide = "slip-or-skip" },
                FeedOutcome.WithinTolerance => null,
                _ => new(
                    "check-run", "", ExtruderFeedTrial.Word,
                    new Dictionary<string, decimal> { [turns ? "rotationDistanceMm" : "stepsPerMm"] = (decimal)n.Value })
                { Words = new Dictionary<string, string> { ["check"] = "1" } },
            },
            DeliveredMm = [.. delivered.Select(d => d is { } v ? (double?)Math.Round(v, 3) : null)],
            MeanDeliveredMm = Math.Round(m.Mean, 3),
            UncertaintyMm = double.IsFinite(m.HalfWidth) ? Math.Round(m.HalfWidth, 3) : null,
            SpreadPercent = Math.Round(n.SpreadPercent, 2),
            NewStepsPerMm = turns ? null : n.Value,
            NewRotationDistanceMm = turns ? n.Value : null,
            NewUncertainty = double.IsFinite(m.HalfWidth) ? n.Value * m.HalfWidth / m.Mean : null,
            Commands = outcome == FeedOutcome.Unsteady ? [] : Commands(r.Dialect, turns ? null : lasting, turns ? lasting : null),
            Advised = outcome != FeedOutcome.Unsteady,
        };
    }

    /// <summary>A mark that stays in sight, a quarter farther away than the farthest that went in, mm.</summary>
    private static TrialNext LongerMark(FeedReadings r) => new(
        "longer-mark", "", ExtruderFeedTrial.Word,
        new Dictionary<string, decimal> { ["markMm"] = (decimal)(Math.Ceiling(r.Readings.Max(x => x.MarkMm) * 1.25 / 10) * 10) });

    /// <summary>The three ways to make a value last, and what each overwrites.</summary>
    public static IReadOnlyList<FeedCommand> Commands(string dialectKey, double? stepsPerMm, double? rotationDistanceMm)
    {
        var dialect = Dialect.Of(dialectKey);
        if (dialect.StepsPerMm is { } steps && stepsPerMm is { } n)
            return [new("until-restart", steps(n)), new("store", $"{steps(n)}\n{dialect.Store}"), new("start-code", $"{steps(n)} ; extruder feed")];
        if (dialect.RotationDistance is { } distance && rotationDistanceMm is { } mm)
            return
            [
                new("until-restart", distance(mm)), new("store", $"rotation_distance: {Say.N(mm, 3)}"),
                new("start-code", $"{distance(mm)} ; extruder feed"),
            ];
        return [new("by-hand", stepsPerMm is { } s ? $"{Say.N(s)} steps per mm" : $"rotation distance {Say.N(rotationDistanceMm ?? 0, 3)} mm")];
    }
}

/// <summary>Number fields of a feed measurement.</summary>
public static class FeedFields
{
    /// <summary>Steps per mm.</summary>
    public static Quantity Steps { get; } = new("Steps per mm", "", 5, 20000, "no gear and motor is coarser or finer");

    /// <summary>Rotation distance.</summary>
    public static Quantity Rotation { get; } = new("Rotation distance", "mm", 0.5m, 200, "what one turn of the motor feeds");
}
