using MathNet.Numerics.Distributions;
using MathNet.Numerics.Statistics;

namespace Glenfrost.Core.Factors;

/// <summary>What may be concluded from two groups of pieces.</summary>
public enum Conclusion
{
    /// <summary>Nothing that is known differs, and nothing is unknown.</summary>
    NothingDiffers,

    /// <summary>One thing differs between pieces of which one group has a single one: the only thing that differs, not yet its effect.</summary>
    OnlyDifference,

    /// <summary>One thing differs, both groups have repeats, and the interval leaves zero out: its effect.</summary>
    Effect,

    /// <summary>The same, but the interval holds zero.</summary>
    NotShown,

    /// <summary>More than one thing differs.</summary>
    NotAttributed,

    /// <summary>One thing differs, and of another nobody knows whether it does.</summary>
    UnknownBeside,

    /// <summary>Nothing that is known differs, but something is unknown.</summary>
    OnlyUnknown,

    /// <summary>The pieces themselves differ: there is no common number.</summary>
    OtherPieces,
}

/// <summary>What two groups of pieces say of what differs between them.</summary>
/// <param name="Verdict">What may be concluded.</param>
/// <param name="Differs">What differs.</param>
/// <param name="Unknown">Of what nobody knows whether it differs.</param>
/// <param name="Effect">Mean of the first group less mean of the second, in the reading's unit; null where there is no common number, or a group is
/// empty.</param>
/// <param name="Low">Lower end of its 95 % interval; null without repeats of both.</param>
/// <param name="High">Upper end.</param>
/// <param name="Separate">Keys of the factors to exchange alone in the one run that would separate them, the cheapest first; empty where none is
/// needed.</param>
public sealed record Attribution(
    Conclusion Verdict, IReadOnlyList<FactorDifference> Differs, IReadOnlyList<FactorDifference> Unknown, double? Effect, double? Low, double? High,
    IReadOnlyList<string> Separate)
{
    /// <summary>
    /// Concludes. One difference between single pieces is the only thing that differs, never its effect; two pieces of each, and an interval that leaves zero
    /// out, make an effect.
    /// The interval is Student's t for two means with one pooled standard deviation (Student 1908).
    /// </summary>
    /// <param name="differences">From <see cref="FactorComparison"/>, those that matter to what was read.</param>
    /// <param name="now">Readings of the pieces with the difference, one a piece, in one unit.</param>
    /// <param name="before">Readings of the others.</param>
    /// <param name="ownSd">Standard deviation that one reading has by itself: repeats that happen to agree show no less scatter than that.</param>
    public static Attribution Of(IReadOnlyCollection<FactorDifference> differences, IReadOnlyList<double> now, IReadOnlyList<double> before, double ownSd = 0)
    {
        var differs = differences.Where(d => d.State == Sameness.Differs).ToList();
        var unknown = differences.Where(d => d.State == Sameness.Unknown).ToList();
        if (differs.Any(d => d.Factor.Group == FactorGroup.Piece && d.Factor.Key != FactorRegistry.Place))
            return new(Conclusion.OtherPieces, differs, unknown, null, null, null, []);
        double? effect = now.Count > 0 && before.Count > 0 ? now.Mean() - before.Mean() : null;
        var (low, high) = Interval(now, before, ownSd);
        var verdict = differs.Count switch
        {
            0 => unknown.Count > 0 ? Conclusion.OnlyUnknown : Conclusion.NothingDiffers,
            1 when unknown.Count > 0 => Conclusion.UnknownBeside,
            1 when now.Count < 2 || before.Count < 2 || low is null => Conclusion.OnlyDifference,
            1 => low > 0 || high < 0 ? Conclusion.Effect : Conclusion.NotShown,
            _ => Conclusion.NotAttributed,
        };
        return new(
            verdict, differs, unknown, effect, low, high,
            verdict == Conclusion.NotAttributed ? [.. differs.OrderBy(Cost).ThenBy(d => d.Factor.Key, StringComparer.Ordinal).Select(d => d.Factor.Key)] : []);
    }

    /// <summary>95 % interval of the difference of two means; nulls where a group has fewer than two values.</summary>
    private static (double? Low, double? High) Interval(IReadOnlyList<double> a, IReadOnlyList<double> b, double ownSd)
    {
        if (a.Count < 2 || b.Count < 2)
            return (null, null);
        var freedom = a.Count + b.Count - 2;
        var pooled = Math.Max(ownSd * ownSd, ((a.Count - 1) * a.Variance() + (b.Count - 1) * b.Variance()) / freedom);
        var half = Math.Sqrt(pooled * (1.0 / a.Count + 1.0 / b.Count)) * StudentT.InvCDF(0, 1, freedom, 0.975);
        var effect = a.Mean() - b.Mean();
        return (effect - half, effect + half);
    }

    /// <summary>What is exchanged most easily comes first: a setting before a brim or place, those before a spool, air before parts.</summary>
    private static int Cost(FactorDifference d) => d.Factor.Group switch
    {
        FactorGroup.Setting => 0,
        FactorGroup.Piece or FactorGroup.Software => 1,
        FactorGroup.Spool => 2,
        FactorGroup.Surroundings => 3,
        _ => 4,
    };
}
