using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Application;

/// <summary>A goal, where a pairing stands before it and what to do, in words.</summary>
public static class GoalWords
{
    // What a fault of looks leaves to do by hand, the gentlest first.
    private static readonly Dictionary<string, string> ByHand = new()
    {
        ["strings"] = "strings (trim, then a breath of warm air)", ["surface"] = "blobs and seams (a sharp blade, then wet fine grit)",
        ["overhang"] = "curled edges (trim, then wet fine grit)", ["bridge"] = "threads under bridges (trim)",
    };

    /// <summary>What a target asks.</summary>
    public static string Of(GoalTarget t) => t.Key switch
    {
        Goal.EveryScore => $"every score {Words.N(t.AtLeast)} or more",
        _ when t.IsScore => $"{t.Key[Goal.ScorePrefix.Length..]} {Words.N(t.AtLeast)} or more",
        _ => $"{SettingRegistry.Get(t.Key).Label.InSentence()} {Words.Value(t.Key, t.AtLeast)} or more",
    };

    /// <summary>All that a goal asks, and its budget.</summary>
    public static string Of(Goal g, string use, string? currency)
    {
        var targets = string.Join(", ", (g.Targets.Count > 0 ? g.Targets : Goal.OfUse(use)).Select(Of));
        return $"{(g.Words is { } words ? $"{words}: " : "")}{targets}{(g.Times > 1 ? $", on {g.Times} pieces" : "")}" +
            $"{(Budget(g, currency) is { Length: > 0 } budget ? $"; at most {budget}" : "")}";
    }

    /// <summary>The bounds of a budget; empty for none.</summary>
    public static string Budget(Goal g, string? currency) => string.Join(
        ", ",
        new[]
        {
            g.Pieces is { } n ? Words.Plural(n, "piece") : "", g.Hours is { } h ? $"{Words.N(h, 1)} h" : "", g.Grams is { } m ? $"{Words.N(m, 0)} g" : "",
            g.MoneyMinor is { } c ? Words.Money(c, currency) : "",
        }.Where(x => x.Length > 0));

    /// <summary>What was spent.</summary>
    public static string Of(Spent s, string? currency) =>
        s.Pieces == 0
            ? "nothing yet"
            : $"{Words.Plural(s.Pieces, "piece")}, {Words.Minutes(s.Minutes)}, {Words.N(s.Grams, 0)} g{(s.MoneyMinor is { } m ? $", {Words.Money(
                m, currency)}" : "")}";

    /// <summary>Whether to go on, in a sentence or two.</summary>
    public static string Advice(GoalView v)
    {
        var s = v.Standing;
        var low = string.Join(" and ", s.Short.Select(x => $"{x.Aspect} ({Words.N(x.Score, 1)})"));
        var settings = string.Join(
            " and ", s.Targets.Where(t => !t.Target.IsScore && !t.Reached)
                .Select(t => $"{SettingRegistry.Get(t.Target.Key).Label.InSentence()} ({(t.Best is { } b ? Words.Value(t.Target.Key, b) : "not found yet")})"));
        var both = string.Join(" and ", new[] { low, settings }.Where(x => x.Length > 0));
        return s.Advice switch
        {
            GoalAdvice.NothingYet => "Nothing is scored yet at the temperature in force: the route says what to print.",
            GoalAdvice.Enough => $"Stop: it is good enough.{Hand(s)}",
            GoalAdvice.HardlyMore =>
                $"Stop: another print would gain {Words.N(v.Gain, 2)} of a score on the average, and one score scatters by " +
                $"{Words.N(v.Scatter, 1)}. Short: {low}." +
                Hand(s),
            GoalAdvice.OnceMore => "Reached once: the same once more shows that it holds.",
            _ => $"Go on only for {both}.{(v.Gain is { } g ? $" The best next print may gain {Words.N(g, 1)}; one score scatters by {Words.N(
                v.Scatter, 1)}." : "")}",
        };
    }

    /// <summary>How many letters of an advice lead: to its first colon or full stop, which a decimal point is not.</summary>
    public static int LeadOf(string advice)
    {
        var ends = new[] { ": ", ". " }.Select(e => advice.IndexOf(e, StringComparison.Ordinal)).Where(i => i >= 0).DefaultIfEmpty(advice.Length - 1).Min();
        return ends + 1;
    }

    private static string Hand(GoalStanding s)
    {
        // What is perfect leaves nothing to clean.
        var left = (s.Best?.Scores ?? new Dictionary<string, double>()).Where(x => x.Value < 3.5 && ByHand.ContainsKey(x.Key)).Select(x
            => ByHand[x.Key]).ToList();
        return left.Count == 0 ? "" : $" Left to clean by hand: {string.Join("; ", left)}. Practise on scrap.";
    }

    /// <summary>Where it stands: points of the best piece and what was spent.</summary>
    public static string Stands(GoalView v, string? currency) =>
        $"Spent {Of(v.Spent, currency)}.{(v.Standing is { Points: { } points, MostPoints: var of, Best: { } best }
            ? $" Reached {Words.N(points, 1)} of {of} points ({best.Name})." : "")}";

    /// <summary>Targets that may be chosen, with what they ask.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Choices { get; } =
    [
        KeyValuePair.Create("", "nothing"), KeyValuePair.Create(Goal.EveryScore, "every score"),
        .. Aspects.All.Select(a => KeyValuePair.Create(Goal.ScorePrefix + a, $"score of {a}")),
        // Of the other settings more is not better.
        KeyValuePair.Create(Core.Trials.FlowLimit.Flows.Key, $"flow limit, {SettingRegistry.Get(Core.Trials.FlowLimit.Flows.Key).Quantity.Unit}"),
    ];
}
