using MathNet.Numerics.Random;

namespace Glenfrost.Core.Statistics;

/// <summary>The order in which things are scored again, so that their place tells nothing.</summary>
public static class BlindOrder
{
    /// <summary>Shuffles (Fisher and Yates); the seed fixes the order.</summary>
    public static IReadOnlyList<T> Of<T>(IEnumerable<T> things, int seed)
    {
        var list = things.ToList();
        var random = new MersenneTwister(seed, false);
        for (var i = list.Count - 1; i > 0; i--)
        {
            var j = random.Next(i + 1);
            (list[i], list[j]) = (list[j], list[i]);
        }

        return list;
    }
}
