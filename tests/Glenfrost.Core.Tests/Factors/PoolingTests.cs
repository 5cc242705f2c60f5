using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Trials;

namespace Glenfrost.Core.Tests.Factors;

/// <summary>May two runs be pooled as repeats? A table of cases, each for its class, over real plans of the trials.</summary>
public class PoolingTests
{
    private static readonly DateTime At = new(2026, 11, 6, 9, 0, 0, DateTimeKind.Utc);
    private static readonly Guid Spool7 = Guid.NewGuid(),
        Spool9 = Guid.NewGuid(), OldNozzle = Guid.NewGuid(), NewNozzle = Guid.NewGuid(),
        Isla = Guid.NewGuid();

    /// <summary>A run of a trial as it is frozen on a known machine: everything is known.</summary>
    private static FactorSet Run(Trial trial, FactorSituation at, params (string Field, object Value)[] plan)
    {
        var context = Plans.Context(at.Family?.Name ?? "PLA");
        var values = trial.Propose(context);
        if (plan.FirstOrDefault(p => p.Field == "mode").Value is string mode)
            values = trial.InMode(mode, values, context);
        foreach (var (field, value) in plan)
            values[field] = value is int i ? (decimal)i : value is double d ? (decimal)d : value;
        var made = trial.Plan(values, context);
        Assert.True(made.Plan is not null, string.Join(" ", made.Errors.Select(e => e.Message)));
        var set = new FactorSet { RunId = Guid.NewGuid() }.With(PrintFactors.Of(context.Settings!)).With(trial.FactorsOf(made.Plan!));
        var here = at with { Prints = made.Plan!.TotalLayers > 0 };
        foreach (var d in FactorRegistry.All.Where(d => !d.AppliesTo(here)))
            set = set.With([KeyValuePair.Create(d.Key, FactorValue.NotApplicable)]);
        return set.With(
            new Dictionary<string, FactorValue>
            {
                ["spool"] = FactorValue.Of(Spool7, "H-07", FactorSource.Record), ["dryness"] = FactorValue.Of("dry", FactorSource.Record),
                ["place"] = FactorValue.Of("as planned", FactorSource.Plan), ["feed"] = FactorValue.Of(96.4, FactorSource.Record),
                ["nozzleSpec"] = FactorValue.Of("0.4 standard brass", FactorSource.Record), ["surface"] = FactorValue.Of("textured sheet", FactorSource.Record),
                ["roomC"] = FactorValue.Of(18.5, FactorSource.Record), ["firmware"] = FactorValue.Of("field build 4.1", FactorSource.Record),
                ["flowOverridePercent"] = FactorValue.Of(100, FactorSource.File), ["retractionByFirmware"] = FactorValue.Of("no", FactorSource.File),
                ["enclosure"] = FactorValue.Of(at.Enclosure ?? "none", FactorSource.Record), ["person"] = FactorValue.Of(Isla, "Isla", FactorSource.Typed),
                ["bedTemperatureC"] = FactorValue.Of(60, FactorSource.Plan),
            }
                .Concat(
                    FactorRegistry.PartSlots.Select(s =>
                        KeyValuePair.Create(FactorRegistry.PartPrefix + s, FactorValue.Of((Guid?)null, "as it came", FactorSource.Record))))
                .Where(v => set[v.Key]?.Applies != false));
    }

    private static readonly FactorSituation Pla = new(Family.Find("PLA"), "none", true), Asa = new(Family.Find("ASA"), "closed", true);

    private static PoolingAnswer Ask(
        Trial trial, FactorSituation at, FactorSet judged, FactorSet other, Func<Guid, Guid, bool>? joined = null, params (string Field, object Value)[] plan)
    {
        var values = trial.Propose(Plans.Context(at.Family?.Name ?? "PLA"));
        foreach (var (field, value) in plan)
            values[field] = value;
        return Pooling.Ask(trial.Pools(trial.Plan(values, Plans.Context(at.Family?.Name ?? "PLA")).Plan!, at), judged, other, trial.Define, joined);
    }

    private static FactorSet With(FactorSet set, string key, FactorValue value) => set.With([new KeyValuePair<string, FactorValue>(key, value)]);

