namespace Glenfrost.Core.Settings;

/// <summary>The two forms of a label: within a sentence, and at the head of a line. Nothing else is done with the letters of one.</summary>
public static class LabelForms
{
    /// <summary>As it stands within a sentence.</summary>
    public static string InSentence(this string label) => label.ToLowerInvariant();

    /// <summary>As it stands at the head of a line.</summary>
    public static string AtHead(this string label) => label.Length == 0 ? label : char.ToUpperInvariant(label[0]) + label[1..];
}
