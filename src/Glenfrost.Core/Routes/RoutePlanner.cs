namespace Glenfrost.Core.Routes;

/// <summary>How a step of a route stands.</summary>
public enum StepState
{
    /// <summary>Nobody has tried it here.</summary>
    Open,

    /// <summary>Copied from another pairing, not tried here.</summary>
    Inherited,

    /// <summary>Something changed since it was found.</summary>
    Doubtful,

    /// <summary>One run, or own choice.</summary>
    Provisional,

    /// <summary>Repeated, or passed a piece that shows it.</summary>
    Confirmed,

    /// <summary>Printed and decided upon, and nothing was settled by it: proposed no more until something changes.</summary>
    Tried,

    /// <summary>Left out on purpose.</summary>
    Skipped,

    /// <summary>Never done, and no print waits for it.</summary>
    Optional,
}

/// <summary>What a step is.</summary>
public enum StepKind
{
    /// <summary>A station: a trial settles it.</summary>
    Station,

    /// <summary>A check of the machine.</summary>
    Check,

    /// <summary>Drying the spool.</summary>
    Dry,
}

/// <summary>What a step costs.</summary>
/// <param name="Minutes">Of printing, or of drying.</param>
/// <param name="Grams">Of filament.</param>
/// <param name="MoneyMinor">Filament and electricity in minor units of the filament's currency; null where the price is not known.</param>
/// <param name="Visits">Walks to the printer.</param>
public sealed record StepCost(int Minutes, double Grams, double? MoneyMinor, int Visits)
{
    /// <summary>Both together; money is known where both are.</summary>
    public static StepCost operator +(StepCost a, StepCost b) =>
        new(a.Minutes + b.Minutes, a.Grams + b.Grams, a.MoneyMinor + b.MoneyMinor, a.Visits + b.Visits);

    /// <summary>Nothing.</summary>
    public static StepCost None { get; } = new(0, 0, 0, 0);
}

/// <summary>What is known of a station.</summary>
/// <param name="State">Its state.</param>
/// <param name="Why">Why it is doubtful, or left out, or what it rests on; null for nothing said.</param>
/// <param name="Cost">What its usual trial costs on this pairing; null where it can't be said.</param>
/// <param name="Gain">What another print of it is expected to gain, scores; null where no verdict said so.</param>
/// <param name="Repeated">True where a print after the kept one did not confirm it: once more is not proposed.</param>
/// <param name="Failed">True where a piece did not pass, and nothing changed since.</param>
public sealed record StationKnown(
    StepState State, string? Why = null, StepCost? Cost = null, double? Gain = null, bool Repeated = false, bool Failed = false);

/// <summary>A check of the machine as it stands.</summary>
/// <param name="Key">Its key.</param>
/// <param name="State">Confirmed, doubtful or optional.</param>
/// <param name="Why">What is said of it.</param>
public sealed record CheckKnown(string Key, StepState State, string? Why);

/// <summary>A run that waits for somebody.</summary>
/// <param name="Id">The run.</param>
/// <param name="Kind">Its trial.</param>
/// <param name="Number">Its number.</param>
/// <param name="Stage">planned, printed or read.</param>
public sealed record WaitingRun(Guid Id, string Kind, int Number, string Stage);

/// <summary>Everything that a route is planned from.</summary>
public sealed record RouteInput
{
    /// <summary>In which order.</summary>
    public RouteSchool School { get; init; }

    /// <summary>Keys of the stations in the tester's own order; only for <see cref="RouteSchool.Own"/>.</summary>
    public IReadOnlyList<string> Order { get; init; } = [];

    /// <summary>The stations that there are for the filament.</summary>
    public required IReadOnlyList<Station> Stations { get; init; }

    /// <summary>What is known of each; one that is missing is open.</summary>
    public required IReadOnlyDictionary<string, StationKnown> Known { get; init; }

    /// <summary>Checks of the machine.</summary>
    public IReadOnlyList<CheckKnown> Checks { get; init; } = [];

    /// <summary>Hours of drying that the spool wants first; null for none.</summary>
    public double? DryHours { get; init; }

    /// <summary>Why it wants it; null for nothing said.</summary>
    public string? DryWhy { get; init; }

    /// <summary>Runs that wait, the newest first.</summary>
    public IReadOnlyList<WaitingRun> Waiting { get; init; } = [];
}

