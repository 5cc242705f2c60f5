using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;
using MathNet.Numerics.Statistics;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>
/// Flow limit from weighed samples. One fit: full mass up to an onset, then a curve that never rises (isotonic). How many samples are at full mass is chosen by
/// Akaike's criterion with the scatter known. Losses are relative to the fitted full mass; flows at a loss lie on straight lines between samples. Intervals by a parametric
/// bootstrap in which each
/// mass is drawn within the scale's step and with its scatter.
/// </summary>
public static class WeighedJudging
{
    /// <summary>A loss must be known within this, percentage points.</summary>
    public const double PointsAsked = 1;

    /// <summary>Scatter of a mass beside the scale's step: diameter along the filament, cutting, as a share of the mass.</summary>
    public const double MassScatter = 0.004;

    /// <summary>A full mass that is this share away from the commanded length's is another one.</summary>
    private const double OtherMass = 0.03;

    /// <summary>Fewer samples tell no curve.</summary>
    public const int Least = 4;

    private const int Draws = 400;

    /// <summary>Mass of a length of filament, g: length × π d²/4 × density.</summary>
    public static double MassG(double lengthMm, double diameterMm, double densityGPerCm3) =>
        lengthMm * Math.PI * diameterMm * diameterMm / 4 * densityGPerCm3 / 1000;

    /// <summary>How surely a loss is known with a scale, ± points at 95 %: two masses with a step of r each, 1.96 · √2 · (r/√12) ÷ m.</summary>
    public static double LossUncertainty(double resolutionG, double massG) =>
        massG <= 0 ? double.PositiveInfinity : 100 * 1.96 * Math.Sqrt(2) * resolutionG / Math.Sqrt(12) / massG;

    /// <summary>Length of sample for which the loss is known within a point, rounded up to 10 mm.</summary>
    public static double NeededLengthMm(double resolutionG, double diameterMm, double densityGPerCm3) =>
        Math.Ceiling(LossUncertainty(resolutionG, 1) / PointsAsked / MassG(1, diameterMm, densityGPerCm3) / 10) * 10;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(WeighedReadings r)
    {
        var errors = new List<FieldError>();
        if (!(r.StartFlowMm3PerS is > 0 and <= 200))
            errors.Add(new("startFlowMm3PerS", $"{Say.N(r.StartFlowMm3PerS)} mm³/s is no start: above 0 to 200 would be right."));
        if (!(r.StepMm3PerS is > 0 and <= 50))
            errors.Add(new("stepMm3PerS", $"{Say.N(r.StepMm3PerS)} mm³/s is no step: above 0 to 50 would be right, 1 to 3 is usual."));
        if (r.MassesG.Count < Least)
            errors.Add(new("massesG", $"{Say.Plural(r.MassesG.Count, "sample")} can't show where the loss begins: at least {Least} would be right."));
        if (r.MassesG.Count > 100)
            errors.Add(new("massesG", $"{r.MassesG.Count} samples are more than anybody weighs: at most 100."));
        foreach (var (list, i) in r.MassesG.Select((m, i) => (m, i)))
        {
            if (list.Any(m => !(m is >= 0 and <= 1000)))
                errors.Add(new($"massesG[{i}]", "A mass is 0 to 1,000 g."));
        }

        if (!(r.ScaleResolutionG is > 0 and <= 10))
            errors.Add(new("scaleResolutionG", $"{Say.N(r.ScaleResolutionG, 4)} g is no step of a scale: 0.1, 0.01 or 0.001 would be right."));
        if (!(r.RecommendLossPercent is > 0 and < 100))
            errors.Add(
                new("recommendLossPercent", $"{Say.N(r.RecommendLossPercent)} % is no loss to accept: above 0 and below 100 would be right, 5 is usual."));
        if (!(r.LimitLossPercent is > 0 and < 100) || r.LimitLossPercent < r.RecommendLossPercent)
            errors.Add(
                new("limitLossPercent", $"{Say.N(r.LimitLossPercent)} % is no limit above the accepted {Say.N(r.RecommendLossPercent)} %: 10 is usual."));
        Flows.CheckMargin(errors, r.MarginPercent);
        if (r.ExtrudedLengthMm is { } l && !(l is > 0 and <= 5000))
            errors.Add(new("extrudedLengthMm", $"{Say.N(l)} mm is no sample: above 0 to 5,000 would be right, 100 to 300 is usual."));
        if (r.FilamentDiameterMm is { } d && !(d is >= 1 and <= 4))
            errors.Add(new("filamentDiameterMm", $"{Say.N(d)} mm is no filament: 1 to 4 would be right."));
        if (r.DensityGPerCm3 is { } rho && !(rho is >= 0.5 and <= 8))
            errors.Add(new("densityGPerCm3", $"{Say.N(rho)} g/cm³ is no plastic: 0.5 to 8 would be right."));
        foreach (var i in r.Failed.Keys.Where(i => i < 0 || i >= r.MassesG.Count))
            errors.Add(new("failed", $"There is no sample {i}: they count from 0 to {r.MassesG.Count - 1}."));
        return errors;
    }

