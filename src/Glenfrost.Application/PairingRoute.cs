using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerBond;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>What comes next for a pairing.</summary>
/// <param name="Title">In a few words.</param>
/// <param name="Why">The reason.</param>
/// <param name="Action">What the button says; null for none.</param>
/// <param name="Link">Where it leads; null for none.</param>
public sealed record PairingNext(string Title, string Why, string? Action, string? Link);

/// <summary>What a route needs to know of a pairing besides its runs and its profile.</summary>
/// <param name="Machine">How the extruder's feed stands.</param>
/// <param name="MachineWhy">Why it is doubtful; null for nothing said.</param>
public sealed record RouteGround(StoneState Machine, string? MachineWhy = null)
{
    /// <summary>Checks of the machine.</summary>
    public IReadOnlyList<CheckStanding> Checks { get; init; } = [];

    /// <summary>The spool in use and what its dryness asks for; null where there is none.</summary>
    public (Spool Spool, DrynessAdvice Advice)? Spool { get; init; }

    /// <summary>What one more print of a kind of trial would gain, scores, as its last verdict said.</summary>
    public IReadOnlyDictionary<string, double> Gains { get; init; } = new Dictionary<string, double>();

    /// <summary>What a trial costs on this pairing; null to leave costs out.</summary>
    public Func<Trial, StepCost?>? Cost { get; init; }
}

/// <summary>The route of a pairing: gathered for the planner, and its answer in words.</summary>
public sealed class PairingRoute
{
    private readonly Pairing pairing;

    private readonly IReadOnlyList<ProfileSetting> settings;

    private readonly RouteGround ground;

    private PairingRoute(Pairing pairing, IReadOnlyList<ProfileSetting> settings, RouteGround ground, Route route) =>
        (this.pairing, this.settings, this.ground, Route) = (pairing, settings, ground, route);

    /// <summary>As planned.</summary>
    public Route Route { get; }

    /// <summary>The route of a pairing.</summary>
    /// <param name="p">The pairing, with filament and runs.</param>
    /// <param name="settings">Its profile.</param>
    /// <param name="standings">How its evidence stands.</param>
    /// <param name="ground">Machine, spool and costs.</param>
    public static PairingRoute Of(
        Pairing p, IReadOnlyList<ProfileSetting> settings, IReadOnlyList<EvidenceStanding> standings, RouteGround ground)
    {
        var (school, order) = RouteMap.Read(p.Route);
        var known = new Dictionary<string, StationKnown>();
        var stations = RouteMap.Of(p.Filament!.Family, p.Use).ToList();
        for (var i = 0; i < stations.Count; i++)
        {
            var station = stations[i];
            if (station.Key == RouteMap.Verification)
            {
                known[station.Key] = VerificationOf(p, standings) with { Cost = ground.Cost?.Invoke(TrialCatalogue.Get(station.Trials[0])) };
                continue;
            }

            if (station.Key == RouteMap.Bond)
            {
                known[station.Key] = BondOf(p, standings) with { Cost = ground.Cost?.Invoke(TrialCatalogue.Get(station.Trials[0])) };
                continue;
            }

            if (station.SettingKey is null)
            {
                known[station.Key] = new(
                    ground.Machine switch
                    {
                        StoneState.Open => StepState.Open,
                        StoneState.Doubtful => StepState.Doubtful,
                        _ => StepState.Confirmed,
                    }, ground.MachineWhy, ground.Cost?.Invoke(TrialCatalogue.Get(station.Trials[0])));
                continue;
            }

            var s = settings.FirstOrDefault(x => x.Key == station.SettingKey);
            var since = standings.FirstOrDefault(k => k.Key == station.SettingKey)?.At;
            DateTime? Decided(string kind) =>
                p.Runs.Where(r => r.Kind == kind && r.RemovedAt is null && r.Stage is RunStages.Decided or RunStages.Left).Max(r => r.DecidedAt);
            bool IsTried(string kind) => RouteStates.IsTried(s?.State, since, Decided(kind));
            // What was tried and settled nothing gives way to another way of the same station.
            stations[i] = station = station with { Trials = [.. station.Trials.OrderBy(IsTried)] };
            var skipped = standings.FirstOrDefault(k => k.Key is null && k.Area == station.Key && k.State == EvidenceState.Skipped);
            var state = s?.State switch
            {
                SettingState.Doubtful => StepState.Doubtful,
                SettingState.Inherited => StepState.Inherited,
                SettingState.Confirmed => StepState.Confirmed,
                SettingState.Provisional => StepState.Provisional,
                _ => StepState.Open,
            };
            var open = state is StepState.Open or StepState.Inherited or StepState.Doubtful;
            state = open && skipped is not null ? StepState.Skipped : open && station.Trials.All(IsTried) ? StepState.Tried : state;
            known[station.Key] = new(
                state, state == StepState.Skipped ? skipped!.Why : state is StepState.Doubtful or StepState.Provisional ? s?.StateWhy : null,
                ground.Cost?.Invoke(TrialCatalogue.Get(station.Trials[0])), GainOf(station), Repeated: Decided(station.Trials[0]) > since?.AddMinutes(1));
        }

        // The value that stands is of one of the ways; what another print of that one would gain is the station's.
        double? GainOf(Station station) => settings.FirstOrDefault(x => x.Key == station.SettingKey) is { IsEvidence: true, State: not SettingState.Doubtful }
            ? station.Trials.Where(ground.Gains.ContainsKey).Select(t => (double?)ground.Gains[t]).FirstOrDefault()
            : null;

        return new(
            p, settings, ground, RoutePlanner.Plan(new()
            {
                School = school, Order = order, Stations = stations, Known = known,
                Checks = [.. ground.Checks.Select(c => new CheckKnown(c.Kind.Key, c.State switch
                {
                    "good" => StepState.Confirmed,
                    "missing" => StepState.Optional,
                    _ => StepState.Doubtful,
                }, c.Text))],
                DryHours = ground.Spool is { Advice: { DryFirst: true } dry } ? dry.Hours : null,
                Waiting =
                [
                    .. p.Runs.Where(r => r.RemovedAt is null && r.Stage is RunStages.Planned or RunStages.Printed or RunStages.Read)
                        .OrderByDescending(r => r.CreatedAt).Select(r => new WaitingRun(r.Id, r.Kind, r.Number, r.Stage)),
                ],
            }));
    }

