using Glenfrost.Application.Trials;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>Where a run stands: who read it, what was decided, what keeping would do. The read model of a run's page beside the run itself.</summary>
public sealed record RunStanding(TrialRunView V)
{
    /// <summary>What was decided; null for nothing yet.</summary>
    public Decision? Decision { get; init; }

    /// <summary>Who read it, in words.</summary>
    public string Readers { get; init; } = "";

    /// <summary>Names of the instruments that read it, by revision.</summary>
    public IReadOnlyDictionary<Guid, string> Instruments { get; init; } = new Dictionary<Guid, string>();

    /// <summary>Conditions that are asked for it.</summary>
    public IReadOnlyList<string> Asked { get; init; } = [];

    /// <summary>What was tried on this pairing, where something was tried on this run.</summary>
    public IReadOnlyList<Finding> Tries { get; init; } = [];

    /// <summary>What differs from the run before, and what may be concluded; null for the first one.</summary>
    public (Run Before, IReadOnlyList<FactorDifference> Differs, Attribution Says)? Differs { get; init; }

    /// <summary>What other trials say of the same setting, with this one; null where none does.</summary>
    public WaysOf? Ways { get; init; }

    /// <summary>What is proposed to be kept with the proposed nozzle temperature.</summary>
    public IReadOnlyList<Companion> Beside { get; init; } = [];

    /// <summary>What is said where the first layer would stay colder than the proposed nozzle temperature; null where it would not.</summary>
    public string? ColderFirstLayer { get; init; }

    /// <summary>The state that a kept value would have, and why; empty where nothing is to be kept.</summary>
    public string WouldBe { get; init; } = "";

    /// <summary>What keeping would make doubtful, said before.</summary>
    public IReadOnlyList<(string Where, string What)> WouldDoubt { get; init; } = [];

    /// <summary>Values that the toolhead's feed had, newest first.</summary>
    public IReadOnlyList<(DateTime At, string Text, Guid? Run)> FeedHistory { get; init; } = [];

    /// <summary>What a new feed would change in the profiles of its toolhead.</summary>
    public IReadOnlyList<CarryRow> Carries { get; init; } = [];

    /// <summary>Says so where instruments read it; empty where hands and eyes did.</summary>
    public string WithInstruments => Instruments.Count > 0 ? $" with {string.Join(", ", Instruments.Values.Distinct().Order())}" : "";

    /// <summary>True where other readings stand than those that were decided upon.</summary>
    public bool ChangedSince => Decision is { } d && d.ReadingIdsJson != Json.Write(V.ReadingIds);

    /// <summary>The verdict as it was shown when it was decided, where it still rests on the readings that stand and today's rules say otherwise.</summary>
    public DecidedVerdict? AsDecided =>
        Decision is { } d && !ChangedSince && DecidedVerdict.Of(d) is { } then && then.Sentence != V.Verdict.Sentence ? then : null;

    /// <summary>What was decided, in a line.</summary>
    public string DecisionLine => RunWords.Decided(V, Decision, Main);

    /// <summary>What was noted of how it was printed, in a line.</summary>
    public string ConditionsLine => RunWords.Conditions(V, Asked);

    /// <summary>What the verdict says of an area without a setting; null where it says nothing of one.</summary>
    public AreaFinding? Finding => V.Trial.Finding(V.Verdict);

    /// <summary>Settings of the areas that it shows, and what becomes of each where it is kept.</summary>
    public IReadOnlyList<ShownSetting> Shown { get; init; } = [];

    /// <summary>What keeping that makes of the evidence, said before.</summary>
    public string FindingWouldBe => RunWords.WouldBe(V, Finding, Shown);

    /// <summary>The setting that the verdict proposes first; null where it proposes none.</summary>
    public SettingValue? Main => V.Verdict.Settings.Count > 0 ? V.Verdict.Settings[0] : V.Trial.MachineValue(V.Plan, V.Verdict);

    /// <summary>The setting that an own choice is made for: the proposed one, else the trial's main one.</summary>
    public string OwnKey => Main is { } m && V.Trial.Settles.Contains(m.Key) ? m.Key : V.Trial.Settles[0];

    /// <summary>The proposed values as a form carries them, so that a keep of a changed verdict is refused.</summary>
    public string Proposed =>
        V.Verdict.Settings.Count > 0 ? string.Join(";", V.Verdict.Settings.Select(x => Words.N(x.Value, 4)))
        : Main is { } m ? Words.N(m.Value, 4)
        : "";

