using Glenfrost.Core.Trials.Part;

namespace Glenfrost.Application.Trials.Part;

/// <summary>What somebody's own part says, in words.</summary>
internal sealed class PartWords : VerdictWords<PartVerdict>
{
    /// <inheritdoc/>
    protected override Wording Word(PartVerdict v) => v.Refusal is { } refusal ? new(refusal.Message) : new(ZonedWords.Sentence(v))
    {
        Reasons = [.. ZonedWords.Reasons(v)], Warnings = [.. ZonedWords.Warnings(v)], Arithmetic = [.. ZonedWords.Arithmetic(v)],
    };
}
