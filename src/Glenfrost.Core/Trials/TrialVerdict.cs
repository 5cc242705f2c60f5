using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials;

/// <summary>A kept or proposed setting with its 95 % half-width.</summary>
public sealed record SettingValue(string Key, double Value, double Uncertainty);

/// <summary>A value that a run shows at another nozzle temperature than its own.</summary>
/// <param name="AtC">That temperature, °C.</param>
/// <param name="Value">The value with its uncertainty.</param>
/// <param name="Proves">True where the run proves it.</param>
public sealed record FoundElsewhere(double AtC, SettingValue Value, bool Proves);

/// <summary>What to do next.</summary>
/// <param name="Kind">A fixed word of the trial, for example check-piece or measure-more.</param>
/// <param name="Text">One sentence.</param>
/// <param name="Trial">The kind of trial that it would be; null where nothing is printed.</param>
/// <param name="Values">Its fields by name; null where its own proposal fits.</param>
public record TrialNext(string Kind, string Text, string? Trial = null, IReadOnlyDictionary<string, decimal>? Values = null)
{
    /// <summary>A further sentence for the page; null where there is none.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public virtual string? More => null;

    /// <summary>Words of the plan's fields that are no numbers; null where its own proposal fits.</summary>
    public IReadOnlyDictionary<string, string>? Words { get; init; }

    /// <summary>The guide that helps; null where none does.</summary>
    public string? Guide { get; init; }

    /// <summary>How much better the choice after it is than today's, on the average, in scores; null where that is not known.</summary>
    public double? Gain { get; init; }

    /// <summary>Minutes that it prints; null where they are not known.</summary>
    public int? Minutes { get; init; }

    /// <summary>Filament that it takes, g; null where it is not known.</summary>
    public double? Grams { get; init; }

    /// <summary>A gain below this, in scores, is less than anybody sees.</summary>
    public const double SmallGain = 0.1;

    /// <summary>The same with what it costs: its share of the run that it is like.</summary>
    /// <param name="estimate">What that run cost.</param>
    /// <param name="share">Parts printed again, of those of that run; above 0.</param>
    public TrialNext Costing(TrialEstimate estimate, double share) =>
        this with { Minutes = (int)Math.Ceiling(estimate.Minutes * share), Grams = estimate.MassG is { } g ? Math.Round(g * share, 1) : null };
}

/// <summary>
/// What the readings of a run say; each trial adds its own numbers. Always recomputable from the readings. A verdict is what the API answers, what a page
/// shows and what a decision keeps.
/// </summary>
public abstract record TrialVerdict
{
    /// <summary>A fixed word.</summary>
    public virtual string Verdict { get; init; } = "";

    /// <summary>The verdict in one sentence, the number first; empty until it is put into words.</summary>
    public string Sentence { get; init; } = "";

    /// <summary>Reasons with their numbers.</summary>
    public IReadOnlyList<string> Reasons { get; init; } = [];

    /// <summary>What to be careful about.</summary>
    public IReadOnlyList<string> Warnings { get; init; } = [];

    /// <summary>What to do next; null where nothing is.</summary>
    public TrialNext? Next { get; init; }

    /// <summary>Settings that may be kept, the one that the trial settles first.</summary>
    public IReadOnlyList<SettingValue> Settings { get; init; } = [];

    /// <summary>The computation, line by line, to be read by a person.</summary>
    public IReadOnlyList<string> Arithmetic { get; init; } = [];

    /// <summary>Version of the rules that made it.</summary>
    public string EngineVersion => Trial.EngineVersion;

    /// <summary>True where the verdict advises to keep; false where keeping would be an own choice.</summary>
    public virtual bool Advised { get; init; } = true;

    /// <summary>
    /// True once what is known good in practice was set beside it: a trial with a margin of its own does so itself, and nobody says it again without.
    /// </summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool BesidePractice { get; init; }

    /// <summary>How far the advised value may lie behind the best, in scores; null where scores are not judged, or nothing is advised.</summary>
    public ScoreLoss? Loss { get; init; }

    /// <summary>Values known good in practice that were sent with the readings; set beside it once it is put into words.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public IReadOnlyList<KnownGoodValue> KnownGood { get; init; } = [];

    /// <summary>The kind of trial that decides where practice and this verdict contradict each other; null where it is none of ours.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public virtual string? DecidingTrial => Next?.Trial;

    /// <summary>Margin that the proposed value already holds below what was measured, %.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public virtual double PracticeMarginPercent => 0;

    /// <summary>False where the proposed value still wants its check piece: agreement with an earlier run does not confirm it.</summary>
    public virtual bool Proves { get; init; } = true;
}

/// <summary>A verdict as an outcome with its arguments, without a sentence: those are put beside it by the words of its trial.</summary>
/// <typeparam name="TOutcome">Its outcomes; their names in small letters with hyphens are the fixed words of the API.</typeparam>
public abstract record TrialVerdict<TOutcome> : TrialVerdict
    where TOutcome : struct, Enum
{
    /// <summary>What came out.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public TOutcome Outcome { get; init; }

    /// <inheritdoc/>
    public sealed override string Verdict => WordOf(Outcome);

    /// <summary>The fixed word of an outcome.</summary>
    public static string WordOf(TOutcome outcome) => System.Text.Json.JsonNamingPolicy.KebabCaseLower.ConvertName(outcome.ToString());
}

/// <summary>A reading on a chart.</summary>
/// <param name="X">In the axis' unit.</param>
/// <param name="Y">In the axis' unit.</param>
/// <param name="Low">Lower end of its 95 % interval; null where there is none.</param>
/// <param name="High">Upper end.</param>
/// <param name="Mark">"" for a plain one, "best", "out" for one that doesn't count.</param>
/// <param name="Label">Words beside it; may be empty.</param>
public sealed record ChartPoint(double X, double Y, double? Low = null, double? High = null, string Mark = "", string Label = "");

/// <summary>A chart of readings with a band and a line. One chart serves every trial that plots a number over a number.</summary>
/// <param name="XLabel">Name and unit.</param>
/// <param name="YLabel">Name and unit.</param>
/// <param name="Points">Readings.</param>
public sealed record TrialChart(string XLabel, string YLabel, IReadOnlyList<ChartPoint> Points)
{
    /// <summary>Values of y that are good enough, drawn across; null where there is no such band.</summary>
    public (double From, double To)? Good { get; init; }

    /// <summary>Values of x that are as good as the best, drawn upright.</summary>
    public (double From, double To)? Band { get; init; }

    /// <summary>A fitted line through points.</summary>
    public IReadOnlyList<(double X, double Y)> Line { get; init; } = [];

    /// <summary>A second line, drawn dashed: the same at another condition; empty where there is none.</summary>
    public IReadOnlyList<(double X, double Y)> OtherLine { get; init; } = [];

    /// <summary>What the two kinds of points are; empty where there is only one.</summary>
    public IReadOnlyList<string> Legend { get; init; } = [];

    /// <summary>Values of y that are drawn across with their words.</summary>
    public IReadOnlyList<(double Y, string Words)> Levels { get; init; } = [];

    /// <summary>The proposed x; null where none is.</summary>
    public double? Chosen { get; init; }

    /// <summary>True where x counts whole things.</summary>
    public bool WholeX { get; init; }

    /// <summary>Words for who can't see it.</summary>
    public string Summary { get; init; } = "";
}
