namespace Glenfrost.Core.Routes;

/// <summary>What a tester asks of several pairings.</summary>
public enum BestForQuestion
{
    /// <summary>Which prints fastest and still looks well.</summary>
    FastestAtLooks,

    /// <summary>Which looks best.</summary>
    Looks,

    /// <summary>Which strings least.</summary>
    FewestStrings,

    /// <summary>Which is strongest.</summary>
    Strongest,

    /// <summary>Which costs least by volume.</summary>
    Cheapest,
}

/// <summary>What is known of one pairing for a question.</summary>
/// <param name="Value">In the question's unit; null where nothing was measured.</param>
/// <param name="Half">Half of its 95 % interval, 0 where it is exact.</param>
/// <param name="Missing">What would have to be there for an answer; null where nothing is missing.</param>
/// <param name="RuledOut">Why it does not come into question though it was measured; null where it does.</param>
/// <param name="Assumed">True where nobody knows how sure the value is, and a usual share stands for its half.</param>
public sealed record BestForEntry(double? Value, double Half = 0, string? Missing = null, string? RuledOut = null, bool Assumed = false)
{
    /// <summary>True where it takes part in the comparison.</summary>
    public bool Counts => Value is not null && RuledOut is null;
}

/// <summary>The answer from evidence, with what is missing for a better one.</summary>
/// <param name="Question">What was asked.</param>
/// <param name="Entries">In the order that was asked.</param>
/// <param name="Best">Those that can't be told from the best, the best one first; empty where nobody takes part.</param>
/// <param name="Behind">Those that are behind it by more than both are uncertain.</param>
public sealed record BestForAnswer(BestForQuestion Question, IReadOnlyList<BestForEntry> Entries, IReadOnlyList<int> Best, IReadOnlyList<int> Behind)
{
    /// <summary>True where one alone is ahead of another that was measured, and nobody's value is missing.</summary>
    public bool IsSettled => Best.Count == 1 && Behind.Count > 0 && Entries.All(e => e.Value is not null);

    /// <summary>Answers a question: best is who is ahead, and all who are not behind by more than the two uncertainties together.</summary>
    /// <param name="question">What was asked.</param>
    /// <param name="entries">What is known of each.</param>
    public static BestForAnswer Of(BestForQuestion question, IReadOnlyList<BestForEntry> entries)
    {
        // Of costs the least is best.
        double Rank(int i) => question == BestForQuestion.Cheapest ? -entries[i].Value!.Value : entries[i].Value!.Value;
        var counting = Enumerable.Range(0, entries.Count).Where(i => entries[i].Counts).OrderByDescending(Rank).ToList();
        if (counting.Count == 0)
            return new(question, entries, [], []);
        var first = counting[0];
        bool IsBehind(int i) => Rank(first) - Rank(i) > Math.Sqrt(entries[first].Half * entries[first].Half + entries[i].Half * entries[i].Half) + 1e-9;
        return new(question, entries, [.. counting.Where(i => !IsBehind(i))], [.. counting.Where(IsBehind)]);
    }
}
