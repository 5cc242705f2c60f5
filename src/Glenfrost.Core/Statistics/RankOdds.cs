using MathNet.Numerics;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Statistics;

/// <summary>What luck alone does to ranks: of all ways in which the same ranks could have fallen on the same groups, the share that says as much or
/// more.</summary>
/// <param name="P">That share, 0–1.</param>
/// <param name="Floor">The least share that so many pieces can have at all.</param>
/// <param name="Exact">True where every way was counted; false where 200,000 were drawn.</param>
public sealed record RankOdds(double P, double Floor, bool Exact)
{
    private const int MostWays = 400_000, Drawn = 200_000;

    /// <summary>Luck alone does it one time in so many.</summary>
    public double OneIn => 1 / P;

    /// <summary>
    /// Counts. With an expected order (the weakest group first) the statistic is Jonckheere's: pairs of pieces of two groups that stand as expected. Without
    /// one it is how far the groups' mean ranks are apart (Kruskal and Wallis).
    /// </summary>
    /// <param name="ranks">Rank of each piece, 1 the weakest; equal ones are ties.</param>
    /// <param name="group">Group of each piece, from 0, in the expected order where there is one.</param>
    /// <param name="ordered">True where the groups stand in an expected order.</param>
    public static RankOdds Of(IReadOnlyList<double> ranks, IReadOnlyList<int> group, bool ordered)
    {
        var groups = group.Max() + 1;
        var sizes = Enumerable.Range(0, groups).Select(g => group.Count(x => x == g)).ToArray();
        double Statistic(int[] at) => ordered ? InOrder(ranks, at) : Apart(ranks, at, sizes);
        var seen = Statistic([.. group]);
        var ways = sizes.Aggregate((Left: ranks.Count, Log: 0.0), (a, n) => (a.Left - n, a.Log + SpecialFunctions.BinomialLn(a.Left, n))).Log;
        if (ways < Math.Log(MostWays))
        {
            var (all, asMuch, most, least) = (0, 0, double.NegativeInfinity, 0);
            foreach (var at in Ways(sizes, ranks.Count))
            {
                var s = Statistic(at);
                all++;
                if (s >= seen - 1e-9)
                    asMuch++;
                if (s > most + 1e-9)
                    (most, least) = (s, 1);
                else if (s >= most - 1e-9)
                    least++;
            }

            return new(asMuch / (double)all, least / (double)all, true);
        }

        var random = new MersenneTwister(17, false);
        var (order, hits) = (group.ToArray(), 0);
        for (var i = 0; i < Drawn; i++)
        {
            for (var k = order.Length - 1; k > 0; k--)
            {
                var j = random.Next(k + 1);
                (order[k], order[j]) = (order[j], order[k]);
            }

            if (Statistic(order) >= seen - 1e-9)
                hits++;
        }

        return new((hits + 1.0) / (Drawn + 1), Math.Exp(-ways), false);
    }

    private static double InOrder(IReadOnlyList<double> ranks, int[] at)
    {
        var sum = 0.0;
        for (var i = 0; i < at.Length; i++)
        {
            for (var j = 0; j < at.Length; j++)
            {
                if (at[i] < at[j])
                    sum += ranks[i] < ranks[j] ? 1 : ranks[i] == ranks[j] ? 0.5 : 0;
            }
        }

        return sum;
    }

    private static double Apart(IReadOnlyList<double> ranks, int[] at, int[] sizes)
    {
        var sums = new double[sizes.Length];
        for (var i = 0; i < at.Length; i++)
            sums[at[i]] += ranks[i];
        return sums.Select((s, g) => s * s / sizes[g]).Sum();
    }

    /// <summary>Every way to give the groups their pieces.</summary>
    private static IEnumerable<int[]> Ways(int[] sizes, int count)
    {
        var (at, left) = (new int[count], (int[])sizes.Clone());
        IEnumerable<int[]> From(int i)
        {
            if (i == count)
            {
                yield return at;
                yield break;
            }

            for (var g = 0; g < left.Length; g++)
            {
                if (left[g] == 0)
                    continue;
                left[g]--;
                at[i] = g;
                foreach (var way in From(i + 1))
                    yield return way;
                left[g]++;
            }
        }

        return From(0);
    }
}
