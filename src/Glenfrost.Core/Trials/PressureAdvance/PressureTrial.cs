using Glenfrost.Core.Statistics;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.PressureAdvance;

/// <summary>Readings of numbered lines or corners.</summary>
public sealed record PressureReadings
{
    /// <summary>Factor of the first one, s.</summary>
    public double StartK { get; init; }

    /// <summary>Step, s.</summary>
    public double StepK { get; init; } = 0.01;

    /// <summary>How many.</summary>
    public int Count { get; init; }

    /// <summary>The best one, from 0, halves allowed; null where scores are given.</summary>
    public double? Best { get; init; }

    /// <summary>Scores 0–4 of each; null where one was not scored. Empty where the best is given.</summary>
    public IReadOnlyList<double?> Scores { get; init; } = [];

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = 0.5;

    /// <summary>direct or long-tube; null where nobody said.</summary>
    public string? Drive { get; init; }

    /// <summary>What it was found at; it belongs to it.</summary>
    public FoundAt? FoundAt { get; init; }
}

/// <summary>What a factor was found at.</summary>
/// <param name="NozzleTemperatureC">°C.</param>
/// <param name="SlowMmPerS">Slow speed, mm/s.</param>
/// <param name="FastMmPerS">Fast speed, mm/s.</param>
/// <param name="AccelerationMmPerS2">mm/s².</param>
public sealed record FoundAt(double NozzleTemperatureC, double SlowMmPerS, double FastMmPerS, double AccelerationMmPerS2);

/// <summary>Numbered lines that would tell finer.</summary>
public sealed record KRange(double StartK, double StepK, int Count);

/// <summary>How a factor is set.</summary>
/// <param name="Dialect">Key of the dialect.</param>
/// <param name="Command">Line of G-code.</param>
public sealed record KCommand(string Dialect, string Command);

/// <summary>The verdict on pressure advance: clear, edge, finer, noise or insufficient.</summary>
public sealed record PressureVerdict : TrialVerdict
{
    /// <summary>Factor, s; null where none is proposed.</summary>
    public double? K { get; init; }

    /// <summary>Half of its interval, s.</summary>
    public double? UncertaintyK { get; init; }

    /// <summary>The next range; null where nothing is left to tell.</summary>
    public KRange? NextRange { get; init; }

    /// <summary>Commands for each dialect.</summary>
    public IReadOnlyList<KCommand> Commands { get; init; } = [];

    /// <summary>What it was found at; null where nobody said.</summary>
    public FoundAt? FoundAt { get; init; }

    /// <summary>Factors, s, and scores; empty where the best was named.</summary>
    public IReadOnlyList<double> Ks { get; init; } = [];

    /// <summary>Score of each; null where one was not scored.</summary>
    public IReadOnlyList<double?> Scores { get; init; } = [];
}

/// <summary>Pressure advance: k = start + best × step.</summary>
public static class PressureJudging
{
    /// <summary>A step finer than this share of K tells nothing more by eye.</summary>
    public const double FineShare = 0.1;

    /// <summary>A step finer than this tells nothing more by eye, s.</summary>
    public const double FineK = 0.002;

    /// <summary>A line that was read below this is not offered, scores.</summary>
    public const double Usable = 2;

