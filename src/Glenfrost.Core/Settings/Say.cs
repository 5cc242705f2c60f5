using System.Globalization;

namespace Glenfrost.Core.Settings;

/// <summary>Numbers in sentences, in files and on labels: the one way in which they are written.</summary>
public static class Say
{
    /// <summary>At most that many decimals, 0 to 15, without trailing zeros; what is less than half of the last one is 0, never −0.</summary>
    public static string N(double v, int digits = 2) => (Math.Abs(v) < Least[digits] ? 0 : v).ToString(Forms[digits], CultureInfo.InvariantCulture);

    // G-code is written number by number: forms are made once.
    private static readonly string[] Forms = [.. Enumerable.Range(0, 16).Select(d => d == 0 ? "0" : "0." + new string('#', d))];
    private static readonly double[] Least = [.. Enumerable.Range(0, 16).Select(d => 0.5 * Math.Pow(10, -d))];

    /// <summary>The same of a decimal.</summary>
    public static string N(decimal v, int digits = 2) => N((double)v, digits);

    /// <summary>With its sign; what is 0 with so many digits has none.</summary>
    public static string Signed(double v, int digits = 1) => N(Math.Abs(v), digits) switch
    {
        "0" => "0",
        var size => (v > 0 ? "+" : "−") + size,
    };

    /// <summary>One thing, or several.</summary>
    public static string Plural(int n, string one, string? many = null) => n == 1 ? $"1 {one}" : $"{n} {many ?? one + "s"}";

    /// <summary>A list in words.</summary>
    public static string List(IEnumerable<string> items)
    {
        var list = items.ToList();
        return list.Count <= 1 ? string.Concat(list) : $"{string.Join(", ", list.Take(list.Count - 1))} and {list[^1]}";
    }
}
