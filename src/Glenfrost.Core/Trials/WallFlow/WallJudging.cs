using Glenfrost.Core.Statistics;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.WallFlow;

/// <summary>Readings of a wall and how to judge them. Widths in mm.</summary>
public sealed record WallReadings
{
    /// <summary>Multiplier that it was printed with.</summary>
    public double ExtrusionMultiplier { get; init; } = 1;

    /// <summary>Width of one line as the slicer means it.</summary>
    public double TargetWidthMm { get; init; }

    /// <summary>Lines side by side in the wall.</summary>
    public int Walls { get; init; } = 1;

    /// <summary>Readings.</summary>
    public IReadOnlyList<double> ReadingsMm { get; init; } = [];

    /// <summary>Smallest step of the calliper.</summary>
    public double ResolutionMm { get; init; } = 0.01;

    /// <summary>How far the wall may be off, %.</summary>
    public double TolerancePercent { get; init; } = 2;

    /// <summary>Layer height; null where it is not known.</summary>
    public double? LayerHeightMm { get; init; }

    /// <summary>Model of a line's cross-section.</summary>
    public BeadModel Area { get; init; } = BeadModel.Rectangular;

    /// <summary>What a flow override in the start code leaves, %.</summary>
    public double ResidualFlowPercent { get; init; } = 100;

    /// <summary>True where the override is there in real prints too.</summary>
    public bool ResidualFlowStays { get; init; } = true;

    /// <summary>
    /// Filament fed for each mm of line, mm, as the file says; with <see cref="FilamentDiameterMm"/> and the layer height it overrules the target.
    /// </summary>
    public double? FeedPerMm { get; init; }

    /// <summary>Filament diameter that the file counts with, mm.</summary>
    public double? FilamentDiameterMm { get; init; }

    /// <summary>Measured mean diameter of the filament, mm.</summary>
    public double? MeasuredDiameterMm { get; init; }
}

/// <summary>The verdict on a wall.</summary>
public sealed record WallVerdict : TrialVerdict
{
    /// <summary>New multiplier, three decimals, by the area model asked for; null where nothing is read.</summary>
    public double? NewExtrusionMultiplier { get; init; }

    /// <summary>95 % half-width of it.</summary>
    public double? NewUncertainty { get; init; }

    /// <summary>The same by rectangular beads.</summary>
    public double? RectangularMultiplier { get; init; }

    /// <summary>The same by beads with round ends; null where the layer height is not known.</summary>
    public double? StadiumMultiplier { get; init; }

    /// <summary>Mean wall, mm.</summary>
    public double? MeanMm { get; init; }

    /// <summary>Standard uncertainty of the mean, calliper's step counted, mm.</summary>
    public double? StandardErrorMm { get; init; }

    /// <summary>95 % half-width of the mean, mm.</summary>
    public double? HalfWidthMm { get; init; }

    /// <summary>What the wall should measure, mm.</summary>
    public double ExpectedMm { get; init; }

    /// <summary>The readings, in their order, mm.</summary>
    public IReadOnlyList<double> ReadMm { get; init; } = [];

    /// <summary>Readings that stand apart, in their order: marked, not dropped.</summary>
    public IReadOnlyList<bool> Outliers { get; init; } = [];