    /// <summary>Losing more than this in 1 of 20 leaves the choice open, scores.</summary>
    public const double Open = 1;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(PressureReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.StartK is >= 0 and <= 3))
            errors.Add(new("startK", $"{Say.N(r.StartK, 4)} is no factor: 0 to 3 s would be right; below 0.2 for a direct drive."));
        if (!(r.StepK is > 0 and <= 1))
            errors.Add(new("stepK", $"{Say.N(r.StepK, 4)} is no step: above 0 to 1 s would be right."));
        if (r.Count is < 3 or > 60)
            errors.Add(new("count", $"{r.Count} can't show a best: 3 to 60 would be right."));
        if (r.Best is null == (r.Scores.Count == 0))
            errors.Add(new("best", "The best one, or scores of all: one of best and scores would be right."));
        if (r.Best is { } b && (!(b >= 0 && b <= r.Count - 1) || Math.Abs(b * 2 - Math.Round(b * 2)) > 1e-9))
            errors.Add(new("best", $"{Say.N(b)} is none of them: 0 to {r.Count - 1}, halves where it lies between two."));
        if (r.Scores.Count > 0 && r.Scores.Count != r.Count)
            errors.Add(new("scores", $"{r.Scores.Count} scores for {r.Count}: one each would be right, null where one is missing."));
        if (r.Scores.Any(s => s is { } v && !(v is >= 0 and <= 4)))
            errors.Add(new("scores", "A score is 0 (unusable) to 4 (clean)."));
        if (!(r.ScoreNoise is > 0 and <= 2))
            errors.Add(new("scoreNoise", $"{Say.N(r.ScoreNoise)} is outside 0 to 2 scores; 0.5 is usual."));
        return errors;
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static PressureVerdict Judge(PressureReadings r)
    {
        var ks = Enumerable.Range(0, r.Count).Select(i => Math.Round(r.StartK + i * r.StepK, 6)).ToList();
        double best, half;
        string word, why;
        ScoreLoss? loss = null;
        double? gain = null;
        if (r.Best is { } named)
        {
            (best, half) = (named, r.StepK / (named == Math.Floor(named) ? 2 : 4));
            word = named <= 0 && r.StartK > 1e-9 || named >= r.Count - 1 ? "edge" : "clear";
            why =
                named == Math.Floor(named)
                    ? $"Number {Say.N(named)} reads best."
                    : $"It lies between {Say.N(Math.Floor(named))} and {Say.N(Math.Ceiling(named))}.";
        }
        else
        {
            var read = ks.Select((k, i) => (K: k, Index: i, Score: r.Scores[i])).Where(x => x.Score is not null).ToList();
            var usable = read.Where(x => x.Score >= Usable).ToList();
            if (read.Count < 3 || usable.Count == 0)
                return new()
                {
                    Verdict = "insufficient", Sentence =
                        r.Scores.Count(s => s is not null) < 3
                            ? $"{Say.Plural(r.Scores.Count(s => s is not null), "score")}: three are the least."
                            : "None of them reads as usable (2 of 4 or more): look at flow and retraction first, or at another range.",
                    Ks = ks, Scores = r.Scores, Advised = false,
                };
            // On lines and half way between them. What was read as unusable is not offered, whatever its neighbours say: the nearest that can be used is.
            double Take(double x)
            {
                var number = Math.Round((x - r.StartK) / r.StepK * 2) / 2;
                var nearest = read.MinBy(y => Math.Abs(y.Index - number));
                return r.StartK + r.StepK * (nearest.Score < Usable ? usable.MinBy(y => Math.Abs(y.Index - number)).Index : number);
            }

            var peak = ScorePeak.Of([.. read.Select(x => (x.K, x.Score!.Value))], r.StepK, r.ScoreNoise, Take);
            best = Math.Round((peak.At - r.StartK) / r.StepK * 2) / 2;
            (half, loss, gain) = (Math.Max(peak.HalfWidth, r.StepK / 4), peak.Loss, peak.Gain);
            // An end is no best while the row may go on there.
            word = best <= 0.5 && r.StartK > 1e-9 || best >= r.Count - 1.5 ? "edge" : loss.P95 > Open ? "noise" : "clear";
            why = $"By {Say.Plural(read.Count, "score")} it is best at number {Say.N(best, 1)}, ± {Say.N(half / r.StepK, 1)}. By that at most " +
                $"{Say.N(loss.P95, 1)} of a score is lost against the best (19 in 20), {Say.N(loss.Expected)} on the average.";
        }

        var digits = Settings.SettingDefinition.Supported(half);
        half = Math.Round(half, digits, MidpointRounding.AwayFromZero);
        var k = Math.Round(r.StartK + best * r.StepK, Math.Max(4, digits));
        if (word == "clear" && r.StepK > FineK + 1e-9 && r.StepK > FineShare * k + 1e-9)
            word = "finer";
        var fine = Math.Max(FineK / 2, Math.Round(r.StepK / 5, 4));
        KRange? next = word switch
        {
            "edge" => best <= 0.5
                ? new(Math.Round(Math.Max(0, k - (r.Count - 2) * r.StepK), 4), r.StepK, r.Count)
                : new(Math.Round(Math.Max(0, k - r.StepK), 4), r.StepK, r.Count),
            "finer" => new(Math.Round(Math.Max(0, k - 5 * fine), 4), fine, 11),
            "noise" => new(Math.Round(Math.Max(0, k - 5 * Math.Max(fine, r.StepK / 2)), 4), Math.Max(fine, Math.Round(r.StepK / 2, 4)), 11),
            _ => null,
        };
        var at = r.FoundAt is { } f
            ? $" at {Say.N(f.NozzleTemperatureC)} °C, {Say.N(f.SlowMmPerS)} to {Say.N(f.FastMmPerS)} mm/s, {Say.N(f.AccelerationMmPerS2)} mm/s²"
            : "";
        return new()
        {
            Verdict = word,
            Sentence = word switch
            {
                "edge" => $"{Say.N(k, 4)} s reads best, and is the end of the row: the best may lie beyond.",
                "finer" => $"{Say.N(k, 4)} s ± {Say.N(half, 4)} on a coarse row: a finer one tells closer.",
                "noise" => $"{Say.N(k, 4)} s, but places far apart read alike.",
                _ => $"{Say.N(k, 4)} s ± {Say.N(half, 4)}{at}.",
            },
            Reasons = [why, "It belongs to its temperature, speeds and acceleration: another tube, nozzle or gear asks for another one."],
            Warnings =
                k > 0.25 && r.Drive != "long-tube" ? ["Above 0.25 s is a long tube's factor. On a direct drive look at the unit, and at the dialect."] : [],
            Next = next is null
                ? null
                : new(
                    word == "noise" ? "print" : word, word switch
                    {
                        "edge" => $"A row from {Say.N(next.StartK, 4)} by {Say.N(next.StepK, 4)}.",
                        _ => $"A finer row from {Say.N(next.StartK, 4)} by {Say.N(next.StepK, 4)}, {next.Count} of them." +
                            (gain is { } more ? $" It would gain about {Say.N(more)} of a score." : ""),
                    },
                    PressureTrial.Word,
                    new Dictionary<string, decimal> { ["startK"] = (decimal)next.StartK, ["stepK"] = (decimal)next.StepK, ["count"] = next.Count })
                { Gain = gain is { } g ? Math.Round(g, 3) : null },
            Loss = loss is null ? null : new(Math.Round(loss.Expected, 3), Math.Round(loss.P95, 3)),
            K = k,
            UncertaintyK = half,
            NextRange = next,
            Commands = [.. Dialect.All.Select(d => new KCommand(d.Key, d.PressureAdvance(k)))],
            FoundAt = r.FoundAt,
            Ks = ks,
            Scores = r.Scores,
            Settings = [new("pressureAdvance", k, half)],
            Advised = word is "clear" or "finer",
            Arithmetic =
            [
                $"k = {Say.N(r.StartK, 4)} + {Say.N(best, 2)} × {Say.N(r.StepK, 4)} = {Say.N(k, 4)} s",
                .. Dialect.All.Select(d => $"{d.Label.Split(',')[0]}: {d.PressureAdvance(k)}"),
            ],
        };
    }
}

