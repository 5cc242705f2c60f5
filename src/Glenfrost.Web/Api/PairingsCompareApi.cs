using Glenfrost.Core.Routes;

namespace Glenfrost.Web.Api;

/// <summary>Pairings side by side, for scripts.</summary>
public static class PairingsCompareApi
{
    /// <summary>What is known of one pairing for a question.</summary>
    /// <param name="Pairing">Its id.</param>
    /// <param name="Value">mm³/s, a score of 0–4, or minor units of the currency a cm³; null where nothing was measured.</param>
    /// <param name="Half">Half of its 95 % interval.</param>
    /// <param name="Missing">What is missing for an answer; null where nothing is.</param>
    /// <param name="RuledOut">Why it does not come into question; null where it does.</param>
    public sealed record Known(Guid Pairing, double? Value, double Half, string? Missing, string? RuledOut);

    /// <summary>A question with its answer.</summary>
    /// <param name="Question">fastestAtLooks, looks, fewestStrings, strongest or cheapest.</param>
    /// <param name="Sentence">The answer in words.</param>
    /// <param name="Best">Ids of those that can't be told from the best, the best first.</param>
    /// <param name="Settled">True where one alone is ahead and nobody's value is missing.</param>
    /// <param name="Known">In the order that was asked.</param>
    public sealed record Answered(string Question, string Sentence, IReadOnlyList<Guid> Best, bool Settled, IReadOnlyList<Known> Known);

    /// <summary>Readings of one run on one pairing.</summary>
    /// <param name="Pairing">Its id.</param>
    /// <param name="Run">The run.</param>
    /// <param name="Points">x, y and the ends of the 95 % interval of y, null where there is none.</param>
    public sealed record Curve(Guid Pairing, Guid Run, IReadOnlyList<double?[]> Points);

    /// <summary>Curves over the same axes.</summary>
    public sealed record Curves(string Trial, string X, string Y, IReadOnlyList<Curve> Of);

    /// <summary>Pairings side by side.</summary>
    public sealed record Answer(IReadOnlyList<Guid> Pairings, IReadOnlyList<Answered> BestFor, IReadOnlyList<Curves> Curves);

    public static void Map(IEndpointRouteBuilder app) =>
        app.MapGet("/api/v1/pairings/compare", (Delegate)CompareAsync).WithName("comparePairings").WithTags("pairings")
            .WithSummary("Two to four pairings side by side: what each is best for, and curves over the same axes").Produces<Answer>().ProducesProblem(404)
            .ProducesValidationProblem(422);

    private static async Task<IResult> CompareAsync(PairingsSideBySide side, string? ids)
    {
        var read = (ids ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Select(t => Guid.TryParse(t, out var id) ? id : (Guid?)null).ToList();
        if (read.FindIndex(r => r is null) is >= 0 and var bad)
            return TrialApi.Refused(new() { ["ids"] = [$"ids[{bad}] is no id of a pairing: ids with commas between them would be right."] });
        var wanted = read.OfType<Guid>().Distinct().ToList();
        if (wanted.Count is < 2 or > PairingsSideBySide.Most)
            return TrialApi.Refused(new() { ["ids"] = [$"ids names {wanted.Count}: two to {PairingsSideBySide.Most} different pairings would be right."] });
        var c = await side.OfAsync(wanted);
        if (c.Columns.Count != wanted.Count)
            return Results.Problem("One of them is not there, or is of the practice world.", statusCode: 404);
        var (names, currencies) = (c.Columns.Select(x => Facts.NameOf(x.Pairing)).ToList(), c.Columns.Select(x => x.Pairing.Filament!.Currency).ToList());
        Guid IdOf(int column) => c.Columns[column].Pairing.Id;
        return Results.Ok(
            new Answer(
                [.. c.Columns.Select(x => x.Pairing.Id)],
                [
                    .. c.Answers.Select(a => new Answered(
                        Key(a.Question), BestForWords.Of(a, names, currencies), [.. a.Best.Select(IdOf)], a.IsSettled,
                        [.. a.Entries.Select((e, i) => new Known(IdOf(i), e.Value, e.Half, e.Missing, e.RuledOut))])),
                ],
                [
                    .. c.Curves.Select(x => new Curves(
                        x.Name, x.XLabel, x.YLabel,
                        [.. x.Curves.Select(k => new Curve(IdOf(k.Column), k.RunId, [.. k.Points.Select(p => new[] { p.X, p.Y, p.Low, p.High })]))])),
                ]));
    }

    private static string Key(BestForQuestion question) => System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(question.ToString());
}
