using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.LayerBond;

/// <summary>What broken pegs say.</summary>
public enum BondOutcome
{
    /// <summary>At least one group is shown weaker than the strongest.</summary>
    Separable,

    /// <summary>No group is, but strength is shown to go with the temperature.</summary>
    Trend,

    /// <summary>Nothing is told apart.</summary>
    Noise,

    /// <summary>A group has fewer than three pegs, or ranks could not show it whatever they were.</summary>
    Insufficient,

    /// <summary>Equal pegs were broken: the rig's own scatter is known.</summary>
    RigKnown,
}

/// <summary>A group as it came out, in the unit of the forces.</summary>
/// <param name="Label">As it is called.</param>
/// <param name="N">Pegs.</param>
/// <param name="Censored">Of these, held at least what was read.</param>
/// <param name="GeometricMean">Null where all of them are bounds.</param>
/// <param name="Low">95 % interval, lower end; a one-sided bound where all are bounds.</param>
/// <param name="High">Upper end; null where all are bounds.</param>
public sealed record BondGroupResult(string Label, int N, int Censored, double? GeometricMean, double Low, double? High)
{
    /// <summary>Nozzle, °C; null where it is not what differs.</summary>
    public double? TemperatureC { get; init; }

    /// <summary>Part fan, %; null where it is not what differs.</summary>
    public double? FanPercent { get; init; }

    /// <summary>The mean as stress, MPa; null where the section is not known.</summary>
    public double? MPa { get; init; }
}

/// <summary>A change in per cent with its 95 % interval.</summary>
public sealed record BondPercent(double Value, double Low, double High);

/// <summary>A pair of groups as a ratio.</summary>
/// <param name="From">Label of the one that it is set beside.</param>
/// <param name="To">Label of the other.</param>
/// <param name="Percent">How much stronger the other is, %.</param>
/// <param name="Low">95 % interval, lower end.</param>
/// <param name="High">Upper end.</param>
public sealed record BondContrast(string From, string To, double Percent, double Low, double High);

/// <summary>What one of two crossed factors does, averaged over the other.</summary>
/// <param name="Factor">temperature or fan.</param>
/// <param name="From">Its weaker end, °C or %.</param>
/// <param name="To">Its stronger end.</param>
/// <param name="Percent">How much stronger, %.</param>
/// <param name="Low">95 % interval, lower end.</param>
/// <param name="High">Upper end.</param>
public sealed record BondEffect(string Factor, double From, double To, double Percent, double Low, double High)
{
    /// <summary>Shown to be none at all.</summary>
    public bool Shown => Low > 0 || High < 0;
}

/// <summary>The verdict on a layer bond.</summary>
public sealed record BondVerdict : TrialVerdict<BondOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public BondReadings From { get; init; } = new();

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Scatter of one peg, %, of a group and pooled; null where it can't be said.</summary>
    public double? ScatterPercent { get; init; }

    /// <summary>Degrees of freedom of it.</summary>
    public double? DegreesOfFreedom { get; init; }

    /// <summary>Groups in the order in which they were sent.</summary>
    public IReadOnlyList<BondGroupResult> Groups { get; init; } = [];

    /// <summary>Groups shown weaker than the strongest, by the range of all.</summary>
    public IReadOnlyList<string> Weaker { get; init; } = [];

    /// <summary>Groups that may be the strongest.</summary>
    public IReadOnlyList<string> NotRuledOut { get; init; } = [];

    /// <summary>The strongest that was seen; null where none can be said.</summary>
    public string? Strongest { get; init; }

    /// <summary>What 10 °C more do, up to a peak that is shown; null where fewer than three temperatures differ.</summary>
    public BondPercent? TrendPercentPer10C { get; init; }

    /// <summary>Temperature above which it is shown to be weaker again, °C; null where no such drop is shown.</summary>
    public double? DropAboveC { get; init; }

    /// <summary>Strength over temperature as one rise and one fall fit it best.</summary>
    public IReadOnlyList<BondAt> Curve { get; init; } = [];

    /// <summary>Pairs.</summary>
    public IReadOnlyList<BondContrast> Contrasts { get; init; } = [];

    /// <summary>Fan and temperature where both differ.</summary>
    public IReadOnlyList<BondEffect> Effects { get; init; } = [];

    /// <summary>True where the two are shown to depend on each other.</summary>
    public bool EffectsMeet { get; init; }

    /// <summary>Difference of a planned pair that so many pegs show four times in five, %.</summary>
    public double? DetectablePercent { get; init; }

    /// <summary>The same for any of the groups against the best that was seen.</summary>
    public double? DetectableOfAllPercent { get; init; }

    /// <summary>Pegs a group that would show the smallest difference that matters; null where it can't be said.</summary>
    public int? NeededPieces { get; init; }

    /// <summary>What luck alone does to the ranks; null where a rig measured.</summary>
    public RankOdds? RankOdds { get; init; }

    /// <summary>Pegs of the plate that are left to break, or of which nobody said where they broke.</summary>
    public int LeftToBreak { get; init; }

    /// <summary>Plates that the pegs were printed on, as far as it was said.</summary>
    public int Plates { get; init; }

    /// <summary>The group that was printed as the profile says; null where none was.</summary>
    public string? Own { get; init; }
}

/// <summary>Strength at a temperature.</summary>
/// <param name="TemperatureC">°C.</param>
/// <param name="Force">In the unit of the forces.</param>
public sealed record BondAt(double TemperatureC, double Force);
