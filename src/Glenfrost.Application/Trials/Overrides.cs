using Glenfrost.Core.Trials;

namespace Glenfrost.Application.Trials;

/// <summary>A flow override that a start code leaves, in the words of verdicts.</summary>
internal static class Overrides
{
    /// <summary>The factor in a line of arithmetic; empty where the override stays, or there is none.</summary>
    public static string Times(decimal percent, string answer) => answer == FlowOverride.Goes ? $" × {Say.N(percent / 100, 3)}" : "";
}
