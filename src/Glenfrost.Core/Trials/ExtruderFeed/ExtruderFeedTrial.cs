using System.Text.Json;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.ExtruderFeed;

/// <summary>Extruder feed: how much filament the printer moves for each mm that it is told to.</summary>
public sealed class ExtruderFeedTrial : Trial<FeedRequest, FeedPlan, FeedVerdict>
{
    /// <summary>Its kind.</summary>
    public const string Word = "extruder-feed";

    /// <summary>What was left to the mark, mm.</summary>
    public const string Remaining = "remainingMm";

    /// <summary>Whether the mark went in.</summary>
    public const string Mark = "mark";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Extruder feed";

    /// <inheritdoc/>
    public override string Noun => "feed";

    /// <inheritdoc/>
    public override string PageFolder => "ExtruderFeed";

    /// <inheritdoc/>
    public override TrialSubject Subject => TrialSubject.Toolhead;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => [];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["feed"];

    /// <inheritdoc/>
    protected override IEnumerable<string> SetAside(FeedPlan plan) => ["stepsPerMm", "rotationDistanceMm", "markMm", "feed"];

    /// <inheritdoc/>
    public override string Purpose =>
        "How much filament comes for each mm asked. A feed error shows up as a false flow on every material, so it comes first, once per toolhead.";

