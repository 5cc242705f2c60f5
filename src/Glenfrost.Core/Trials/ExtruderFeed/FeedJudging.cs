using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.ExtruderFeed;

/// <summary>One repeat. Lengths in mm.</summary>
/// <param name="MarkMm">Where the mark was above the entry.</param>
/// <param name="RemainingMm">What was left to the mark; null where the mark went in.</param>
/// <param name="StepsPerMm">Steps (or rotation distance) at which it was fed, where they were others.</param>
/// <param name="MarkGone">True where the mark went in: more than the mark was fed.</param>
public sealed record FeedReading(double MarkMm, double? RemainingMm, double? StepsPerMm = null, bool MarkGone = false);

/// <summary>Readings of a feed measurement and how to judge them.</summary>
public sealed record FeedReadings
{
    /// <summary>Steps per mm at which it was fed; or <see cref="RotationDistanceMm"/>.</summary>
    public double? StepsPerMm { get; init; }

    /// <summary>Rotation distance at which it was fed, mm.</summary>
    public double? RotationDistanceMm { get; init; }

    /// <summary>What the printer was told to feed, mm.</summary>
    public double CommandedMm { get; init; } = 100;

    /// <summary>The repeats.</summary>
    public IReadOnlyList<FeedReading> Readings { get; init; } = [];

    /// <summary>Smallest step of ruler and marker, mm.</summary>
    public double ResolutionMm { get; init; } = 0.5;

    /// <summary>How far the mean may be off, mm; 0.5 for each 100 where it is not given.</summary>
    public double? ToleranceMm { get; init; }

    /// <summary>Dialect for the commands.</summary>
    public string Dialect { get; init; } = "m900";
}

/// <summary>A way to make a value last.</summary>
/// <param name="Way">until-restart, store or start-code.</param>
/// <param name="Text">What to send or write.</param>
/// <param name="Note">What it overwrites or leaves.</param>
public sealed record FeedCommand(string Way, string Text, string Note);

/// <summary>The verdict on a feed measurement.</summary>
public sealed record FeedVerdict : TrialVerdict
{
    /// <summary>Delivered by each repeat, mm, at the value tried; null where the mark went in.</summary>
    public IReadOnlyList<double?> DeliveredMm { get; init; } = [];

    /// <summary>Mean, mm; null where nothing was read.</summary>
    public double? MeanDeliveredMm { get; init; }

    /// <summary>95 % half-width of the mean, mm; null for a single reading.</summary>
    public double? UncertaintyMm { get; init; }

    /// <summary>Range over mean, per cent.</summary>
    public double? SpreadPercent { get; init; }

    /// <summary>New steps per mm, two decimals; null where the printer counts a rotation distance.</summary>
    public double? NewStepsPerMm { get; init; }

    /// <summary>New rotation distance, mm, three decimals; null where the printer counts steps.</summary>
    public double? NewRotationDistanceMm { get; init; }

    /// <summary>95 % half-width of the new value, in its unit.</summary>
    public double? NewUncertainty { get; init; }

    /// <summary>Ways to make the value last, in the printer's dialect.</summary>
    public IReadOnlyList<FeedCommand> Commands { get; init; } = [];
}

/// <summary>
/// Steps of the extruder from what it delivered: delivered = mark − remaining; new steps = steps × commanded ÷ mean delivered; a rotation distance the other
/// way round.
/// </summary>
public static class FeedJudging
{
    /// <summary>Spread over the mean from which a feed is unsteady, per cent.</summary>
    public const double UnsteadyPercent = 1;

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
        var tried = r.StepsPerMm ?? r.RotationDistanceMm!.Value;
        var unit = r.StepsPerMm is null ? "mm a turn" : "steps per mm";
        // Fed at other steps, it would have delivered in proportion (with a rotation distance the other way round).
        double Brought(FeedReading x) => (x.MarkMm - x.RemainingMm!.Value) * (x.StepsPerMm is not { } at ? 1 : r.StepsPerMm is null ? at / tried : tried / at);
        var delivered = r.Readings.Select(x => x.MarkGone ? (double?)null : Brought(x)).ToList();
        var gone = r.Readings.Count(x => x.MarkGone);
        var read = delivered.OfType<double>().ToList();
        var tolerance = r.ToleranceMm ?? 0.5 * r.CommandedMm / 100;
        if (read.Count == 0)
        {
            return new FeedVerdict
            {
                Verdict = "insufficient",
                Sentence =
                    gone == 0
                        ? "Nothing is read yet."
                        : $"The mark went in: more than {Say.N(r.Readings.Max(x => x.MarkMm))} mm were fed where {Say.N(r.CommandedMm)} were asked.",
                Reasons = gone == 0 ? [] : ["A mark that went in says \"more than\", not how much."],
                DeliveredMm = delivered,
                Advised = false,
                Next =
                    gone == 0
                        ? null
                        : new(
                            "longer-mark", $"Mark at {Say.N(Math.Ceiling(r.Readings.Max(x => x.MarkMm) * 1.25 / 10) * 10)} mm and feed again.", "extruder-feed",
                            new Dictionary<string, decimal> { ["markMm"] = (decimal)(Math.Ceiling(r.Readings.Max(x => x.MarkMm) * 1.25 / 10) * 10) }),
            };
        }

