using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.LayerBond;

namespace Glenfrost.Application.Trials;

/// <summary>The bond of a piece that was printed for its looks, in words.</summary>
internal static class BondWords
{
    /// <summary>What least and most of the factor did to it; nothing where it is known of one level or none.</summary>
    /// <param name="at">Levels.</param>
    /// <param name="unit">Of the levels, with the space before it.</param>
    /// <param name="byHand">Mean scores, 0–4.</param>
    /// <param name="forces">Forces, N.</param>
    /// <param name="pulls">How many pulls each force is the mean of.</param>
    /// <param name="where">What is said where the least holds better.</param>
    public static IEnumerable<string> Of(
        IReadOnlyList<double> at, string unit, IReadOnlyList<double?> byHand, IReadOnlyList<double?> forces, Func<double, int> pulls, string where)
    {
        if (at.Zip(forces).Where(x => x.Second is not null).Select(x => (At: x.First, N: x.Second!.Value)).ToList() is { Count: > 1 } pulled)
        {
            var (least, most) = (pulled.MinBy(p => p.At), pulled.MaxBy(p => p.At));
            var ratio = most.N / least.N;
            // What the usual rig's scatter alone does to so many pulls in 19 of 20, as a factor either way.
            var alone = Math.Exp(1.96 * BondPlan.AssumedScatterPercent / 100 * Math.Sqrt(1.0 / pulls(least.At) + 1.0 / pulls(most.At)));
            var seen = 100 * Math.Abs((ratio < 1 ? 1 / alone : alone) - 1);
            yield return $"Bond by the rig: {Say.N(least.N, 1)} N at {Say.N(least.At)}{unit}, {Say.N(most.N, 1)} N at {Say.N(most.At)}{unit}, " +
                $"{Say.N(100 * Math.Abs(ratio - 1), 0)} % {(ratio < 1 ? "less" : "more")}" +
                (Math.Max(ratio, 1 / ratio) < alone ? $": so few pulls show nothing below {Say.N(seen, 0)} %." : ratio < 1 ? where : ".");
        }
        else if (at.Zip(byHand).Where(x => x.Second is not null).Select(x => (At: x.First, Score: x.Second!.Value)).ToList() is { Count: > 0 } read)
        {
            var (least, most) = (read.MinBy(x => x.At), read.MaxBy(x => x.At));
            yield return $"Bond by hand: {Say.N(least.Score, 1)} at {Say.N(least.At)}{unit}, {Say.N(most.Score, 1)} at {Say.N(most.At)}{unit}" +
                (least.Score > most.Score ? where : ".");
        }
    }
}