    private static readonly Trial Retraction = TrialCatalogue.Get("retraction-sweep"),
        Tower = TrialCatalogue.Get("temperature-tower"), Pressure = TrialCatalogue.Get("pressure-advance"),
        Wall = TrialCatalogue.Get("wall-flow");

    [Fact]
    public void A_sweep_over_other_lengths_is_a_repeat_with_more_values()
    {
        var answer = Ask(Retraction, Pla, Run(Retraction, Pla, ("from", 0.4), ("to", 1.2), ("step", 0.1)), Run(Retraction, Pla));
        Assert.True(answer.Together, string.Join(", ", answer.Because.Select(d => d.Factor.Key)));
    }

    [Theory]
    [InlineData("postMm", 6.0, "piece.postMm")]
    [InlineData("layerHeightMm", 0.12, "layerHeightMm")]
    [InlineData("wideGapMm", 30.0, "piece.wideGapMm")]
    [InlineData("nozzleTemperatureC", 225.0, "nozzleTemperatureC")]
    public void Another_piece_or_temperature_is_no_repeat(string field, double value, string because)
    {
        var answer = Ask(Retraction, Pla, Run(Retraction, Pla, (field, value)), Run(Retraction, Pla));
        Assert.False(answer.Together);
        Assert.Equal([because], answer.Because.Select(d => d.Factor.Key));
        Assert.Equal(Sameness.Differs, answer.Because[0].State);
    }

    [Fact]
    public void Speed_swept_at_another_length_is_no_repeat_and_the_swept_speed_itself_is_set_aside()
    {
        (string, object)[] speed = [("factor", "speed"), ("from", 20), ("to", 50), ("step", 10)];
        var (a, b) = (Run(Retraction, Pla, [.. speed, ("retractionLengthMm", 1.2)]), Run(Retraction, Pla, [.. speed, ("retractionLengthMm", 0.8)]));
        var answer = Ask(Retraction, Pla, a, b, null, ("factor", "speed"), ("from", 20m), ("to", 50m), ("step", 10m));
        Assert.Equal(["retractionLengthMm"], answer.Because.Select(d => d.Factor.Key));
    }

    [Fact]
    public void Damp_is_not_dry_whatever_the_hours_say()
    {
        var dry = With(Run(Retraction, Pla), "hoursOpen", FactorValue.Of(18, FactorSource.Record));
        var damp = With(
            With(Run(Retraction, Pla), "dryness", FactorValue.Of("damp", FactorSource.Record)), "hoursOpen", FactorValue.Of(96, FactorSource.Record));
        Assert.Equal(["dryness"], Ask(Retraction, Pla, damp, dry).Because.Select(d => d.Factor.Key));
        Assert.True(Ask(Retraction, Pla, With(dry, "hoursOpen", FactorValue.Of(60, FactorSource.Record)), dry).Together);
    }

    [Fact]
    public void Another_spool_is_joined_by_a_passed_quick_check_and_by_nothing_else()
    {
        var other = With(Run(Retraction, Pla), "spool", FactorValue.Of(Spool9, "H-09", FactorSource.Record));
        var apart = Ask(Retraction, Pla, other, Run(Retraction, Pla));
        Assert.False(apart.Together);
        Assert.True(Assert.Single(apart.Because).WouldJoin);
        Assert.True(Ask(Retraction, Pla, other, Run(Retraction, Pla), (a, b) => a == Spool9 && b == Spool7).Together);
        // The same spool under another name is the same spool.
        Assert.True(
            Ask(Retraction, Pla, With(Run(Retraction, Pla), "spool", FactorValue.Of(Spool7, "H-7 renamed", FactorSource.Record)), Run(Retraction, Pla)).Together
        );
    }

    [Fact]
    public void Firmware_matters_to_pressure_advance_and_is_only_listed_elsewhere()
    {
        var newer = FactorValue.Of("field build 4.2", FactorSource.Record);
        var strings = Ask(Retraction, Pla, With(Run(Retraction, Pla), "firmware", newer), Run(Retraction, Pla));
        Assert.True(strings.Together);
        Assert.Equal(["firmware"], strings.Listed.Select(d => d.Factor.Key));
        Assert.Equal(["firmware"], Ask(Pressure, Pla, With(Run(Pressure, Pla), "firmware", newer), Run(Pressure, Pla)).Because.Select(d => d.Factor.Key));
    }