/// <summary>What a tester asks of a row. Lengths in mm, speeds in mm/s, factors in s.</summary>
public sealed record PressureRequest
{
    /// <summary>lines or corners.</summary>
    public string Mode { get; init; } = PressureTrial.Lines1;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Factor of the first one.</summary>
    public decimal StartK { get; init; }

    /// <summary>Step.</summary>
    public decimal StepK { get; init; } = 0.005m;

    /// <summary>How many.</summary>
    public decimal Count { get; init; } = 17;

    /// <summary>Slow speed.</summary>
    public decimal SlowMmPerS { get; init; } = 20;

    /// <summary>Fast speed.</summary>
    public decimal FastMmPerS { get; init; } = 80;

    /// <summary>Acceleration, mm/s².</summary>
    public decimal AccelerationMmPerS2 { get; init; } = 1000;

    /// <summary>Length of a line, or of a corner's legs.</summary>
    public decimal LineMm { get; init; } = 80;

    /// <summary>Distance between neighbours.</summary>
    public decimal SpacingMm { get; init; } = 5;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Layers; more than one make corners stand.</summary>
    public decimal Layers { get; init; } = 1;

    /// <summary>best or scores: what is waited for.</summary>
    public string ReadBy { get; init; } = "best";
}

/// <summary>A row that can be printed. Version 1 of the stored plan: fields are only added.</summary>
public sealed record PressurePlanV1 : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required PressureRequest Request { get; init; }

    /// <summary>Factors in the order of the row, s.</summary>
    public required IReadOnlyList<decimal> Ks { get; init; }

    /// <summary>direct or long-tube; null where nobody said.</summary>
    public string? Drive { get; init; }

    /// <summary>Dialect that it is written in.</summary>
    public string Dialect { get; init; } = "m900";

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        Request.ReadBy == "scores"
            ? [.. Ks.Select((_, i) => new PlanPart(i, $"number {i}", NozzleC: NozzleC))]
            : [new PlanPart(0, "the row", NozzleC: NozzleC)];

    /// <inheritdoc/>
    protected override string InWords =>
        $"numbered, K {Say.N(Ks[0], 4)} to {Say.N(Ks[^1], 4)} by {Say.N(Request.StepK, 4)}, {Say.N(Request.SlowMmPerS)} to {Say.N(Request.FastMmPerS)} " +
            $"mm/s at {Say.N(Request.AccelerationMmPerS2)} mm/s², {Say.N(Request.NozzleTemperatureC)} °C";

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => (int)Request.Layers;

    /// <summary>What a factor of it is found at.</summary>
    internal FoundAt FoundAt =>
        new((double)Request.NozzleTemperatureC, (double)Request.SlowMmPerS, (double)Request.FastMmPerS, (double)Request.AccelerationMmPerS2);
}

