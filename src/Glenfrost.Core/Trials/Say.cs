using System.Globalization;

namespace Glenfrost.Core.Trials;

/// <summary>Numbers in sentences.</summary>
public static class Say
{
    /// <summary>At most that many decimals, without trailing zeros.</summary>
    public static string N(double v, int digits = 2) =>
        (Math.Abs(v) < 0.5 * Math.Pow(10, -digits) ? 0 : v).ToString(digits == 0 ? "0" : "0." + new string('#', digits), CultureInfo.InvariantCulture);

    /// <summary>The same of a decimal.</summary>
    public static string N(decimal v, int digits = 2) => N((double)v, digits);

    /// <summary>With its sign.</summary>
    public static string Signed(double v, int digits = 1) => $"{(v > 0 ? "+" : v < 0 ? "−" : "")}{N(Math.Abs(v), digits)}";

    /// <summary>One thing, or several.</summary>
    public static string Plural(int n, string one, string? many = null) => n == 1 ? $"1 {one}" : $"{n} {many ?? one + "s"}";

    /// <summary>A list in words.</summary>
    public static string List(IEnumerable<string> items)
    {
        var list = items.ToList();
        return list.Count <= 1 ? string.Concat(list) : $"{string.Join(", ", list.Take(list.Count - 1))} and {list[^1]}";
    }
}