    /// <summary>How the layers' bond stands: by what was kept of it, else by whether somebody decided on a run of it that settled nothing.</summary>
    private static StationKnown BondOf(Pairing p, IReadOnlyList<EvidenceStanding> standings)
    {
        var stands = standings.FirstOrDefault(s => s.Area == RouteMap.Bond && s.Key is null);
        // A check of the rig says nothing of the layers.
        var decided = p.Runs.Any(r => r.Kind == LayerBondTrial.Word && r.RemovedAt is null && r.Stage is RunStages.Decided or RunStages.Left
            && !LayerBondTrial.AsksTheRig(r.PlanJson));
        return stands?.State switch
        {
            EvidenceState.Skipped => new(StepState.Skipped, stands.Why),
            EvidenceState.Confirmed => new(StepState.Confirmed, stands.Why),
            EvidenceState.Provisional => new(StepState.Provisional, stands.Why),
            EvidenceState.Doubtful => new(StepState.Doubtful, stands.Why),
            _ => new(decided ? StepState.Tried : StepState.Open),
        };
    }

    /// <summary>
    /// How the verification stands. One that passed speaks for the values of that day: a value kept since, or a doubt, asks for another one.
    /// One that did not pass, or that somebody left, is tried, until something changes.
    /// </summary>
    private static StationKnown VerificationOf(Pairing p, IReadOnlyList<EvidenceStanding> standings)
    {
        var stands = standings.FirstOrDefault(s => s.Area == RouteMap.Verification && s.Key is null);
        if (stands is { State: EvidenceState.Skipped })
            return new(StepState.Skipped, stands.Why);
        var decided = p.Runs.Where(r => r.Kind == RouteMap.Verification && r.RemovedAt is null && r.Stage is RunStages.Decided or RunStages.Left)
            .Max(r => r.DecidedAt);
        if (stands is null && decided is null)
            return new(StepState.Open);
        var at = stands?.At > (decided ?? DateTime.MinValue) ? stands.At : decided;
        string?[] keys = [.. RouteMap.Stations.Where(s => RouteMap.Verified.Contains(s.Key)).Select(s => s.SettingKey)];
        var moved = standings.FirstOrDefault(s => keys.Contains(s.Key) && s.At > at && s.State is EvidenceState.Provisional or EvidenceState.Doubtful)?.Key;
        var since = moved is null ? null : $"{Core.Settings.SettingRegistry.Get(moved).Label.InSentence()} changed since";
        return stands?.State switch
        {
            EvidenceState.Provisional or EvidenceState.Confirmed when moved is not null => new(StepState.Doubtful, since),
            EvidenceState.Provisional => new(StepState.Provisional, stands.Why),
            EvidenceState.Confirmed => new(StepState.Confirmed, stands.Why),
            _ => new(moved is null && (decided is not null || stands?.RunId is not null) ? StepState.Tried : StepState.Open, since ?? stands?.Why,
                Failed: moved is null && stands?.RunId is not null),
        };
    }

    /// <summary>What a step is called.</summary>
    public string NameOf(RouteStep step) => step.Kind switch
    {
        StepKind.Dry => "Dry the spool",
        StepKind.Check => ground.Checks.FirstOrDefault(c => c.Kind.Key == step.Key)?.Kind.Label ?? step.Key,
        _ => TrialCatalogue.Get(step.Trials[0]).Name,
    };

