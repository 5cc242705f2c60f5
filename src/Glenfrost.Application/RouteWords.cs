using Glenfrost.Core.Filaments;
using Glenfrost.Core.Routes;

namespace Glenfrost.Application;

/// <summary>Routes in words.</summary>
public static class RouteWords
{
    /// <summary>Schools with their name and one line of reason each.</summary>
    public static IReadOnlyList<(string Word, string Name, string Why)> Schools { get; } =
    [
        ("machine-first", "machine first", "feed and first layer before the temperature, so that nothing measured later is false for them"),
        ("temperature-first", "temperature first", "a quick profile on a machine that is trusted already"),
        ("speed-first", "speed first", "pressure advance, flow and flow limit at the label's middle temperature, for production"),
    ];

    /// <summary>The name of a school.</summary>
    public static string Of(RouteSchool school) => school switch
    {
        RouteSchool.TemperatureFirst => "temperature first",
        RouteSchool.SpeedFirst => "speed first",
        RouteSchool.Own => "own order",
        _ => "machine first",
    };

    /// <summary>What a step waits for, and why.</summary>
    public static string Of(Leaning leaning) => leaning.Reason switch
    {
        RouteReason.FeedFalsifiesFlow => "after the feed: its error shows up as a false flow",
        RouteReason.ShowsThemTogether => "after the others: it shows whether they hold together",
        RouteReason.BondBesideTemperature => "after the temperature: a warmer one may hold better",
        RouteReason.FeedFalsifiesLimit => "after the feed: a sample weighs what is fed",
        _ => "after the temperature: strings belong to it",
    };

    /// <summary>A state in a word.</summary>
    public static string Of(StepState state) => state switch
    {
        StepState.Confirmed => "settled",
        StepState.Optional => "not noted",
        _ => state.ToString().ToLowerInvariant(),
    };

    /// <summary>How a step stands, in a word: a check that nobody noted is one thing, a piece that has nothing left to confirm another.</summary>
    public static string Of(RouteStep step) => step is { Kind: StepKind.Station, State: StepState.Optional } ? "nothing left to confirm" : Of(step.State);

    /// <summary>Why a spool is dried first, and how.</summary>
    public static string Dry(string spool, DrynessAdvice dry) =>
        $"Spool {spool} is {dry.State}: {Words.N(dry.Hours)} h at {Words.N(dry.TemperatureC)} °C. Strings, flow limit and bond measured wet are suspect.";

    /// <summary>What a step costs.</summary>
    public static string Of(StepCost cost, string? currency) =>
        string.Join(", ", new[]
        {
            cost.Minutes > 0 ? Words.Minutes(cost.Minutes) : null, cost.Grams > 0 ? $"{Words.N(cost.Grams, cost.Grams < 10 ? 1 : 0)} g" : null,
            cost.MoneyMinor is >= 0.5 and { } money && currency is not null ? FormattableString.Invariant($"{money / 100:0.00} {currency}") : null,
        }.OfType<string>());

    /// <summary>What is left to be done, with the walks that it takes; nothing that is none is named.</summary>
    public static string ToDo(StepCost rest, string? currency) => string.Join(", ", new[]
    {
        Of(rest, currency), rest.Visits > 0 ? Words.Plural(rest.Visits, "walk to the printer", "walks to the printer") : "",
    }.Where(x => x.Length > 0).DefaultIfEmpty("looking after the machine and the spool"));

    /// <summary>How sure the profile will be once the route is gone through.</summary>
    public static string AtEnd(Route route) =>
        string.Join(", ", new[]
        {
            route.ConfirmedAtEnd > 0 ? $"{route.ConfirmedAtEnd} confirmed" : null,
            route.ProvisionalAtEnd > 0 ? $"{route.ProvisionalAtEnd} on one run each" : null,
            route.LeftAtEnd > 0 ? $"{route.LeftAtEnd} left open" : null,
        }.OfType<string>());
}