    private const string TheValue = "The value that is tried", Measured = "How it is measured";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanField> Declare() =>
    [
        Number(
            r => r.StepsPerMm, FeedFields.Steps.Name, "", FeedFields.Steps.Min, FeedFields.Steps.Max, FeedFields.Steps.Why, "Where the printer counts steps.",
            TheValue, false),
        Number(
            r => r.RotationDistanceMm, FeedFields.Rotation.Name, "mm", FeedFields.Rotation.Min, FeedFields.Rotation.Max, FeedFields.Rotation.Why,
            "Where it counts what a turn feeds. One of the two.", TheValue, false),
        Tick(r => r.Check, "A check of a value just found", "", TheValue),
        Number(r => r.MarkMm, "Mark above the entry", "mm", 20, 500, "it must stay in sight while it feeds", "So far that it stays in sight.", Measured),
        Number(r => r.CommandedMm, "Feed", "mm", 20, 400, "less can't be measured, more wastes filament", "What the printer is told.", Measured),
        Number(
            r => r.Repeats, "Repeats", "", 1, 9, "three tell slip from a wrong value", "Three at the same value.", Measured, whole: true),
        Number(r => r.NozzleTemperatureC, "Nozzle", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works", "", Measured),
        Number(
            r => r.FeedMmPerMin, "Feed speed", "mm/min", 20, 300, "60 to 100 is slow enough that nothing slips",
            "60 to 100: slow enough that nothing slips.", Measured),
        Number(r => r.PrimeMm, "Prime before", "mm", 0, 50, "some mm take up the slack", "Takes up the slack.", Measured, false),
        Number(
            r => r.ResolutionMm, "Ruler and marker", "mm", 0.05m, 5, "0.5 for a ruler and a pen", "Smallest step that you can tell.", Measured, false),
        Number(r => r.ToleranceMm, "Tolerance", "mm", 0.05m, 20, "0.5 for each 100 is usual", "Empty: 0.5 for each 100.", Measured, false),
    ];

    /// <inheritdoc/>
    protected override string HelpOf(string field, PlanContext context) => field switch
    {
        "stepsPerMm" when context.StepsPerMm is { } n => $"{Say.N(n)} stands on this toolhead.",
        "rotationDistanceMm" when context.RotationDistanceMm is { } mm => $"{Say.N(mm, 3)} mm stands on this toolhead.",
        "nozzleTemperatureC" when context.Machine?.Limits is { } l =>
            $"As when printing what is loaded. {Say.N(l.MinC)} to {Say.N(l.MaxC)} °C here ({l.MaxBecause}).",
        _ => base.HelpOf(field, context),
    };

    /// <inheritdoc/>
    protected override FeedRequest Proposal(PlanContext c) => new()
    {
        StepsPerMm = (decimal?)c.StepsPerMm,
        RotationDistanceMm = c.StepsPerMm is null ? (decimal?)c.RotationDistanceMm : null,
        NozzleTemperatureC = (decimal)Math.Round(c.NozzleC),
    };

    /// <inheritdoc/>
    protected override FeedRequest RequestOf(FeedPlan plan) => plan.Request;

    /// <inheritdoc/>
    public override Planned<FeedPlan> Plan(FeedRequest r, PlanContext c)
    {
        var errors = new List<FieldError>();
        if (r.StepsPerMm is null && r.RotationDistanceMm is null)
            errors.Add(
                new(
                    "stepsPerMm", "Type the value that stands on the printer now: steps per mm, or the rotation distance. The printer's settings report has it."
                ));
        if (r.StepsPerMm is not null && r.RotationDistanceMm is not null)
            errors.Add(new("rotationDistanceMm", "A printer counts one of the two: steps per mm or a rotation distance. Empty the other."));
        if (r.MarkMm < r.CommandedMm + 10)
        {
            var mark = Math.Ceiling((r.CommandedMm + 20) / 10) * 10;
            errors.Add(
                new(
                    "markMm",
                    $"A mark at {Say.N(r.MarkMm)} mm goes in when {Say.N(r.CommandedMm)} mm are fed a little too far. {Say.N(mark)} mm would be right.",
                    [new($"mark at {Say.N(mark)} mm", new Dictionary<string, decimal> { ["markMm"] = mark })]));
        }

        if (c.Machine is { } m)
        {
            if ((double)r.NozzleTemperatureC > m.Limits.MaxC)
                errors.Add(
                    new(
                        "nozzleTemperatureC",
                        $"{Say.N(r.NozzleTemperatureC)} °C is above this machine's limit of {Say.N(m.Limits.MaxC)} °C ({m.Limits.MaxBecause})."));
            if ((double)r.NozzleTemperatureC < m.Limits.MinC)
                errors.Add(
                    new(
                        "nozzleTemperatureC",
                        $"{Say.N(r.NozzleTemperatureC)} °C is below the cold-extrusion limit of {Say.N(m.Limits.MinC)} °C: the printer would refuse to " +
                            $"feed, or the gear would grind the filament."
                    ));
        }

        if (errors.Count > 0)
            return errors;
        var warnings = new List<PlanWarning>();
        if (FlowOverride.In(c.Machine) is { } left)
            warnings.Add(new(PlanWarningKind.OverrideInStart, [left], [c.Machine!.Name]));
        if (c.AdvisedC is { Min: { } low } && (double)r.NozzleTemperatureC < low)
            warnings.Add(new(PlanWarningKind.FeedBelowAdvised, (double)r.NozzleTemperatureC, low));
        if (r.FeedMmPerMin > 100)
            warnings.Add(new(PlanWarningKind.FastFeed, (double)r.FeedMmPerMin));
        if (r.Repeats < 3 && !r.Check)
            warnings.Add(new(PlanWarningKind.FewRepeats));
        return new FeedPlan { Request = r, Standing = (decimal?)(r.StepsPerMm is null ? c.RotationDistanceMm : c.StepsPerMm), Warnings = warnings };
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(FeedPlan plan)
    {
        var r = plan.Request;
        return new(
            [.. Enumerable.Range(0, (int)r.Repeats).Select(i => new GridRow(i, $"Repeat {i + 1}"))],
            [
                new(Remaining, "Left to the mark, mm", CellKind.Number)
                {
                    // More than the mark would have been pushed out.
                    Quantity = new("Left to the mark", "mm", 0, r.MarkMm, "between the entry and the mark as it was set"),
                    Resolution = (double)r.ResolutionMm, Digits = 2,
                    Plausible = ((double)(r.MarkMm - r.CommandedMm * 1.2m), (double)(r.MarkMm - r.CommandedMm * 0.8m)),
                },
                new(Mark, "The mark", CellKind.Word, false) { Words = ["in sight", WentIn] },
            ])
        { RowHead = "Repeat" };
    }

    private const string WentIn = "went in";

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    public override IReadOnlyList<string> Cautions =>
        [
            "Stand by while it feeds; stop at grinding or clicking.",
            "Driver current is the last thing to touch: mains off and discharged first; a live adjustment only by someone qualified, with an insulated tool.",
        ];

    /// <inheritdoc/>
    public override (PlanValues? Values, string Said) ReadReport(string text, PlanContext c)
    {
        var report = SettingsReport.Read(text, c.Machine?.Tool ?? 0);
        return report.StepsPerMm is { } steps ? (new PlanValues { ["stepsPerMm"] = (decimal)steps }, $"The report says {Say.N(steps)} steps per mm.")
            : report.RotationDistanceMm is { } mm
                ? (new PlanValues { ["rotationDistanceMm"] = (decimal)mm }, $"The file says a rotation distance of {Say.N(mm, 4)} mm.")
            : (
                null,
                "No steps per mm and no rotation distance were found in it: a line like M92 X80.00 Y80.00 Z400.00 E93.00, or rotation_distance: 7.71, " +
                    "would be right."
            );
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Remaining or Mark;

    /// <summary>Repeats of which something was said.</summary>
    private static IEnumerable<int> Said(FeedPlan plan, RunReadings readings) =>
        Enumerable.Range(0, (int)plan.Request.Repeats).Where(i => readings.Value(i, Remaining) is not null || readings.Text(i, Mark) == WentIn);

    /// <inheritdoc/>
    public override FeedVerdict Judge(FeedPlan plan, RunReadings readings, JudgeContext c)
    {
        var r = plan.Request;
        var input = new FeedReadings
        {
            StepsPerMm = (double?)r.StepsPerMm,
            RotationDistanceMm = (double?)r.RotationDistanceMm,
            CommandedMm = (double)r.CommandedMm,
            ResolutionMm = readings.Resolution([Remaining], (double)r.ResolutionMm),
            ToleranceMm = (double?)r.ToleranceMm,
            Dialect = c.Dialect,
            Readings =
            [
                .. Said(plan, readings).Select(i =>
                    readings.Text(i, Mark) == WentIn ? new FeedReading((double)r.MarkMm, null, null, true)
                    : new((double)r.MarkMm, readings.Value(i, Remaining))),
            ],
        };
        return FeedJudging.Check(input) is [var refusal, ..] ? new() { From = input, Refusal = refusal, Advised = false } : FeedJudging.Judge(input);
    }

    /// <inheritdoc/>
    protected override SettingValue? MachineValue(FeedPlan plan, FeedVerdict verdict) =>
        verdict.Outcome != FeedOutcome.WithinTolerance || verdict.DeliveredMm.Count(d => d is not null) < (plan.Request.Check ? 1 : 2) ? null
        : plan.Request.StepsPerMm is { } steps ? new("stepsPerMm", (double)steps, 0)
        : new("rotationDistanceMm", (double)plan.Request.RotationDistanceMm!.Value, 0);

    /// <inheritdoc/>
    public override IEnumerable<(int Section, string Aspect)> Waiting(ITrialPlan plan, RunReadings readings) =>
        base.Waiting(plan, readings).Where(c => readings.Text(c.Section, Mark) != WentIn);

    /// <inheritdoc/>
    protected override string Extent(FeedPlan plan) => Say.Plural((int)plan.Request.Repeats, "repeat");

    /// <inheritdoc/>
    protected override IReadOnlyDictionary<int, string> RowNotes(FeedPlan plan, RunReadings readings)
    {
        var mark = (double)plan.Request.MarkMm;
        return Said(plan, readings).ToDictionary(
            i => i,
            i => readings.Text(i, Mark) == WentIn ? $"more than {Say.N(mark)} mm" : $"{Say.N(mark - readings.Value(i, Remaining)!.Value)} mm delivered");
    }

    /// <inheritdoc/>
    protected override TrialChart? Chart(FeedPlan plan, FeedVerdict v)
    {
        var r = plan.Request;
        var points = v.DeliveredMm.Select((d, i) => (d, i)).Where(x => x.d is not null)
            .Select(x => new ChartPoint(x.i + 1, x.d!.Value, x.d - (double)r.ResolutionMm / 2, x.d + (double)r.ResolutionMm / 2)).ToList();
        var tolerance = (double)(r.ToleranceMm ?? 0.5m * r.CommandedMm / 100);
        return points.Count == 0
            ? null
            : new("Repeat", "Delivered, mm", points)
            {
                Good = ((double)r.CommandedMm - tolerance, (double)r.CommandedMm + tolerance), WholeX = true,
                Summary = $"Delivered lengths of {Say.Plural(points.Count, "repeat")}; the band is what counts as right.",
            };
    }

    /// <inheritdoc/>
    protected override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(FeedPlan plan, PlanContext context) =>
        (Lines(plan, context.Machine!), []);

    /// <summary>The file for a machine.</summary>
    public static IReadOnlyList<string> Lines(FeedPlan p, Machine m)
    {
        var r = p.Request;
        var dialect = Dialect.Of(m.Dialect);
        var lines = new List<string>
        {
            $"; extruder feed, {m.Name}: run it once for each of the {Say.N(r.Repeats, 3)} repeats",
            $"; mark the filament {Say.N(r.MarkMm, 3)} mm above the entry when it waits, then measure what is left to the mark",
            $"; limits: nozzle {Say.N(m.Limits.MinC, 4)} to {Say.N(m.Limits.MaxC, 4)} C",
            "; nozzle burns, hot plastic gives off fumes: ventilate and stand by; stop at grinding or clicking",
        };
        if (m.Tools > 1)
            lines.Add($"T{m.Tool}");
        if (p.SetsValue && r.StepsPerMm is { } steps && dialect.StepsPerMm is { } set)
            lines.Add($"{set((double)steps)} ; tried, until restart");
        if (p.SetsValue && r.RotationDistanceMm is { } distance && dialect.RotationDistance is { } turn)
            lines.Add($"{turn((double)distance)} ; tried, until restart");
        lines.AddRange(
        [
            $"M104 S{Say.N(r.NozzleTemperatureC, 3)}",
            "G28",
            "G90",
            $"G0 Z{Say.N(Math.Min(60, Math.Floor(m.HeightMm / 2)), 4)} F600 ; room for what comes out",
            $"M109 S{Say.N(r.NozzleTemperatureC, 3)}",
            "M83",
            "G92 E0",
        ]);
        lines.Add("M221 S100 ; what an earlier file left over is not measured");
        if (r.PrimeMm > 0)
            lines.Add($"G1 E{Say.N(r.PrimeMm, 3)} F{Say.N(r.FeedMmPerMin, 3)} ; takes up the slack");
        lines.AddRange(
        [
            "M400",
            $"; now mark the filament {Say.N(r.MarkMm, 3)} mm above the entry",
            dialect.Dwell(30),
            $"G1 E{Say.N(r.CommandedMm, 3)} F{Say.N(r.FeedMmPerMin, 3)} ; measured",
            "M400",
            "; now measure what is left to the mark",
            dialect.Dwell(2),
            "M104 S0",
        ]);
        return lines;
    }

    /// <inheritdoc/>
    protected override Type EvaluateBody => typeof(FeedReadings);

    /// <inheritdoc/>
    protected override FeedVerdict? Answer(JsonFields json)
    {
        var readings = new FeedReadings
        {
            StepsPerMm = (double?)json.Number("stepsPerMm"),
            RotationDistanceMm = (double?)json.Number("rotationDistanceMm"),
            CommandedMm = (double)(json.Number("commandedMm") ?? 100),
            ResolutionMm = (double)(json.Number("resolutionMm") ?? 0.5m),
            ToleranceMm = (double?)json.Number("toleranceMm"),
            Dialect = json.Word("dialect", [.. Dialect.All.Select(d => d.Key)]) ?? "m900",
            Readings =
            [
                .. (json.List("readings", true) ?? []).Select(x => new FeedReading(
                    (double)(x.Number("markMm") ?? 120), (double?)x.Number("remainingMm"), (double?)(x.Number("stepsPerMm") ?? x.Number("rotationDistanceMm")),
                    x.Flag("markGone"))),
            ],
        };
        if (json.Errors.Count == 0)
            json.Take(FeedJudging.Check(readings));
        return json.Errors.Count > 0 ? null : FeedJudging.Judge(readings);
    }

    /// <inheritdoc/>
    public override string PlanExample => """{"stepsPerMm": 93}""";

    /// <inheritdoc/>
    public override string Example =>
        """{"stepsPerMm": 93, "commandedMm": 100, "readings": [{"markMm": 120, "remainingMm": 23}, {"markMm": 120, "remainingMm": 23.5},""" +
            """ {"markMm": 120, "remainingMm": 23}]}""";
}
