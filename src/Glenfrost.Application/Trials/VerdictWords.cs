using Glenfrost.Core.Trials;

namespace Glenfrost.Application.Trials;

/// <summary>A verdict in words.</summary>
/// <param name="Sentence">In one sentence, the number first.</param>
public sealed record Wording(string Sentence)
{
    /// <summary>Reasons with their numbers.</summary>
    public IReadOnlyList<string> Reasons { get; init; } = [];

    /// <summary>What to be careful about.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];

    /// <summary>What to do next, in a sentence; null where the verdict says nothing of it.</summary>
    public string? Next { get; init; }

    /// <summary>The computation, line by line.</summary>
    public IReadOnlyList<string> Arithmetic { get; init; } = [];
}

/// <summary>
/// Puts verdicts into words: for pages, log, exports, the API's reasons and what a decision keeps. One for each trial on the typed contract, found by the type
/// of its verdicts; a trial that still words its verdicts itself has none.
/// </summary>
public abstract class VerdictWords
{
    private static readonly Lazy<IReadOnlyDictionary<Type, VerdictWords>> All = new(() =>
        typeof(VerdictWords).Assembly.GetTypes().Where(t => !t.IsAbstract && t.IsSubclassOf(typeof(VerdictWords)))
            .Select(t => (VerdictWords)Activator.CreateInstance(t)!).ToDictionary(w => w.Verdict));

    /// <summary>Type of the verdicts that it words.</summary>
    protected abstract Type Verdict { get; }

    /// <summary>Words for one.</summary>
    protected abstract Wording Word(TrialVerdict verdict);

    /// <summary>The same with those verdicts told that stand within it: at another temperature, for one.</summary>
    protected abstract TrialVerdict WithInner(TrialVerdict verdict);

    /// <summary>True where there are words for a type of verdict.</summary>
    public static bool Has(Type verdict) => All.Value.ContainsKey(verdict);

    /// <summary>The same verdict with its words; one that has them already comes back as it is.</summary>
    public static TrialVerdict Tell(TrialVerdict verdict)
    {
        if (verdict.Sentence.Length > 0 || !All.Value.TryGetValue(verdict.GetType(), out var words))
            return verdict;
        verdict = words.WithInner(verdict);
        var told = words.Word(verdict);
        verdict = verdict with
        {
            Sentence = told.Sentence,
            Reasons = told.Reasons,
            Warnings = told.Warnings,
            Arithmetic = told.Arithmetic,
            Next = verdict.Next is { } next ? next with { Text = told.Next ?? next.Text } : null,
        };
        return Core.Trials.KnownGoodValues.Beside(verdict, verdict.KnownGood, verdict.DecidingTrial, verdict.PracticeMarginPercent);
    }

    /// <summary>The number that a verdict's sentence begins with, drawn large, and the rest; no number where it begins with words.</summary>
    public static (string? Lead, string Sentence) Lead(TrialVerdict verdict) => Lead(verdict.Sentence);

    /// <summary>The same of a sentence that was kept.</summary>
    public static (string? Lead, string Sentence) Lead(string sentence)
    {
        var end = sentence.IndexOf(". ", StringComparison.Ordinal);
        return end is > 0 and < 20 && char.IsDigit(sentence[0]) ? (sentence[..end], sentence[(end + 2)..]) : (null, sentence);
    }
}

/// <summary>Words for the verdicts of one trial.</summary>
/// <typeparam name="TVerdict">Its verdicts.</typeparam>
public abstract class VerdictWords<TVerdict> : VerdictWords
    where TVerdict : TrialVerdict
{
    /// <inheritdoc/>
    protected sealed override Type Verdict => typeof(TVerdict);

    /// <inheritdoc/>
    protected sealed override Wording Word(TrialVerdict verdict) => Word((TVerdict)verdict);

    /// <inheritdoc/>
    protected sealed override TrialVerdict WithInner(TrialVerdict verdict) => WithInner((TVerdict)verdict);

    /// <summary>Words for one.</summary>
    protected abstract Wording Word(TVerdict verdict);

    /// <summary>The same with those verdicts told that stand within it.</summary>
    protected virtual TVerdict WithInner(TVerdict verdict) => verdict;
}
