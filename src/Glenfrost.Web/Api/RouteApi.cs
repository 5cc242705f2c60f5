using Glenfrost.Core.Routes;

namespace Glenfrost.Web.Api;

/// <summary>What a pairing still needs, for scripts.</summary>
public static class RouteApi
{
    /// <summary>What a step costs.</summary>
    public sealed record Cost(int Minutes, double Grams, double? MoneyMinor, int Visits);

    /// <summary>A step in the order of work.</summary>
    /// <param name="Key">Key of its area or check; dry for drying.</param>
    /// <param name="Kind">station, check or dry.</param>
    /// <param name="Label">What it is called.</param>
    /// <param name="State">open, inherited, doubtful, provisional, settled, tried, skipped or not noted.</param>
    /// <param name="Wanted">True where the route still wants it.</param>
    /// <param name="Trials">Kinds of trials that settle it, the usual one first.</param>
    /// <param name="Why">Why it stands so, or what it waits for.</param>
    /// <param name="WaitsFor">Key of a step that comes before it and is not settled.</param>
    /// <param name="Costs">What its usual trial costs.</param>
    /// <param name="Gain">What another print of it is expected to gain, scores.</param>
    public sealed record Step(
        string Key, string Kind, string Label, string State, bool Wanted, IReadOnlyList<string> Trials, string? Why, string? WaitsFor, Cost? Costs,
        double? Gain);

    /// <summary>What comes next.</summary>
    /// <param name="Move">print, read, decide, dry, check, plan, again, confirm, settled, enough or triedAll.</param>
    /// <param name="Step">Key of its step.</param>
    /// <param name="Title">In a few words.</param>
    /// <param name="Why">The reason.</param>
    /// <param name="Link">Where it is done.</param>
    public sealed record NextStep(string Move, string? Step, string Title, string Why, string? Link);

    /// <summary>The route.</summary>
    /// <param name="School">machineFirst, temperatureFirst, speedFirst or own.</param>
    /// <param name="Steps">In the order of work.</param>
    /// <param name="Next">What comes next.</param>
    /// <param name="Rest">What the wanted steps cost together, as far as it can be said.</param>
    /// <param name="CostsMissing">Wanted steps whose cost can't be said.</param>
    /// <param name="AtEnd">How many areas will be confirmed, rest on one run, and stay open.</param>
    public sealed record Answer(string School, IReadOnlyList<Step> Steps, NextStep Next, Cost Rest, int CostsMissing, End AtEnd);

    /// <summary>How sure the profile will be.</summary>
    public sealed record End(int Confirmed, int Provisional, int Open);

    public static void Map(IEndpointRouteBuilder app) =>
        app.MapGet("/api/v1/pairings/{id:guid}/route", (Delegate)RouteAsync).WithName("route").WithTags("pairings")
            .WithSummary("What a pairing still needs: steps in the order of work, what comes next, what the rest costs").Produces<Answer>()
            .ProducesProblem(404);

    private static async Task<IResult> RouteAsync(Guid id, PairingRoutes routes)
    {
        if (await routes.OfAsync(id) is not { } found)
            return Results.Problem("There is no such pairing, or it was removed.", statusCode: 404, title: "Not here");
        var (route, next) = (found.Route, found.Next());
        static string Word(Enum e) => char.ToLowerInvariant(e.ToString()[0]) + e.ToString()[1..];
        static Cost? Of(StepCost? c) => c is null ? null : new(c.Minutes, Math.Round(c.Grams, 1), c.MoneyMinor is { } m ? Math.Round(m) : null, c.Visits);
        return Results.Json(
            new Answer(
                Word(route.School),
                [
                    .. route.Steps.Select(s => new Step(
                        s.Key, Word(s.Kind), found.NameOf(s), RouteWords.Of(s.State), s.Wanted, s.Trials, found.SaidOf(s), s.WaitsFor?.On, Of(s.Cost), s.Gain)),
                ], new(Word(route.Next.Move), route.Next.Step?.Key, next.Title, next.Why, next.Link), Of(route.Rest)!, route.CostsMissing,
                new(route.ConfirmedAtEnd, route.ProvisionalAtEnd, route.LeftAtEnd)), Json.Options);
    }
}