    [Fact]
    public void A_refitted_nozzle_of_the_same_specification_is_another_part_for_every_trial()
    {
        foreach (var trial in TrialCatalogue.All)
        {
            var (before, after) = (
                With(Run(trial, Pla), "part.nozzle", FactorValue.Of(OldNozzle, "0.4 brass, 3 May 2026", FactorSource.Record)),
                With(Run(trial, Pla), "part.nozzle", FactorValue.Of(NewNozzle, "0.4 brass, 6 Nov 2026", FactorSource.Record)));
            Assert.Contains("part.nozzle", Ask(trial, Pla, after, before).Because.Select(d => d.Factor.Key));
        }
    }

    [Fact]
    public void A_part_counts_where_the_ageing_rules_say_that_the_trial_leans_on_it()
    {
        var fan = FactorValue.Of(Guid.NewGuid(), "two blowers", FactorSource.Record);
        Assert.False(Ask(Tower, Pla, With(Run(Tower, Pla), "part.fan", fan), Run(Tower, Pla)).Together);
        Assert.True(Ask(Wall, Pla, With(Run(Wall, Pla), "part.fan", fan), Run(Wall, Pla)).Together);
        Assert.True(Ask(Tower, Pla, With(Run(Tower, Pla), "part.bed", fan), Run(Tower, Pla)).Together);
    }

    [Fact]
    public void Chamber_differs_is_unknown_or_remembered_where_a_shrinking_family_stands_enclosed()
    {
        var at38 = With(Run(Tower, Asa), "chamberC", FactorValue.Of(38, FactorSource.Typed));
        Assert.Equal(
            ("chamberC", Sameness.Differs),
            Ask(Tower, Asa, With(at38, "chamberC", FactorValue.Of(70, FactorSource.Typed)), at38).Because.Select(d => (d.Factor.Key, d.State)).Single());
        var unknown = Run(Tower, Asa);
        Assert.Equal(("chamberC", Sameness.Unknown), Ask(Tower, Asa, unknown, at38).Because.Select(d => (d.Factor.Key, d.State)).Single());
        // Blank never equals blank.
        Assert.Equal(("chamberC", Sameness.Unknown), Ask(Tower, Asa, unknown, Run(Tower, Asa)).Because.Select(d => (d.Factor.Key, d.State)).Single());
        var remembered = unknown.WithEntries([new FactorEntryValue("chamberC", new FactorValue(38, null, FactorSource.Memory) { Thing = at38.RunId }, At)]);
        var answer = Ask(Tower, Asa, remembered, at38);
        Assert.True(answer.Together);
        Assert.Equal(["chamberC"], answer.FromMemory.Select(d => d.Factor.Key));
        // On an open printer there is no chamber, which is no difference.
        Assert.True(Ask(Tower, Pla, Run(Tower, Pla), Run(Tower, Pla)).Together);
    }

    [Fact]
    public void Room_is_listed_for_a_tower_and_keeps_warp_and_shrinking_families_in_the_open_apart()
    {
        FactorSet At(Trial t, FactorSituation s, double c) => With(Run(t, s), "roomC", FactorValue.Of(c, FactorSource.Record));
        var answer = Ask(Tower, Pla, At(Tower, Pla, 21), At(Tower, Pla, 18.5));
        Assert.True(answer.Together);
        Assert.Equal(2.5, Assert.Single(answer.Listed).By!.Value, 9);
        Assert.True(new PoolingRule(["warp"], [], Asa).Matters("roomC"));
        Assert.False(new PoolingRule(["temperature"], [], Asa).Matters("roomC"));
        Assert.True(new PoolingRule(["temperature"], [], Asa with { Enclosure = "none" }).Matters("roomC"));
    }

