using Glenfrost.Core.Factors;
using Glenfrost.Core.Trials;

namespace Glenfrost.Web.Api;

/// <summary>What is to blame: combinations that were printed, judged over the API.</summary>
public static class SwapApi
{
    private const int MostRows = 60, MostFactors = 20, MostTried = 500;

    /// <summary>A combination.</summary>
    /// <param name="Factors">What it was printed with, by factor: slicer, filament, printer …</param>
    /// <param name="Passed">Prints that passed.</param>
    /// <param name="Tried">Prints.</param>
    /// <param name="LeftOut">Of the first row: failures that raised the suspicion, which prove nothing.</param>
    /// <param name="FailedAtLayers">
    /// Layer, counted from 1, at which each failure that counts gave up; where it is noted of both rows, how far they came is compared.
    /// </param>
    public sealed record Row(IReadOnlyDictionary<string, string> Factors, int Passed, int Tried, int LeftOut, IReadOnlyList<int>? FailedAtLayers);

    /// <summary>Combinations, the failing one first.</summary>
    public sealed record Body(IReadOnlyList<Row> Rows);

    /// <summary>What to print next.</summary>
    /// <param name="Factors">The combination.</param>
    /// <param name="Changed">Factors in which it differs from the failing one.</param>
    /// <param name="Prints">How many, where all of them pass.</param>
    /// <param name="Again">True for one that was printed before.</param>
    /// <param name="Order">Where something drifts: "failing" or "changed", in the order of printing (A–B–A); empty for the failing one itself.</param>
    public sealed record NextRow(
        IReadOnlyDictionary<string, string> Factors, IReadOnlyList<string> Changed, int Prints, bool Again, IReadOnlyList<string> Order);

    /// <summary>What the combinations say.</summary>
    /// <param name="Verdict">one, several, together, luck or insufficient.</param>
    /// <param name="Blamed">Factors to blame; for luck those that look so.</param>
    /// <param name="Acquitted">Factors whose exchange did not cure.</param>
    /// <param name="Hopeful">Beside one that is to blame: factors whose exchange passed too, not often enough to tell.</param>
    /// <param name="ByLuck">Of each other row: how often luck alone would pass it so often; one-sided, unadjusted.</param>
    /// <param name="ByLuckAdjusted">The same, adjusted for looking at several rows.</param>
    /// <param name="Sentence">In words.</param>
    /// <param name="OnlyFurther">True where what was exchanged comes further and never passed: part of the cause, and not all of it.</param>
    /// <param name="Next">What to print next; null where nothing would tell more.</param>
    public sealed record Answer(
        string Verdict, IReadOnlyList<string> Blamed, IReadOnlyList<string> Acquitted, IReadOnlyList<string> Hopeful, IReadOnlyList<double> ByLuck,
        IReadOnlyList<double> ByLuckAdjusted, string Sentence, bool OnlyFurther, NextRow? Next);

    public static void Map(IEndpointRouteBuilder app) =>
        app.MapPost("/api/v1/trials/swap/evaluate", (Delegate)EvaluateAsync).WithName("evaluateSwap").WithTags("swap").DisableAntiforgery()
            .WithSummary("What is to blame: Fisher's exact test of each combination against the failing one, which stands first")
            .Accepts<Body>("application/json").Produces<Answer>().ProducesProblem(400).ProducesProblem(415).ProducesValidationProblem(422);

    private static async Task<IResult> EvaluateAsync(HttpContext context)
    {
        var (json, problem) = await TrialApi.OpenAsync(context);
        if (json is null)
            return problem!;
        var rows = RowsOf(json);
        if (json.Errors.Count > 0)
            return TrialApi.Refused(json.Errors);
        var v = SwapTest.Judge(rows);
        return Results.Json(
            new Answer(
                v.Outcome.ToString().ToLowerInvariant(), v.Blamed, v.Acquitted, v.Hopeful, v.ByLuck, v.ByLuckAdjusted, SwapWords.Tell(rows, v),
                v.OnlyFurther, v.Next is { } n ? new(n.Factors, n.Changed, n.Prints, n.Again, [.. n.Order.Select(o => o ? "changed" : "failing")]) : null),
            Json.Options);
    }

    private static List<SwapRow> RowsOf(JsonFields json)
    {
        var rows = new List<SwapRow>();
        var list = json.List("rows", true) ?? [];
        if (json.Errors.Count == 0 && list.Count is 0 or > MostRows)
            json.Refuse("rows", $"rows holds {list.Count} combinations: the failing one first, then 1 to {MostRows - 1} others would be right.");
        foreach (var (row, i) in list.Take(MostRows).Select((r, i) => (r, i)))
        {
            var factors = row.Object("factors")?.Texts(80) ?? [];
            if (factors.Count is 0 or > MostFactors)
                row.Refuse(
                    $"rows[{i}].factors", $"factors names {factors.Count}: 1 to {MostFactors}, for example {{\"filament\": \"Heath\"}}, would be right.");
            var tried = row.Whole("tried", 0, MostTried);
            var passed = row.Whole("passed", 0, MostTried);
            var leftOut = row.Whole("leftOut", 0, MostTried) ?? 0;
            if (tried is null && !json.Errors.ContainsKey($"rows[{i}].tried"))
                row.Refuse($"rows[{i}].tried", "tried is missing: how many were printed.");
            if (passed is null && !json.Errors.ContainsKey($"rows[{i}].passed"))
                row.Refuse($"rows[{i}].passed", "passed is missing: how many of them passed.");
            var layers = row.Values("failedAtLayers", false);
            if (layers.Count > SwapRow.MostByLayer || layers.Any(l => l is < 1 or > 100_000 || l != Math.Floor(l)))
                row.Refuse($"rows[{i}].failedAtLayers", $"failedAtLayers holds whole layers from 1 to 100000, {SwapRow.MostByLayer} at most.");
            rows.Add(new(factors, passed ?? 0, tried ?? 0, leftOut, layers.Count == 0 ? null : [.. layers.Select(l => (int)Math.Clamp(l, 0, 100_000))]));
        }

        if (json.Errors.Count == 0)
        {
            foreach (var (row, field, message) in SwapWords.Faults(rows))
                json.Refuse($"rows[{row}].{(field == "layers" ? "failedAtLayers" : field)}", message);
        }

        return rows;
    }
}
