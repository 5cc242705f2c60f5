namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>A band of temperatures, °C.</summary>
public sealed record Band(double FromC, double ToC);

/// <summary>What to print next.</summary>
/// <param name="Kind">repeat-pair, finer-steps, extend-range, print-again or confirm.</param>
/// <param name="Text">One sentence.</param>
/// <param name="HottestC">Range of the proposed tower, °C; null for other pieces.</param>
/// <param name="CoolestC">Range of the proposed tower, °C.</param>
/// <param name="StepC">Its step, °C.</param>
/// <param name="Chance">Chance that one value then stands alone, 0–1; null where it is not computed.</param>
public sealed record NextPrint(string Kind, string Text, double? HottestC = null, double? CoolestC = null, double? StepC = null, double? Chance = null)
    : TrialNext(Kind, Text, HottestC is null ? null : TemperatureTowerTrial.Word, ValuesOf(HottestC, CoolestC, StepC))
{
    /// <inheritdoc/>
    public override string? More => Chance is { } c ? $"Chance that one value then stands alone: {Say.N(Math.Round(c * 10), 0)} in 10." : null;

    private static Dictionary<string, decimal>? ValuesOf(double? hottest, double? coolest, double? step) =>
        hottest is null
            ? null
            : new Dictionary<string, decimal>
            {
                ["hottestC"] = (decimal)hottest, ["coolestC"] = (decimal)(coolest ?? hottest), ["stepC"] = (decimal)(step ?? 5),
            };
}

/// <summary>One section as the verdict sees it.</summary>
/// <param name="TemperatureC">Temperature judged at, °C: the observed one where it was noted.</param>
/// <param name="Desirability">0–1; null for a lost or unread section.</param>
/// <param name="Low">Lower end of its 95 % interval.</param>
/// <param name="High">Upper end of its 95 % interval.</param>
/// <param name="WinProbability">Share of draws in which it is the best.</param>
/// <param name="Fate">judged, vetoed, failed, lost or unread.</param>
/// <param name="Arithmetic">How the number came about, to be read by a person.</param>
public sealed record SectionVerdict(
    double TemperatureC, double? Desirability, double? Low, double? High, double? WinProbability, string Fate, string Arithmetic);

/// <summary>The verdict on a temperature tower: clear, band, noise, edge or insufficient. Always recomputable from its readings and seed.</summary>
public sealed record TowerVerdict : TrialVerdict
{
    /// <summary>Proposed nozzle temperature, °C; null when insufficient.</summary>
    public double? RecommendedTemperatureC { get; init; }

    /// <summary>95 % half-width, °C.</summary>
    public double? UncertaintyC { get; init; }

    /// <summary>Contiguous sections shown to be as good as the best; null when insufficient.</summary>
    public Band? Band { get; init; }

    /// <summary>Same order and length as the readings.</summary>
    public required IReadOnlyList<SectionVerdict> Sections { get; init; }

    /// <summary>What to print next; null where nothing is.</summary>
    public new NextPrint? Next
    {
        get => (NextPrint?)base.Next;
        init => base.Next = value;
    }

    /// <summary>Aspects that all judged sections have in common.</summary>
    public required IReadOnlyList<string> CommonAspects { get; init; }

    /// <summary>True where the range can grow no further because of a limit.</summary>
    public bool EdgeAtLimit { get; init; }

    /// <summary>Seed of the bootstrap.</summary>
    public int Seed { get; init; }

    /// <inheritdoc/>
    public override bool Advised => Verdict is not "insufficient" && (Verdict != "edge" || EdgeAtLimit);
}
