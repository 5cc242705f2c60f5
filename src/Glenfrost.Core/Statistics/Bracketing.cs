using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Statistics;

/// <summary>Where the next readings of a threshold tell most.</summary>
/// <param name="Places">Values to try, in one print.</param>
/// <param name="HalfNow">Half of the 95 % interval as it stands.</param>
/// <param name="HalfThen">The same after that print, on the average.</param>
/// <param name="GridPieces">Values that a plain grid over the whole range needs for as much.</param>
/// <param name="OneByOne">Values that are needed where each is printed and read before the next is chosen.</param>
/// <param name="Reached">True where the asked width is reached.</param>
public sealed record BracketPlan(IReadOnlyList<double> Places, double HalfNow, double HalfThen, int GridPieces, int OneByOne, bool Reached);

/// <summary>
/// Bracketing of a threshold: below it a piece is good, above it it fails (or the other way round). What is known is an interval; before more is read, any
/// place in it is as
/// likely. A reading at x says "over" with probability Φ((x − θ)/b), b being how blurred the edge is read. Answers are enumerated, the posterior after each is
/// computed on a grid
/// by Bayes' rule, and the fewest places are proposed whose expected 95 % half-width is what was asked.
/// </summary>
public static class Bracketing
{
    /// <summary>More places than this are no bracket any more.</summary>
    public const int MostPlaces = 8;

    private const int Grid = 200;

    /// <summary>Half of the central 95 % of an interval in which any place is as likely.</summary>
    public static double HalfWidth(double from, double to) => 0.475 * (to - from);

    /// <summary>Proposes places.</summary>
    /// <param name="from">Lower end of what is known, any unit.</param>
    /// <param name="to">Upper end, above it.</param>
    /// <param name="blur">Standard deviation of where the edge is read, same unit; 0 or more.</param>
    /// <param name="asked">Wanted half of the 95 % interval, above 0.</param>
    /// <param name="rangeFrom">Lower end of the plain grid.</param>
    /// <param name="rangeTo">Upper end of the plain grid.</param>
    /// <param name="step">Places are rounded to whole steps; 0 for none.</param>
    /// <returns>Null where the interval is as narrow as asked, or nothing can be told apart in it.</returns>
    public static BracketPlan? Plan(double from, double to, double blur, double asked, double rangeFrom, double rangeTo, double step = 0)
    {
        if (!(to > from) || !(asked > 0) || blur < 0)
            return null;
        var now = HalfWidth(from, to);
        if (now <= asked)
            return null;
        BracketPlan? best = null;
        for (var n = 1; n <= MostPlaces; n++)
        {
            var places = Enumerable.Range(1, n).Select(i => Rounded(from + (to - from) * i / (n + 1))).Where(x => x > from && x < to).Distinct().ToList();
            if (places.Count < n)
                break;
            var then = Expected(from, to, places, blur);
            if (best is null || then < best.HalfThen - 1e-12)
                best = new(
                    places, now, then, (int)Math.Ceiling((rangeTo - rangeFrom) * 0.475 / Math.Max(then, asked)) + 1, OneByOne(from, to, blur, asked),
                    then <= asked);
            if (then <= asked)
                break;
        }

        return best;

        double Rounded(double x) => step > 0 ? Math.Round(Math.Round(x / step) * step, 6) : x;
    }

    /// <summary>Expected half of the 95 % interval after readings at places.</summary>
    public static double Expected(double from, double to, IReadOnlyList<double> places, double blur)
    {
        var thetas = Enumerable.Range(0, Grid).Select(i => from + (to - from) * (i + 0.5) / Grid).ToArray();
        var over = places.Select(x => thetas.Select(t => blur <= 0 ? x > t ? 1.0 : 0.0 : Normal.CDF(t, blur, x)).ToArray()).ToArray();
        var sum = 0.0;
        var weights = new double[Grid];
        for (var answer = 0; answer < 1 << places.Count; answer++)
        {
            Array.Fill(weights, 1.0 / Grid);
            for (var k = 0; k < places.Count; k++)
            {
                for (var i = 0; i < Grid; i++)
                    weights[i] *= (answer >> k & 1) == 1 ? over[k][i] : 1 - over[k][i];
            }

            var p = weights.Sum();
            if (p < 1e-9)
                continue;
            sum += p * Half(thetas, weights, p);
        }

        return sum;
    }

    /// <summary>Half of the central 95 % of weights over a grid.</summary>
    private static double Half(double[] at, double[] weights, double total)
    {
        double Quantile(double share)
        {
            var left = share * total;
            for (var i = 0; i < at.Length; i++)
            {
                if (left <= weights[i])
                    return at[i] + (at[1] - at[0]) * ((weights[i] <= 0 ? 0 : left / weights[i]) - 0.5);
                left -= weights[i];
            }

            return at[^1];
        }

        return (Quantile(0.975) - Quantile(0.025)) / 2;
    }

    /// <summary>Readings that are needed where each is taken in the middle of what is still possible; at most 12.</summary>
    private static int OneByOne(double from, double to, double blur, double asked)
    {
        // A blurred answer leaves a share of both halves: the interval shrinks to half of itself and what the blur leaves.
        var (half, n) = (HalfWidth(from, to), 0);
        while (half > asked && n < 12)
        {
            half = Math.Sqrt(half * half / 4 + 0.25 * blur * blur);
            n++;
        }

        return n;
    }
}
