using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Routes;

/// <summary>One thing that is to be reached.</summary>
/// <param name="Key"><see cref="Goal.EveryScore"/>, an aspect with <see cref="Goal.ScorePrefix"/> before it, or the key of a setting.</param>
/// <param name="AtLeast">A score of 0 to 4, or a value in the setting's unit.</param>
public sealed record GoalTarget(string Key, double AtLeast)
{
    /// <summary>True where pieces are scored for it.</summary>
    [System.Text.Json.Serialization.JsonIgnore]
    public bool IsScore => Key == Goal.EveryScore || Key.StartsWith(Goal.ScorePrefix, StringComparison.Ordinal);

    /// <summary>True where it is about that aspect.</summary>
    public bool Asks(string aspect) => Key == Goal.EveryScore || Key == Goal.ScorePrefix + aspect;
}

/// <summary>When a pairing is good enough, and what reaching that may cost. Version 1 of the stored form.</summary>
public sealed record Goal
{
    /// <summary>Key of the target that each scored aspect is to reach.</summary>
    public const string EveryScore = "score";

    /// <summary>Begins the key of a target for one aspect.</summary>
    public const string ScorePrefix = "score.";

    /// <summary>Most targets of a pairing.</summary>
    public const int MostTargets = 8;

    /// <summary>Version of the stored form.</summary>
    public int Version { get; init; } = 1;

    /// <summary>In the tester's words; null for none.</summary>
    public string? Words { get; init; }

    /// <summary>What is to be reached; empty for what the use asks.</summary>
    public IReadOnlyList<GoalTarget> Targets { get; init; } = [];

    /// <summary>On how many pieces scores are to be reached, 1 to 9.</summary>
    public int Times { get; init; } = 1;

    /// <summary>Most pieces; null for no bound.</summary>
    public int? Pieces { get; init; }

    /// <summary>Most filament, g.</summary>
    public double? Grams { get; init; }

    /// <summary>Most hours of printing.</summary>
    public double? Hours { get; init; }

    /// <summary>Most money, in minor units of the filament's currency.</summary>
    public double? MoneyMinor { get; init; }

    /// <summary>When it was read that the budget is spent, UTC: it is said once.</summary>
    public DateTime? OverSeenAt { get; init; }

    /// <summary>What stood before it was last changed, for taking that back; null for nothing.</summary>
    public Goal? Before { get; init; }

    /// <summary>What a use asks where the tester said nothing: scores that its parts are usually accepted with.</summary>
    /// <param name="use">The pairing's use.</param>
    public static IReadOnlyList<GoalTarget> OfUse(string use) => use switch
    {
        "looks" or "fine detail" => [new(EveryScore, 3.5)],
        "speed" or "low mass" => [new(EveryScore, 2)],
        _ => [new(EveryScore, 3)],
    };

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public string? Fault() =>
        Version != 1 ? $"is of version {Version}; version 1 is read here"
        : Targets.Count > MostTargets ? $"has {Targets.Count} targets; at most {MostTargets} would be right"
        : Targets.FirstOrDefault(t => t.IsScore && t.AtLeast is not (> 0 and <= 4)) is { } bad ? $"asks for a score of {bad.AtLeast}: more than 0, up to 4"
        : Targets.FirstOrDefault(t => !t.IsScore && (SettingRegistry.Find(t.Key) is not { Words: null } || !double.IsFinite(t.AtLeast))) is { } no
            ? $"\"{no.Key}\" is no setting with a number"
        : Times is < 1 or > 9 ? "asks for it 1 to 9 times"
        : Words is { Length: > 300 } || Before is { Before: not null } ? "is longer than any that is written here"
        : Pieces is < 1 or > 10_000 || Grams is not (null or (> 0 and <= 1e6)) || Hours is not (null or (> 0 and <= 1e5))
            || MoneyMinor is not (null or (> 0 and <= 1e9)) ? "has a budget that is none"
        : Before?.Fault();
}

/// <summary>A piece that was scored with what is in force.</summary>
/// <param name="RunId">Of which run.</param>
/// <param name="Name">As the run is called.</param>
/// <param name="Scores">By aspect, 0 to 4.</param>
public sealed record GoalPiece(Guid RunId, string Name, IReadOnlyDictionary<string, double> Scores);

/// <summary>What was spent on a pairing.</summary>
/// <param name="Pieces">Prints.</param>
/// <param name="Minutes">Of printing.</param>
/// <param name="Grams">Filament.</param>
/// <param name="MoneyMinor">Of the filament; null where its price is not known.</param>
public sealed record Spent(int Pieces, int Minutes, double Grams, double? MoneyMinor);

/// <summary>What is to be said about going on.</summary>
public enum GoalAdvice
{
    /// <summary>Nothing was scored or found yet: the route says what to print.</summary>
    NothingYet,

