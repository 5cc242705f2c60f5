using Glenfrost.Core.Settings;
using System.Text.Json.Serialization;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>A band of temperatures, °C.</summary>
public sealed record Band(double FromC, double ToC);

/// <summary>Why a print is proposed as the next one.</summary>
public enum NextWhy
{
    /// <summary>Nothing is scored yet.</summary>
    ScoreSections,

    /// <summary>Every section failed, or has a 0: machine and filament come first.</summary>
    CheckMachine,

    /// <summary>No aspect is scored on every section.</summary>
    ScoreOneAspect,

    /// <summary>Strings alone are scored.</summary>
    ScoreOneMore,

    /// <summary>Only one temperature can be used: finer steps around it.</summary>
    FinerAround,

    /// <summary>The best and its rival can't be told apart: finer steps between them.</summary>
    FinerPair,

    /// <summary>The same, farther apart: the two once more.</summary>
    Pair,

    /// <summary>A temperature is found: confirm it at production flow.</summary>
    Production,

    /// <summary>The best is the hottest that this machine may print.</summary>
    HotterClosed,

    /// <summary>The best is the coolest that this machine may print.</summary>
    ColderClosed,

    /// <summary>The best lies at the end of the range: go on beyond.</summary>
    Extend,

    /// <summary>Part of what was read lies above the machine's limit, and nothing below it is left to print.</summary>
    BelowLimit,

    /// <summary>The proposal was cut at the machine's limits.</summary>
    Clipped,
}

