using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.WallFlow;

/// <summary>
/// Multiplier from the thickness of a single wall. Rectangular beads: new = old × target ÷ mean. Beads with round ends have the area h·(w − c) with
/// c = h(1 − π/4): new = old × (target − c) ÷ (mean − c), and n of them stand n·w − (n − 1)·c wide.
/// </summary>
public static class WallJudging
{
    /// <summary>Fewer readings tell too little.</summary>
    public const int LeastReadings = 4;

    /// <summary>Change beyond which something else is wrong, %.</summary>
    public const double LargeChangePercent = 15;

    /// <summary>Scatter of single readings from which a wall is unsteady, %.</summary>
    public const double UnsteadyPercent = 5;

    /// <summary>Scatter of one reading that a careful hand and a sound filament leave on a single wall, mm.</summary>
    public const double UsualScatterMm = 0.013;

    /// <summary>Half of the 95 % interval that so many readings usually leave, in per cent of the wall.</summary>
    /// <param name="wallMm">The wall.</param>
    /// <param name="readings">How many.</param>
    /// <param name="resolutionMm">The calliper's step.</param>
    public static double UsualHalfPercent(double wallMm, int readings, double resolutionMm = 0.01) =>
        200 * Math.Sqrt(UsualScatterMm * UsualScatterMm / Math.Max(1, readings) + resolutionMm * resolutionMm / 12) / wallMm;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(WallReadings r)
    {
        var errors = new List<FieldError>();
        void Within(string field, double v, double least, double most, string why)
        {
            if (!(v >= least && v <= most))
                errors.Add(new(field, $"{Say.N(v, 3)} is outside {Say.N(least, 3)} to {Say.N(most, 3)}: {why}."));
        }

        Within("extrusionMultiplier", r.ExtrusionMultiplier, 0.3, 1.5, "beyond that the feed or the width is wrong, not the flow");
        Within("targetWidthMm", r.TargetWidthMm, 0.1, 3, "no nozzle lays such a line");
        Within("walls", r.Walls, 1, 6, "more lines hide what one does");
        Within("resolutionMm", r.ResolutionMm, 0.0001, 1, "the smallest step of the calliper");
        Within("tolerancePercent", r.TolerancePercent, 0.1, 20, "finer can't be measured, coarser keeps anything");
        Within("residualFlowPercent", r.ResidualFlowPercent, 10, 300, "what a flow override leaves, 100 for none");
        if (r.LayerHeightMm is { } h)
            Within("layerHeightMm", h, 0.02, 1.5, "no nozzle lays such a layer");
        if (r.Area == BeadModel.Stadium && r.LayerHeightMm is null)
            errors.Add(new("layerHeightMm", "layerHeightMm is missing: round ends take off h(1 − π/4)."));
        foreach (var (v, i) in r.ReadingsMm.Select((v, i) => (v, i)))
            Within($"readingsMm[{i}]", v, 0.05, 20, "a wall of one line in mm, for example 0.45");
        if (errors.Count == 0 && r.Area == BeadModel.Stadium && r.TargetWidthMm <= Bead.RoundEnds(BeadModel.Stadium, r.LayerHeightMm!.Value))
            errors.Add(new("targetWidthMm", "A line that narrow has no room for round ends at this layer height."));
        return errors;
    }

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static WallVerdict Judge(WallReadings r)
    {
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = WallOutcome.MeasureMore, From = r, Refusal = refusal, Advised = false };
        var target = Target(r);
        var c = r.LayerHeightMm is { } h ? Bead.RoundEnds(BeadModel.Stadium, h) : 0;
        var n = r.Walls;
        var residual = r.ResidualFlowStays ? 1 : r.ResidualFlowPercent / 100;
        // An override that goes again: this piece should come out that much thinner or thicker, and the multiplier must not correct it a second time.
        var (line, lineRound) = (target * residual, (target - c) * residual + c);
        var expected = r.Area == BeadModel.Stadium ? n * lineRound - (n - 1) * c : n * line;
        var tolerance = r.TolerancePercent / 100 * expected;
        var numbers = new WallNumbers(target, line, lineRound, c, tolerance);
        if (r.ReadingsMm.Count == 0)
            return new()
            {
                Outcome = WallOutcome.MeasureMore, From = r, Numbers = numbers, Cautions = [.. Cautions(r)], ExpectedMm = Math.Round(expected, 4),
                Advised = false,
            };
        var m = Measured.Of(r.ReadingsMm, r.ResolutionMm);
        var rectangular = r.ExtrusionMultiplier * n * line / m.Mean;
        var bead = (m.Mean + (n - 1) * c) / n;
        double? stadium = r.LayerHeightMm is null || bead <= c ? null : r.ExtrusionMultiplier * (lineRound - c) / (bead - c);
        var value = Math.Round(r.Area == BeadModel.Stadium ? stadium ?? rectangular : rectangular, 3);
        var sensitivity = r.Area == BeadModel.Stadium && stadium is not null ? 1 / (n * (bead - c)) : 1 / m.Mean;
        double? half = double.IsFinite(m.HalfWidth) ? value * m.HalfWidth * sensitivity : null;
        var within = m.Low >= expected - tolerance && m.High <= expected + tolerance;
        var beats = expected < m.Low || expected > m.High;
        var few = m.Count < LeastReadings;
        var outcome =
            !few && m.Sd > UnsteadyPercent / 100 * m.Mean && m.Sd > 2 * r.ResolutionMm ? WallOutcome.Unsteady
            : few ? WallOutcome.MeasureMore
            : within ? WallOutcome.Keep
            : beats ? WallOutcome.Adjust
            : WallOutcome.MeasureMore;
        var needed = outcome == WallOutcome.MeasureMore ? Needed(m, r, expected, tolerance) : null;
        numbers = numbers with
        {
            Mean = m,
            Rectangular = rectangular,
            BeadMm = bead,
            Stadium = stadium,
            HalfWidth = half,
            ChangePercent = 100 * (value / r.ExtrusionMultiplier - 1),
        };
        return new()
        {
            Outcome = outcome,
            From = r,
            Numbers = numbers,
            Cautions = [.. Cautions(r), .. Cautions(m, numbers, value)],
            Next = outcome switch
            {
                WallOutcome.Adjust => new(
                    "check-piece", "", "wall-flow", new Dictionary<string, decimal> { ["extrusionMultiplier"] = (decimal)Math.Clamp(value, 0.3, 1.5) })
                {
                    Words = new Dictionary<string, string> { ["check"] = "1" },
                },
                WallOutcome.MeasureMore => new("measure-more", ""),
                WallOutcome.Unsteady => new("guide", "") { Guide = "slip-or-skip" },
                _ => null,
            },
            Settings =
                outcome == WallOutcome.Unsteady || few || !IsMultiplier(value)
                    ? []
                    : [new("extrusionMultiplier", outcome == WallOutcome.Keep ? r.ExtrusionMultiplier : value, Math.Round(half ?? 0, 4))],
            Advised = outcome is WallOutcome.Keep or WallOutcome.Adjust,
            NewExtrusionMultiplier = value,
            NewUncertainty = half is { } x ? Math.Round(x, 4) : null,
            RectangularMultiplier = Math.Round(rectangular, 4),
            StadiumMultiplier = stadium is { } y ? Math.Round(y, 4) : null,
            MeanMm = Math.Round(m.Mean, 5),
            StandardErrorMm = double.IsFinite(m.StandardError) ? Math.Round(m.StandardError, 5) : null,
            HalfWidthMm = double.IsFinite(m.HalfWidth) ? Math.Round(m.HalfWidth, 5) : null,
            ExpectedMm = Math.Round(expected, 4),
            ReadMm = r.ReadingsMm,
            Outliers = m.Outliers,
            NeededReadings = needed,
        };
    }

    /// <summary>Width of one line, mm: the file's own plastic for each mm of wall with its multiplier taken out again, else the width asked for.</summary>
    private static double Target(WallReadings r) =>
        r is { FeedPerMm: { } feed, FilamentDiameterMm: { } d, LayerHeightMm: { } height }
            ? Bead.Width(r.Area, feed * Math.PI * d * d / 4 / height / r.ExtrusionMultiplier, height)
            : r.TargetWidthMm;

    private static bool IsMultiplier(double value) => value is >= 0.3 and <= 1.5;

    private static IEnumerable<WallCaution> Cautions(WallReadings r)
    {
        if (r is { FeedPerMm: not null, FilamentDiameterMm: { } d, LayerHeightMm: not null, MeasuredDiameterMm: { } real }
            && Math.Abs(real * real / (d * d) - 1) > 0.005)
            yield return WallCaution.OtherDiameter;
        if (r.ResidualFlowPercent != 100)
            yield return r.ResidualFlowStays ? WallCaution.OverrideStays : WallCaution.OverrideGoes;
    }

    private static IEnumerable<WallCaution> Cautions(Measured m, WallNumbers numbers, double value)
    {
        if (m.Outliers.Any(o => o))
            yield return WallCaution.Outliers;
        if (Math.Abs(numbers.ChangePercent) > LargeChangePercent)
            yield return WallCaution.LargeChange;
        if (!IsMultiplier(value))
            yield return WallCaution.NoMultiplier;
    }

    /// <summary>Readings until the wall is either shown within its tolerance, or shown to be off.</summary>
    private static int? Needed(Measured m, WallReadings r, double expected, double tolerance)
    {
        if (m.Count < 2)
            return LeastReadings;
        var off = Math.Abs(m.Mean - expected);
        var asked = Math.Max(tolerance - off, off);
        return asked <= 0 ? null : m.NeededFor(asked * 0.999, r.ResolutionMm) is { } n ? Math.Max(n, LeastReadings) : null;
    }
}
