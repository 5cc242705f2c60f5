using Glenfrost.Core.Gcode.Writing;
using System.Text;

namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>Bytes of a comment as text: UTF-8 where they are, else Latin-1.</summary>
public static class GcodeText
{
    private static readonly UTF8Encoding Strict = new(false, true);

    /// <summary>The text, without line ends.</summary>
    public static string Of(ReadOnlySpan<byte> bytes)
    {
        try
        {
            return Strict.GetString(bytes).TrimEnd('\r', '\n');
        }
        catch (DecoderFallbackException)
        {
            return Encoding.Latin1.GetString(bytes).TrimEnd('\r', '\n');
        }
    }
}

/// <summary>The mark that files carry which were stepped here.</summary>
public static class StepMark
{
    /// <summary>What a mark begins with, behind the semicolon.</summary>
    public const string Text = "glenfrost step";

    internal static ReadOnlySpan<byte> Bytes => "glenfrost step"u8;
}

/// <summary>Words by which a file says that it is a temperature tower.</summary>
public static class TowerWords
{
    /// <summary>True where a text speaks of temperature and of a tower.</summary>
    public static bool In(string text) =>
        text.Contains("tower", StringComparison.OrdinalIgnoreCase)
        && (text.Contains("temp", StringComparison.OrdinalIgnoreCase) || text.Contains("heat", StringComparison.OrdinalIgnoreCase));
}

/// <summary>What a line of the model is for, as files say it: "; feature outer wall", "; type: infill", or one of our own names alone.</summary>
public sealed class FeatureNames
{
    private static readonly HashSet<string> Own = [.. Enum.GetValues<PathRole>().Where(r => r != PathRole.Travel).Select(r => r.Name())];
    private readonly Dictionary<string, string> known = [];

    /// <summary>The feature's name where a comment names one; null elsewhere.</summary>
    /// <param name="comment">With its semicolon.</param>
    public string? Of(ReadOnlySpan<byte> comment)
    {
        if (comment.Length is < 4 or > 80)
            return null;
        var i = 1;
        while (i < comment.Length && comment[i] is (byte)' ' or (byte)'\t' or (byte)';')
            i++;
        if (i >= comment.Length || (comment[i] | 0x20) is not ('t' or 'f' or 'r' or 's' or 'o' or 'i' or 'b'))
            return null;
        var text = GcodeText.Of(comment[i..]).Trim();
        if (Own.Contains(text))
            return text;
        foreach (var key in (ReadOnlySpan<string>)["type", "feature", "role", "structure"])
        {
            if (!text.StartsWith(key, StringComparison.OrdinalIgnoreCase) || text.Length < key.Length + 2)
                continue;
            var next = text[key.Length];
            if (next is not (':' or '=') && !(next == ' ' && key == "feature"))
                continue;
            var name = text[(key.Length + 1)..].Trim(' ', ':', '=').ToLowerInvariant();
            if (name.Length is 0 or > 40)
                return null;
            if (!known.TryGetValue(name, out var same) && known.Count < 200)
                known[name] = same = name;
            return same ?? name;
        }

        return null;
    }
}