    /// <summary>Values of other temperatures that are not kept from this run yet.</summary>
    public IEnumerable<FoundElsewhere> Elsewhere => V.Pairing is null || KeptElsewhere is not null ? [] : V.Trial.Elsewhere(V.Verdict);

    /// <summary>The decision by which a value of another temperature is kept from this run; null where none is.</summary>
    public Decision? KeptElsewhere => V.Run.Decisions.Where(d => d.UndoneAt is null && d.Choice == DecisionChoices.Elsewhere).MaxBy(d => d.At);
}

/// <summary>Tells where a run stands.</summary>
public sealed class RunBook(
    TrialRuns runs, Decisions decisions, MachineBook machines, Profiles profiles, Findings findings, PeopleBook people, Instruments instruments,
    SideBySide beside)
{
    /// <summary>Where it stands now.</summary>
    public async Task<RunStanding> OfAsync(TrialRunView v)
    {
        var revisions = v.Cells.Values.Select(r => r.InstrumentRevisionId).OfType<Guid>().Distinct().ToList();
        var now = new RunStanding(v)
        {
            Decision = v.Run.Decisions.Where(d => d.UndoneAt is null && d.Choice != DecisionChoices.Elsewhere).MaxBy(d => d.At),
            Asked = PrintReports.Asked(v),
            Tries = v.Pairing is { } p && v.Run.Findings.Any(f => FindingWords.OutcomeOf(f.Tag) is not null) ? await findings.TriesAsync(p.Id) : [],
            Instruments = revisions.Count > 0 ? await instruments.NamesAsync(revisions) : [],
            Readers = string.Join(" and ", await people.NamesOfAsync([.. v.Cells.Values.Select(r => r.PersonId).Distinct()])),
        };
        if (v.Run.Stage is not (RunStages.Read or RunStages.Decided or RunStages.Left))
            return now;
        now = now with { Differs = await runs.DiffersAsync(v) };
        return v.Pairing is { } own ? await OnPairingAsync(now, own) : await OnMachineAsync(now);
    }

    private async Task<RunStanding> OnPairingAsync(RunStanding now, Pairing own)
    {
        var (v, kept) = (now.V, await profiles.LatestAsync(own.Id));
        if (v.Trial.Settles.Intersect(SideBySide.Keys).Any())
            now = now with { Ways = (await beside.OfAsync(own.Id, kept, v)).FirstOrDefault(w => w.Key == v.Trial.Settles[0]) };
        if (now is { Decision: null, Finding: { Shows.Count: > 0 } finding })
            now = now with { Shown = ShownSettings.Of(finding.Shows, kept?.Settings ?? [], v.Factors) };
        if (now.Decision is not null || v.Verdict.Settings.Count == 0)
            return now;
        var (would, doubtful) = await decisions.WouldBeAsync(v, v.Verdict.Settings);
        if (now.Main is { Key: BesideNozzle.Nozzle } nozzle)
            now = now with
            {
                Beside = Decisions.BesideOf(v, kept, nozzle.Value),
                ColderFirstLayer = Words.ColderFirstLayer(nozzle.Value, kept?[BesideNozzle.FirstLayer]?.Value),
            };
        return now with
        {
            WouldBe = $"{would[0].State.ToString().ToLowerInvariant()}: {would[0].Why}.",
            WouldDoubt =
            [
                .. doubtful.GroupBy(x => x.Why ?? "").Select(g => (g.Key, Profiles.Labels(g.Select(x => x.Key!)))),
                .. (await decisions.OthersAsync(v, kept, v.Verdict.Settings)).Select(o => (o.Why, $"{Profiles.Labels(o.Keys)} of {Facts.NameOf(o.Pairing)}")),
            ],
        };
    }

    private async Task<RunStanding> OnMachineAsync(RunStanding now) => now with
    {
        Carries = await machines.CarriesAsync(now.V, now.Decision),
        FeedHistory = await machines.HistoryAsync(now.V.Toolhead.Id),
        WouldDoubt = now.Decision is null && now.V.Trial.MachineValue(now.V.Plan, now.V.Verdict) is { } value
            ? await machines.WouldDoubtAsync(now.V, value) : [],
    };
}