/// <summary>What to print next.</summary>
/// <param name="Kind">repeat-pair, finer-steps, extend-range, print-again or confirm.</param>
/// <param name="Text">One sentence; empty until it is put into words.</param>
/// <param name="HottestC">Range of the proposed tower, °C; null for other pieces.</param>
/// <param name="CoolestC">Range of the proposed tower, °C.</param>
/// <param name="StepC">Its step, °C.</param>
/// <param name="Chance">Chance that one value then stands alone, 0–1; null where it is not computed.</param>
public sealed record NextPrint(string Kind, string Text, double? HottestC = null, double? CoolestC = null, double? StepC = null, double? Chance = null)
    : TrialNext(Kind, Text, HottestC is null ? null : TemperatureTowerTrial.Word, ValuesOf(HottestC, CoolestC, StepC))
{
    /// <summary>Why it is proposed.</summary>
    [JsonIgnore]
    public NextWhy Why { get; init; }

    /// <summary>Temperature that it is about, °C: the best; null where it is about none.</summary>
    [JsonIgnore]
    public double? AboutC { get; init; }

    /// <summary>The temperature that can't be told from it, °C.</summary>
    [JsonIgnore]
    public double? RivalC { get; init; }

    /// <summary>True where a range goes on hotter and nobody said where the machine's limit is.</summary>
    [JsonIgnore]
    public bool MindTheLimit { get; init; }

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
/// <param name="Arithmetic">How the number came about, to be read by a person; empty until it is put into words.</param>
public sealed record SectionVerdict(
    double TemperatureC, double? Desirability, double? Low, double? High, double? WinProbability, string Fate, string Arithmetic);

/// <summary>What a tower says.</summary>
public enum TowerOutcome
{
    /// <summary>One temperature stands alone.</summary>
    Clear,

    /// <summary>Several are as good: one out of their band.</summary>
    Band,

    /// <summary>The choice is open: two far apart can't be told from each other, and something is lost by choosing wrongly.</summary>
    Noise,

    /// <summary>The best lies at the end of what was printed.</summary>
    Edge,

    /// <summary>Too little is read, or nothing can be used.</summary>
    Insufficient,
}

/// <summary>What is missing where a tower says nothing.</summary>
public enum TowerLack
{
    /// <summary>No section has a score.</summary>
    Scores,

    /// <summary>Every section that was printed failed.</summary>
    AllFailed,

    /// <summary>No aspect is scored on every section.</summary>
    CommonAspect,

    /// <summary>Strings alone are scored.</summary>
    MoreThanStrings,

    /// <summary>Every section failed or has a 0.</summary>
    NoneUsable,

    /// <summary>One section alone can be used.</summary>
    Second,
}

/// <summary>What a tower's verdict gives as its reasons, and what it warns of.</summary>
public enum TowerRemarkKind
{
    /// <summary>Aspects that turn bad hotter than the best.</summary>
    Hotter,

    /// <summary>Aspects that turn bad cooler than the best.</summary>
    Cooler,

    /// <summary>Temperatures that failed to print.</summary>
    Failed,

    /// <summary>Temperatures with a 0.</summary>
    Vetoed,

    /// <summary>The best and the one that is hardest to tell from it, with their scores and the chance that it is really better.</summary>
    Pair,

    /// <summary>The best beats every other; with its score.</summary>
    BeatsAll,

    /// <summary>Temperatures shown to be as good as the best.</summary>
    Within,

    /// <summary>The curve through all sections counts more than the middle of the band: its best, and the ends of its interval.</summary>
    Curve,

    /// <summary>It can't be extended: the machine's limit.</summary>
    HotLimit,

    /// <summary>It can't be extended: the cold-extrusion limit.</summary>
    ColdLimit,

    /// <summary>An aspect that some sections lack.</summary>
    LeftOut,

    /// <summary>The display showed another temperature than was planned.</summary>
    Display,

    /// <summary>Sections that are still to be read.</summary>
    Unread,

    /// <summary>The good band reaches the hot end of what was printed.</summary>
    BandReachesHot,

    /// <summary>The good band reaches the cool end.</summary>
    BandReachesCool,

    /// <summary>Only strings speak for the best over a hotter one.</summary>
    OnlyStrings,

    /// <summary>Hotter for strength is unproven.</summary>
    Strength,

    /// <summary>The value lies outside the advised range.</summary>
    OutsideAdvice,
}

/// <summary>An aspect with its score at a temperature.</summary>
/// <param name="Aspect">Its fixed name.</param>
/// <param name="Score">Mean score there, 0–4.</param>
/// <param name="TemperatureC">°C.</param>
public sealed record AspectAt(string Aspect, double Score, double TemperatureC);

/// <summary>A reason or a warning with its arguments.</summary>
/// <param name="Kind">Which.</param>
/// <param name="TemperaturesC">Temperatures that it is about, °C, in the order that its kind says.</param>
public sealed record TowerRemark(TowerRemarkKind Kind, params IReadOnlyList<double> TemperaturesC)
{
    /// <summary>Scores over all, 0–4, of those temperatures; or a chance, 0–1, behind them.</summary>
    public IReadOnlyList<double> Scores { get; init; } = [];

    /// <summary>Aspects that it is about.</summary>
    public IReadOnlyList<AspectAt> Aspects { get; init; } = [];

    /// <summary>A name: of an aspect, or why a limit is one; empty for none.</summary>
    public string Word { get; init; } = "";

    /// <summary>How many.</summary>
    public int Count { get; init; }
}

/// <summary>The numbers between readings and verdict, for the words. Temperatures in °C.</summary>
/// <param name="BestC">Section with the greatest score.</param>
/// <param name="RivalC">Section that can't be told from it; null where none is.</param>
/// <param name="BandCount">How many sections are as good.</param>
/// <param name="AllAlike">True where those are all.</param>
/// <param name="AtHotEnd">True where the best is the hottest printed.</param>
/// <param name="Loss">What the advice may lose, not rounded.</param>
public sealed record TowerNumbers(double BestC, double? RivalC, int BandCount, bool AllAlike, bool AtHotEnd, ScoreLoss Loss);

/// <summary>The verdict on a temperature tower. Always recomputable from its readings and seed.</summary>
public sealed record TowerVerdict : TrialVerdict<TowerOutcome>
{
    /// <summary>What it was judged from.</summary>
    [JsonIgnore]
    public TowerReadings From { get; init; } = new() { Sections = [] };

    /// <summary>The numbers on the way; null where it is insufficient.</summary>
    [JsonIgnore]
    public TowerNumbers? Numbers { get; init; }

    /// <summary>What is missing; null where it is not insufficient.</summary>
    [JsonIgnore]
    public TowerLack? Lack { get; init; }

    /// <summary>Sections still to be read.</summary>
    [JsonIgnore]
    public int Unread { get; init; }

    /// <summary>Reasons, as codes with arguments.</summary>
    [JsonIgnore]
    public IReadOnlyList<TowerRemark> Because { get; init; } = [];

    /// <summary>What to be careful about, as codes with arguments.</summary>
    [JsonIgnore]
    public IReadOnlyList<TowerRemark> Cautions { get; init; } = [];

    /// <summary>Over the API: which row of the body each section came from; empty elsewhere.</summary>
    [JsonIgnore]
    public IReadOnlyList<int> Rows { get; init; } = [];

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
    public override bool Advised => Outcome != TowerOutcome.Insufficient && (Outcome != TowerOutcome.Edge || EdgeAtLimit);
}
