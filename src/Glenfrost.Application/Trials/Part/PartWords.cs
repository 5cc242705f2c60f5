using Glenfrost.Core.Trials.Part;

namespace Glenfrost.Application.Trials.Part;

/// <summary>What somebody's own part says, in words.</summary>
internal sealed class PartWords : VerdictWords<PartVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(PartVerdict v) => v.Refusal is { } refusal ? new(refusal.Message) : new(ZonedWords.Sentence(v))
    {
        Reasons = [.. ZonedWords.Reasons(v), .. CutDown(v)], Warnings = [.. ZonedWords.Warnings(v)], Arithmetic = [.. ZonedWords.Arithmetic(v)],
    };

    private static IEnumerable<string> CutDown(PartVerdict v)
    {
        if (v.BeginsAtLayer is { } layer && v.Outcome != PartOutcome.Insufficient)
            yield return $"It begins at layer {layer} of {(v.OfRun is { } run ? $"run {run}'s part" : "the whole part")}: " +
                (v.Outcome == PartOutcome.Passed ? "that acquits the settings of its layers, not what built up before them."
                    : "what fails here too does not come from what built up before.");
    }
}