/// <summary>A step of a route.</summary>
/// <param name="Key">Key of its station or check; dry for drying.</param>
/// <param name="Kind">What it is.</param>
/// <param name="State">How it stands.</param>
/// <param name="Trials">Kinds of trials that settle it, the usual one first; empty for what is no station.</param>
/// <param name="Why">Why it stands so; null for nothing said.</param>
/// <param name="WaitsFor">A station that should be settled before, which is not yet; null for none.</param>
/// <param name="Cost">What it costs; null where it can't be said.</param>
/// <param name="Gain">What another print of it is expected to gain, scores; null where no verdict said so.</param>
public sealed record RouteStep(
    string Key, StepKind Kind, StepState State, IReadOnlyList<string> Trials, string? Why, Leaning? WaitsFor, StepCost? Cost, double? Gain)
{
    /// <summary>True where the route still wants it.</summary>
    public bool Wanted => State is StepState.Open or StepState.Inherited or StepState.Doubtful;
}

/// <summary>What is proposed next.</summary>
public enum RouteMove
{
    /// <summary>Print a run that is planned.</summary>
    Print,

    /// <summary>Read a piece that is printed.</summary>
    Read,

    /// <summary>Decide on a run that is read.</summary>
    Decide,

    /// <summary>Dry the spool.</summary>
    Dry,

    /// <summary>Look after a check of the machine that is doubtful.</summary>
    Check,

    /// <summary>Plan a trial that was never printed here.</summary>
    Plan,

    /// <summary>Plan a trial again whose answer is doubtful.</summary>
    Again,

    /// <summary>Look at what is suspected of a piece that did not pass.</summary>
    Suspect,

    /// <summary>Plan a trial once more to confirm its answer.</summary>
    Confirm,

    /// <summary>Nothing more: all of it is confirmed or left out.</summary>
    Settled,

    /// <summary>Nothing more: another print would hardly tell anything.</summary>
    Enough,

    /// <summary>Nothing more: what was tried settled nothing.</summary>
    TriedAll,
}

/// <summary>What comes next.</summary>
/// <param name="Move">What to do.</param>
/// <param name="Step">The step that it is of; null for none.</param>
/// <param name="Run">The run that waits; null for none.</param>
public sealed record RouteNext(RouteMove Move, RouteStep? Step, WaitingRun? Run);

/// <summary>A route: its steps in order, what comes next, what the rest costs and how sure the profile will be.</summary>
/// <param name="School">In which order.</param>
/// <param name="Steps">In order; checks and drying first.</param>
/// <param name="Next">What comes next.</param>
/// <param name="Rest">What the steps that are still wanted cost together, as far as it can be said.</param>
/// <param name="CostsMissing">Wanted steps whose cost can't be said.</param>
/// <param name="ConfirmedAtEnd">Stations that will be confirmed.</param>
/// <param name="ProvisionalAtEnd">Stations that will rest on one run.</param>
/// <param name="LeftAtEnd">Stations that will stay open: left out, or tried without an answer.</param>
public sealed record Route(
    RouteSchool School, IReadOnlyList<RouteStep> Steps, RouteNext Next, StepCost Rest, int CostsMissing, int ConfirmedAtEnd, int ProvisionalAtEnd,
    int LeftAtEnd);

/// <summary>
/// Plans what a pairing still needs: in which order, at what cost, and what comes next. The one function that all pages and the API ask.
/// </summary>
public static class RoutePlanner
{
    /// <summary>Below this expected gain, scores, another print to confirm is not worth its filament: a fifth of what one look scatters.</summary>
    public const double WorthGain = 0.1;

    /// <summary>Plans the route.</summary>
    public static Route Plan(RouteInput input)
    {
        var order = input.School == RouteSchool.Own ? RouteMap.Whole(input.Order) : RouteMap.Order(input.School);
        var stations = input.Stations.ToDictionary(s => s.Key);
        var steps = new List<RouteStep>();
        if (input.DryHours is { } hours)
            steps.Add(new("dry", StepKind.Dry, StepState.Open, [], input.DryWhy, null, new((int)Math.Ceiling(hours * 60), 0, 0, 1), null));
        steps.AddRange(input.Checks.Select(c => new RouteStep(c.Key, StepKind.Check, c.State, [], c.Why, null, null, null)));
        foreach (var station in order.Where(stations.ContainsKey).Select(k => stations[k]))
        {
            var known = KnownOf(input, station.Key);
            var waits = station.LeansOn.FirstOrDefault(l => stations.ContainsKey(l.On) && KnownOf(input, l.On).State is StepState.Open or StepState.Inherited
                or StepState.Doubtful);
            steps.Add(
                station.Key == RouteMap.Verification
                    ? Verification(input, station, known)
                    : new(station.Key, StepKind.Station, known.State, station.Trials, known.Why, waits, known.Cost, known.Gain));
        }

        var wanted = steps.Where(s => s.Wanted).ToList();
        // A verification is no value of its own; where it is still to come, what it shows will be confirmed.
        var of = steps.Where(s => s.Kind == StepKind.Station && s.Key != RouteMap.Verification).ToList();
        var verified = wanted.Exists(s => s.Key == RouteMap.Verification)
            ? of.Count(s => RouteMap.Verified.Contains(s.Key) && (s.Wanted || s.State == StepState.Provisional))
            : 0;
        return new(
            input.School, steps, NextOf(input, steps), wanted.Aggregate(StepCost.None, (sum, s) => s.Cost is { } c ? sum + c : sum),
            wanted.Count(s => s.Cost is null && s.Kind == StepKind.Station), of.Count(s => s.State == StepState.Confirmed) + verified,
            of.Count(s => s.State == StepState.Provisional || s.Wanted) - verified, of.Count(s => s.State is StepState.Tried or StepState.Skipped));
    }