/// <summary>Pressure advance from numbered lines or corners, one factor each.</summary>
public sealed class PressureTrial : Trial
{
    /// <summary>Its kind.</summary>
    public const string Word = "pressure-advance";

    /// <summary>Lines slow, fast, slow.</summary>
    public const string Lines1 = "lines";

    /// <summary>Corners.</summary>
    public const string Corners = "corners";

    /// <summary>Score of one.</summary>
    public const string Score = "even";

    /// <summary>The best one; stands at part 0.</summary>
    public const string Best = "best";

    /// <inheritdoc/>
    public override string Kind => Word;

    /// <inheritdoc/>
    public override string Name => "Pressure advance";

    /// <inheritdoc/>
    public override string Noun => "row";

    /// <inheritdoc/>
    public override string PageFolder => "PressureAdvance";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Settles => ["pressureAdvance"];

    /// <inheritdoc/>
    public override IReadOnlyList<string> Areas => ["pressure"];

    /// <inheritdoc/>
    public override IEnumerable<string> SetAside(ITrialPlan plan) => ["startK", "stepK", "count", "pressureAdvance"];

    /// <inheritdoc/>
    public override string? FoundWith(ITrialPlan plan, string key) =>
        ((PressurePlanV1)plan).Request is var r ? $"{Say.N(r.SlowMmPerS)} to {Say.N(r.FastMmPerS)} mm/s, {Say.N(r.AccelerationMmPerS2)} mm/s²" : null;

    /// <inheritdoc/>
    public override string Purpose => "Pressure advance from numbered lines that go slow, fast, slow, or from corners: the evenest one tells.";

    /// <inheritdoc/>
    public override IReadOnlyList<string> Modes => [Lines1, Corners];