    /// <summary>The curve of loss.</summary>
    /// <param name="FullG">Full mass.</param>
    /// <param name="Full">Samples at full mass.</param>
    /// <param name="FitG">Fitted masses.</param>
    private readonly record struct Curve(double FullG, int Full, double[] FitG)
    {
        public double Loss(int i) => FullG <= 0 ? 0 : 100 * (1 - FitG[i] / FullG);

        /// <summary>Flow at which the fitted loss reaches a value; null where it does not.</summary>
        public double? FlowAt(double loss, double[] flows)
        {
            for (var i = 1; i < flows.Length; i++)
            {
                if (Loss(i) < loss - 1e-12)
                    continue;
                var (a, b) = (Loss(i - 1), Loss(i));
                return a >= loss ? flows[i - 1] : flows[i - 1] + (flows[i] - flows[i - 1]) * (loss - a) / (b - a);
            }

            return null;
        }
    }

    /// <summary>Judges readings that <see cref="Check"/> takes.</summary>
    public static WeighedFlowVerdict Judge(WeighedReadings r)
    {
        var n = r.MassesG.Count;
        var flowOf = Enumerable.Range(0, n).Select(r.Flow).ToArray();
        var used = Enumerable.Range(0, n).Where(i => r.MassesG[i].Count > 0 && !r.Failed.ContainsKey(i)).ToList();
        var (diameter, density) = (r.FilamentDiameterMm ?? 1.75, r.DensityGPerCm3 ?? 1.24);
        var needed = NeededLengthMm(r.ScaleResolutionG, diameter, density);
        var basis = new WeighedFlowVerdict
        {
            Outcome = FlowOutcome.Insufficient,
            From = r,
            FlowsMm3PerS = flowOf,
            MarginPercent = r.MarginPercent,
            NeededLengthMm = needed,
            Basis = $"{Say.N(r.RecommendLossPercent)} % loss",
            Advised = false,
        };
        if (used.Count < Least)
            return basis;
        var flows = used.Select(i => flowOf[i]).ToArray();
        var masses = used.Select(i => r.MassesG[i].Average()).ToArray();
        var counts = used.Select(i => (double)r.MassesG[i].Count).ToArray();
        var level = masses.Max();
        // Scatter of one mass: the scale's step and what the filament makes of it, or what repeats show where that is more.
        var repeated = used.Where(i => r.MassesG[i].Count > 1).ToList();
        var pooled =
            repeated.Count == 0
                ? 0
                : Math.Sqrt(repeated.Sum(i => r.MassesG[i].Variance() * (r.MassesG[i].Count - 1)) / repeated.Sum(i => r.MassesG[i].Count - 1));
        var each = Math.Max(pooled, Math.Sqrt(r.ScaleResolutionG * r.ScaleResolutionG / 12 + MassScatter * level * MassScatter * level));
        var sd = counts
            .Select(c => Math.Sqrt(Math.Max(each * each - r.ScaleResolutionG * r.ScaleResolutionG / 12, 0) / c + r.ScaleResolutionG * r.ScaleResolutionG / 12))
            .ToArray();
        var curve = Fit(masses, sd);
        var expected = r is { ExtrudedLengthMm: { } mm, FilamentDiameterMm: { } dia, DensityGPerCm3: { } rho } ? MassG(mm, dia, rho) : (double?)null;
        // A scale is judged by the mass that its plan judged it by, unless the samples are really another one.
        var asPlanned = expected is { } e && Math.Abs(curve.FullG / e - 1) <= OtherMass;
        var scale = LossUncertainty(r.ScaleResolutionG, asPlanned ? expected!.Value : curve.FullG);
        var adequate = scale <= PointsAsked + 1e-9;
        if (!asPlanned && curve.FullG > 0 && r.ExtrudedLengthMm is { } length)
            needed = Math.Ceiling(length * scale / PointsAsked / 10) * 10;
        var (recommend, limit) = (curve.FlowAt(r.RecommendLossPercent, flows), curve.FlowAt(r.LimitLossPercent, flows));
        var onset = flows[Math.Min(curve.Full, flows.Length) - 1];
        var (low, high, onsets) = Drawn(r, flows, curve, sd);
        double?[] Spread(Func<int, double> of) =>
            [.. Enumerable.Range(0, n).Select(i => used.IndexOf(i) is var k && k >= 0 ? Math.Round(of(k), 3) : (double?)null)];
        var numbers = new WeighedNumbers(
            [.. used.Select((i, k) => new WeighedSample(flows[k], r.MassesG[i], masses[k], curve.Loss(k)))], curve.Full, curve.FullG, each,
            asPlanned ? expected!.Value : curve.FullG, asPlanned, [.. Enumerable.Range(0, masses.Length).Where(Dips).Select(k => flows[k])])
        { AtMm3PerS = recommend };
        basis = basis with
        {
            LossPercent = Spread(k => curve.FullG <= 0 ? 0 : 100 * (1 - masses[k] / curve.FullG)),
            FittedLossPercent = Spread(curve.Loss),
            FullMassG = Math.Round(curve.FullG, 5),
            OnsetFlowMm3PerS = onset,
            OnsetInterval = onsets,
            ScaleAdequate = adequate,
            LossUncertaintyPoints = Math.Round(scale, 3),
            NeededLengthMm = needed,
            ExpectedMassG = expected is { } x ? Math.Round(x, 5) : null,
            Numbers = numbers,
        };
        if (recommend is not { } at)
            return basis with
            {
                Outcome = FlowOutcome.NotReached,
                Next = new(
                    "higher", "", FlowWeighedTrial.Word,
                    new Dictionary<string, decimal> { ["startFlowMm3PerS"] = (decimal)Math.Max(1, Math.Floor(0.8 * flows[^1])) }),
            };
        // Where the gear clicked, nothing above the sample before it is proposed.
        var capped = r.ClickedAt is { } c2 && c2 > 0 && flowOf[c2 - 1] < at ? flowOf[c2 - 1] : at;
        var recommended = Flows.Recommended(capped, r.MarginPercent);
        var half = low is null ? 0 : (low.To - low.From) / 2;
        var grid = Bracketing.Plan(low?.From ?? at, low?.To ?? at, Blur(curve, flows, each, at), Math.Max(0.2, 0.02 * at), flowOf[0], flowOf[^1], 0.1);
        return basis with
        {
            Outcome = FlowOutcome.Limit,
            RecommendLossFlowMm3PerS = Math.Round(at, 4),
            RecommendInterval = low,
            LimitFlowMm3PerS = limit is { } lf ? Math.Round(lf, 4) : null,
            LimitInterval = high,
            Bracket = low,
            RecommendedFlowMm3PerS = recommended,
            Speeds = Flows.Table(recommended, r.Area, r.NozzleMm),
            Settings = [new(Flows.Key, recommended, Math.Round(half, 2))],
            NextPlaces = grid,
            Next =
                !adequate
                    ? new("longer", "", FlowWeighedTrial.Word, new Dictionary<string, decimal> { ["extrudedLengthMm"] = (decimal)needed })
                : grid is not null
                    ? new(
                        "bracket", "", FlowWeighedTrial.Word, new Dictionary<string, decimal>
                        {
                            ["startFlowMm3PerS"] = (decimal)Math.Max(0.5, Math.Round(grid.Places[0] - Step(grid), 1)), ["stepMm3PerS"] = (decimal)Step(grid),
                            ["samples"] = Math.Max(Least, grid.Places.Count + 2),
                        })
                : new("check", "", FlowStepsTrial.Word, new Dictionary<string, decimal>()),
            Advised = adequate,
        };

        bool Dips(int k) =>
            k > 0 && k < masses.Length - 1 && masses[k] < Math.Min(masses[k - 1], masses[k + 1]) - 4 * Math.Sqrt(sd[k] * sd[k] + sd[k + 1] * sd[k + 1]);
    }

