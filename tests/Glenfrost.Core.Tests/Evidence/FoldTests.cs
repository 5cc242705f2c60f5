using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Trials;
using CsCheck;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using static Glenfrost.Core.Evidence.EvidenceKind;

namespace Glenfrost.Core.Tests.Evidence;

/// <summary>States from events: the worked cases, undo in any order, and properties of the fold.</summary>
public class FoldTests
{
    private static readonly DateTime Start = new(2026, 1, 1, 0, 0, 0, DateTimeKind.Utc);
    private static int clock;

    private static EvidenceEvent E(
        string key, EvidenceKind kind, Guid? cause = null, double? number = null, double? uncertainty = null, double? atC = null, string? text = null,
        Guid? run = null, string? area = null) =>
        new(Guid.CreateVersion7(), area ?? EvidenceAreas.Of(key), key.Length == 0 ? null : key, kind, Start.AddMinutes(++clock), cause ?? Guid.NewGuid())
        {
            Number = number, Uncertainty = uncertainty, AtC = atC, Text = text, RunId = run ?? (kind is Kept or KeptUnproven ? Guid.NewGuid() : null),
        };

    private static EvidenceState State(IEnumerable<EvidenceEvent> events, string key = "nozzleTemperatureC") =>
        EvidenceFold.States(events).FirstOrDefault(i => i.Key == (key.Length == 0 ? null : key))?.State ?? EvidenceState.Open;

    private static EvidenceEvent Undo(Guid cause) => E("", Withdrawn, cause, area: EvidenceAreas.Other);

    [Fact]
    public void Nothing_is_open_a_copy_is_inherited_and_never_evidence_and_a_kept_tower_is_provisional()
    {
        Assert.Equal(EvidenceState.Open, State([]));
        Assert.Equal(EvidenceState.Inherited, State([E("nozzleTemperatureC", Inherited)]));
        Assert.Equal(EvidenceState.Provisional, State([E("nozzleTemperatureC", Inherited), E("nozzleTemperatureC", Kept, number: 214, uncertainty: 4)]));
        // Copied again over what was found here: what was found here stands.
        Assert.Equal(EvidenceState.Provisional, State([E("nozzleTemperatureC", Kept, number: 214, uncertainty: 4), E("nozzleTemperatureC", Inherited)]));
        // A change does not make a copy doubtful: it never was evidence.
        Assert.Equal(EvidenceState.Inherited, State([E("nozzleTemperatureC", Inherited), E("nozzleTemperatureC", Doubted)]));
    }

    [Theory]
    [InlineData("nozzleTemperatureC", 214, 4.0, 216, 4.0, EvidenceState.Confirmed)]
    [InlineData("nozzleTemperatureC", 214, 4.0, 230, 4.0, EvidenceState.Provisional)]
    [InlineData("nozzleTemperatureC", 214, 25.0, 216, 25.0, EvidenceState.Provisional)]
    [InlineData("extrusionMultiplier", 1.003, 0.087, 1.003, 0.087, EvidenceState.Provisional)]
    [InlineData("extrusionMultiplier", 1.003, 0.012, 0.999, 0.012, EvidenceState.Confirmed)]
    [InlineData("extrusionMultiplier", 1.003, 0.012, 0.999, 0.087, EvidenceState.Provisional)]
    [InlineData("pressureAdvance", 0.04, 0.03, 0.041, 0.03, EvidenceState.Provisional)]
    [InlineData("maxVolumetricFlowMm3PerS", 9.5, null, 9.5, null, EvidenceState.Confirmed)]
    public void Confirmed_means_agreeing_evidence_that_excludes_something(string key, double a, double? ua, double b, double? ub, EvidenceState expected) =>
        Assert.Equal(expected, State([E(key, Kept, number: a, uncertainty: ua), E(key, Kept, number: b, uncertainty: ub)], key));

