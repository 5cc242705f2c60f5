using Glenfrost.Core.Factors;

namespace Glenfrost.Web.Api;

/// <summary>Runs side by side, for scripts.</summary>
public static class CompareApi
{
    /// <summary>A run.</summary>
    public sealed record ComparedRun(Guid Id, string Trial, int Number, string Subject, DateTime? PrintedAt);

    /// <summary>A factor.</summary>
    /// <param name="Key">Its key.</param>
    /// <param name="Label">What it is called.</param>
    /// <param name="Unit">Unit of its numbers; empty for words.</param>
    /// <param name="Values">A value each, in the order of the runs; null where it is not known.</param>
    /// <param name="Swept">True where one of them goes through it on purpose.</param>
    public sealed record Factor(string Key, string Label, string Unit, IReadOnlyList<string?> Values, bool Swept);

    /// <summary>What was read of an aspect at one part.</summary>
    /// <param name="Part">As the part is called.</param>
    /// <param name="Values">A value each; null where it was not read.</param>
    /// <param name="Differs">True where two of them differ by more than they scatter.</param>
    public sealed record Place(string Part, IReadOnlyList<double?> Values, bool Differs);

    /// <summary>An aspect over its parts.</summary>
    public sealed record Aspect(string Key, string Label, string Unit, IReadOnlyList<Place> Places);

    /// <summary>The one print that would tell more.</summary>
    public sealed record Separating(string Factor, string Words, string Link, int Minutes, double Grams);

    /// <summary>What may be concluded of a run beside the first one.</summary>
    /// <param name="Run">The other run.</param>
    /// <param name="Conclusion">nothingDiffers, onlyDifference, effect, notShown, notAttributed, unknownBeside, onlyUnknown or otherPieces; null where they
    /// have no common number.</param>
    /// <param name="Sentence">In words.</param>
    /// <param name="Effect">The first less the other, in the unit of what the trial settles; null where there is none.</param>
    /// <param name="Low">Lower end of its 95 % interval.</param>
    /// <param name="High">Upper end.</param>
    /// <param name="Separate">The one print that would tell more; null where none is needed.</param>
    public sealed record Concluded(Guid Run, string? Conclusion, string Sentence, double? Effect, double? Low, double? High, Separating? Separate);

    /// <summary>Runs side by side.</summary>
    public sealed record Answer(
        IReadOnlyList<ComparedRun> Runs, IReadOnlyList<Factor> Differs, IReadOnlyList<Factor> Unknown, int Same, IReadOnlyList<Aspect> Read,
        IReadOnlyList<Concluded> MayBeConcluded);

    public static void Map(IEndpointRouteBuilder app) =>
        app.MapGet("/api/v1/runs/compare", (Delegate)CompareAsync).WithName("compareRuns").WithTags("runs")
            .WithSummary("Two to four runs side by side: what differs, what was read, what may be concluded").Produces<Answer>().ProducesProblem(404)
            .ProducesValidationProblem(422);

    private static async Task<IResult> CompareAsync(RunsSideBySide side, string? ids)
    {
        var list = (ids ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries);
        var read = list.Select(t => Guid.TryParse(t, out var id) ? id : (Guid?)null).ToList();
        if (read.FindIndex(r => r is null) is >= 0 and var bad)
            return TrialApi.Refused(new() { ["ids"] = [$"ids[{bad}] is no id of a run: ids with commas between them would be right."] });
        var wanted = read.OfType<Guid>().Distinct().ToList();
        if (wanted.Count is < 2 or > RunsSideBySide.MostRuns)
            return TrialApi.Refused(new() { ["ids"] = [$"ids names {wanted.Count}: two to {RunsSideBySide.MostRuns} different runs would be right."] });
        if (await side.OfAsync(wanted) is not { } all)
            return Results.Problem("One of these runs is not there, or practice would be mixed with the real.", statusCode: 404);
        static string Word(Enum e) => System.Text.Json.JsonNamingPolicy.CamelCase.ConvertName(e.ToString());
        static Factor Of(ComparedFactor f) =>
            new(f.Factor.Key, f.Factor.Label, f.Factor.Unit, [.. f.Values.Select(v => v is null ? null : FactorWords.Value(f.Factor, v))], f.Swept);
        return Results.Json(
            new Answer(
                [.. all.Runs.Select(r => new ComparedRun(r.Run.Id, r.Trial.Kind, r.Run.Number, r.Name, r.Run.PrintedAt))],
                [.. all.Differs.Select(Of)], [.. all.Unknown.Select(Of)], all.Same,
                [
                    .. all.Read.Select(a => new Aspect(
                        a.Aspect, a.Label, a.Unit, [.. a.Places.Select(p => new Place(p.Label, [.. p.Of.Select(r => r?.Value)], p.Beats))])),
                ],
                [
                    .. all.Concluded.Select(c => new Concluded(
                        all.Runs[c.Run].Run.Id, c.Says is { } says ? Word(says.Verdict) : null, c.Sentence, c.Says?.Effect, c.Says?.Low, c.Says?.High,
                        c.Separate is { } n ? new(n.Factor.Key, n.Words, n.Link, n.Cost?.Minutes ?? 0, Math.Round(n.Cost?.Grams ?? 0, 1)) : null)),
                ]), Json.Options);
    }
}