    /// <inheritdoc/>
    public override IReadOnlyDictionary<string, PlanField> Fields { get; } = new Dictionary<string, PlanField>
    {
        ["nozzleTemperatureC"] = PlanField.Number("Nozzle temperature", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works"),
        ["startK"] = PlanField.Number("First factor", "s", 0, 3, "0 for a first look"),
        ["stepK"] = PlanField.Number("Step", "s", 0.0005m, 1, "0.005 for a direct drive, 0.05 for a long tube"),
        ["count"] = PlanField.Number("How many", "", 3, 60, "fewer show no best, more don't fit a bed", true, true),
        ["slowMmPerS"] = PlanField.Number("Slow", "mm/s", 5, 300, "per second, not per minute"),
        ["fastMmPerS"] = PlanField.Number("Fast", "mm/s", 10, 1000, "as fast as you print"),
        ["accelerationMmPerS2"] = PlanField.Number("Acceleration", "mm/s²", 100, 50000, "as you print"),
        ["lineMm"] = PlanField.Number("Length", "mm", 20, 300, "long enough to be fast in the middle"),
        ["spacingMm"] = PlanField.Number("Between neighbours", "mm", 3, 20, "closer can't be told apart"),
        ["layerHeightMm"] = PlanField.Number("Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays"),
        ["layers"] = PlanField.Number("Layers", "", 1, 10, "corners show better on three", true, true),
        ["readBy"] = PlanField.OneOf("best", "scores"),
    };

    /// <inheritdoc/>
    public override PlanValues InMode(string mode, PlanValues values, PlanContext context)
    {
        var copy = base.InMode(mode, values, context);
        (copy["lineMm"], copy["spacingMm"], copy["layers"]) = mode == Corners ? (30m, 6m, 3m) : (80m, 5m, 1m);
        if (context.Machine is { } m)
            copy["lineMm"] = Math.Min((decimal)copy["lineMm"], (decimal)Math.Floor(m.BedXMm - 60));
        return copy;
    }

    /// <inheritdoc/>
    public override PlanValues Propose(PlanContext c)
    {
        var tube = c.Machine?.LongTube == true;
        var fast = (decimal)
            Math.Floor(
                Math.Min(c.Machine?.MaxSpeedMmPerS ?? 120, Math.Min(120, (c.Settings?.MaxFlowMm3PerS ?? 8) / ((c.Settings?.LineWidthMm ?? 0.44) * 0.2))));
        return PlanValues.Of(
            new PressureRequest
            {
                NozzleTemperatureC = (decimal)Math.Round(c.NozzleC), StepK = tube ? 0.06m : 0.005m, FastMmPerS = Math.Max(30, fast),
                AccelerationMmPerS2 = (decimal)Math.Min(1500, c.Machine?.MaxAccelerationMmPerS2 ?? 1000),
                LayerHeightMm = (decimal)Math.Round((c.Machine?.NozzleDiameterMm ?? 0.4) / 2, 2),
            });
    }

    /// <inheritdoc/>
    public override PlanValues ValuesOf(ITrialPlan plan) => PlanValues.Of(((PressurePlanV1)plan).Request);

    /// <inheritdoc/>
    public override PlanResult Plan(PlanValues values, PlanContext c)
    {
        var r = values.To<PressureRequest>();
        var errors = new List<FieldError>();
        PieceFields.Check(errors, c, r.NozzleTemperatureC, r.LayerHeightMm, null);
        if (r.FastMmPerS < 2 * r.SlowMmPerS)
            errors.Add(
                new(
                    "fastMmPerS",
                    $"{Say.N(r.FastMmPerS)} mm/s is less than twice the slow {Say.N(r.SlowMmPerS)}: the change must be plain. {Say.N(4 * r.SlowMmPerS)} " +
                        $"would be right.",
                    [new($"{Say.N(4 * r.SlowMmPerS)} mm/s", new Dictionary<string, decimal> { ["fastMmPerS"] = 4 * r.SlowMmPerS })]));
        if (r.StartK + (r.Count - 1) * r.StepK > 3)
            errors.Add(new("stepK", $"The last one would be {Say.N(r.StartK + (r.Count - 1) * r.StepK, 3)} s: above 3 the unit is another one."));
        if (c.Machine is { } m)
        {
            if ((double)r.FastMmPerS > m.MaxSpeedMmPerS)
                errors.Add(
                    new(
                        "fastMmPerS", $"{m.Name} runs at most at {Say.N(m.MaxSpeedMmPerS)} mm/s.",
                        [new($"{Say.N(m.MaxSpeedMmPerS)} mm/s", new Dictionary<string, decimal> { ["fastMmPerS"] = (decimal)m.MaxSpeedMmPerS })]));
            if ((double)r.AccelerationMmPerS2 > m.MaxAccelerationMmPerS2)
                errors.Add(
                    new(
                        "accelerationMmPerS2", $"{m.Name} accelerates at most with {Say.N(m.MaxAccelerationMmPerS2)} mm/s².",
                        [
                            new(
                                $"{Say.N(m.MaxAccelerationMmPerS2)} mm/s²",
                                new Dictionary<string, decimal> { ["accelerationMmPerS2"] = (decimal)m.MaxAccelerationMmPerS2 }),
                        ]));
            var (w, d) = Size(r);
            if (w + 12 > m.BedXMm)
                errors.Add(
                    new(
                        "lineMm", $"The row is {Say.N(w, 0)} mm wide with its numbers; {m.Name} has {Say.N(m.BedXMm)} mm.",
                        [
                            new(
                                $"{Say.N(Math.Floor((double)r.LineMm - (w + 12 - m.BedXMm)))} mm",
                                new Dictionary<string, decimal> { ["lineMm"] = (decimal)Math.Floor((double)r.LineMm - (w + 12 - m.BedXMm)) }),
                        ]));
            if (d + 20 > m.BedYMm)
            {
                var fits = Math.Floor((m.BedYMm - 20 - (d - (double)(r.Count * r.SpacingMm))) / (double)r.SpacingMm);
                errors.Add(
                    new(
                        "count", $"{Say.N(r.Count)} of them are {Say.N(d, 0)} mm deep; {m.Name} has {Say.N(m.BedYMm)} mm. {Say.N(fits)} would fit.",
                        fits >= 3 ? [new($"{Say.N(fits)} of them", new Dictionary<string, decimal> { ["count"] = (decimal)fits })] : []));
            }
        }

        if (errors.Count > 0)
            return new(null, errors);
        List<string> warnings = [.. PieceFields.Advice(c, r.NozzleTemperatureC)];
        // v² = 2·a·s on the way up and down: the middle must be reached.
        var way = 2 * ((double)(r.FastMmPerS * r.FastMmPerS) - (double)(r.SlowMmPerS * r.SlowMmPerS)) / (2 * (double)r.AccelerationMmPerS2);
        if (r.Mode == Lines1 && way > 0.8 * (double)r.LineMm / 2)
            warnings.Add(
                $"Of the {Say.N(r.LineMm / 2, 0)} mm that are fast, {Say.N(way, 0)} are speeding up and braking: a longer line or less speed shows more.");
        if (c.Settings is { } s && (double)r.FastMmPerS * s.LineWidthMm * (double)r.LayerHeightMm > s.MaxFlowMm3PerS + 1e-6)
            warnings.Add(
                $"The fast part asks {Say.N((double)r.FastMmPerS * s.LineWidthMm * (double)r.LayerHeightMm, 1)} mm³/s, more than the " +
                    $"{Say.N(s.MaxFlowMm3PerS, 1)} that stand as flow limit: a thin fast part may be starved, not lagging."
            );
        var plan = new PressurePlanV1
        {
            Request = r, Ks = [.. Enumerable.Range(0, (int)r.Count).Select(i => r.StartK + i * r.StepK)], Dialect = c.Machine?.Dialect ?? "m900",
            Drive = c.Machine is { } head
                ? head.LongTube
                    ? "long-tube"
                    : "direct"
                : null,
            Estimate = new(
                (int)Math.Ceiling((double)(r.Count * r.LineMm * r.Layers / r.SlowMmPerS) / 60 * 1.3),
                Math.Round((double)(r.Count * r.LineMm * r.Layers * r.LayerHeightMm) * 0.44 * 1.24 / 1000, 1), 0),
            Warnings = warnings,
        };
        if (c.Machine is null || c.Settings is null)
            return new(plan, []);
        var (_, estimate, wrong) = Write(plan, c);
        return wrong.Count > 0 ? new(null, wrong) : new(plan with { Estimate = estimate }, []);
    }

    private const double NumberMm = 12;

    /// <summary>Width and depth of the row with its numbers, mm.</summary>
    private static (double Width, double Depth) Size(PressureRequest r) => r.Mode == Corners
        ? ((double)r.LineMm * 1.42 + (double)r.SpacingMm * (double)(r.Count - 1) + 2 * NumberMm, (double)r.LineMm * 1.42 + NumberMm)
        : ((double)r.LineMm + NumberMm + 4, (double)(r.Count * r.SpacingMm));

    private static (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(PressurePlanV1 p, PlanContext c)
    {
        var (r, m, s) = (p.Request, c.Machine!, c.Settings! with { AccelerationMmPerS2 = (double)p.Request.AccelerationMmPerS2 });
        var h = (double)r.LayerHeightMm;
        var (f, errors) = PatternFile.Begin(
            m, s, (double)r.NozzleTemperatureC,
            [$"pressure advance, {c.Subject}", ((ITrialPlan)p).Summary, $"factors: {string.Join(", ", p.Ks.Select((k, i) => $"{i} = {Say.N(k, 4)}"))}"], h,
            h * (double)r.Layers);
        if (f is null)
            return (null, new(0, null, 0), errors);
        var area = s.SpacingMm(h) * h;
        f.Fan(0);
        f.Prime(h, area);
        var (w, d) = Size(r);
        var (x0, y0) = ((m.BedXMm - w) / 2, Math.Max(12, (m.BedYMm - d) / 2));
        var slow = (double)r.SlowMmPerS;
        for (var layer = 1; layer <= (int)r.Layers; layer++)
        {
            var z = Math.Round(layer * h, 4);
            f.Say($"layer {layer}, z {Say.N(z, 3)}");
            if (layer == 2)
                f.Fan(s.FanPercent);
            foreach (var (k, i) in p.Ks.Select((k, i) => (k, i)))
            {
                f.Line($"{f.Dialect.PressureAdvance((double)k)} ; number {i}");
                if (r.Mode == Corners)
                    Corner(f, r, x0 + i * (double)r.SpacingMm, y0, z, area);
                else
                    OneLine(f, r, x0, y0 + i * (double)r.SpacingMm, z, area);
                if (layer > 1)
                    continue;
                // Numbers are written without pressure advance of the row's last one: slow enough not to matter.
                if (r.Mode == Corners)
                {
                    if (i % 2 == 0)
                        Number(f, i, x0 + i * (double)r.SpacingMm - 1, y0 + (double)r.LineMm * 1.42 + 2, z, area, slow, s.LineWidthMm);
                }
                else
                {
                    Number(f, i, x0 + (double)r.LineMm + 4, y0 + i * (double)r.SpacingMm - 1.2, z, area, slow, s.LineWidthMm);
                }
            }
        }

        f.Line($"{f.Dialect.PressureAdvance(s.PressureAdvance ?? 0)} ; as before");
        var mass = f.FeedMm * f.FilamentAreaMm2 / 1000 * s.DensityGPerCm3;
        var lines = f.End();
        return (
            lines,
            new((int)Math.Ceiling(f.Seconds / 60), Math.Round(mass, 1), 0, true, s.PriceMinorPerKg is { } price ? Math.Round(price * mass / 1000) : null), []);
    }

    private static void OneLine(PatternFile f, PressureRequest r, double x, double y, double z, double area)
    {
        var l = (double)r.LineMm;
        f.Go(x, y, z);
        f.To(x + l / 4, y, z, area, (double)r.SlowMmPerS);
        f.To(x + 3 * l / 4, y, z, area, (double)r.FastMmPerS);
        f.To(x + l, y, z, area, (double)r.SlowMmPerS);
    }

    private static void Corner(PatternFile f, PressureRequest r, double x, double y, double z, double area)
    {
        // Two legs at a right angle: the speed breaks at the corner and rises again.
        var d = (double)r.LineMm * 0.7071;
        f.Go(x, y, z);
        f.To(x + d, y + d, z, area, (double)r.FastMmPerS);
        f.To(x, y + 2 * d, z, area, (double)r.FastMmPerS);
    }

    /// <summary>Strokes of a digit in a box of 1 by 2.</summary>
    private static readonly (double X, double Y)[][] Strokes =
    [
        [(0, 0), (1, 0), (1, 2), (0, 2), (0, 0)],
        [(0.5, 0), (0.5, 2)],
        [(0, 2), (1, 2), (1, 1), (0, 1), (0, 0), (1, 0)],
        [(0, 2), (1, 2), (1, 1), (0.2, 1), (1, 1), (1, 0), (0, 0)],
        [(0, 2), (0, 1), (1, 1), (1, 2), (1, 0)],
        [(1, 2), (0, 2), (0, 1), (1, 1), (1, 0), (0, 0)],
        [(1, 2), (0, 2), (0, 0), (1, 0), (1, 1), (0, 1)],
        [(0, 2), (1, 2), (1, 0)],
        [(0, 1), (0, 2), (1, 2), (1, 0), (0, 0), (0, 1), (1, 1)],
        [(1, 0), (1, 2), (0, 2), (0, 1), (1, 1)],
    ];

    private static void Number(PatternFile f, int n, double x, double y, double z, double area, double speed, double width)
    {
        var size = Math.Max(1.2, 3 * width);
        foreach (var digit in n.ToString(System.Globalization.CultureInfo.InvariantCulture))
        {
            var stroke = Strokes[digit - '0'];
            f.Go(x + stroke[0].X * size, y + stroke[0].Y * size, z);
            foreach (var (px, py) in stroke.Skip(1))
                f.To(x + px * size, y + py * size, z, 0.8 * area, Math.Min(speed, 20));
            x += 1.9 * size;
        }
    }

    /// <inheritdoc/>
    public override (IReadOnlyList<string>? Lines, IReadOnlyList<FieldError> Errors)? Lines(ITrialPlan plan, PlanContext context) =>
        Write((PressurePlanV1)plan, context) is var (lines, _, errors) ? (lines, errors) : null;

    /// <inheritdoc/>
    public override ITrialPlan ReadPlan(string json) => StoredPlan.Read<PressurePlanV1>(json);

    /// <inheritdoc/>
    public override string? Faults(ITrialPlan plan) =>
        ((PressurePlanV1)plan).Ks.Count is 0 or > 200 ? "plan has no lines, or more than 200" : base.Faults(plan);

    /// <inheritdoc/>
    public override string Extent(ITrialPlan plan) => $"{((PressurePlanV1)plan).Ks.Count} {((PressurePlanV1)plan).Request.Mode}";

    /// <inheritdoc/>
    public override string Basis(ITrialPlan plan)
    {
        var r = ((PressurePlanV1)plan).Request;
        return $"one row at {Say.N(r.NozzleTemperatureC)} °C, {Say.N(r.SlowMmPerS)} to {Say.N(r.FastMmPerS)} mm/s, {Say.N(r.AccelerationMmPerS2)} mm/s²";
    }

    /// <inheritdoc/>
    public override ReadingGrid Grid(ITrialPlan plan)
    {
        var p = (PressurePlanV1)plan;
        if (p.Request.ReadBy != "scores")
            return new(
                [new GridRow(0, "Best one", $"0 to {p.Ks.Count - 1}, halves allowed")],
                [
                    new(Best, "Its number", CellKind.Number)
                    {
                        Quantity = new("The best one", "", 0, p.Ks.Count - 1, "its number; 7.5 lies between 7 and 8"), Resolution = 0.5, Digits = 1,
                        Lead = "number of the best one",
                    },
                ])
            { RowHead = "Row" };
        IReadOnlyList<GridRow> rows = [.. p.Ks.Select((k, i) => new GridRow(i, $"{i}", $"K {Say.N(k, 4)}"))];
        return new(
            p.Request.Mode == Lines1 ? [.. rows.Reverse()] : rows,
            [new(Score, "Even?", CellKind.Score) { Resolution = 1, Digits = 2, Lead = "how even it is", Anchors = ScoreAnchors.Even }])
        { RowHead = "Number" };
    }

    /// <inheritdoc/>
    public override bool HasRowNotes => true;

    /// <inheritdoc/>
    public override IReadOnlyDictionary<int, string> RowNotes(ITrialPlan plan, RunReadings readings)
    {
        var p = (PressurePlanV1)plan;
        return p.Request.ReadBy == "scores" ? p.Ks.Select((k, i) => (k, i)).ToDictionary(x => x.i, x => $"K {Say.N(x.k, 4)}")
            : readings.Value(0, Best) is { } best
                ? new Dictionary<int, string> { [0] = $"K {Say.N((double)p.Request.StartK + best * (double)p.Request.StepK, 4)}" }
            : new Dictionary<int, string>();
    }

    /// <inheritdoc/>
    public override bool IsAspect(string aspect) => aspect is Score or Best;

    /// <inheritdoc/>
    public override string? Question(ITrialPlan plan, int section, string aspect, double value) =>
        aspect == Best && Math.Abs(value * 2 - Math.Round(value * 2)) > 1e-9
            ? "Halves are as fine as that is read: 7 or 7.5."
            : base.Question(plan, section, aspect, value);

    /// <inheritdoc/>
    public override TrialVerdict Judge(ITrialPlan plan, RunReadings readings, JudgeContext context)
    {
        var p = (PressurePlanV1)plan;
        var best = readings.Value(0, Best);
        var scores = p.Ks.Select((_, i) => readings.Value(i, Score)).ToList();
        if (best is null && scores.All(s => s is null))
            return new PressureVerdict { Verdict = "insufficient", Sentence = "Nothing is read yet.", Advised = false };
        var input = new PressureReadings
        {
            StartK = (double)p.Request.StartK, StepK = (double)p.Request.StepK, Count = p.Ks.Count, Best = best is { } b ? Math.Round(b * 2) / 2 : null,
            Scores = best is null ? scores : [], ScoreNoise = context.ScoreNoise, FoundAt = p.FoundAt, Drive = p.Drive,
        };
        if (PressureJudging.Check(input) is { Count: > 0 } wrong)
            return new PressureVerdict { Verdict = "insufficient", Sentence = wrong[0].Message, Advised = false };
        var verdict = PressureJudging.Judge(input);
        // What the next row costs is its share of this one, which is like it.
        if (verdict is { Next: { } next, NextRange: { } range })
            verdict = verdict with { Next = next.Costing(p.Estimate, range.Count / (double)p.Ks.Count) };
        return Practice.Beside(verdict, context.Practice, Word);
    }

    /// <inheritdoc/>
    public override TrialChart? Chart(ITrialPlan plan, TrialVerdict verdict)
    {
        var v = (PressureVerdict)verdict;
        var points = v.Ks.Zip(v.Scores.Count > 0 ? v.Scores : []).Where(x => x.Second is not null)
            .Select(x => new ChartPoint(
                x.First, x.Second!.Value, null, null, v.K is { } k && Math.Abs(x.First - k) <= (v.UncertaintyK ?? 0) + 1e-9 ? "best" : ""))
            .ToList();
        return points.Count == 0
            ? null
            : new("K, s", "score, 0–4", points)
            {
                Line = [.. points.Select(p => (p.X, p.Y))], Chosen = v.K, Summary = v.Sentence,
            };
    }

    /// <inheritdoc/>
    public override string FileWords(ITrialPlan plan) => $"{((PressurePlanV1)plan).Request.Mode} {Say.N(plan.HottestC, 0)}";

    /// <inheritdoc/>
    public override (Type PlanBody, Type PlanAnswer, Type EvaluateBody, Type EvaluateAnswer) ApiTypes =>
        (typeof(PressureRequest), typeof(PressurePlanV1), typeof(PressureReadings), typeof(PressureVerdict));

    /// <inheritdoc/>
    public override object? Evaluate(JsonDoor door)
    {
        var at = door.Object("foundAt");
        var scores = door.Rows("scores", false);
        var r = new PressureReadings
        {
            StartK = (double)(door.Number("startK", true) ?? 0),
            StepK = (double)(door.Number("stepK", true) ?? 0.01m),
            Count = door.Whole("count", 1, 1000) ?? scores.Count,
            Best = (double?)door.Number("best"),
            Scores = [.. scores.Select(s => s.Count > 0 ? s.Average() : (double?)null)],
            ScoreNoise = (double)(door.Number("scoreNoise") ?? 0.5m),
            Drive = door.Word("drive", ["direct", "long-tube"]),
            FoundAt = at is null
                ? null
                : new(
                    (double)(at.Number("nozzleTemperatureC") ?? 0), (double)(at.Number("slowMmPerS") ?? 0), (double)(at.Number("fastMmPerS") ?? 0),
                    (double)(at.Number("accelerationMmPerS2") ?? 0)),
        };
        if (door.Errors.Count == 0)
            door.Take(PressureJudging.Check(r));
        return door.Errors.Count > 0 ? null : PressureJudging.Judge(r);
    }

    /// <inheritdoc/>
    public override string Example => """{"startK": 0, "stepK": 0.005, "count": 17, "best": 7.5}""";
}
