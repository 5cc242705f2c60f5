namespace Glenfrost.Core.Statistics;

/// <summary>
/// Where a row of scores is best, where a thing grows worse on both sides alike the farther it is from right: score = A · exp(−(|x − x₀| ÷ w)^p). Place,
/// height, width and sharpness are not fitted but weighed over a grid by how likely each makes the scores (Bayes' rule, every value as likely before), so that
/// a sharp tip and a broad top are both allowed for.
/// </summary>
/// <param name="At">Where it is best, on the average.</param>
/// <param name="HalfWidth">Half of its 95 % interval around <paramref name="At"/>.</param>
/// <param name="Loss">What is lost by choosing <paramref name="At"/> against the best within the row, scores.</param>
/// <param name="Gain">What as many scores again would gain on the average, scores: the loss falls with the scatter of the place, to the power p.</param>
public sealed record ScorePeak(double At, double HalfWidth, ScoreLoss Loss, double Gain)
{
    private static readonly double[] Tops = [2, 2.5, 3, 3.5, 4], Sharpness = [1, 1.5, 2];

    /// <summary>Weighs the peaks that scores may come from.</summary>
    /// <param name="read">Values in order with their scores, 0–4; at least three.</param>
    /// <param name="step">Distance of neighbours, above 0.</param>
    /// <param name="noise">Standard deviation of one score, above 0.</param>
    /// <param name="choose">Which value is taken for a place on the average: for one that may only be read between lines.</param>
    /// <exception cref="ArgumentException">Fewer than three scores.</exception>
    public static ScorePeak Of(IReadOnlyList<(double X, double Score)> read, double step, double noise, Func<double, double>? choose = null)
    {
        if (read.Count < 3)
            throw new ArgumentException("Three scores are the least.", nameof(read));
        var (low, high) = (read.Min(r => r.X), read.Max(r => r.X));
        var places = Enumerable.Range(-8, (int)Math.Round((high - low) / step * 4) + 17).Select(i => low + i * step / 4).ToArray();
        var widths = Enumerable.Range(0, 14).Select(i => step * 0.7 * Math.Pow(1.35, i)).ToArray();
        var all = new List<(double Place, double Width, double Top, double P, double Log)>();
        foreach (var p in Sharpness)
        {
            foreach (var w in widths)
            {
                foreach (var x0 in places)
                {
                    var shape = read.Select(r => Math.Exp(-Math.Pow(Math.Abs(r.X - x0) / w, p))).ToArray();
                    all.AddRange(Tops.Select(top => (x0, w, top, p, Log: -0.5 * read.Select((r, i) => Math.Pow((r.Score - top * shape[i]) / noise, 2)).Sum())));
                }
            }
        }

        var most = all.Max(a => a.Log);
        var weighed = all.Select(a => (a.Place, a.Width, a.Top, a.P, Weight: Math.Exp(a.Log - most))).Where(a => a.Weight > 1e-6).ToList();
        var sum = weighed.Sum(a => a.Weight);
        var mean = Math.Clamp(weighed.Sum(a => a.Weight * a.Place) / sum, low, high);
        var at = choose?.Invoke(mean) ?? mean;
        double Score(double x, (double Place, double Width, double Top, double P, double Weight) a) =>
            a.Top * Math.Exp(-Math.Pow(Math.Abs(x - a.Place) / a.Width, a.P));
        var losses = weighed.Select(a => (Loss: Math.Max(0, Score(Math.Clamp(a.Place, low, high), a) - Score(at, a)), a.Weight)).ToList();
        var expected = losses.Sum(l => l.Loss * l.Weight) / sum;
        var sharp = weighed.Sum(a => a.Weight * a.P) / sum;
        return new(
            at, Quantile(weighed.Select(a => (Math.Abs(a.Place - at), a.Weight))), new(expected, Math.Max(expected, Quantile(losses))),
            expected * (1 - Math.Pow(2, -sharp / 2)));

        double Quantile(IEnumerable<(double Value, double Weight)> values)
        {
            var so = 0.0;
            foreach (var (value, weight) in values.OrderBy(v => v.Value))
            {
                so += weight;
                if (so >= 0.95 * sum)
                    return value;
            }

            return values.Max(v => v.Value);
        }
    }
}