    /// <summary>All of it is reached.</summary>
    Enough,

    /// <summary>It is not reached, but another print would hardly gain what is missing.</summary>
    HardlyMore,

    /// <summary>It is reached, but on too few pieces: the same once more.</summary>
    OnceMore,

    /// <summary>Something is missing: going on is for that alone.</summary>
    GoOnFor,
}

/// <summary>How far a target is reached.</summary>
/// <param name="Target">The target.</param>
/// <param name="Best">The least score of the best piece, or the setting's value; null for nothing known.</param>
/// <param name="Times">Pieces that reach it; 1 or 0 for a setting.</param>
/// <param name="Reached">True where enough of them do.</param>
public sealed record TargetStanding(GoalTarget Target, double? Best, int Times, bool Reached);

/// <summary>Where a pairing stands before its goal.</summary>
/// <param name="Targets">Each target.</param>
/// <param name="Advice">Whether to go on.</param>
/// <param name="Short">Aspects of the best piece that lie below what is asked, the worst first, with their scores.</param>
/// <param name="Points">Scores of the best piece in sum; null without one.</param>
/// <param name="MostPoints">The most that they could be.</param>
/// <param name="Best">The best piece; null for none.</param>
/// <param name="Over">True where a bound of the budget is passed.</param>
public sealed record GoalStanding(
    IReadOnlyList<TargetStanding> Targets, GoalAdvice Advice, IReadOnlyList<(string Aspect, double Score)> Short, double? Points, int MostPoints,
        GoalPiece? Best,
    bool Over)
{
    /// <summary>Says where a pairing stands. Pure.</summary>
    /// <param name="goal">What the tester said; its targets are those of the use where there are none.</param>
    /// <param name="use">The pairing's use.</param>
    /// <param name="pieces">Pieces that were scored with what is in force, the newest first.</param>
    /// <param name="found">Values of the profile that somebody found, by key.</param>
    /// <param name="spent">What was spent.</param>
    /// <param name="gain">The most that one more print is expected to gain, scores; null where no verdict says so.</param>
    public static GoalStanding Of(
        Goal goal, string use, IReadOnlyList<GoalPiece> pieces, IReadOnlyDictionary<string, double> found, Spent spent, double? gain)
    {
        var targets = goal.Targets.Count > 0 ? goal.Targets : Goal.OfUse(use);
        var scored = pieces.Where(p => p.Scores.Count > 0).ToList();
        double? Least(GoalPiece p, GoalTarget t) => p.Scores.Where(s => t.Asks(s.Key)).Select(s => (double?)s.Value).Min();
        var standings = targets.Select(t =>
        {
            if (!t.IsScore)
                return found.TryGetValue(t.Key, out var v) ? new TargetStanding(t, v, v >= t.AtLeast ? 1 : 0, v >= t.AtLeast) : new(t, null, 0, false);
            var (best, times) = (scored.Max(p => Least(p, t)), scored.Count(p => Least(p, t) >= t.AtLeast));
            return new TargetStanding(t, best, times, times >= goal.Times);
        }).ToList();
        // The best piece is the one with the fewest points below what is asked; of alike ones the newest.
        double Missing(string aspect, double score) =>
            targets.Where(t => t.Asks(aspect)).Select(t => Math.Max(0, t.AtLeast - score)).DefaultIfEmpty(0).Max();
        var of = scored.MinBy(p => (p.Scores.Sum(s => Missing(s.Key, s.Value)), -p.Scores.Values.Sum()));
        List<(string Aspect, double Score)> low = of is null ? []
            : [.. of.Scores.Where(s => Missing(s.Key, s.Value) > 0).OrderByDescending(s => Missing(s.Key, s.Value)).Select(s => (s.Key, s.Value))];
        var missing = low.Select(s => Missing(s.Aspect, s.Score)).DefaultIfEmpty(0).Max();
        var settingsShort = standings.Any(s => !s.Target.IsScore && !s.Reached);
        var advice = standings.All(s => s.Reached) ? GoalAdvice.Enough
            : standings.All(s => s.Best is null) ? GoalAdvice.NothingYet
            : low.Count == 0 && !settingsShort && of is not null ? GoalAdvice.OnceMore
            // What nobody reckoned is no reason to stop.
            : gain is { } g && g < missing && g < RoutePlanner.WorthGain && !settingsShort ? GoalAdvice.HardlyMore
            : GoalAdvice.GoOnFor;
        return new(
            standings, advice, low, of?.Scores.Values.Sum(), 4 * (of?.Scores.Count ?? 0), of,
            spent.Pieces > goal.Pieces || spent.Grams > goal.Grams || spent.Minutes > goal.Hours * 60 || spent.MoneyMinor > goal.MoneyMinor);
    }
}
