using System.Globalization;
using System.Text.RegularExpressions;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials;

/// <summary>
/// A flow override (M221) that a machine's start code leaves in force. Every trial whose result it moves asks whether it stays in real prints: what is found
/// then counts with it, or is reckoned without it. Correcting in both places would correct twice.
/// </summary>
public static class FlowOverride
{
    /// <summary>Names of the two fields: what is left in force, %, and whether it stays in real prints.</summary>
    public const string Percent = "residualFlowPercent", Answer = "override";

    /// <summary>Answers: it stays in real prints, or is taken out.</summary>
    public const string Stays = "stays", Goes = "goes";

    /// <summary>The answers as a form offers them.</summary>
    internal static (string Word, string Label)[] Answers { get; } = [("", "say which"), (Stays, "stays"), (Goes, "is taken out")];

    /// <summary>Fields of a plan's flows; they are reckoned back where a verdict without the override proposes the next plan.</summary>
    private static readonly HashSet<string> Flows =
    [
        "extrusionMultiplier", "mostMultiplier", "leastMultiplier", "multiplierStep", "startFlowMm3PerS", "topFlowMm3PerS", "stepMm3PerS",
    ];

    /// <summary>The override that a start code leaves in force, %; null where there is none.</summary>
    public static double? In(Machine? machine)
    {
        double? left = null;
        foreach (var line in (machine?.StartCode ?? "").Split('\n'))
        {
            var code = line.Split(';')[0].Trim().ToUpperInvariant();
            if (
                code.StartsWith("M221", StringComparison.Ordinal)
                && Regex.Match(code, @"S\s*([\d.]+)") is { Success: true } s
                && double.TryParse(s.Groups[1].Value, CultureInfo.InvariantCulture, out var percent)
            )
                left = percent;
        }

        return left is { } p && Math.Abs(p - 100) > 1e-9 ? p : null;
    }

    /// <summary>True for every other field, and for these two where a start code leaves an override.</summary>
    public static bool IsShown(string field, PlanContext context) => field is not (Percent or Answer) || In(context.Machine) is not null;

    /// <summary>What stands in the start code, beside the first of the two; null for any other field.</summary>
    public static string? HelpOf(string field, PlanContext context) =>
        field == Percent && In(context.Machine) is { } percent ? $"M221 S{Say.N(percent, 1)} stands there." : null;

    /// <summary>The two values as they hold for this machine: a start code that leaves none leaves nothing to answer, whatever an earlier plan said.</summary>
    internal static (decimal Percent, string Answer) Settled(PlanContext context, decimal percent, string answer) =>
        context.Machine is not null && In(context.Machine) is null ? (100, "") : (percent, answer);

    /// <summary>Refuses a plan for a machine with an override of which nobody said whether it stays.</summary>
    internal static void Ask(List<FieldError> errors, PlanContext context, string answer)
    {
        if (In(context.Machine) is { } found && answer is not (Stays or Goes))
            errors.Add(
                new(
                    Answer,
                    $"The start code of {context.Machine!.Name} sets the flow to {Say.N(found, 1)} %. Say whether that stays in real prints: correcting in " +
                        "both places would correct twice."));
    }

    /// <summary>What a figure of flow in the file is in real prints: 1 where the override stays, its share where it goes.</summary>
    internal static double Factor(decimal percent, string answer) => answer == Goes ? (double)percent / 100 : 1;

    /// <summary>
    /// The same for filament fed without moving: firmware scales its length and keeps its speed, so that the flow is the full one. Where the override stays, a
    /// print reaches that flow at a higher figure.
    /// </summary>
    internal static double FreeFactor(decimal percent, string answer) => answer == Stays ? 100 / (double)percent : 1;

    /// <summary>The next print with its flows as its own file counts them, in which the override is still in force.</summary>
    internal static TrialNext? InFile(TrialNext? next, decimal percent, string answer)
    {
        if (next is not { Values: { } values })
            return next;
        var factor = (decimal)(next.Trial == FlowLimit.FlowWeighedTrial.Word ? FreeFactor(percent, answer) : Factor(percent, answer));
        return factor == 1 ? next
            : next with { Values = values.ToDictionary(v => v.Key, v => Flows.Contains(v.Key) ? Math.Round(v.Value / factor, 3) : v.Value) };
    }

    /// <summary>The two values of readings that were sent over the API: 10 to 300 %, and where nobody says it stays.</summary>
    internal static (decimal Percent, string Answer) Read(JsonFields json)
    {
        var percent = json.Number(Percent) ?? 100;
        if (percent is < 10 or > 300)
            json.Refuse(Percent, $"{Say.N(percent)} % is outside 10 to 300: what an override leaves, 100 for none.");
        return (percent, percent == 100 ? "" : json.FlagOr("residualFlowStays", true) ? Stays : Goes);
    }
}
