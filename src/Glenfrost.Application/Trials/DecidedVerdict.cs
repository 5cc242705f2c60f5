using System.Text.Json;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application.Trials;

/// <summary>A verdict as it was shown when it was decided: rules change, what somebody decided by does not.</summary>
/// <param name="Sentence">The verdict in one sentence.</param>
/// <param name="Reasons">Its reasons.</param>
/// <param name="Warnings">What it warned of.</param>
public sealed record DecidedVerdict(string Sentence, IReadOnlyList<string> Reasons, IReadOnlyList<string> Warnings)
{
    /// <summary>That of a decision; null where it kept no sentence, as none did at first.</summary>
    public static DecidedVerdict? Of(Decision decision)
    {
        using var json = JsonDocument.Parse(decision.VerdictJson);
        IReadOnlyList<string> List(string name) => json.RootElement.TryGetProperty(name, out var list) && list.ValueKind == JsonValueKind.Array
            ? [.. list.EnumerateArray().Select(x => x.GetString() ?? "")]
            : [];
        return json.RootElement.ValueKind == JsonValueKind.Object && json.RootElement.TryGetProperty("sentence", out var s)
            && s.GetString() is { Length: > 0 } said
            ? new(said, List("reasons"), List("warnings"))
            : null;
    }
}
