namespace Glenfrost.Core.Factors;

/// <summary>Runs of one trial by what they were made with, as seen from one of them.</summary>
public static class FoundWith
{
    // Who read it, which file it was and how long the spool stood say nothing of what was done differently.
    private static readonly HashSet<string> NoCondition = [FactorRegistry.File, FactorRegistry.HoursOpen];

    /// <summary>
    /// What may have made a difference between two runs: whatever differs, and what matters to the trial and is unknown. What a sweep goes through on purpose
    /// is set aside.
    /// </summary>
    /// <param name="rule">What matters to their trial.</param>
    /// <param name="now">The run that is looked at.</param>
    /// <param name="before">The other one.</param>
    /// <param name="define">Definitions of measures of pieces.</param>
    public static IReadOnlyList<FactorDifference> Differences(
        PoolingRule rule, FactorSet now, FactorSet before, Func<string, FactorDefinition?>? define = null) =>
        [
            .. FactorComparison.Of(now, before, define)
                .Where(d => !rule.SetAside.Contains(d.Factor.Key) && d.Factor.Group != FactorGroup.Reading && !NoCondition.Contains(d.Factor.Key))
                .Where(d => d.State == Sameness.Differs || (d.State == Sameness.Unknown && rule.Matters(d.Factor.Key) && IsTold(d))),
        ];

    /// <summary>
    /// What not every print has, and neither run says, is no factor of theirs: a piece without a wipe says nothing of one. All else that nobody knows is
    /// unknown.
    /// </summary>
    public static bool IsTold(FactorDifference d) =>
        d.Now is not null || d.Before is not null || d.Factor.IsOwed;

    /// <summary>
    /// Concludes from two runs and all others that were made like the one or like the other; each of those is compared with the two, never in a chain.
    /// </summary>
    /// <param name="rule">What matters to their trial.</param>
    /// <param name="now">The run that is looked at, with its number.</param>
    /// <param name="before">The one that it is compared with.</param>
    /// <param name="others">Further runs of the trial; their numbers are asked for only where they are repeats.</param>
    /// <param name="define">Definitions of measures of pieces.</param>
    public static Attribution Conclude(
        PoolingRule rule, FoundRun now, FoundRun before, IReadOnlyList<FoundRun> others, Func<string, FactorDefinition?>? define = null)
    {
        var differences = Differences(rule, now.Factors, before.Factors, define);
        if (differences is not [{ State: Sameness.Differs }])
            return Attribution.Of(differences, [], []);
        List<PieceNumber> Group(FoundRun like) =>
            [.. others.Where(o => Differences(rule, o.Factors, like.Factors, define).Count == 0).Prepend(like).Select(o => o.Number()).OfType<PieceNumber>()];
        var (a, b) = (Group(now), Group(before));
        return Attribution.Of(differences, [.. a.Select(n => n.Value)], [.. b.Select(n => n.Value)], a.Concat(b).Select(n => n.Sd).DefaultIfEmpty(0).Max());
    }
}

/// <summary>A run as it is compared with others.</summary>
/// <param name="Factors">What it was made with.</param>
/// <param name="Number">What it alone says, one number in a unit that all of its trial share; null where it says none.</param>
public sealed record FoundRun(FactorSet Factors, Func<PieceNumber?> Number);

/// <summary>What one piece alone says.</summary>
/// <param name="Value">In a unit that all pieces of its trial share.</param>
/// <param name="Sd">Its own standard deviation, in that unit.</param>
public sealed record PieceNumber(double Value, double Sd);