    [Fact]
    public void One_run_never_confirms_itself_and_an_unproven_or_chosen_value_confirms_nothing()
    {
        var run = Guid.NewGuid();
        Assert.Equal(
            EvidenceState.Provisional,
            State([E("nozzleTemperatureC", Kept, number: 214, uncertainty: 4, run: run), E("nozzleTemperatureC", Kept, number: 214, uncertainty: 4, run: run)])
        );
        Assert.Equal(
            EvidenceState.Provisional,
            State(
                [E("extrusionMultiplier", Kept, number: 0.5, uncertainty: 0.01), E("extrusionMultiplier", KeptUnproven, number: 0.5, uncertainty: 0.01)],
                "extrusionMultiplier"));
        // A temperature at which something else was measured is none that was found: a tower that finds the same stands alone.
        Assert.Equal(
            EvidenceState.Provisional, State([E("nozzleTemperatureC", KeptUnproven, number: 245), E("nozzleTemperatureC", Kept, number: 245, uncertainty: 3)]));
        // A multiplier that waits for its check piece was measured: the check piece is the second run that agrees.
        Assert.Equal(
            EvidenceState.Confirmed,
            State(
                [E("extrusionMultiplier", KeptUnproven, number: 0.486, uncertainty: 0.02), E("extrusionMultiplier", Kept, number: 0.48, uncertainty: 0.02)],
                "extrusionMultiplier"));
        Assert.Equal(
            EvidenceState.Provisional, State([E("nozzleTemperatureC", OwnChoice, number: 214), E("nozzleTemperatureC", Kept, number: 214, uncertainty: 4)]));
    }

    [Fact]
    public void A_fitted_nozzle_makes_doubtful_and_taking_it_back_makes_good_again()
    {
        var nozzle = Guid.NewGuid();
        List<EvidenceEvent> events =
        [
            E("nozzleTemperatureC", Kept, number: 214, uncertainty: 4), E("nozzleTemperatureC", Kept, number: 213, uncertainty: 4),
            E("nozzleTemperatureC", Doubted, nozzle, text: "nozzle changed 6 Nov 2026"),
        ];
        Assert.Equal(EvidenceState.Doubtful, State(events));
        Assert.Equal("nozzle changed 6 Nov 2026", EvidenceFold.States(events)[0].Why);
        events.Add(Undo(nozzle));
        Assert.Equal(EvidenceState.Confirmed, State(events));
    }

    [Fact]
    public void Undoing_the_older_of_two_feeds_leaves_what_the_newer_one_made_doubtful()
    {
        var (a, b) = (Guid.NewGuid(), Guid.NewGuid());
        List<EvidenceEvent> events =
        [
            E("extrusionMultiplier", Kept, number: 1, uncertainty: 0.01), E("pressureAdvance", Kept, number: 0.05, uncertainty: 0.002),
            E("extrusionMultiplier", Doubted, a, text: "feed A"), E("pressureAdvance", Doubted, a, text: "feed A"),
            E("extrusionMultiplier", Doubted, b, text: "feed B"), Undo(a),
        ];
        Assert.Equal(EvidenceState.Doubtful, State(events, "extrusionMultiplier"));
        Assert.Equal("feed B", EvidenceFold.States(events).First(i => i.Key == "extrusionMultiplier").Why);
        Assert.Equal(EvidenceState.Provisional, State(events, "pressureAdvance"));
    }

    [Fact]
    public void A_new_run_clears_doubts_that_came_before_it_and_not_those_after()
    {
        List<EvidenceEvent> events =
        [
            E("nozzleTemperatureC", Kept, number: 214, uncertainty: 4), E("nozzleTemperatureC", Doubted),
            E("nozzleTemperatureC", Kept, number: 214, uncertainty: 4),
        ];
        Assert.Equal(EvidenceState.Provisional, State(events));
        events.Add(E("nozzleTemperatureC", Doubted));
        Assert.Equal(EvidenceState.Doubtful, State(events));
    }

