using Glenfrost.Core.Statistics;
using Glenfrost.Core.Evidence;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.LinearAlgebra;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>The best temperature by the curve through all sections.</summary>
/// <param name="BestC">Where the curve is highest, °C.</param>
/// <param name="SdC">Standard deviation of it over the draws, °C.</param>
/// <param name="LowC">Lower end of its 95 % interval, °C.</param>
/// <param name="HighC">Upper end, °C.</param>
public sealed record CurveBest(double BestC, double SdC, double LowC, double HighC);

/// <summary>
/// A section's neighbours say something about it, since what a nozzle does changes smoothly with temperature. Through the scores of each aspect goes a local
/// parabola (weighted least squares, Gaussian weights; Cleveland 1979), over all sections that were read, also those that are vetoed; the aspects are then put
/// together as for a section. The highest point of that curve is a steadier best than the highest section. Its interval comes from drawing the scores anew.
/// </summary>
public static class TowerCurve
{
    /// <summary>Width of the weights, °C: found on the simulated bench, where anything from 12 to 25 does about as well.</summary>
    public const double WidthC = 16;

    /// <summary>Draws for its interval.</summary>
    public const int Draws = 500;

    /// <summary>Temperatures that are needed for a parabola to be more than its points.</summary>
    public const int LeastTemperatures = 5;

    private const double LeastScore = 0.3;

    /// <summary>The best by the curve.</summary>
    /// <param name="temperaturesC">Per reading, °C; the same one twice is a repeat.</param>
    /// <param name="scores">Per reading its scores of 0–4 in the order of the weights.</param>
    /// <param name="weights">Of the aspects.</param>
    /// <param name="noise">Standard deviation of a score.</param>
    /// <param name="seed">Fixes the draws.</param>
    /// <returns>Null where fewer than five temperatures were read.</returns>
    public static CurveBest? Best(IReadOnlyList<double> temperaturesC, IReadOnlyList<double[]> scores, IReadOnlyList<double> weights, double noise, int seed)
    {
        if (temperaturesC.Distinct().Count() < LeastTemperatures || weights.Count == 0)
            return null;
        var (low, high) = (temperaturesC.Min(), temperaturesC.Max());
        var n = Math.Min(400, (int)Math.Round(high - low)) + 1;
        var grid = Enumerable.Range(0, n).Select(i => n == 1 ? low : low + (high - low) * i / (n - 1)).ToArray();
        var rows = Array.ConvertAll(grid, t => Row(temperaturesC, t));
        var best = grid[Highest(rows, scores, weights)];
        var normals = new double[temperaturesC.Count * weights.Count];
        var random = new MersenneTwister(seed, false);
        var drawn = scores.Select(s => new double[s.Length]).ToArray();
        var tops = new double[Draws];
        for (var k = 0; k < Draws; k++)
        {
            Normal.Samples(random, normals, 0, noise);
            for (var (i, next) = (0, 0); i < drawn.Length; i++)
            {
                for (var a = 0; a < weights.Count; a++)
                    drawn[i][a] = scores[i][a] + normals[next++];
            }

            tops[k] = grid[Highest(rows, drawn, weights)];
        }

        var mean = tops.Average();
        var sd = Math.Sqrt(tops.Sum(t => (t - mean) * (t - mean)) / (Draws - 1));
        Array.Sort(tops);
        return new(best, sd, tops[(int)(0.025 * Draws)], tops[(int)(0.975 * Draws) - 1]);
    }

    private static int Highest(double[][] rows, IReadOnlyList<double[]> scores, IReadOnlyList<double> weights)
    {
        var (at, top) = (0, double.NegativeInfinity);
        for (var g = 0; g < rows.Length; g++)
        {
            var log = 0.0;
            for (var a = 0; a < weights.Count; a++)
            {
                if (weights[a] <= 0)
                    continue;
                var y = 0.0;
                for (var i = 0; i < scores.Count; i++)
                    y += rows[g][i] * scores[i][a];
                log += weights[a] * Math.Log(Math.Clamp(y, LeastScore, ScoreBootstrap.MaxScore));
            }

            if (log > top + 1e-12)
                (at, top) = (g, log);
        }

        return at;
    }

    /// <summary>How much each reading counts for the curve's value at a temperature: a row of the smoother's matrix.</summary>
    private static double[] Row(IReadOnlyList<double> temperaturesC, double t)
    {
        var n = temperaturesC.Count;
        var x = Matrix<double>.Build.Dense(n, 3, (i, j) => Math.Pow((temperaturesC[i] - t) / 10, j));
        var w = Matrix<double>.Build.DenseOfDiagonalArray([.. temperaturesC.Select(c => Math.Exp(-0.5 * Math.Pow((c - t) / WidthC, 2)))]);
        var xtw = x.TransposeThisAndMultiply(w);
        return (xtw * x).Solve(xtw).Row(0).ToArray();
    }
}
