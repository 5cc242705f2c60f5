using Glenfrost.Core.Routes;

namespace Glenfrost.Application;

/// <summary>What several pairings are best for, in sentences.</summary>
public static class BestForWords
{
    /// <summary>The question as a tester asks it.</summary>
    public static string Of(BestForQuestion question) => question switch
    {
        BestForQuestion.FastestAtLooks => "Which prints fastest and still looks well?",
        BestForQuestion.Looks => "Which looks best?",
        BestForQuestion.FewestStrings => "Which strings least?",
        BestForQuestion.Strongest => "Which is strongest?",
        _ => "Which costs least by volume?",
    };

    /// <summary>A value of a question with its unit.</summary>
    /// <param name="question">The question.</param>
    /// <param name="e">What is known of one.</param>
    /// <param name="currency">Of its filament; null for none.</param>
    public static string Value(BestForQuestion question, BestForEntry e, string? currency)
    {
        var (value, half) = (e.Value!.Value, e.Half);
        string With(string number, string unit, double factor, int digits) => e.Assumed ? $"about {number}{unit}" :
            $"{number}{(half * factor >= 0.5 * Math.Pow(10, -digits) ? $" ± {Words.N(half * factor, digits)}" : "")}{unit}";
        return question switch
        {
            BestForQuestion.FastestAtLooks => With(Words.N(value, 1), " mm³/s", 1, 1),
            BestForQuestion.Cheapest => With(FormattableString.Invariant($"{value / 100:0.0000}"), $" {currency}/cm³", 0.01, 4),
            _ => With(Words.N(value, 1), "", 1, 1),
        };
    }

    /// <summary>The answer in a sentence or two.</summary>
    /// <param name="a">The answer.</param>
    /// <param name="names">How the pairings are called, in the order of its entries.</param>
    /// <param name="currencies">Of their filaments.</param>
    public static string Of(BestForAnswer a, IReadOnlyList<string> names, IReadOnlyList<string?> currencies)
    {
        string Said(int i) => $"{names[i]} ({Value(a.Question, a.Entries[i], currencies[i])})";
        var missing = a.Entries.Count(e => e.Value is null);
        if (a.Best.Count == 0)
            return missing == a.Entries.Count ? "Nothing that was measured answers this." : "None of them comes into question.";
        if (a.Question == BestForQuestion.Cheapest && a.Best.Concat(a.Behind).Select(i => currencies[i]).Distinct().Count() > 1)
            return "Their prices are in different currencies: nothing is compared.";
        if (a.Best.Count == 1 && a.Behind.Count == 0)
            return $"Only {Said(a.Best[0])} was measured" +
                $"{(a.Entries.Any(e => e.RuledOut is not null) ? " and comes into question" : "")}: that is no comparison.";
        var rest = a.Behind.Count == 0 ? "" : $" Behind: {string.Join(", ", a.Behind.Select(Said))}.";
        return a.Best.Count == 1 ? $"{Said(a.Best[0])}.{rest}"
            : $"{string.Join(" and ", a.Best.Select(Said))} can't be told apart.{rest}";
    }
}
