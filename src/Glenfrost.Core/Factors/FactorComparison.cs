namespace Glenfrost.Core.Factors;

/// <summary>Whether a factor was the same in two runs.</summary>
public enum Sameness
{
    /// <summary>The same within its tolerance, or not applicable to either.</summary>
    Same,

    /// <summary>Known in both, and not the same.</summary>
    Differs,

    /// <summary>Not known in one of them, or in neither.</summary>
    Unknown,
}

/// <summary>One factor of two runs.</summary>
/// <param name="Factor">The factor.</param>
/// <param name="State">Same, differs or unknown.</param>
/// <param name="Now">Its value in the run that is looked at; null where it is unknown there.</param>
/// <param name="Before">Its value in the other one.</param>
/// <param name="FromMemory">True where somebody said "probably the same".</param>
public sealed record FactorDifference(FactorDefinition Factor, Sameness State, FactorValue? Now, FactorValue? Before, bool FromMemory = false)
{
    /// <summary>Of numbers that differ: now less before, in the factor's unit.</summary>
    public double? By => State == Sameness.Differs && Now?.Number is { } a && Before?.Number is { } b ? a - b : null;

    /// <summary>What was turned at the printer while one of the two printed; null for other differences.</summary>
    public FactorEntryValue? Turned { get; init; }

    /// <summary>True where only a passed quick check keeps two spools from being a difference.</summary>
    public bool WouldJoin { get; init; }

    /// <summary>True where <see cref="Turned"/> happened in the run that is looked at, not in the other one.</summary>
    public bool TurnedNow { get; init; }
}

/// <summary>
/// What two runs were made with, side by side, in three values. The only function for pooling, attribution, found with it, comparison of runs and guides.
/// </summary>
public static class FactorComparison
{
    /// <summary>Compares two sets, factor by factor, in the order of the registry; measures of pieces come last.</summary>
    /// <param name="now">The run that is looked at.</param>
    /// <param name="before">The other one.</param>
    /// <param name="define">Definitions of measures of pieces; the registry's own need none.</param>
    /// <param name="joined">True for two spools that a passed quick check found alike; null where none was made.</param>
    public static IReadOnlyList<FactorDifference> Of(
        FactorSet now, FactorSet before, Func<string, FactorDefinition?>? define = null, Func<Guid, Guid, bool>? joined = null)
    {
        var list = new List<FactorDifference>();
        foreach (var d in FactorRegistry.All)
            list.Add(One(d, now, before, joined));
        foreach (var key in now.Values.Keys.Union(before.Values.Keys).Where(k => FactorRegistry.Find(k) is null).Order(StringComparer.Ordinal))
        {
            var d = define?.Invoke(key)
                ?? FactorRegistry.OfPiece(key, now[key]?.Number is null && before[key]?.Number is null ? FactorKind.Word : FactorKind.Number);
            list.Add(One(d, now, before, joined));
        }

        foreach (var (turned, here) in now.Turned.Select(t => (t, true)).Concat(before.Turned.Select(t => (t, false))))
        {
            var d = FactorRegistry.Find(turned.Factor) ?? new FactorDefinition(turned.Factor, turned.Factor, "", FactorKind.Word, FactorGroup.Setting);
            list.Add(new(d, Sameness.Differs, here ? turned.Value : null, here ? null : turned.Value) { Turned = turned, TurnedNow = here });
        }

        return list;
    }

    private static FactorDifference One(FactorDefinition d, FactorSet now, FactorSet before, Func<Guid, Guid, bool>? joined)
    {
        var (a, b) = (now[d.Key], before[d.Key]);
        if (a is { Source: FactorSource.Memory, Thing: { } like } && like == before.RunId
            || b is { Source: FactorSource.Memory, Thing: { } alike } && alike == now.RunId)
            return new(d, Sameness.Same, a, b, true);
        if (a is null || b is null || IsBlank(a) || IsBlank(b))
            return new(d, Sameness.Unknown, a, b);
        if (!a.Applies || !b.Applies)
            return new(d, a.Applies == b.Applies ? Sameness.Same : Sameness.Differs, a, b);
        var memory = a.Source == FactorSource.Memory || b.Source == FactorSource.Memory;
        var same = d.Kind switch
        {
            FactorKind.Number when a.Number is { } x && b.Number is { } y => d.Tolerance > 0
                ? Math.Abs(x - y) < d.Tolerance - 1e-9
                : Math.Abs(x - y) <= 1e-9 * Math.Max(Math.Abs(x), Math.Abs(y)),
            FactorKind.Thing when a.Thing is not null || b.Thing is not null => a.Thing == b.Thing
                || (d.Key == FactorRegistry.Spool && a.Thing is { } p && b.Thing is { } q && joined?.Invoke(p, q) == true),
            _ => string.Equals(a.Text?.Trim(), b.Text?.Trim(), StringComparison.OrdinalIgnoreCase) && a.Number == b.Number,
        };
        return new(d, same ? Sameness.Same : Sameness.Differs, a, b, memory && same) { WouldJoin = !same && d.Key == FactorRegistry.Spool };
    }

    private static bool IsBlank(FactorValue v) => v.Applies && v.Number is null && v.Thing is null && string.IsNullOrWhiteSpace(v.Text);
}
