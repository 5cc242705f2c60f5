using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Statistics;

/// <summary>
/// Parametric bootstrap of a weighted geometric mean of scores (a desirability, after Derringer and Suich 1980).
/// Each score is drawn around its reading with the person's own noise. A draw never falls below half a score, so that
/// noise does not invent a veto, and an observed veto is never drawn at all.
/// </summary>
public static class ScoreBootstrap
{
    /// <summary>Number of draws.</summary>
    public const int Draws = 2000;

    /// <summary>The highest score.</summary>
    public const double MaxScore = 4;

    private const double LeastDraw = 0.5;

    /// <summary>Weighted geometric mean of score/4 over aspects; 0 where one score is 0.</summary>
    public static double Desirability(IReadOnlyList<double> scores, IReadOnlyList<double> weights)
    {
        double log = 0, sum = 0;
        for (var i = 0; i < scores.Count; i++)
        {
            if (scores[i] <= 0)
                return 0;
            log += weights[i] * Math.Log(scores[i] / MaxScore);
            sum += weights[i];
        }

        return sum > 0 ? Math.Exp(log / sum) : 0;
    }

    /// <summary>Draws desirabilities of contenders.</summary>
    /// <param name="contenders">Per contender its repeats, per repeat its scores in the order of the weights.</param>
    /// <param name="weights">Weight of each aspect.</param>
    /// <param name="noise">Standard deviation of one score.</param>
    /// <param name="seed">Fixes the answer.</param>
    /// <returns>Per contender <see cref="Draws"/> desirabilities; draw k of all contenders belongs together.</returns>
    public static double[][] Draw(IReadOnlyList<IReadOnlyList<double[]>> contenders, IReadOnlyList<double> weights, double noise, int seed)
    {
        var random = new MersenneTwister(seed, false);
        var normals = new double[contenders.Sum(c => c.Count) * weights.Count * Draws];
        Normal.Samples(random, normals, 0, 1);
        var next = 0;
        var result = contenders.Select(_ => new double[Draws]).ToArray();
        var drawn = new double[weights.Count];
        for (var k = 0; k < Draws; k++)
        {
            for (var c = 0; c < contenders.Count; c++)
            {
                double sum = 0;
                foreach (var scores in contenders[c])
                {
                    for (var a = 0; a < drawn.Length; a++)
                        drawn[a] = Math.Max(Math.Min(LeastDraw, scores[a]), scores[a] + noise * normals[next++]);
                    sum += Desirability(drawn, weights);
                }

                result[c][k] = sum / contenders[c].Count;
            }
        }

        return result;
    }
}