    [Fact]
    public void How_the_bed_cooled_keeps_warp_pairs_apart_and_nothing_that_is_read_off_layers()
    {
        var ramped = FactorValue.Of("5 °C every 3 min to 50 °C", FactorSource.Plan);
        foreach (var (kind, apart) in new[] { ("warp-pairs", true), ("wall-flow", false), ("temperature-tower", false), ("layer-bond", false) })
        {
            var trial = TrialCatalogue.Get(kind);
            var (plain, other) = (Run(trial, Pla), Run(trial, Pla));
            Assert.Equal("none", plain["coolDown"]!.Text);
            Assert.True(Ask(trial, Pla, plain, other).Together, kind);
            var answer = Ask(trial, Pla, plain, other.With([KeyValuePair.Create("coolDown", ramped)]));
            Assert.Equal(apart, !answer.Together);
            if (apart)
                Assert.Equal(("coolDown", Sameness.Differs), answer.Because.Select(d => (d.Factor.Key, d.State)).Single());
        }
    }

    [Fact]
    public void A_fan_that_was_changed_since_keeps_towers_apart_and_an_unknown_fan_too()
    {
        var at70 = With(Run(Tower, Pla), "fanPercent", FactorValue.Of(70, FactorSource.Plan));
        Assert.Equal(["fanPercent"], Ask(Tower, Pla, at70, Run(Tower, Pla)).Because.Select(d => d.Factor.Key));
        FactorSet Unknown() => Run(Tower, Pla) is var run ? run with { Values = new(run.Values.Where(v => v.Key != "fanPercent").ToDictionary()) } : null!;
        Assert.Equal(("fanPercent", Sameness.Unknown), Ask(Tower, Pla, Unknown(), Unknown()).Because.Select(d => (d.Factor.Key, d.State)).Single());
    }

    [Fact]
    public void Who_reads_and_with_what_is_no_difference_of_the_piece()
    {
        var other = With(
            With(Run(Tower, Pla), "person", FactorValue.Of(Guid.NewGuid(), "Bram", FactorSource.Typed)), "instrument",
            FactorValue.Of(Guid.NewGuid(), "calliper", FactorSource.Instrument));
        Assert.True(Ask(Tower, Pla, other, With(Run(Tower, Pla), "instrument", FactorValue.Of(Guid.NewGuid(), "eyes", FactorSource.Instrument))).Together);
    }

    [Fact]
    public void What_was_turned_while_it_printed_keeps_runs_apart_in_either_order()
    {
        var turned = Run(Tower, Pla).WithEntries([new FactorEntryValue("extrusionMultiplier", FactorValue.Of(0.97, FactorSource.Live), At, null, 60)]);
        foreach (var (a, b) in new[] { (turned, Run(Tower, Pla)), (Run(Tower, Pla), turned) })
        {
            var because = Assert.Single(Ask(Tower, Pla, a, b).Because);
            Assert.Equal(60, because.Turned!.FromLayer);
            Assert.Equal(ReferenceEquals(a, turned), because.TurnedNow);
        }
    }

    [Fact]
    public void Another_width_model_is_another_wall() =>
        Assert.Contains("piece.area", Ask(Wall, Pla, Run(Wall, Pla, ("area", "stadium")), Run(Wall, Pla)).Because.Select(d => d.Factor.Key));

    [Fact]
    public void Three_runs_are_each_compared_with_the_judged_one_and_never_in_a_chain()
    {
        FactorSet Room(double c) => With(Run(Tower, Asa with { Enclosure = "none" }), "roomC", FactorValue.Of(c, FactorSource.Record));
        var open = Asa with { Enclosure = "none" };
        var (one, two, three) = (Room(18), Room(19.5), Room(21));
        Assert.True(Ask(Tower, open, two, one).Together);
        Assert.True(Ask(Tower, open, three, two).Together);
        Assert.False(Ask(Tower, open, three, one).Together);
    }

    [Fact]
    public void Every_kind_of_the_catalogue_pools_with_its_own_repeat_and_names_areas_that_exist()
    {
        foreach (var trial in TrialCatalogue.All)
        {
            var answer = Ask(trial, Pla, Run(trial, Pla), Run(trial, Pla));
            Assert.True(answer.Together, $"{trial.Kind}: {string.Join(", ", answer.Because.Select(d => $"{d.Factor.Key} {d.State}"))}");
            Assert.All([.. trial.Areas, .. trial.AlsoLeansOn], a => Core.Ageing.AgeingRules.Area(a));
            // Each field that describes the print is a factor with a name of its own.
            Assert.All(trial.Fields.Keys.Select(trial.FactorOf).OfType<string>(), k =>
                Assert.True(FactorRegistry.Find(k) is not null || trial.Define(k) is not null, $"{trial.Kind}: {k}"));
        }
    }