    private static double Step(BracketPlan p) => Math.Max(0.1, Math.Round(p.Places.Count > 1 ? p.Places[1] - p.Places[0] : p.HalfNow / 0.95, 1));

    /// <summary>How blurred the accepted loss is read, as a flow: scatter of a loss over the slope of the curve there.</summary>
    private static double Blur(Curve curve, double[] flows, double each, double at)
    {
        var i = Math.Max(1, Array.FindIndex(flows, f => f >= at));
        var slope = (curve.Loss(i) - curve.Loss(i - 1)) / (flows[i] - flows[i - 1]);
        return slope <= 0 ? 0 : Math.Min(flows[i] - flows[i - 1], 100 * each / curve.FullG / slope);
    }

    private static Curve Fit(double[] masses, double[] sd)
    {
        var weights = sd.Select(s => 1 / (s * s)).ToArray();
        Curve? best = null;
        var least = double.MaxValue;
        for (var k = 1; k <= masses.Length; k++)
        {
            var full = Enumerable.Range(0, k).Sum(i => masses[i] * weights[i]) / weights.Take(k).Sum();
            var tail = Isotonic.Falling([.. masses.Skip(k)], [.. weights.Skip(k)]).Select(m => Math.Min(m, full)).ToArray();
            var fit = Enumerable.Repeat(full, k).Concat(tail).ToArray();
            var misfit = Enumerable.Range(0, masses.Length).Sum(i => (masses[i] - fit[i]) * (masses[i] - fit[i]) * weights[i]);
            var score = misfit + 2 * (1 + tail.Where(t => t < full).Distinct().Count());
            // The onset is where it is: the longest full part that fits as well.
            if (score <= least + 1e-9)
                (least, best) = (score, new(full, k, fit));
        }

        return best!.Value;
    }