        var m = Measured.Of(read, r.ResolutionMm);
        var range = read.Max() - read.Min();
        var spread = 100 * range / m.Mean;
        var (ratio, ruler) = (r.CommandedMm / m.Mean, RulerRangeMm(read.Count, r.ResolutionMm));
        var value = r.StepsPerMm is null ? Math.Round(tried / ratio, 3) : Math.Round(tried * ratio, 2);
        var uncertainty = double.IsFinite(m.HalfWidth) ? (double?)(value * m.HalfWidth / m.Mean) : null;
        var change = 100 * (value / tried - 1);
        var unsteady = read.Count > 1 && spread > UnsteadyPercent && range > ruler;
        var within = Math.Abs(m.Mean - r.CommandedMm) <= tolerance + 1e-9;
        var warnings = new List<string>();
        if (gone > 0)
            warnings.Add(
                $"{Say.Plural(gone, "mark")} went in and {(gone == 1 ? "counts" : "count")} as \"more than " +
                    $"{Say.N(r.Readings.Where(x => x.MarkGone).Min(x => x.MarkMm))} mm\"; the mean leaves {(gone == 1 ? "it" : "them")} out and is too low " +
                    $"for it. Use a longer mark."
            );
        if (Math.Abs(change) > LargeChangePercent)
            warnings.Add(
                $"A change of {Say.N(Math.Abs(change), 1)} % is no wear: look at the unit (steps or rotation distance), the gear that is fitted and the " +
                    $"microsteps before you take it."
            );
        if (read.Count < 3)
            warnings.Add($"{Say.Plural(read.Count, "repeat")} can't tell a feed that slips from one that is off: three would.");
        var arithmetic = new List<string>
        {
            $"delivered = mark − left: {string.Join(", ", delivered.Select(d => d is { } v ? Say.N(v) : "more than the mark"))} mm",
            $"mean {Say.N(m.Mean)} mm, range {Say.N(range)} mm = {Say.N(spread, 1)} %; ruler and marker alone stay within {Say.N(ruler)} mm in 95 of 100",
            double.IsFinite(m.HalfWidth)
                ? $"u² = s²/n + r²/12 = {Say.N(m.Sd, 3)}²/{m.Count} + {Say.N(r.ResolutionMm)}²/12, so ± {Say.N(m.HalfWidth)} mm at 95 %"
                : "one value: its scatter is not known",
            r.StepsPerMm is null
                ? $"{Say.N(tried, 3)} × {Say.N(m.Mean)} ÷ {Say.N(r.CommandedMm)} = {Say.N(value, 3)} mm a turn"
                : $"{Say.N(tried)} × {Say.N(r.CommandedMm)} ÷ {Say.N(m.Mean)} = {Say.N(value)} steps per mm",
        };
        var verdict = new FeedVerdict
        {
            Verdict = unsteady ? "unsteady" : within ? "within-tolerance" : "adjust",
            Sentence = unsteady ? $"The repeats differ by {Say.N(spread, 1)} %: it slips or loses steps, and no value mends that."
                : within ? $"{Say.N(m.Mean)} mm for {Say.N(r.CommandedMm)}: within {Say.N(tolerance)} mm. {Say.N(tried, 3)} {unit} stands."
                : $"{Say.N(value, 3)} {unit}. {Say.N(m.Mean)} mm came where {Say.N(r.CommandedMm)} were asked, at {Say.N(tried, 3)}.",
            Reasons = unsteady
                ?
                [
                    $"{Say.N(read.Min())} to {Say.N(read.Max())} mm: {Say.N(range)} mm apart, where ruler and marker alone make {Say.N(ruler)}.",
                    "Hold the filament while it feeds: does it stop while the gear turns (slip), or does the gear stop (skipped steps)?",
                ]
                :
                [
                    $"{Say.Plural(read.Count, "repeat")}, {Say.N(spread, 1)} % apart" +
                        $"{(within ? "" : $"; off by {Say.Signed(100 * (m.Mean / r.CommandedMm - 1))} %, more than the tolerance of {Say.N(tolerance)} mm")}.",
                ],
            Warnings = warnings,
            Next = unsteady ? new("guide", "Find out whether it slips or skips, mend that, then measure again.") { Guide = "slip-or-skip" }
                : within ? null
                : new(
                    "check-run", $"One check run at {Say.N(value, 3)} {unit}: the printer's value changes when that is within tolerance.", "extruder-feed",
                    new Dictionary<string, decimal> { [r.StepsPerMm is null ? "rotationDistanceMm" : "stepsPerMm"] = (decimal)value }
                )
                { Words = new Dictionary<string, string> { ["check"] = "1" } },
            DeliveredMm = [.. delivered.Select(d => d is { } v ? (double?)Math.Round(v, 3) : null)],
            MeanDeliveredMm = Math.Round(m.Mean, 3),
            UncertaintyMm = double.IsFinite(m.HalfWidth) ? Math.Round(m.HalfWidth, 3) : null,
            SpreadPercent = Math.Round(spread, 2),
            NewStepsPerMm = r.StepsPerMm is null ? null : value,
            NewRotationDistanceMm = r.StepsPerMm is null ? value : null,
            NewUncertainty = uncertainty,
            Commands = unsteady
                ? []
                : Commands(r.Dialect, r.StepsPerMm is null ? null : within ? tried : value, r.StepsPerMm is null ? within ? tried : value : null),
            Arithmetic = arithmetic,
            Advised = !unsteady,
        };
        return verdict;
    }

    /// <summary>The three ways to make a value last, and what each overwrites.</summary>
    public static IReadOnlyList<FeedCommand> Commands(string dialectKey, double? stepsPerMm, double? rotationDistanceMm)
    {
        var dialect = Dialect.Of(dialectKey);
        if (dialect.StepsPerMm is { } steps && stepsPerMm is { } n)
        {
            return
            [
                new("until-restart", steps(n), "Holds until the printer restarts; nothing else changes."),
                new(
                    "store", $"{steps(n)}\n{dialect.Store}",
                    $"{dialect.Store} stores every other value that is set now too, tried ones among them, over what was stored before. Note bed mesh and " +
                        $"nozzle offset first."
                ),
                new(
                    "start-code", $"{steps(n)} ; extruder feed",
                    "A line in the start code sets it before each print; it beats the stored value, so a later change there has no effect until this line goes."
                ),
            ];
        }

        if (dialect.RotationDistance is { } distance && rotationDistanceMm is { } mm)
        {
            return
            [
                new("until-restart", distance(mm), "Holds until the printer restarts; nothing else changes."),
                new(
                    "store", string.Create(System.Globalization.CultureInfo.InvariantCulture, $"rotation_distance: {mm:0.###}"),
                    "Goes into the extruder's part of the configuration file, in place of the line that stands there; the printer restarts to read it, and " +
                        "what was set but not saved (mesh, offset) is gone. Note bed mesh and nozzle offset first."
                ),
                new(
                    "start-code", $"{distance(mm)} ; extruder feed",
                    "A line in the start code sets it before each print; it beats the file, so a later change there has no effect until this line goes."),
            ];
        }

        return
        [
            new(
                "by-hand", stepsPerMm is { } s ? $"{Say.N(s)} steps per mm" : $"rotation distance {Say.N(rotationDistanceMm ?? 0, 3)} mm",
                $"This printer's dialect ({dialect.Label}) takes the other form of the value: enter it there, note bed mesh and nozzle offset first."),
        ];
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
