using System.Globalization;
using System.Text.RegularExpressions;

namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>A least layer time that a file states in a comment.</summary>
public static partial class StatedLayerTime
{
    /// <summary>Longest that is believed, s.</summary>
    public const double LongestS = 600;

    /// <summary>Reads a comment such as "least layer time 10 s" or "min_layer_time = 8".</summary>
    /// <param name="comment">With or without its semicolon.</param>
    /// <returns>
    /// s; null where the comment states none. A time below which the fan goes up is another thing and easily mistaken for it: comments that speak of a fan
    /// state none.
    /// </returns>
    public static double? Of(string comment)
    {
        if (comment.Length > 200 || comment.Contains("fan", StringComparison.OrdinalIgnoreCase))
            return null;
        var m = Words().Match(comment);
        return m.Success && Least().IsMatch(comment)
            && double.TryParse(m.Groups[1].ValueSpan, NumberStyles.AllowDecimalPoint, CultureInfo.InvariantCulture, out var s)
            && s is > 0 and <= LongestS
                ? s
                : null;
    }

    [GeneratedRegex(
        @"layer[\W_]*(?:print(?:ing)?[\W_]*)?time(?:[\W_]|min(?:imum)?\b|is|of|below|under|at|least|s\b|sec\b)*?(\d+(?:\.\d+)?)" +
            @"\s*(?:s|sec|seconds)?\s*(?:[,;).]|$)",
        RegexOptions.IgnoreCase)]
    private static partial Regex Words();

    [GeneratedRegex(@"(?<![a-z])(?:min(?:imum|imal)?|least|lowest|shortest|slow\w*)(?![a-z])", RegexOptions.IgnoreCase)]
    private static partial Regex Least();
}
