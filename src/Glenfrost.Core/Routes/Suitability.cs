namespace Glenfrost.Core.Routes;

/// <summary>What a filament may suit.</summary>
public enum SuitedFor
{
    /// <summary>Parts that are looked at.</summary>
    Looks,

    /// <summary>Overhangs and bridges without support.</summary>
    Unsupported,

    /// <summary>Spires and open shapes, which strings spoil.</summary>
    OpenShapes,

    /// <summary>Large parts, printed fast.</summary>
    LargeAndFast,

    /// <summary>A real part: one was printed and passed.</summary>
    RealParts,
}

/// <summary>How well it suits.</summary>
public enum SuitedHow
{
    /// <summary>Well.</summary>
    Well,

    /// <summary>With trimming, or slowly.</summary>
    Somewhat,

    /// <summary>Not as it was printed here.</summary>
    Poorly,
}

/// <summary>What was measured of a filament on one machine.</summary>
/// <param name="Scores">Mean scores at the temperature in force, 0 to 4, by aspect; aspects that nobody scored are absent.</param>
/// <param name="FlowLimitMm3PerS">Measured flow limit, mm³/s; null where nobody measured one.</param>
/// <param name="PartsPassed">Real parts that passed.</param>
/// <param name="PartsJudged">Real parts that were judged.</param>
public sealed record SuitabilityFacts(IReadOnlyDictionary<string, double> Scores, double? FlowLimitMm3PerS, int PartsPassed, int PartsJudged);

/// <summary>Whether a filament suits something on one machine, by what was measured there and nothing else.</summary>
/// <param name="For">What.</param>
/// <param name="How">How well.</param>
/// <param name="Value">What it rests on: a mean score, mm³/s, or the share of parts that passed.</param>
public sealed record Suitability(SuitedFor For, SuitedHow How, double Value)
{
    /// <summary>A mean score of at least that is good: most would accept the part.</summary>
    public const double GoodScore = 3;

    /// <summary>A mean score below that is bad: usable once trimmed at best.</summary>
    public const double BadScore = 2;

    /// <summary>Flow from which a line of 0.45 × 0.2 mm runs at 150 mm/s and more: fast for a large part, mm³/s.</summary>
    public const double FastFlow = 13.5;

    /// <summary>Flow below which the same line stays under 60 mm/s, mm³/s.</summary>
    public const double SlowFlow = 5.4;

    /// <summary>What the facts of one machine say; what was not measured is not spoken of.</summary>
    public static IReadOnlyList<Suitability> Of(SuitabilityFacts facts)
    {
        double? Mean(params string[] aspects) => aspects.Where(facts.Scores.ContainsKey).Select(a => (double?)facts.Scores[a]).Average();
        static Suitability Scored(SuitedFor of, double score) =>
            new(of, score >= GoodScore ? SuitedHow.Well : score >= BadScore ? SuitedHow.Somewhat : SuitedHow.Poorly, score);
        var said = new List<Suitability>();
        if (Mean("surface", "overhang", "bridge", "strings") is { } looks)
            said.Add(Scored(SuitedFor.Looks, looks));
        if (Mean("overhang", "bridge") is { } free)
            said.Add(Scored(SuitedFor.Unsupported, free));
        if (Mean("strings") is { } strings)
            said.Add(Scored(SuitedFor.OpenShapes, strings));
        if (facts.FlowLimitMm3PerS is { } flow)
            said.Add(new(SuitedFor.LargeAndFast, flow >= FastFlow ? SuitedHow.Well : flow >= SlowFlow ? SuitedHow.Somewhat : SuitedHow.Poorly, flow));
        if (facts.PartsJudged > 0)
        {
            var share = (double)facts.PartsPassed / facts.PartsJudged;
            said.Add(new(SuitedFor.RealParts, share == 1 ? SuitedHow.Well : share > 0 ? SuitedHow.Somewhat : SuitedHow.Poorly, share));
        }

        return said;
    }
}