    [Fact]
    public void Values_found_at_two_temperatures_have_states_of_their_own_and_a_change_touches_both()
    {
        List<EvidenceEvent> events =
        [
            E("maxVolumetricFlowMm3PerS", Kept, number: 9.5, uncertainty: 0.3, atC: 214),
            E("maxVolumetricFlowMm3PerS", Kept, number: 12, uncertainty: 0.3, atC: 235),
        ];
        Assert.Equal([EvidenceState.Provisional, EvidenceState.Provisional], EvidenceFold.States(events).Select(i => i.State));
        events.Add(E("maxVolumetricFlowMm3PerS", Kept, number: 9.4, uncertainty: 0.3, atC: 215));
        Assert.Equal(EvidenceState.Confirmed, EvidenceFold.States(events).First(i => i.AtC == 215).State);
        Assert.Equal(EvidenceState.Provisional, EvidenceFold.States(events).First(i => i.AtC == 235).State);
        events.Add(E("maxVolumetricFlowMm3PerS", Doubted));
        Assert.All(EvidenceFold.States(events), i => Assert.Equal(EvidenceState.Doubtful, i.State));
    }

    [Fact]
    public void Areas_without_a_setting_are_skipped_resumed_passed_and_failed()
    {
        EvidenceState Of(params EvidenceEvent[] events) => EvidenceFold.States(events).Single().State;
        var skip = E("", Skipped, area: "warp", text: "PLA lies flat here");
        Assert.Equal(EvidenceState.Skipped, Of(skip));
        Assert.Equal(EvidenceState.Open, Of(skip, E("", Resumed, area: "warp")));
        Assert.Equal(EvidenceState.Provisional, Of(E("", Passed, area: "verification")));
        Assert.Equal(EvidenceState.Confirmed, Of(E("", Passed, area: "verification"), E("", Passed, area: "verification")));
        var failed = EvidenceFold.States([E("", Passed, area: "verification"), E("", Failed, area: "verification", text: "failed at layer 118")]).Single();
        Assert.Equal((EvidenceState.Open, "failed at layer 118"), (failed.State, failed.Why));
    }

    [Fact]
    public void A_passed_piece_confirms_what_is_evidence_and_nothing_that_nobody_tried()
    {
        Assert.Equal(
            EvidenceState.Confirmed,
            State([E("nozzleTemperatureC", Kept, number: 214, uncertainty: 9), E("nozzleTemperatureC", Confirmed, text: "passed the gauge clip")]));
        Assert.Equal(EvidenceState.Open, State([E("nozzleTemperatureC", Confirmed)]));
    }

    [Fact]
    public void What_an_earlier_version_stored_stands_as_it_stood()
    {
        foreach (var state in new[] { EvidenceState.Provisional, EvidenceState.Confirmed, EvidenceState.Doubtful, EvidenceState.Inherited })
            Assert.Equal(state, State([E("nozzleTemperatureC", Stood, text: "as it was") with { State = state }]));
    }

    private static readonly Gen<EvidenceKind> AnyKind = Gen.Int[0, 6]
        .Select(i => new[] { Inherited, Kept, KeptUnproven, OwnChoice, EvidenceKind.Carried, Confirmed, Doubted }[i]);

    [Fact]
    public void The_order_of_arrival_does_not_matter_and_withdrawing_everything_leaves_nothing() =>
        Gen.Select(AnyKind.Array[1, 12], Gen.Int[0, 1000])
            .Sample(
                (kinds, seed) =>
                {
                    var events = kinds.Select((k, i) => E("nozzleTemperatureC", k, number: 210 + i % 3, uncertainty: 4)).ToList();
                    var shuffled = events.OrderBy(e => HashCode.Combine(e.Id, seed)).ToList();
                    Assert.Equal(EvidenceFold.States(events), EvidenceFold.States(shuffled));
                    Assert.All(EvidenceFold.States([.. events, .. events.Select(e => Undo(e.CauseId))]), i => Assert.Equal(EvidenceState.Open, i.State));
                });

