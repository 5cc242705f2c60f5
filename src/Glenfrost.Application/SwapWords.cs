using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;

namespace Glenfrost.Application;

/// <summary>What is to blame, in words.</summary>
public static class SwapWords
{
    /// <summary>The answer in a sentence or two; luck is never called a chance that something is luck.</summary>
    /// <param name="rows">As judged, the failing one first.</param>
    /// <param name="v">The verdict.</param>
    public static string Tell(IReadOnlyList<SwapRow> rows, SwapVerdict v)
    {
        var blamed = string.Join(", ", v.Blamed.Select(Named));
        var acquitted = v.Acquitted.Count > 0 ? $" Exchanging {string.Join(", ", v.Acquitted.Select(Named))} did not help." : "";
        // The luckiest of the rows that count for the answer.
        var luck = Enumerable.Range(0, rows.Count - 1).Where(i => SwapTest.Changed(rows[0], rows[i + 1]).All(v.Blamed.Contains) && rows[i + 1].Counted > 0)
            .Select(i => v.ByLuckAdjusted[i]).DefaultIfEmpty(1).Min();
        return v.Outcome switch
        {
            SwapOutcome.One when v.OnlyFurther => $"The {blamed} is part of it: exchanged, it comes further ({Furthest(rows, v.Blamed)}) " +
                $"and still fails. Luck alone does this {OneIn(luck)}. Keep it exchanged, and exchange something else too.{acquitted}",
            SwapOutcome.One => $"The {blamed} is to blame: exchanged, it passes. Luck alone does this {OneIn(luck)}.{acquitted}" +
                (v.Hopeful.Count == 0 ? ""
                    : $" Exchanging {string.Join(", ", v.Hopeful.Select(Named))} passed too: {Again(v.Next)}, " +
                    $"to know whether it fails only in this combination."),
            SwapOutcome.Several => $"Each of {blamed} fails by itself: only exchanged together it passes. Luck alone does this {OneIn(luck)}.",
            SwapOutcome.Together => $"It fails only in this combination: exchanging {string.Join(" or ", v.Blamed.Select(Named))} " +
                $"cures it. Change the cheapest.{acquitted}",
            SwapOutcome.Luck => $"{blamed.AtHead()} looks like the cause, and luck alone does this {OneIn(luck)}: {Again(v.Next)}.{acquitted}",
            _ => v.Next is { } next
                ? $"Nothing was exchanged yet that tells: {Again(next)}.{acquitted}"
                : $"Nothing that was exchanged cures it: exchange something else.{acquitted}",
        };
    }

    /// <summary>What is wrong with rows, by row and field, in words: the same for the page and the API.</summary>
    /// <param name="rows">The failing one first.</param>
    public static IEnumerable<(int Row, string Field, string Message)> Faults(IReadOnlyList<SwapRow> rows)
    {
        for (var i = 0; i < rows.Count; i++)
        {
            var r = rows[i];
            if (r.Passed > r.Tried)
                yield return (i, "passed", $"{r.Passed} passed of {r.Tried} printed: at most as many as were printed.");
            else if (r.LeftOut > 0 && i > 0)
                yield return (i, "leftOut", "Only failures of the first row raised the suspicion.");
            else if (r.LeftOut > r.Tried - r.Passed)
                yield return (i, "leftOut", $"{r.LeftOut} left out of {Words.Plural(r.Tried - r.Passed, "failure")}: at most as many as failed.");
            else if (r.FailedAtLayers is { Count: > 0 } layers && layers.Count != r.Failures)
                yield return (
                    i, "layers", $"{Words.Plural(r.Failures, "failure")} {(r.Failures == 1 ? "counts" : "count")} and {Words.Plural(layers.Count, "layer")} " +
                    $"{(layers.Count == 1 ? "is" : "are")} noted: one layer for each failure that counts, or none, would be right.");
            else if (i == 0 && r.Tried > 0 && r.Passed == r.Tried)
                yield return (i, "passed", "The first row is the failing combination; all of its prints passed.");
        }
    }

    /// <summary>The layers that were reached without and with the exchange.</summary>
    private static string Furthest(IReadOnlyList<SwapRow> rows, IReadOnlyList<string> blamed)
    {
        var with = rows.Skip(1).Where(r => SwapTest.Changed(rows[0], r).SequenceEqual(blamed)).SelectMany(r => r.FailedAtLayers ?? []).ToList();
        var without = rows.Where(r => SwapTest.Changed(rows[0], r).Count == 0).SelectMany(r => r.FailedAtLayers ?? []).ToList();
        return $"layer {Range(with)} instead of {Range(without)}";

        static string Range(List<int> layers) => layers.Count == 0 ? "?" : layers.Min() == layers.Max() ? $"{layers[0]}" : $"{layers.Min()} to {layers.Max()}";
    }

    /// <summary>The order in which to print where something drifts: the failing combination before, between and after.</summary>
    public static string? OrderOf(SwapNext? next) => next is { Order.Count: > 0 }
        ? string.Join(", ", next.Order.Select(o => o ? $"with {string.Join(" and ", next.Changed.Select(Named))} exchanged" : "as it fails"))
        : null;

    private static string Again(SwapNext? next) => next switch
    {
        null => "more prints of these would not settle it; exchange something else too",
        { Changed.Count: 0 } => $"print the failing one {Times(next.Prints)} more, to know that it fails",
        { Again: true } => $"print it {Times(next.Prints)} more",
        _ => $"print it with {string.Join(", ", next.Changed.Select(c => $"{c} {next.Factors.GetValueOrDefault(c)}"))} alone exchanged, {Times(next.Prints)}",
    };

    // The column for what has none of its own.
    private static string Named(string factor) => factor == "other" ? "other thing" : factor;

    private static string Times(int n) => n == 1 ? "once" : n == 2 ? "twice" : $"{n} times";

    /// <summary>How often, as people say it.</summary>
    public static string OneIn(double p) => p >= 0.95 ? "nearly always" : p < 0.001 ? "less than 1 time in 1000" : $"1 time in {Words.N(Math.Round(1 / p))}";
}