    /// <summary>Readings still needed to tell; null where that is not the matter.</summary>
    public int? NeededReadings { get; init; }
}

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

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static WallVerdict Judge(WallReadings r)
    {
        var target = r.TargetWidthMm;
        var arithmetic = new List<string>();
        var warnings = new List<string>();
        if (r is { FeedPerMm: { } feed, FilamentDiameterMm: { } d, LayerHeightMm: { } height })
        {
            // The file's own plastic for each mm of wall, with its multiplier taken out again: the width it means.
            var spacing = feed * Math.PI * d * d / 4 / height / r.ExtrusionMultiplier;
            target = Bead.Width(r.Area, spacing, height);
            arithmetic.Add(
                $"the file feeds {Say.N(feed, 5)} mm for each mm of wall: × π × {Say.N(d, 3)}²/4 ÷ {Say.N(height, 3)} mm layer ÷ multiplier " +
                    $"{Say.N(r.ExtrusionMultiplier, 3)}{(r.Area == BeadModel.Stadium ? " + round ends" : "")} = {Say.N(target, 3)} mm"
            );
            if (r.MeasuredDiameterMm is { } real && Math.Abs(real * real / (d * d) - 1) > 0.005)
                warnings.Add(
                    $"The file counts with filament of {Say.N(d, 3)} mm; this spool measures {Say.N(real, 3)}: " +
                        $"{Say.Signed(100 * (real * real / (d * d) - 1))} % plastic. The multiplier found makes up for it and holds for this spool: put " +
                        $"the measured diameter in the profile first, then the multiplier stays with the next spool."
                );
        }

        var c = r.LayerHeightMm is { } h ? Bead.RoundEnds(BeadModel.Stadium, h) : 0;
        var n = r.Walls;
        var residual = r.ResidualFlowStays ? 1 : r.ResidualFlowPercent / 100;
        // An override that goes again: this piece should come out that much thinner or thicker, and the multiplier must not correct it a second time.
        var (line, lineRound) = (target * residual, (target - c) * residual + c);
        var expected = r.Area == BeadModel.Stadium ? n * lineRound - (n - 1) * c : n * line;
        if (r.ResidualFlowPercent != 100)
            warnings.Add(
                r.ResidualFlowStays
                    ? $"The override of {Say.N(r.ResidualFlowPercent, 1)} % stays in real prints, so the multiplier counts with it. Take it out one day, " +
                        $"and the multiplier is wrong by it."
                    : $"The override of {Say.N(r.ResidualFlowPercent, 1)} % is not there in real prints: {Say.N(expected, 3)} mm are expected of this " +
                        $"piece. Correcting in both places would correct twice."
            );
        if (r.ReadingsMm.Count == 0)
            return new WallVerdict
            {
                Verdict = "measure-more", Sentence = "Nothing is read yet.", ExpectedMm = Math.Round(expected, 4), Advised = false, Arithmetic = arithmetic,
                Warnings = warnings,
            };
        var m = Measured.Of(r.ReadingsMm, r.ResolutionMm);
        var rectangular = r.ExtrusionMultiplier * n * line / m.Mean;
        var bead = (m.Mean + (n - 1) * c) / n;
        double? stadium = r.LayerHeightMm is null || bead <= c ? null : r.ExtrusionMultiplier * (lineRound - c) / (bead - c);
        var value = Math.Round(r.Area == BeadModel.Stadium ? stadium ?? rectangular : rectangular, 3);
        var sensitivity = r.Area == BeadModel.Stadium && stadium is not null ? 1 / (n * (bead - c)) : 1 / m.Mean;
        double? half = double.IsFinite(m.HalfWidth) ? value * m.HalfWidth * sensitivity : null;
        var tolerance = r.TolerancePercent / 100 * expected;
        var within = m.Low >= expected - tolerance && m.High <= expected + tolerance;
        var beats = expected < m.Low || expected > m.High;
        var change = 100 * (value / r.ExtrusionMultiplier - 1);
        var unsteady = m.Count >= LeastReadings && m.Sd > UnsteadyPercent / 100 * m.Mean && m.Sd > 2 * r.ResolutionMm;
        var few = m.Count < LeastReadings;
        var needed = !few && (within || beats) ? null : Needed(m, r, expected, tolerance);
        var outliers = m.Outliers.Count(o => o);
        if (outliers > 0)
            warnings.Add(
                $"{Say.Plural(outliers, "reading")} {(outliers == 1 ? "stands" : "stand")} apart from the others " +
                    $"({string.Join(", ", r.ReadingsMm.Where((_, i) => m.Outliers[i]).Select(v => Say.N(v, 3)))} mm): marked and still counted. A seam, a " +
                    $"blob, a jaw on a mark? Read it again, or say why it is left out."
            );
        if (Math.Abs(change) > LargeChangePercent)
            warnings.Add(
                $"A change of {Say.N(Math.Abs(change), 1)} % is more than flow: is the feed measured? Is {Say.N(target, 3)} mm the width that was sliced? " +
                    $"Is there a flow override in the start code?"
            );
        if (value is < 0.3 or > 1.5)
            warnings.Add("A multiplier below 0.3 or above 1.5 is none: it can't be kept.");
        arithmetic.AddRange(
        [
            $"mean of {m.Count} readings {Say.N(m.Mean, 4)} mm, scatter {Say.N(m.Sd, 4)} mm, calliper's step {Say.N(r.ResolutionMm, 4)} mm",
            double.IsFinite(m.HalfWidth)
                ? $"u² = s²/n + r²/12, u = {Say.N(m.StandardError, 4)} mm, so ± {Say.N(m.HalfWidth, 4)} mm at 95 %"
                : "one reading: its scatter is not known",
            $"expected {Say.N(expected, 4)} mm{(n > 1 ? $" for {n} lines" : "")}" +
                $"{(residual != 1 ? $", with {Say.N(r.ResidualFlowPercent, 1)} % left by the override" : "")}",
            $"rectangular: {Say.N(r.ExtrusionMultiplier, 3)} × {Say.N(n * line, 4)} ÷ {Say.N(m.Mean, 4)} = {Say.N(rectangular, 4)}",
        ]);
        if (stadium is { } round)
            arithmetic.Add(
                $"round ends: c = h(1 − π/4) = {Say.N(c, 4)} mm, {Say.N(r.ExtrusionMultiplier, 3)} × ({Say.N(lineRound, 4)} − {Say.N(c, 4)}) ÷ " +
                    $"({Say.N(bead, 4)} − {Say.N(c, 4)}) = {Say.N(round, 4)}"
            );
        var models =
            stadium is { } other && Math.Abs(other - rectangular) >= 0.0015
                ? $" By beads with round ends it would be {Say.N(r.Area == BeadModel.Stadium ? rectangular : other, 3)}" +
                    $"{(r.Area == BeadModel.Stadium ? " with rectangular ones" : "")}: what the two differ by, a check piece settles."
                : "";
        if (r.Area == BeadModel.Stadium && models.Length > 0)
            models = $" By rectangular beads it would be {Say.N(rectangular, 3)}: what the two differ by, a check piece settles.";
        var plusMinus = half is { } hw ? $" ± {Say.N(hw, 3)}" : "";
        var word = unsteady ? "unsteady" : few ? "measure-more" : within ? "keep" : beats ? "adjust" : "measure-more";
        return new WallVerdict
        {
            Verdict = word,
            Sentence = word switch
            {
                "unsteady" => $"The wall differs by {Say.N(100 * m.Sd / m.Mean, 1)} % from place to place: that is no multiplier.",
                "keep" =>
                    $"{Say.N(r.ExtrusionMultiplier, 3)} stands. The wall measures {Say.N(m.Mean, 3)} ± {Say.N(m.HalfWidth, 3)} mm, within " +
                        $"{Say.N(r.TolerancePercent, 1)} % of {Say.N(expected, 3)}.",
                "adjust" => $"{Say.N(value, 3)}{plusMinus}. The wall measures {Say.N(m.Mean, 3)} mm where {Say.N(expected, 3)} are meant.",
                _ =>
                    $"Not to be told yet: {Say.N(m.Mean, 3)}{(double.IsFinite(m.HalfWidth) ? $" ± {Say.N(m.HalfWidth, 3)}" : "")} mm where " +
                        $"{Say.N(expected, 3)} are meant.",
            },
            Reasons = word switch
            {
                "unsteady" =>
                [
                    "Readings scatter more than the calliper and more than a sound wall. Look at the filament's diameter, a slipping gear, a worn or " +
                        "half-blocked nozzle, and at where the jaws sat.",
                ],
                "keep" =>
                [
                    $"Its 95 % interval, {Say.N(m.Low, 3)} to {Say.N(m.High, 3)} mm, lies inside {Say.N(expected - tolerance, 3)} to " +
                        $"{Say.N(expected + tolerance, 3)}.{models}",
                ],
                "adjust" =>
                [
                    $"{Say.Signed(100 * (m.Mean / expected - 1))} % off, more than its uncertainty of {Say.N(100 * m.HalfWidth / expected, 1)} %.{models}",
                ],
                _ =>
                [
                    few
                        ? $"{Say.Plural(m.Count, "reading")}; {LeastReadings} away from seam and corners are the least."
                        : $"The interval, {Say.N(m.Low, 3)} to {Say.N(m.High, 3)} mm, holds the width that is meant and reaches beyond the tolerance: a " +
                            $"wide interval is no proof that they are equal.",
                ],
            },
            Warnings = warnings,
            Next = word switch
            {
                "adjust" => new(
                    "check-piece",
                    $"A check piece at {Say.N(value, 3)}: {(Math.Abs(change) > 100 * (half ?? 0) / value ? "the change is above its noise, and" : "")} only a second wall proves it.".Replace(
                        ":  only", ": only", StringComparison.Ordinal),
                    "wall-flow", new Dictionary<string, decimal> { ["extrusionMultiplier"] = (decimal)Math.Clamp(value, 0.3, 1.5) }
                )
                { Words = new Dictionary<string, string> { ["check"] = "1" } },
                "measure-more" => needed is { } more && more > m.Count
                    ? new("measure-more", $"Read {Say.Plural(more - m.Count, "more place", "more places")}: with about {more} the answer is likely.")
                    : new("measure-more", "A finer calliper, or a thicker wall of two lines: this one's step is as coarse as the tolerance."),
                "unsteady" => new("guide", "Find out whether the feed slips or skips, then print the wall again.") { Guide = "slip-or-skip" },
                _ => null,
            },
            Settings =
                word is "unsteady" || few || value is < 0.3 or > 1.5
                    ? []
                    : [new("extrusionMultiplier", word == "keep" ? r.ExtrusionMultiplier : value, Math.Round(half ?? 0, 4))],
            Advised = word is "keep" or "adjust",
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
            NeededReadings = word == "measure-more" ? needed : null,
            Arithmetic = arithmetic,
        };
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
