namespace Glenfrost.Core.Statistics;

/// <summary>Monotone regression: the closest curve that never rises (pool adjacent violators; Ayer and others 1955).</summary>
public static class Isotonic
{
    /// <summary>Least-squares fit that never rises.</summary>
    /// <param name="values">In order of x.</param>
    /// <param name="weights">Of each value, above 0.</param>
    public static double[] Falling(IReadOnlyList<double> values, IReadOnlyList<double> weights)
    {
        var blocks = new List<(double Mean, double Weight, int Count)>();
        for (var i = 0; i < values.Count; i++)
        {
            blocks.Add((values[i], weights[i], 1));
            while (blocks.Count > 1 && blocks[^1].Mean > blocks[^2].Mean)
            {
                var (a, b) = (blocks[^2], blocks[^1]);
                blocks.RemoveAt(blocks.Count - 1);
                blocks[^1] = ((a.Mean * a.Weight + b.Mean * b.Weight) / (a.Weight + b.Weight), a.Weight + b.Weight, a.Count + b.Count);
            }
        }

        return [.. blocks.SelectMany(b => Enumerable.Repeat(b.Mean, b.Count))];
    }
}