    /// <summary>Where a step is done; null where nowhere.</summary>
    public string? LinkOf(RouteStep step) => step.Kind switch
    {
        StepKind.Dry => $"/spools/{ground.Spool?.Spool.Id}",
        StepKind.Check => pairing.Toolhead is { } head ? $"/printers/{head.PrinterId}/checks" : null,
        _ => TrialRuns.PlanAddress(TrialCatalogue.Get(step.Trials[0]), pairing.Id, pairing.ToolheadId),
    };

    /// <summary>What stands beside a step: its reason, or what it waits for.</summary>
    public string? SaidOf(RouteStep step) =>
        step.Why
        ?? (step is { Wanted: true, WaitsFor: { } leaning } ? RouteWords.Of(leaning) : null)
        ?? (step.State == StepState.Tried ? "printed, and nothing settled" : null);

    private static string Called(WaitingRun r) => $"{Words.Lower(TrialCatalogue.Find(r.Kind)?.Name ?? r.Kind)} {r.Number}";

    private static string Article(Trial t) => t.Noun is "walls" ? "the walls" : t.Kind == "first-layer" ? "the patches" : $"a {t.Noun}";

    /// <summary>What comes next.</summary>
    public PairingNext Next()
    {
        var (move, step, run) = Route.Next;
        var t = settings.FirstOrDefault(s => s.Key == "nozzleTemperatureC");
        var trial = step is { Kind: StepKind.Station } ? TrialCatalogue.Get(step.Trials[0]) : null;
        var link = step is null ? null : LinkOf(step);
        var tower = trial?.Kind == TrialCatalogue.TemperatureTower;
        return move switch
        {
            RouteMove.Print => new($"Print {Called(run!)}", "It is planned; take the bench sheet along.", "Open the run", $"/runs/{run!.Id}#print"),
            RouteMove.Read => new($"Read {Called(run!)}", "The piece is printed; the verdict waits for its readings.", "Read", $"/runs/{run!.Id}#read"),
            RouteMove.Decide => new($"Decide on {Called(run!)}", "It is read; its verdict is not in the profile yet.", "Decide", $"/runs/{run!.Id}#judge"),
            RouteMove.Dry => new("Dry the spool first", RouteWords.Dry(ground.Spool!.Value.Spool.Name, ground.Spool.Value.Advice), "Open the spool", link),
            RouteMove.Check => new(
                $"{NameOf(step!)}: look after it first", $"{step!.Why?.AtHead()}. What is printed before leans on it.", "Checks of this printer", link),
            RouteMove.Again when tower => new(
                "Print the temperature tower again", $"{Words.N(t!.Value)} °C is doubtful: {t.StateWhy}.", "Plan a tower", link),
            RouteMove.Again => new(
                $"{trial!.Name} again", step!.Key is "feed" or RouteMap.Bond ? $"It is doubtful: {step.Why}."
                    : trial.Settles is [var settled, ..] ? $"{Core.Settings.SettingRegistry.Get(settled).Label} is doubtful: {step.Why}."
                    : $"It passed, and {step.Why}.", $"Plan {Article(trial)}", link),
            RouteMove.Plan when tower => new(
                "Print a temperature tower", "Temperature moves viscosity, so it moves flow, strings and the flow limit: settle it first.",
                "Plan a tower", link),
            RouteMove.Plan => new(trial!.Name, trial.Purpose, $"Plan {Article(trial)}", link),
            RouteMove.Confirm => new(
                "Repeat the tower, or confirm it at production speed",
                $"{Words.N(t!.Value)} °C rests on {t.StateWhy ?? "one run"}. A second run that agrees confirms it.", "Plan a tower", link),
            RouteMove.Suspect => new(
                "The verification print did not pass",
                "What to suspect stands with it, each with the one print that would tell. Change one thing, not five.", "Open its suspects",
                $"/runs/{pairing.Runs.Where(r => r.Kind == step!.Key && r.RemovedAt is null && r.Stage == RunStages.Decided).MaxBy(r => r.Number)?.Id}" +
                    "#suspects"),
            RouteMove.TriedAll => new(
                "What was tried settled nothing more",
                $"{string.Join(", ", Route.Steps.Where(s => s.State == StepState.Tried).Select(NameOf))}: printed and decided, and the value is as open as " +
                    "before. Type what you use with its reason, change something else first, or print one again.", null, null),
            RouteMove.Enough => new(
                "Nothing more is proposed",
                t is { State: SettingState.Provisional }
                    ? $"{Words.N(t.Value)} °C rests on {t.StateWhy ?? "one run"}, and a later tower did not confirm it. Print it on a part that matters to you."
                    : "What rests on one run is enough to print with. Print it on a part that matters to you.", null, null),
            _ => new(
                "What can be measured here is settled",
                $"{(t is null ? "" : $"{Words.N(t.Value)} °C is confirmed. ")}Cooling, layer time and warp can be typed by hand with their reason.",
                null, null),
        };
    }
}
