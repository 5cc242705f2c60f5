using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials;

/// <summary>A level of a factor as it was scored.</summary>
/// <param name="At">The level, in the factor's unit.</param>
/// <param name="Looks">Scores of how it looks, 0–4.</param>
/// <param name="Bond">Scores of the bond, broken by hand, 0–4; empty where nobody broke it.</param>
public sealed record ScoredLevel(double At, IReadOnlyList<double> Looks, IReadOnlyList<double> Bond)
{
    /// <summary>Forces at which a layer parted in a rig, N; empty where nobody pulled it.</summary>
    public IReadOnlyList<double> Forces { get; init; } = [];
}

/// <summary>
/// The least level of a factor that is about as good as the best on a curve with one peak: the least fan, the shortest layer time. What is more than that
/// costs strength or time, so that less is better where it looks the same. A level whose own looks are below <see cref="Usable"/>, or 0 anywhere, is never
/// offered.
/// </summary>
public sealed record LeastLevel
{
    /// <summary>A level that was read below this is not offered, scores.</summary>
    public const double Usable = 2;

    /// <summary>Where all are alike and the best is below this, the factor is not the matter, scores.</summary>
    public const double Poor = 2.5;

    /// <summary>Losing more than this in 1 of 20 leaves the choice open, scores.</summary>
    public const double Open = 1;

    private const double LeastNoise = 0.05;

    /// <summary>Levels, the least first.</summary>
    public required IReadOnlyList<double> Levels { get; init; }

    /// <summary>Mean score at each.</summary>
    public required IReadOnlyList<double> Looks { get; init; }

    /// <summary>95 % half-width of each.</summary>
    public required IReadOnlyList<double> Halves { get; init; }

    /// <summary>Mean score of the bond at each; null where nobody broke it.</summary>
    public required IReadOnlyList<double?> Bond { get; init; }

    /// <summary>Force of the bond at each, the geometric mean of what a rig pulled, N; null where nobody did.</summary>
    public required IReadOnlyList<double?> Forces { get; init; }

    /// <summary>The curve with one peak at each; empty for fewer than three levels.</summary>
    public IReadOnlyList<double> Curve { get; init; } = [];

    /// <summary>True where none is offered, or all are alike and none is good: it is not this factor.</summary>
    public bool IsNotIt { get; init; }

    /// <summary>Place of the advised level; null where none is.</summary>
    public int? Chosen { get; init; }

    /// <summary>Places of levels about as good as the best.</summary>
    public IReadOnlyList<int> Good { get; init; } = [];

    /// <summary>True where little is lost by it in 19 of 20.</summary>
    public bool IsClear { get; init; }

    /// <summary>95 % half-width of the advised level, in the factor's unit.</summary>
    public double Half { get; init; }

    /// <summary>What a rig's pull is read as: unit, range and why.</summary>
    public static Quantity ForceN { get; } = new("Force", "N", 0.1m, 5000, "above 0, what the rig showed as a layer parted");

    /// <summary>Mean way from level to level.</summary>
    public double Step => Levels.Count < 2 ? 0 : (Levels[^1] - Levels[0]) / (Levels.Count - 1);

    /// <summary>What is wrong with scored levels, by field of the API.</summary>
    /// <param name="points">As they were read.</param>
    /// <param name="margin">So far behind the best is about as good, scores: above 0 to 2.</param>
    /// <param name="scoreNoise">Standard deviation of one score: above 0 to 2.</param>
    /// <param name="sought">What they are to show, with its article.</param>
    /// <param name="scored">Field of its first score.</param>
    /// <param name="ofWhat">What is scored, in words.</param>
    /// <param name="level">Why a level is none, with its field; null where it is one.</param>
    public static IReadOnlyList<FieldError> Check(
        IReadOnlyList<ScoredLevel> points, double margin, double scoreNoise, string sought, string scored, string ofWhat,
        Func<double, (string Field, string Why)?> level)
    {
        var errors = new List<FieldError>();
        if (points.Count < 3)
            errors.Add(new("points", $"{Say.Plural(points.Count, "section")} can't show {sought}: three or more would be right."));
        if (points.Count > 200)
            errors.Add(new("points", $"{points.Count} sections: at most 200."));
        foreach (var (p, i) in points.Select((p, i) => (p, i)))
        {
            if (level(p.At) is { } none)
                errors.Add(new($"points[{i}].{none.Field}", none.Why));
            if (p.Looks.Count == 0)
                errors.Add(new($"points[{i}].{scored}", $"A section needs a score of {ofWhat}, 0–4."));
            if (p.Looks.Concat(p.Bond).Any(s => !(s is >= 0 and <= 4)))
                errors.Add(new($"points[{i}].{scored}", "A score is 0 (unusable) to 4 (clean)."));
            if (p.Forces.Any(n => !(n is >= 0.1 and <= 5000)))
                errors.Add(new($"points[{i}].forceN", "That is no force: 0.1 to 5000 N would be right."));
        }

        if (!(margin is > 0 and <= 2))
            errors.Add(new("margin", $"A margin of {Say.N(margin)} scores is none: above 0 to 2 would be right, 0.5 is usual."));
        if (!(scoreNoise is > 0 and <= 2))
            errors.Add(new("scoreNoise", $"{Say.N(scoreNoise)} is outside 0 to 2 scores; 0.5 is usual."));
        return errors;
    }

