using Glenfrost.Core.Ageing;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Decides on runs: finishes reading, keeps values in the profile, leaves it as it is.</summary>
public sealed class Decisions(WorkContext work, Profiles profiles)
{
    private readonly EvidenceBook evidence = new(work);

    /// <summary>Says that everything is read.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab changed the run in the same moment.</exception>
    public async Task FinishAsync(TrialRunView v)
    {
        // A question that settles no value is answered by being read.
        v.Run.Stage = v.Trial.Decides(v.Plan) ? RunStages.Read : RunStages.Left;
        v.Run.ReadAt = work.Now;
        work.Touch(v.Run);
        await work.LogAsync("run", $"{v.Title} read: {v.Name}. {v.Verdict.Sentence}", $"/runs/{v.Run.Id}");
        await work.SaveAsync();
    }

    /// <summary>Keeps values in the profile: a revision linked to the run, its evidence, and what the moves make doubtful.</summary>
    /// <param name="v">The run.</param>
    /// <param name="values">The one that the trial settles first.</param>
    /// <param name="ownChoice">True where somebody chose against or without the verdict.</param>
    /// <param name="why">The reason of an own choice.</param>
    /// <param name="beside">What goes into the profile with them without having been tried by itself.</param>
    /// <exception cref="ChangedMeanwhileException">Another tab decided in the same moment; nothing is written.</exception>
    public async Task<Decision> KeepAsync(
        TrialRunView v, IReadOnlyList<SettingValue> values, bool ownChoice, string? why, IReadOnlyList<Companion>? beside = null)
    {
        var person = await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            var pairing = v.Pairing!;
            var profile = await profiles.LatestAsync(pairing.Id);
            var main = values[0];
            var decision = Of(v, person, ownChoice ? "own choice" : "kept", why);
            (decision.SettingKey, decision.Value) = (main.Key, main.Value);
            var text = string.Join(
                ", ",
                values.Select(x =>
                    $"{(values.Count > 1 || x.Key != "nozzleTemperatureC" ? SettingRegistry.Get(x.Key).Label.InSentence() + " " : "")}" +
                        $"{Words.Value(x.Key, x.Value)}"
                ));
            var rows = values.Select(x => Row(v, values, x, ownChoice, work.Now)).ToList();
            var besides = (beside ?? []).Select(b => Row(v, b, work.Now)).ToList();
            var next = rows.Concat(besides).Aggregate(profile?.Rows ?? [], ConditionedValues.Put);
            if (besides.Count > 0)
                text += $", with it {string.Join(", ", besides.Select(Words.Named))}";
            var revision = await profiles.AddRevisionAsync(
                pairing.Id, next, $"Kept {text} from {v.Called}{(why is null ? "" : $": {why}")}", v.Run.Id, decision.Id);
            decision.RevisionId = revision.Id;
            await evidence.RecordAsync(
                pairing.Id,
                [
                    .. Events(v, profile, values, rows, ownChoice, decision.Id),
                    .. besides.Select(r => Profiles.Valued(
                        evidence.Of(pairing.Id, r.Key, EvidenceKind.KeptUnproven, decision.Id, "kept with the nozzle, not tried by itself"), r)),
                ]);
            foreach (var (other, keys, touchWhy) in await OthersAsync(v, profile, values, true))
                await evidence.DoubtAsync(other.Id, keys, decision.Id, touchWhy);
            Decide(v, decision, RunStages.Decided);
            await work.LogAsync(
                "profile", $"Kept {text} for {v.Name}{(ownChoice ? $", own choice: {why}" : "")}", $"/pairings/{pairing.Id}", $"keep:{decision.Id}");
            await work.Db.SaveChangesAsync();
            return decision;
        });
    }

    /// <summary>Keeps a value that the run shows at another temperature, for that temperature: what is in force elsewhere stays as it is.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab decided in the same moment; nothing is written.</exception>
    public async Task<Decision> KeepElsewhereAsync(TrialRunView v, FoundElsewhere found)
    {
        var person = await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            var pairing = v.Pairing!;
            var profile = await profiles.LatestAsync(pairing.Id);
            var decision = Of(v, person, DecisionChoices.Elsewhere, null);
            (decision.SettingKey, decision.Value) = (found.Value.Key, found.Value.Value);
            var row = Row(v, [found.Value], found.Value, false, work.Now) with { AtC = found.AtC };
            var text = $"{Words.Named(row)} at {Words.N(found.AtC)} °C";
            var revision = await profiles.AddRevisionAsync(
                pairing.Id, ConditionedValues.Put(profile?.Rows ?? [], row), $"Kept {text} from {v.Called}", v.Run.Id, decision.Id);
            decision.RevisionId = revision.Id;
            await evidence.RecordAsync(
                pairing.Id,
                [
                    Profiles.Valued(
                        evidence.Of(
                            pairing.Id, row.Key, found.Proves ? EvidenceKind.Kept : EvidenceKind.KeptUnproven, decision.Id,
                            found.Proves ? v.Trial.Basis(v.Plan) : "no check piece at it yet"),
                        row),
                ]);
            // The run's own value is decided upon by itself.
            work.Db.Decisions.Add(decision);
            work.Touch(v.Run);
            await work.LogAsync("profile", $"Kept {text} for {v.Name}", $"/pairings/{pairing.Id}", $"keep:{decision.Id}");
            await work.Db.SaveChangesAsync();
            return decision;
        });
    }

    /// <summary>The row of a kept value, with the condition that it was found at.</summary>
    private static ProfileSetting Row(TrialRunView v, IReadOnlyList<SettingValue> values, SettingValue x, bool ownChoice, DateTime now) =>
        new(
            x.Key, SettingRegistry.Get(x.Key).Round(x.Value, x.Uncertainty), ownChoice || x.Uncertainty <= 0 ? null : x.Uncertainty, SettingOrigin.Run,
            $"{v.Called}, {Words.Day(v.Run.PrintedAt ?? now)}", SettingState.Start, null, v.Run.Id)
        {
            AtC = ConditionedValues.Keys.Contains(x.Key)
                ? values.FirstOrDefault(y => y.Key == "nozzleTemperatureC")?.Value ?? v.Trial.FoundAtC(v.Plan, x.Key)
                : null,
            FoundWith = v.Trial.FoundWith(v.Plan, x.Key),
        };

    private static ProfileSetting Row(TrialRunView v, Companion x, DateTime now) =>
        new(
            x.Key, SettingRegistry.Get(x.Key).Round(x.Value), null, SettingOrigin.Run, $"{v.Called}, {Words.Day(v.Run.PrintedAt ?? now)}: {x.From}",
            SettingState.Start, null, v.Run.Id);

    /// <summary>What is proposed to go into the profile with a nozzle temperature: the first layer's, and the bed that the run was printed on.</summary>
    /// <param name="v">The run.</param>
    /// <param name="profile">The profile as it stands; null before its first revision.</param>
    /// <param name="nozzleC">The temperature, °C.</param>
    public static IReadOnlyList<Companion> BesideOf(TrialRunView v, ProfileView? profile, double nozzleC)
    {
        var bed = v.Factors["bedTemperatureC"]?.Number;
        return BesideNozzle.Of(
            nozzleC, profile?.Settings ?? [], bed, v.Factors["firstLayerBedTemperatureC"]?.Number, Facts.LimitsOf(v.Toolhead), v.Toolhead.Printer!.BedMaxC,
            Core.Trials.FoamingFlow.FoamingFlowTrial.Foams(v.Pairing!.Filament!.Family) ? 0 : BesideNozzle.FirstLayerUpC);
    }

    /// <summary>What keeping says of the evidence: the values kept, and what their moves make doubtful on this pairing.</summary>
    private IEnumerable<EvidenceEntry> Events(
        TrialRunView v, ProfileView? profile, IReadOnlyList<SettingValue> values, IReadOnlyList<ProfileSetting> rows, bool ownChoice, Guid cause)
    {
        var kind = ownChoice ? EvidenceKind.OwnChoice : v.Verdict.Proves ? EvidenceKind.Kept : EvidenceKind.KeptUnproven;
        var pairing = v.Pairing!.Id;
        foreach (var row in rows)
            yield return Profiles.Valued(
                evidence.Of(
                    pairing, row.Key, kind, cause, ownChoice ? "own choice"
                        : kind == EvidenceKind.KeptUnproven ? "no check piece at it yet"
                        : v.Trial.Basis(v.Plan)),
                row);
        foreach (var touch in Touches(profile, values).Where(t => !t.OnOthers))
        {
            foreach (var key in touch.Keys.Where(k => values.All(y => y.Key != k) && profile?.Rows.Any(r => r.Key == k && r.IsEvidence) == true))
                yield return evidence.Of(pairing, key, EvidenceKind.Doubted, cause, touch.Why);
        }
    }

    private static IEnumerable<Touch> Touches(ProfileView? profile, IEnumerable<SettingValue> values) =>
        values.SelectMany(x => AgeingRules.AfterKept(x.Key, profile?[x.Key] is { State: not SettingState.Start } before ? before.Value : null, x.Value));

    /// <summary>What keeping would make of the evidence, so that it can be said before: states of the kept keys, and what becomes doubtful.</summary>
    public async Task<(IReadOnlyList<EvidenceItem> Kept, IReadOnlyList<EvidenceItem> Doubtful)> WouldBeAsync(TrialRunView v, IReadOnlyList<SettingValue> values)
    {
        var profile = await profiles.LatestAsync(v.Pairing!.Id);
        var rows = values.Select(x => Row(v, values, x, false, work.Now)).ToList();
        var (before, after) = (
            await evidence.EventsAsync(v.Pairing.Id), Events(v, profile, values, rows, false, Guid.NewGuid()).Select(e => e.ToCore()).ToList());
        var (was, will) = (EvidenceFold.States(before), EvidenceFold.States([.. before, .. after]));
        return (
            [.. rows.Select(r => will.First(i => i.Key == r.Key && i.AtC == r.AtC))],
            [
                .. will.Where(i =>
                    i.State == EvidenceState.Doubtful
                    && was.FirstOrDefault(w => w.Key == i.Key && w.Area == i.Area && w.AtC == i.AtC)?.State != EvidenceState.Doubtful),
            ]);
    }

    /// <summary>Other pairings of the toolhead that a kept value makes doubtful: a multiplier that moves much may be the feed.</summary>
    /// <param name="doubtfulToo">True where what is doubtful already is named too.</param>
    public async Task<IReadOnlyList<(Pairing Pairing, IReadOnlyList<string> Keys, string Why)>> OthersAsync(
        TrialRunView v, ProfileView? profile, IReadOnlyList<SettingValue> values, bool doubtfulToo = false)
    {
        var touches = values
            .SelectMany(x =>
                AgeingRules.AfterKept(
                    x.Key, profile?[x.Key] is { State: not SettingState.Start, Origin: SettingOrigin.Run } before ? before.Value : null, x.Value))
            .Where(t => t.OnOthers).ToList();
        if (touches.Count == 0 || !v.Trial.TellsOfTheMachine)
            return [];
        var (self, head) = (v.Pairing!.Id, v.Toolhead.Id);
        var others = await work.Db.Pairings.AsNoTracking().Full().Where(p => p.ToolheadId == head && p.Id != self && p.RemovedAt == null).ToListAsync();
        var latest = await work.Db.ProfilesAsync([.. others.Select(p => p.Id)]);
        return
        [
            .. from t in touches
            from p in others
            let keys = latest.GetValueOrDefault(p.Id)
                ?.Rows.Where(s =>
                    t.Keys.Contains(s.Key)
                    && (s.State is SettingState.Provisional or SettingState.Confirmed || (doubtfulToo && s.State == SettingState.Doubtful)))
                .Select(s => s.Key).Distinct().ToList()
                ?? []
            where keys.Count > 0
            select (p, (IReadOnlyList<string>)keys, t.Why),
        ];
    }

    /// <summary>Why a finding can't be kept yet, in words; null where it can.</summary>
    public static string? MissingFor(TrialRunView v, AreaFinding finding) =>
        finding.OfSpool && v.Factors[FactorRegistry.Spool]?.Thing is null
            ? "Say which spool it was printed from: what it shows holds for that spool."
            : null;

    /// <summary>Keeps what a run says of an area that has no setting: its evidence, and what becomes doubtful with it.</summary>
    /// <exception cref="InvalidOperationException">Something is missing (<see cref="MissingFor"/>); nothing is written.</exception>
    /// <exception cref="ChangedMeanwhileException">Another tab decided in the same moment; nothing is written.</exception>
    public async Task<Decision> SayAsync(TrialRunView v, AreaFinding finding)
    {
        if (MissingFor(v, finding) is { } missing)
            throw new InvalidOperationException(missing);
        var person = await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            var decision = Of(v, person, finding.Passed ? DecisionChoices.Passed : DecisionChoices.Failed, null);
            var spool = finding.OfSpool ? v.Factors[FactorRegistry.Spool] : null;
            var text = $"{(spool?.Text is { } name ? $"spool {name}, " : "")}{v.Called}: {RunWords.Said(v, finding.Passed)}";
            await new AreaEvidence(work).RecordAsync(
                v.Pairing!.Id, finding.Area, finding.Passed ? EvidenceKind.Passed : EvidenceKind.Failed, decision.Id, text, spool?.Thing, finding.Doubts,
                v.Run.Id);
            var shown = ShownSettings.Of(finding.Shows, (await profiles.LatestAsync(v.Pairing.Id))?.Settings ?? [], v.Factors);
            await evidence.RecordAsync(
                v.Pairing.Id,
                [.. shown.Where(s => s.Why == NotConfirmed.No).Select(s => Shown(v, s.Setting.Key, decision.Id))]);
            Decide(v, decision, RunStages.Decided);
            await work.LogAsync(
                "profile", $"{AgeingRules.Area(finding.Area).Label}: {text} · {v.Name}", $"/runs/{v.Run.Id}", $"keep:{decision.Id}");
            await work.Db.SaveChangesAsync();
            return decision;
        });
    }

    private EvidenceEntry Shown(TrialRunView v, string key, Guid cause)
    {
        var shown = evidence.Of(v.Pairing!.Id, key, EvidenceKind.Confirmed, cause, $"{v.Called} passed with it");
        shown.RunId = v.Run.Id;
        return shown;
    }

    /// <summary>Leaves the profile as it is.</summary>
    /// <exception cref="ChangedMeanwhileException">Another tab decided in the same moment; nothing is written.</exception>
    public async Task<Decision> LeaveAsync(TrialRunView v, string? why)
    {
        var decision = Of(v, await work.PersonAsync(), "left", why);
        Decide(v, decision, RunStages.Left);
        await work.LogAsync("run", $"{v.Title} left without keeping: {v.Name}", $"/runs/{v.Run.Id}", $"keep:{decision.Id}");
        await work.SaveAsync();
        return decision;
    }

    /// <summary>A decision with the verdict as it stands.</summary>
    public Decision Of(TrialRunView v, Person person, string choice, string? why) => new()
    {
        RunId = v.Run.Id,
        At = work.Now,
        PersonId = person.Id,
        Choice = choice,
        Why = why,
        VerdictJson = Json.WriteAsIs(v.Verdict),
        ReadingIdsJson = Json.Write(v.ReadingIds),
        EngineVersion = Trial.EngineVersion,
        Seed = v.Run.Seed,
    };

    /// <summary>Adds a decision and moves the run on; the caller saves.</summary>
    public void Decide(TrialRunView v, Decision decision, string stage)
    {
        work.Db.Decisions.Add(decision);
        v.Run.Stage = stage;
        v.Run.DecidedAt = work.Now;
        v.Run.ReadAt ??= work.Now;
        work.Touch(v.Run);
    }
}

/// <summary>What may be decided on a run besides a value: fixed words of its decision.</summary>
public static class DecisionChoices
{
    /// <summary>All that a decision may say.</summary>
    public static string[] All => ["kept", "own choice", "left", Passed, Failed, Elsewhere];

    /// <summary>A value was kept for another temperature than the run's own.</summary>
    public const string Elsewhere = "kept elsewhere";

    /// <summary>An area without a setting is good.</summary>
    public const string Passed = "passed";

    /// <summary>An area without a setting is shown worse.</summary>
    public const string Failed = "failed";
}
