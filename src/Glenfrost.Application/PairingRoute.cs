using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>What comes next for a pairing.</summary>
/// <param name="Title">In a few words.</param>
/// <param name="Why">The reason.</param>
/// <param name="Action">What the button says; null for none.</param>
/// <param name="Link">Where it leads; null for none.</param>
public sealed record PairingNext(string Title, string Why, string? Action, string? Link);

/// <summary>The trials of a pairing in the order of work, how far each is, and what comes next.</summary>
public sealed class PairingRoute
{
    private readonly Pairing pairing;
    private readonly IReadOnlyList<ProfileSetting> settings;

    // A tower was decided upon after the temperature was kept.
    private readonly bool repeatedTower;

    private PairingRoute(Pairing pairing, IReadOnlyList<ProfileSetting> settings, IReadOnlyList<(Trial Trial, string State)> steps, bool repeatedTower) =>
        (this.pairing, this.settings, Steps, this.repeatedTower) = (pairing, settings, steps, repeatedTower);

    /// <summary>Trials in the order of work, each with a word of <see cref="RouteStates"/>.</summary>
    public IReadOnlyList<(Trial Trial, string State)> Steps { get; }

    /// <summary>The route of a pairing.</summary>
    /// <param name="p">The pairing, with filament and runs.</param>
    /// <param name="settings">Its profile.</param>
    /// <param name="standings">How its evidence stands.</param>
    /// <param name="machine">How the machine stands.</param>
    public static PairingRoute Of(Pairing p, IReadOnlyList<ProfileSetting> settings, IReadOnlyList<EvidenceStanding> standings, StoneState machine)
    {
        var repeated = false;
        var steps = new List<(Trial, string)>();
        foreach (var t in TrialCatalogue.All.Where(t => t.IsOnRoute && t.Suits(p.Filament!.Family)))
        {
            var key = t.Settles.Count > 0 ? t.Settles[0] : null;
            var since = key is null ? null : standings.FirstOrDefault(k => k.Key == key)?.At;
            var decided = p.Runs.Where(r => r.Kind == t.Kind && r.RemovedAt is null && r.Stage is RunStages.Decided or RunStages.Left).Max(r => r.DecidedAt);
            steps.Add((t, RouteStates.Of(t, key is null ? null : settings.FirstOrDefault(s => s.Key == key)?.State, machine, since, decided)));
            if (t.Kind == TrialCatalogue.TemperatureTower)
                repeated = decided > since?.AddMinutes(1);
        }

        return new(p, settings, steps, repeated);
    }

    private static string Called(Run r) => $"{Words.Lower(TrialCatalogue.Find(r.Kind)?.Name ?? r.Kind)} {r.Number}";

    private static string Article(Trial t) => t.Noun is "walls" ? "the walls" : t.Kind == "first-layer" ? "the patches" : $"a {t.Noun}";

    /// <summary>The first trial of a pairing in the order of work that stands so; surface and wall settle the same value, one is enough.</summary>
    private Trial? NextOf(params string[] states) =>
        Steps.Where(r => states.Contains(r.State) && r.Trial.Subject == TrialSubject.Pairing).Select(r => r.Trial).FirstOrDefault();

    /// <summary>What comes next.</summary>
    public PairingNext Next()
    {
        var open = pairing.Runs.Where(r => r.RemovedAt is null).OrderByDescending(r => r.CreatedAt)
            .FirstOrDefault(r => r.Stage is RunStages.Planned or RunStages.Printed or RunStages.Read);
        if (open is not null)
            return open.Stage switch
            {
                RunStages.Planned => new($"Print {Called(open)}", "It is planned; take the bench sheet along.", "Open the run",
                    $"/runs/{open.Id}#print"),
                RunStages.Printed => new($"Read {Called(open)}", "The piece is printed; the verdict waits for its readings.", "Read", $"/runs/{open.Id}#read"),
                _ => new($"Decide on {Called(open)}", "It is read; its verdict is not in the profile yet.", "Decide", $"/runs/{open.Id}#judge"),
            };
        var t = settings.FirstOrDefault(s => s.Key == "nozzleTemperatureC");
        var tried = Steps.Where(r => r.State == RouteStates.Tried).Select(r => r.Trial).ToList();
        if (tried.Any(x => x.Kind == TrialCatalogue.TemperatureTower))
            return Elsewhere(tried);
        return t?.State switch
        {
            null or SettingState.Start or SettingState.Inherited => new(
                "Print a temperature tower", "Temperature moves viscosity, so it moves flow, strings and the flow limit: settle it first.", "Plan a tower",
                $"/pairings/{pairing.Id}/temperature-tower"),
            SettingState.Doubtful => new(
                "Print the temperature tower again", $"{Words.N(t.Value)} °C is doubtful: {t.StateWhy}.", "Plan a tower",
                $"/pairings/{pairing.Id}/temperature-tower"),
            _ when NextOf("doubtful") is { } again => new(
                $"{again.Name} again", $"{SettingRegistry.Get(again.Settles[0]).Label} is doubtful: {settings.First(s => s.Key == again.Settles[0]).StateWhy}.",
                $"Plan {Article(again)}", $"/pairings/{pairing.Id}/{again.Kind}"),
            _ when NextOf("open", "inherited") is { } first => new(first.Name, first.Purpose, $"Plan {Article(first)}", $"/pairings/{pairing.Id}/{first.Kind}"),
            SettingState.Provisional when !repeatedTower => new(
                "Repeat the tower, or confirm it at production speed",
                $"{Words.N(t.Value)} °C rests on {t.StateWhy ?? "one run"}. A second run that agrees confirms it.", "Plan a tower",
                $"/pairings/{pairing.Id}/temperature-tower"),
            _ when tried.Count > 0 => Elsewhere(tried),
            SettingState.Provisional => new(
                "Nothing more is proposed",
                $"{Words.N(t.Value)} °C rests on {t.StateWhy ?? "one run"}, and a later tower did not confirm it. Print it on a part that matters to you.",
                null, null),
            _ => new(
                "What can be measured here is settled",
                $"{Words.N(t.Value)} °C is confirmed. Cooling, layer time and warp can be typed by hand with their reason.", null, null),
        };
    }

    /// <summary>What comes next where a trial was printed and settled nothing: the next one in the order, and at its end what was tried.</summary>
    private PairingNext Elsewhere(List<Trial> tried) =>
        NextOf("doubtful", "open", "inherited") is { } other
            ? new(other.Name, other.Purpose, $"Plan {Article(other)}", $"/pairings/{pairing.Id}/{other.Kind}")
            : new(
                "What was tried settled nothing more",
                $"{string.Join(", ", tried.Select(x => x.Name))}: printed and decided, and the value is as open as before. Type what you use with its " +
                    "reason, change something else first, or print one again.", null, null);
}