    [Fact]
    public void Taking_back_the_last_cause_gives_the_states_from_before_it() => AnyKind.Array[1, 10].Sample(kinds =>
    {
        var events = kinds.Select((k, i) => E("nozzleTemperatureC", k, number: 210, uncertainty: 4)).ToList();
        var before = EvidenceFold.States(events).SingleOrDefault()?.State ?? EvidenceState.Open;
        var cause = Guid.NewGuid();
        events.Add(E("nozzleTemperatureC", Doubted, cause));
        events.Add(E("nozzleTemperatureC", Kept, cause, 210, 4));
        events.Add(Undo(cause));
        Assert.Equal(before, EvidenceFold.States(events).SingleOrDefault()?.State ?? EvidenceState.Open);
    });

    private static ProfileSetting S(string key, double value, double? atC = null) =>
        new(key, value, null, SettingOrigin.Run, $"run {value}", SettingState.Start) { AtC = atC };

    [Fact]
    public void A_limit_found_at_another_temperature_is_not_known_at_the_one_in_force()
    {
        var rows = new[] { S("nozzleTemperatureC", 220), S("maxVolumetricFlowMm3PerS", 17, 235), S("fanPercent", 100) };
        var limit = ConditionedValues.InForce(rows).First(s => s.Key == "maxVolumetricFlowMm3PerS");
        Assert.Equal("found at 235: 17.0; at 220 not known", ConditionedValues.Elsewhere(limit, v => Core.Settings.SettingRegistry.Get(limit.Key).Text(v)));
        Assert.False(ConditionedValues.ForPlanning(ConditionedValues.InForce(rows)).ContainsKey("maxVolumetricFlowMm3PerS"));
        // Found colder, it bears at least that where it is hotter.
        Assert.Equal(17, ConditionedValues.ForPlanning(ConditionedValues.InForce([S("nozzleTemperatureC", 250), rows[1]]))["maxVolumetricFlowMm3PerS"]);
        // Of several the one for the temperature in force, whichever came last.
        Assert.Equal(
            12, ConditionedValues.InForce([.. rows, S("maxVolumetricFlowMm3PerS", 12, 221), S("maxVolumetricFlowMm3PerS", 18, 250)])
                .First(s => s.Key == "maxVolumetricFlowMm3PerS")
                .Value);
        Assert.Null(ConditionedValues.InForce([S("nozzleTemperatureC", 220), S("maxVolumetricFlowMm3PerS", 9)])[1].NotKnownAtC);
    }

    [Fact]
    public void A_value_takes_the_place_of_those_found_at_the_same_temperature_and_leaves_the_others()
    {
        var rows = ConditionedValues.Put([S("maxVolumetricFlowMm3PerS", 8), S("maxVolumetricFlowMm3PerS", 17, 235)], S("maxVolumetricFlowMm3PerS", 9.5, 214));
        Assert.Equal([17, 9.5], rows.Select(r => r.Value));
    }

    [Fact]
    public void Taking_back_an_older_change_keeps_the_newer_one()
    {
        var (a, b) = (Guid.NewGuid(), Guid.NewGuid());
        RevisionStep[] steps =
        [
            new(1, null, false, [S("nozzleTemperatureC", 210), S("fanPercent", 50)]), new(2, a, false, [S("nozzleTemperatureC", 214), S("fanPercent", 50)]),
            new(3, b, false, [S("nozzleTemperatureC", 205), S("fanPercent", 100)]),
        ];
        Assert.Equal([205, 100], ProfileHistory.Without(steps, new HashSet<Guid> { a }).OrderBy(s => s.Key == "fanPercent").Select(s => s.Value));
        Assert.Equal([214, 50], ProfileHistory.Without(steps, new HashSet<Guid> { b }).OrderBy(s => s.Key == "fanPercent").Select(s => s.Value));
        Assert.Equal([210, 50], ProfileHistory.Without(steps, new HashSet<Guid> { a, b }).OrderBy(s => s.Key == "fanPercent").Select(s => s.Value));
    }

