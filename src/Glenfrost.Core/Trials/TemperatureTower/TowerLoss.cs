using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>What is lost by a temperature against the best there is within what was printed, in scores of 0–4 over all aspects.</summary>
/// <param name="At">By the advised temperature.</param>
/// <param name="GainOfAnother">What the same tower once more would gain on the average.</param>
public sealed record TowerLoss(ScoreLoss At, double GainOfAnother)
{
    /// <summary>Temperatures at which the curves are known: more tell nothing that differs.</summary>
    private const int MostPlaces = 25;

    /// <summary>A curve's score below this counts as this, as a section's does that nobody called unusable.</summary>
    private const double Least = 0.3;

    /// <summary>One curve with one peak for each aspect, put together as the scores of a section are.</summary>
    /// <param name="readings">Weights and noise.</param>
    /// <param name="read">Temperature, its repeats' scores by common aspect, and whether it failed to print.</param>
    /// <param name="common">Aspects that are compared.</param>
    /// <param name="value">The advised temperature, °C.</param>
    public static TowerLoss Of(
        TowerReadings readings, IReadOnlyList<(double C, IReadOnlyList<double[]> Scores, bool Failed)> read, IReadOnlyList<string> common, double value)
    {
        var weights = common.Select(a => readings.Weights is null ? 1 : readings.Weights.GetValueOrDefault(a, 0)).ToArray();
        var noise = Math.Max(0.05, readings.ScoreNoise);
        var used = read.Where(r => r.Failed || r.Scores.Count > 0).ToList();
        var (low, high) = (used.Min(r => r.C), used.Max(r => r.C));
        var step = Math.Max(1, Math.Ceiling((high - low) / (MostPlaces - 1)));
        var places = used.Select(r => r.C).Append(Math.Clamp(value, low, high));
        for (var c = low + step; c < high && places.Count() < MostPlaces; c += step)
            places = places.Append(c);
        var at = places.Distinct().Order().ToList();
        var curves = common.Select((_, a) => ScoreCurve.Through(
            [
                .. used.Select(r => r.Failed || r.Scores.Count == 0
                    ? new ScoredPlace(r.C, ScoreCurve.Behind(0, noise), noise)
                    : new ScoredPlace(r.C, r.Scores.Average(s => ScoreCurve.Behind(s[a], noise)), noise / Math.Sqrt(r.Scores.Count))),
            ],
            at, a + 1)).ToList();
        var sum = weights.Sum();
        var together = ScoreCurve.Together(curves, scores =>
        {
            var log = 0.0;
            for (var a = 0; a < weights.Length; a++)
                log += weights[a] * Math.Log(Math.Max(scores[a], Least) / ScoreBootstrap.MaxScore);
            return ScoreBootstrap.MaxScore * Math.Exp(log / sum);
        });
        // Sections are what another tower reads; all of the range is what may be chosen.
        var sections = used.Where(r => !r.Failed).Select(r => at.IndexOf(r.C)).Distinct().ToList();
        var error = noise * Math.Sqrt(weights.Sum(w => w * w)) / sum;
        return new(
            together.LossAt(at.IndexOf(Math.Clamp(value, low, high))), together.GainOf(sections, error, [.. Enumerable.Range(0, at.Count)]));
    }
}
