namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>Weights over equal classes from 0 up; what is beyond the last class counts to it.</summary>
/// <param name="width">Of a class.</param>
/// <param name="classes">How many.</param>
public sealed class Histogram(double width, int classes)
{
    private readonly double[] weights = new double[classes];
    private readonly double inverse = 1 / width;

    /// <summary>Width of a class.</summary>
    public double Width => width;

    /// <summary>Weights from class 0 on.</summary>
    public IReadOnlyList<double> Weights => weights;

    /// <summary>Sum of all weights.</summary>
    public double Total => weights.Sum();

    /// <summary>Adds a value with a weight.</summary>
    public void Add(double value, double weight)
    {
        var i = (uint)(int)(value * inverse);
        weights[i < (uint)weights.Length ? i : value > 0 ? weights.Length - 1 : 0] += weight;
    }

    /// <summary>The value below which a share of the weight lies, interpolated in its class; NaN where there is none.</summary>
    /// <param name="share">0 to 1.</param>
    public double Quantile(double share)
    {
        var total = Total;
        if (total <= 0)
            return double.NaN;
        var left = share * total;
        for (var i = 0; i < classes; i++)
        {
            if (weights[i] > 0 && left <= weights[i] + 1e-12 * total)
                return (i + Math.Clamp(left / weights[i], 0, 1)) * width;
            left -= weights[i];
        }

        return classes * width;
    }

    /// <summary>Middle of the class with the most weight; NaN where there is none.</summary>
    public double Mode => Total <= 0 ? double.NaN : (Array.IndexOf(weights, weights.Max()) + 0.5) * width;

    /// <summary>For showing: lower bound and weight of the classes from the first to the last with weight.</summary>
    public IReadOnlyList<(double From, double Weight)> Shown()
    {
        var first = Array.FindIndex(weights, w => w > 0);
        return first < 0 ? [] : [.. Enumerable.Range(first, Array.FindLastIndex(weights, w => w > 0) - first + 1).Select(i => (i * width, weights[i]))];
    }
}
