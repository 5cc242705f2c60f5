using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;

namespace Glenfrost.Application.Trials;

/// <summary>A flow override that a start code leaves, in the words of verdicts.</summary>
internal static class Overrides
{
    /// <summary>The factor in a line of arithmetic; empty where the override stays, or there is none.</summary>
    public static string Times(decimal percent, string answer) => answer == FlowOverride.Goes ? $" × {Say.N(percent / 100, 3)}" : "";

    /// <summary>What a verdict on filament fed without moving says of it.</summary>
    /// <param name="percent">What is left in force, %; 100 for none.</param>
    /// <param name="answer">stays or goes; empty where nobody said.</param>
    public static IEnumerable<string> SaidFree(decimal percent, string answer) =>
        percent == 100 ? []
        : answer switch
        {
            FlowOverride.Goes =>
                [$"The flow override of {Say.N(percent, 1)} % made the samples lighter, not the flow another one: it is reckoned out of their mass."],
            FlowOverride.Stays =>
            [
                $"The flow override of {Say.N(percent, 1)} % stays in real prints, and samples are fed at the full flow: the limit is reckoned with it, ÷ " +
                    $"{Say.N(percent / 100, 3)}. Take it out one day, and it is wrong by it.",
            ],
            _ => [],
        };

    /// <summary>What a verdict says of it.</summary>
    /// <param name="percent">What is left in force, %; 100 for none.</param>
    /// <param name="answer">stays or goes; empty where nobody said.</param>
    public static IEnumerable<string> Said(decimal percent, string answer) =>
        percent == 100 ? []
        : answer switch
        {
            FlowOverride.Goes =>
            [
                $"The flow override of {Say.N(percent, 1)} % is not there in real prints: what was found is reckoned without it, × " +
                    $"{Say.N(percent / 100, 3)}.",
            ],
            FlowOverride.Stays =>
                [$"The flow override of {Say.N(percent, 1)} % stays in real prints: this counts with it. Take it out one day, and it is wrong by it."],
            _ => [],
        };
}
