using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Statistics;

/// <summary>One step of a row of scored steps.</summary>
/// <param name="At">The factor's value.</param>
/// <param name="Scores">Scores given to it, 0 (unusable) to 4 (clean), each by itself as noisy as the person.</param>
public sealed record ScoredStep(double At, IReadOnlyList<double> Scores)
{
    /// <summary>Mean of its scores.</summary>
    public double Mean => Scores.Average();

    /// <summary>True where somebody called it unusable: a veto.</summary>
    public bool Vetoed => Scores.Any(s => s <= 0);
}

/// <summary>Which of a row of steps is the best, and how surely.</summary>
/// <param name="Word">clear, noise, edge, none-good or insufficient.</param>
/// <param name="Best">Index of the best step in the order of its values; -1 where none is.</param>
/// <param name="From">First step that is as good as the best and beside it.</param>
/// <param name="To">Last one.</param>
/// <param name="Value">The best value, or the middle of equals.</param>
/// <param name="HalfWidth">Half of the interval that it may lie in: half the equals and half a step.</param>
/// <param name="Apart">Steps not to be told from the best that do not lie beside it.</param>
/// <param name="Separation">Difference of two means that chance exceeds in one of twenty.</param>
public sealed record StepsVerdict(string Word, int Best, int From, int To, double Value, double HalfWidth, IReadOnlyList<int> Apart, double Separation)
{
    /// <summary>More equals than this leave it to noise.</summary>
    public const int MostEquals = 3;

    /// <summary>A step whose own mean lies below this is no result to be kept: it is never one of the equals, and never offered.</summary>
    public const double LeastGood = 2;

    /// <summary>
    /// Judges scored steps. Two steps differ where the difference of their means exceeds what the person's own noise makes in one of twenty (one-sided normal
    /// test with the noise known). Equals are the steps beside the best that can't be told from it; a step called unusable, or read below
    /// <see cref="LeastGood"/>, is never one.
    /// </summary>
    /// <param name="steps">In the order of their values.</param>
    /// <param name="noise">Standard deviation of one score.</param>
    /// <param name="leastGood">What one of the equals must read at least; 0 where only chance is asked, not what may be kept.</param>
    public static StepsVerdict Of(IReadOnlyList<ScoredStep> steps, double noise, double leastGood = LeastGood)
    {
        var usable = steps.Select((s, i) => (s, i)).Where(x => x.s.Scores.Count > 0 && !x.s.Vetoed).ToList();
        if (usable.Count == 0 || steps.Count(s => s.Scores.Count > 0) < 3)
            return new("insufficient", -1, -1, -1, double.NaN, double.NaN, [], 0);
        var each = usable.Min(x => x.s.Scores.Count);
        var separation = Normal.InvCDF(0, 1, 0.95) * noise * Math.Sqrt(2.0 / each);
        var top = usable.Max(x => x.s.Mean);
        // Ties go to the one nearest the middle of the row: an end is not a best while an inner step equals it.
        var best = usable.Where(x => top - x.s.Mean < 1e-9).MinBy(x => Math.Abs(x.i - (steps.Count - 1) / 2.0)).i;
        bool Equal(int i) =>
            i >= 0 && i < steps.Count && steps[i].Scores.Count > 0 && !steps[i].Vetoed && (top < leastGood || steps[i].Mean >= leastGood)
            && top - steps[i].Mean < separation;
        var (from, to) = (best, best);
        while (Equal(from - 1))
            from--;
        while (Equal(to + 1))
            to++;
        var apart = usable.Where(x => (x.i < from || x.i > to) && x.s.Mean >= leastGood && top - x.s.Mean < separation)
            .Select(x => x.i).ToList();
        var step = steps.Zip(steps.Skip(1), (a, b) => Math.Abs(b.At - a.At)).DefaultIfEmpty(0).Average();
        // Among equals the better ones weigh more: the middle of what stands above the line of telling.
        var weights = Enumerable.Range(from, to - from + 1).Select(i => (steps[i].At, W: steps[i].Mean - (top - separation) + 1e-9)).ToList();
        var value = weights.Sum(w => w.At * w.W) / weights.Sum(w => w.W);
        var word =
            best == 0 || best == steps.Count - 1 ? "edge"
            : top < leastGood ? "none-good"
            : apart.Count > 0 || to - from + 1 > MostEquals ? "noise"
            : "clear";
        return new(word, best, from, to, word == "edge" ? steps[best].At : value, (steps[to].At - steps[from].At) / 2 + step / 2, apart, separation);
    }
}