    [Theory]
    [InlineData(true, true, "nozzleTemperatureC bedTemperatureC retractionLengthMm pressureAdvance maxVolumetricFlowMm3PerS nozzleOffsetMm dryingHours")]
    [InlineData(false, true, "nozzleTemperatureC bedTemperatureC retractionLengthMm pressureAdvance maxVolumetricFlowMm3PerS dryingHours")]
    [InlineData(true, false, "nozzleTemperatureC bedTemperatureC nozzleOffsetMm dryingHours")]
    public void Strings_pressure_and_flow_limit_never_travel_to_another_path(bool printer, bool path, string taken) =>
        Assert.Equal(
            taken,
            string.Join(
                ' ', new[]
                {
                    "nozzleTemperatureC", "bedTemperatureC", "retractionLengthMm", "pressureAdvance", "maxVolumetricFlowMm3PerS", "nozzleOffsetMm",
                    "dryingHours",
                }.Where(new CopyReach(printer, path).Takes)));
}

/// <summary>Values of a machine: a history whose newest entry that was not taken back stands.</summary>
public class MachineValueTests
{
    private static Core.Equipment.MachineValueEvent V(int minute, Guid cause, string? key, double? number, bool withdraws = false) =>
        new(Guid.CreateVersion7(), new DateTime(2026, 1, 1, 0, minute, 0, DateTimeKind.Utc), cause, key, number, null) { Withdraws = withdraws };

    [Fact]
    public void Undoing_an_older_value_keeps_a_newer_one_and_a_rotation_distance_survives_undo()
    {
        var (first, steps, later) = (Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid());
        List<Core.Equipment.MachineValueEvent> events = [V(0, first, "rotationDistanceMm", 21.848), V(1, steps, "stepsPerMm", 400)];
        Assert.Equal(("stepsPerMm", 400), (Core.Equipment.MachineValueFold.Standing(events)!.Key, Core.Equipment.MachineValueFold.Standing(events)!.Number));
        Assert.Equal(
            ("rotationDistanceMm", 21.848),
            Core.Equipment.MachineValueFold.Standing([.. events, V(2, steps, null, null, true)]) is var back ? (back!.Key, back.Number) : default);
        events.Add(V(2, later, "stepsPerMm", 402));
        Assert.Equal(402, Core.Equipment.MachineValueFold.Standing([.. events, V(3, steps, null, null, true)])!.Number);
        Assert.Null(Core.Equipment.MachineValueFold.Standing([]));
    }
}

/// <summary>Practice beside a test: it agrees or contradicts, never both.</summary>
public class PracticeBesideTests
{
    [Theory]
    [InlineData(12.05, false)]
    [InlineData(13.5, true)]
    public void A_limit_with_its_margin_agrees_or_contradicts_and_is_not_asked_twice(double known, bool contradicts)
    {
        // Limit 12.3, advice 11 after a margin of 10 %.
        var verdict = new Core.Trials.FlowLimit.SteppedFlowVerdict
        {
            Outcome = Core.Trials.FlowLimit.FlowOutcome.Limit, Sentence = "11 mm³/s.", Settings = [new("maxVolumetricFlowMm3PerS", 11, 0.2)],
        };
        KnownGoodValue[] practice = [new("maxVolumetricFlowMm3PerS", known, 214, "every day")];
        var beside = KnownGoodValues.Beside(KnownGoodValues.Beside(verdict, practice, null, 10), practice, null);
        Assert.Equal(contradicts, beside.Warnings.Any(w => w.Contains("says otherwise", StringComparison.Ordinal)));
        Assert.Equal(!contradicts, beside.Reasons.Any(r => r.Contains("the test agrees", StringComparison.Ordinal)));
    }
}
