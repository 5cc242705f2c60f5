namespace Glenfrost.Core.Factors;

/// <summary>A reading as it is compared with another run's.</summary>
/// <param name="Value">In the aspect's unit.</param>
/// <param name="Sd">What one such reading scatters by itself, in the same unit; null where nobody knows.</param>
public sealed record ComparedReading(double Value, double? Sd);

/// <summary>One place of an aspect: what each run read there.</summary>
/// <param name="Label">As the part is called.</param>
/// <param name="Of">A reading each, in the order of the runs; null where a run has no such part, or it was not read.</param>
public sealed record ComparedPlace(string Label, IReadOnlyList<ComparedReading?> Of)
{
    /// <summary>True where the outermost two differ by more than both scatter: beyond 95 % of what chance would do to two alike.</summary>
    public bool Beats
    {
        get
        {
            var known = Of.OfType<ComparedReading>().Where(r => r.Sd is not null).ToList();
            return known.SelectMany((a, i) => known.Skip(i + 1).Select(b => (a, b)))
                .Any(p => Math.Abs(p.a.Value - p.b.Value) > ReadComparison.Z * Math.Sqrt(p.a.Sd!.Value * p.a.Sd.Value + p.b.Sd!.Value * p.b.Sd.Value));
        }
    }

    /// <summary>True where at least two runs read it and their scatter is known: only there something could be marked.</summary>
    public bool IsAsked => Of.Count(r => r?.Sd is not null) > 1;
}

/// <summary>One aspect over the parts that runs share.</summary>
/// <param name="Aspect">Key of the column.</param>
/// <param name="Label">Its head.</param>
/// <param name="IsScore">True for scores of 0 to 4.</param>
/// <param name="Unit">Unit of a number; empty for scores.</param>
/// <param name="Places">In the order of the axis.</param>
public sealed record ComparedAspect(string Aspect, string Label, bool IsScore, string Unit, IReadOnlyList<ComparedPlace> Places);

/// <summary>Readings of several runs side by side.</summary>
public static class ReadComparison
{
    /// <summary>The two-sided 95 % point of the normal distribution.</summary>
    public const double Z = 1.959964;

    /// <summary>How many of so many differences chance alone would mark between runs that are alike.</summary>
    /// <param name="asked">Differences asked for.</param>
    public static double ByChance(int asked) => 0.05 * asked;

    /// <summary>
    /// Labels of parts in the order of an axis: by the number that they begin with, where all of them begin with one; else as they first come.
    /// </summary>
    /// <param name="labels">Of all runs, one after the other.</param>
    public static IReadOnlyList<string> Axis(IEnumerable<string> labels)
    {
        List<string> all = [.. labels.Distinct(StringComparer.Ordinal)];
        var numbers = all.Select(Number).ToList();
        return numbers.All(n => n is not null) ? [.. all.Zip(numbers).OrderBy(x => x.Second).Select(x => x.First)] : all;
    }

    private static double? Number(string label)
    {
        var text = label.Replace('−', '-').TrimStart('+');
        var n = text.TakeWhile((c, i) => char.IsAsciiDigit(c) || (c == '-' && i == 0) || (c == '.' && i > 0)).Count();
        return double.TryParse(text[..n], System.Globalization.CultureInfo.InvariantCulture, out var v) ? v : null;
    }
}
