using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;

namespace Glenfrost.Application.Trials.FlowLimit;

/// <summary>What the three ways of measuring a flow limit say alike.</summary>
internal static class FlowWords
{
    /// <summary>What the margin takes off.</summary>
    public static string Below(double marginPercent, string what = "") =>
        marginPercent > 0 ? $"this is {Say.N(marginPercent)} % below{what}" : "no margin is taken off";

    /// <summary>The last line of the arithmetic.</summary>
    public static string Less(FlowVerdict v) =>
        $"less {Say.N(v.MarginPercent)} %, rounded down: {Say.N(v.RecommendedFlowMm3PerS!.Value, 1)} mm³/s";

    /// <summary>What a left-over override means for a print whose lines are laid.</summary>
    public static IEnumerable<string> Laid(FlowVerdict v) => Overrides.Said(v.OverridePercent, v.OverrideAnswer);

    /// <summary>What was seen or heard, behind a flow; empty where nobody said.</summary>
    public static string Heard(string fault) => fault.Length > 0 ? $" ({fault})" : "";
}