    /// <summary>Judges scores; equal levels are repeats.</summary>
    /// <param name="points">Levels in any order.</param>
    /// <param name="margin">So far behind the best is about as good, scores.</param>
    /// <param name="scoreNoise">Standard deviation of one score.</param>
    public static LeastLevel Of(IReadOnlyList<ScoredLevel> points, double margin, double scoreNoise)
    {
        var cells = points.GroupBy(p => p.At).OrderBy(g => g.Key).Select(g =>
        {
            // Whole scores hide up to half of one: their step scatters too, by a twelfth of its square.
            var looks = g.SelectMany(p => p.Looks).ToList();
            var sd = Math.Sqrt(Math.Pow(Math.Max(LeastNoise, scoreNoise), 2) + (looks.All(s => s == Math.Floor(s)) ? 1 / 12.0 : 0));
            var bond = g.SelectMany(p => p.Bond).ToList();
            return (
                At: g.Key, Mean: looks.Average(), Error: sd / Math.Sqrt(looks.Count), Behind: looks.Average(s => ScoreCurve.Behind(s, sd)),
                Worst: looks.Min(), Bond: bond.Count > 0 ? bond.Average() : (double?)null,
                Force: g.SelectMany(p => p.Forces).ToList() is { Count: > 0 } n ? Math.Exp(n.Average(Math.Log)) : (double?)null);
        }).ToList();
        var basis = new LeastLevel
        {
            Levels = [.. cells.Select(c => c.At)], Looks = [.. cells.Select(c => Math.Round(c.Mean, 3))],
            Halves = [.. cells.Select(c => Math.Round(1.96 * c.Error, 3))],
            Bond = [.. cells.Select(c => c.Bond is { } b ? Math.Round(b, 3) : (double?)null)],
            Forces = [.. cells.Select(c => c.Force is { } n ? Math.Round(n, 2) : (double?)null)],
        };
        if (cells.Count < 3)
            return basis;
        var curve = ScoreCurve.Through([.. cells.Select(c => new ScoredPlace(c.At, c.Behind, c.Error))], [.. cells.Select(c => c.At)]);
        basis = basis with { Curve = [.. Enumerable.Range(0, cells.Count).Select(i => Math.Round(curve.Mean[i], 3))] };
        var offered = Enumerable.Range(0, cells.Count).Where(i => cells[i].Mean >= Usable && cells[i].Worst > 0).ToList();
        var alike = Enumerable.Range(0, cells.Count).All(i => curve.LossAt(i).Expected < margin);
        if (offered.Count == 0 || (alike && cells.Max(c => c.Mean) < Poor))
            return basis with { IsNotIt = true };
        var best = curve.Least(offered);
        var good = offered.Where(i => curve.Mean[i] >= curve.Mean[best] - margin - 1e-9).ToList();
        var chosen = good.MinBy(i => cells[i].At);
        var apart = curve.FirstWithin([.. Enumerable.Range(0, cells.Count)], margin).Select(x => Math.Abs(x - cells[chosen].At)).Order().ToList();
        return basis with
        {
            Chosen = chosen,
            Good = good,
            // What may be lost, and what another piece would gain, held too seldom against hidden curves that fall steeply: it is not said.
            IsClear = curve.LossAt(chosen).P95 <= Open,
            Half = apart[(int)Math.Ceiling(0.95 * apart.Count) - 1] + basis.Step / 2,
        };
    }
}