    /// <summary>
    /// The last station as it stands: wanted while something that it shows may still be confirmed, and after whatever is to be settled before it.
    /// </summary>
    private static RouteStep Verification(RouteInput input, Station station, StationKnown known)
    {
        List<Station> others = [.. input.Stations.Where(s => s.Key != station.Key)];
        StepState Of(Station s) => KnownOf(input, s.Key).State;
        var open = others.FirstOrDefault(s => Of(s) is StepState.Open or StepState.Inherited or StepState.Doubtful);
        var useful = others.Exists(s =>
            RouteMap.Verified.Contains(s.Key) && Of(s) is StepState.Open or StepState.Inherited or StepState.Doubtful or StepState.Provisional);
        return new(
            station.Key, StepKind.Station, known.State == StepState.Open && !useful ? StepState.Optional : known.State, station.Trials, known.Why,
            open is null ? null : new(open.Key, RouteReason.ShowsThemTogether), known.Cost, null);
    }

    private static StationKnown KnownOf(RouteInput input, string key) => input.Known.GetValueOrDefault(key) ?? new(StepState.Open);

    private static RouteNext NextOf(RouteInput input, List<RouteStep> steps)
    {
        // What lies about is finished before anything new is begun.
        if (input.Waiting.FirstOrDefault() is { } run)
            return new(
                run.Stage switch
                {
                    "planned" => RouteMove.Print,
                    "printed" => RouteMove.Read,
                    _ => RouteMove.Decide,
                }, steps.FirstOrDefault(s => s.Trials.Contains(run.Kind)), run);
        // A doubtful value is in use: it comes before what nobody has tried.
        var ready = steps.Where(s => s.Kind == StepKind.Station && s.Wanted && s.WaitsFor is null).ToList();
        var first = ready.FirstOrDefault(s => s.State == StepState.Doubtful) ?? ready.FirstOrDefault();
        // Drying and checks are for what is printed afterwards.
        if (first is not null && steps.FirstOrDefault(s => s.Kind == StepKind.Dry) is { } dry)
            return new(RouteMove.Dry, dry, null);
        if (first is not null && steps.FirstOrDefault(s => s is { Kind: StepKind.Check, State: StepState.Doubtful }) is { } check)
            return new(RouteMove.Check, check, null);
        if (first is not null)
            return new(first.State == StepState.Doubtful ? RouteMove.Again : RouteMove.Plan, first, null);
        // A piece that did not pass says more than another print of what rests on one run.
        if (steps.FirstOrDefault(s => s.State == StepState.Tried && KnownOf(input, s.Key).Failed) is { } failed)
            return new(RouteMove.Suspect, failed, null);
        // Worth one more print: what rests on one run, where nobody has tried to confirm it and the gain is not known to be small.
        if (steps.FirstOrDefault(s =>
                s is { Kind: StepKind.Station, State: StepState.Provisional }
                && s.Gain is not < WorthGain
                && !KnownOf(input, s.Key).Repeated
                && s.Key == "temperature") is { } confirm)
            return new(RouteMove.Confirm, confirm, null);
        var of = steps.Where(s => s.Kind == StepKind.Station).ToList();
        return new(
            of.Any(s => s.State == StepState.Tried) ? RouteMove.TriedAll : of.Any(s => s.State == StepState.Provisional) ? RouteMove.Enough : RouteMove.Settled,
            of.FirstOrDefault(s => s.State == StepState.Tried) ?? of.FirstOrDefault(s => s.State == StepState.Provisional), null);
    }
}