    [Fact]
    public void Each_field_of_a_plan_that_is_neither_swept_nor_about_reading_keeps_runs_apart()
    {
        foreach (var trial in TrialCatalogue.All)
        {
            var context = Plans.Context("PLA");
            var plan = trial.Plan(trial.Propose(context), context).Plan!;
            var rule = trial.Pools(plan, Pla);
            foreach (var (key, value) in trial.FactorsOf(plan).Where(f => f.Value.Number is not null && rule.Matters(f.Key)))
            {
                var other = With(Run(trial, Pla), key, value with { Number = value.Number + 7 });
                Assert.Contains(key, Ask(trial, Pla, other, Run(trial, Pla)).Because.Select(d => d.Factor.Key));
            }
        }
    }

    [Fact]
    public void Comparison_is_symmetric_and_a_set_never_differs_from_itself() =>
        Gen.Select(Gen.Int[0, FactorRegistry.All.Count - 1], Gen.Double[-50, 300], Gen.Double[-50, 300])
            .Sample(
                (i, x, y) =>
                {
                    var d = FactorRegistry.All[i];
                    FactorSet Of(double v) =>
                        new FactorSet { RunId = Guid.NewGuid() }.With([
                            new KeyValuePair<string, FactorValue>(
                                d.Key, d.Kind == FactorKind.Number ? FactorValue.Of(v, FactorSource.Typed) : FactorValue.Of($"w{v:0}", FactorSource.Typed)),
                        ]);
                    var (a, b) = (Of(x), Of(y));
                    var there = FactorComparison.Of(a, b).First(f => f.Factor.Key == d.Key);
                    var back = FactorComparison.Of(b, a).First(f => f.Factor.Key == d.Key);
                    Assert.Equal(there.State, back.State);
                    Assert.Equal(there.By is { } by ? -by : null, back.By);
                    Assert.Equal(Sameness.Same, FactorComparison.Of(a, a).First(f => f.Factor.Key == d.Key).State);
                });

    [Fact]
    public void The_stored_form_of_version_1_is_read_for_good()
    {
        var golden = File.ReadAllText(Path.Combine(AppContext.BaseDirectory, "golden/factors-v1.json"));
        var set = FactorSet.Read(golden);
        Assert.Equal(210, set["nozzleTemperatureC"]!.Number);
        Assert.True(set["nozzleTemperatureC"]!.Proven);
        Assert.Equal((FactorSource.Record, "H-07"), (set["spool"]!.Source, set["spool"]!.Text));
        Assert.False(set["chamberC"]!.Applies);
        Assert.Equal(["nozzleTemperatureC"], set.Swept);
        Assert.Null(set["firmware"]);
        Assert.Equal(golden.ReplaceLineEndings("").Replace(" ", ""), set.ToJson().Replace(" ", ""));
    }
}

/// <summary>A machine and settings on which every trial can be planned.</summary>
internal static class Plans
{
    public static PlanContext Context(string family)
    {
        var f = Family.Find(family);
        var machine = new Core.Equipment.Machine
        {
            Name = "Whimbrel 300", BedXMm = 300, BedYMm = 300, HeightMm = 320, BedMaxC = 120, MaxSpeedMmPerS = 350, MaxAccelerationMmPerS2 = 8000,
            Limits = Core.Equipment.HotendLimits.Of(Core.Equipment.HotendLiner.AllMetal, 300, null, null, null, 3, null),
        };
        return new()
        {
            Memory = Pieces.TestMemory.Shared, Machine = machine, Settings = Core.Gcode.Writing.PrintSettings.From(new Dictionary<string, double>(), machine, f), Family = f,
            AdvisedC = f?.NozzleC, StepsPerMm = 96.4, DensityGPerCm3 = f?.DensityGPerCm3,
        };
    }
}