    private static (FlowBracket? Recommend, FlowBracket? Limit, FlowBracket? Onset) Drawn(WeighedReadings r, double[] flows, Curve curve, double[] sd)
    {
        var random = new MersenneTwister(r.Seed, false);
        var (low, high, onset) = (new List<double>(), new List<double>(), new List<double>());
        var step = r.ScaleResolutionG;
        for (var d = 0; d < Draws; d++)
        {
            var masses = new double[flows.Length];
            for (var i = 0; i < flows.Length; i++)
            {
                // The true mass lies anywhere within a step of the scale; the rest scatters.
                var rest = Math.Sqrt(Math.Max(0, sd[i] * sd[i] - step * step / 12));
                masses[i] = Math.Max(0, curve.FitG[i] + step * (random.NextDouble() - 0.5) + (rest > 0 ? Normal.Sample(random, 0, rest) : 0));
            }

            var again = Fit(masses, sd);
            onset.Add(flows[Math.Min(again.Full, flows.Length) - 1]);
            // What is not reached lies at least at the top.
            low.Add(again.FlowAt(r.RecommendLossPercent, flows) ?? flows[^1]);
            high.Add(again.FlowAt(r.LimitLossPercent, flows) ?? flows[^1]);
        }

        FlowBracket? Of(List<double> list, double? at) =>
            at is null ? null : new(Math.Round(Math.Min(at.Value, list.Quantile(0.025)), 3), Math.Round(Math.Max(at.Value, list.Quantile(0.975)), 3));
        return (
            Of(low, curve.FlowAt(r.RecommendLossPercent, flows)), Of(high, curve.FlowAt(r.LimitLossPercent, flows)),
            new(onset.Quantile(0.025), onset.Quantile(0.975)));
    }
}
