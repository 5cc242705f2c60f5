using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;

namespace Glenfrost.Core.Tests.Pieces;

/// <summary>The families that shrink are known to every plan of a piece.</summary>
public class ShrinkCautionTests
{
    private static Machine Open => Machines.Whimbrel with
    {
        Enclosure = "none",
        BedMaxC = 120,
        Limits = HotendLimits.Of(HotendLiner.AllMetal, 320, null, null, null, 3, null),
    };

    private static IReadOnlyList<PlanWarning> Said(Trial trial, string family, Machine m, Dictionary<string, double> kept)
    {
        var f = Family.Find(family)!;
        var c = new PlanContext
        {
            Memory = TestMemory.Shared, Machine = m, Settings = PrintSettings.From(kept, m, f), Family = f, AdvisedC = f.NozzleC, Kept = kept, StepsPerMm = 400, Subject = "any",
        };
        if (trial.Plan(trial.Propose(c), c).Plan is not { WritesFile: true } plan)
            return [];
        return trial.Make(plan, c) is ({ } made, not null, _) ? made.Warnings : [];
    }

    public static TheoryData<string, string> All =>
        new(Family.All.Where(f => f.Shrinks == Shrinkage.Much).SelectMany(f => WrittenFileTests.WithPieces.Select(k => (f.Name, (string)k.Data))));

    [Theory]
    [MemberData(nameof(All))]
    public void An_open_printer_no_brim_a_strong_fan_and_a_cold_bed_are_said_before_the_print(string family, string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var f = Family.Find(family)!;
        if (!trial.Suits(family))
            return;
        var wrong = Said(trial, family, Open, new() { ["fanPercent"] = 100, ["bedTemperatureC"] = f.BedC.Min!.Value - 10 });
        Assert.Contains(wrong, w => (w.Kind == PlanWarningKind.CoolBed && w.Numbers[0] == f.BedC.Min - 10) || kind == "first-layer");
        var stands = trial.Kind != "first-layer";
        Assert.Equal(stands, wrong.Any(w => w.Kind == PlanWarningKind.OpenPrinter));
        if (stands && kind != "foaming-flow")
            Assert.Contains(wrong, w => w.Kind == PlanWarningKind.FanTooFast && w.Numbers[0] == 100);
        var right = Said(
            trial, family, Open with { Enclosure = "closed" },
            new() { ["fanPercent"] = f.FanPercent.Min!.Value, ["bridgeFanPercent"] = f.FanPercent.Min!.Value, ["brimWidthMm"] = 6 });
        Assert.DoesNotContain(right, w => w.Kind is PlanWarningKind.OpenPrinter or PlanWarningKind.FanTooFast);
        Assert.DoesNotContain(right, w => w.Kind == PlanWarningKind.CoolBed);
    }

    [Fact]
    public void A_family_that_shrinks_little_hears_nothing_and_a_bed_that_cannot_reach_it_says_so()
    {
        var settings = PrintSettings.From(new Dictionary<string, double>(), Open, Family.Find("PLA"));
        Assert.Empty(ShrinkCautions.Of(settings, Open, true));
        var cold = Open with { BedMaxC = 80 };
        var abs = PrintSettings.From(new Dictionary<string, double> { ["brimWidthMm"] = 5 }, cold, Family.Find("ABS")) with { BridgeFanPercent = 0 };
        Assert.Equal(80, Assert.Single(ShrinkCautions.Of(abs, cold with { Enclosure = "closed" }, true)).Numbers[2]);
    }

    [Fact]
    public void What_slows_a_column_is_said_with_its_speed_and_where_the_time_comes_from()
    {
        var trial = TrialCatalogue.Get("retraction-sweep");
        var said = Assert.Single(
            Said(trial, "PLA", Machines.Whimbrel, new() { ["minLayerTimeS"] = 14 }), w => w.Kind == PlanWarningKind.Slowed);
        Assert.Equal((14.0, "profile"), (said.Numbers[4], Assert.Single(said.Names)));
        Assert.True(said.Numbers is [var slowed, var all, var slowest, var fastest, _] && slowed <= all && 0 < slowest && slowest <= fastest);
        Assert.DoesNotContain(
            Said(trial, "PLA", Machines.Whimbrel, new() { ["minLayerTimeS"] = 1 }), w => w.Kind == PlanWarningKind.Slowed);
    }

    [Fact]
    public void What_a_trial_proposes_is_accepted_on_every_machine_for_every_family_that_it_suits()
    {
        var wrong = new List<string>();
        foreach (var m in new[] { Machines.Dunnock, Machines.Whimbrel, Machines.Ptarmigan, Machines.Ptarmigan with { NozzleDiameterMm = 0.8 } })
        {
            foreach (var (trial, f) in TrialCatalogue.All.SelectMany(t => Family.All.Where(f => t.Suits(f.Name)).Select(f => (t, f))))
            {
                var c = new PlanContext
                {
                    Machine = m, Settings = PrintSettings.From(new Dictionary<string, double>(), m, f), Family = f, AdvisedC = f.NozzleC, StepsPerMm = 400,
                };
                foreach (var mode in trial.Modes.Where(mode => mode != "own"))
                {
                    var planned = trial.Plan(trial.InMode(mode, trial.Propose(c), c), c);
                    var refused = string.Join("; ", planned.Errors.Select(e => $"{e.Field}: {e.Message}"));
                    if (planned.Plan is null)
                        wrong.Add($"{trial.Kind} {mode}, {f.Name} on {m.Name}, {m.NozzleDiameterMm} mm: {refused}");
                }
            }
        }

        Assert.Equal("", string.Join(Environment.NewLine, wrong));
    }

    [Theory]
    [InlineData("wall-flow", "sideMm")]
    [InlineData("quick-check", "wallMm")]
    [InlineData("temperature-tower", "pieceDepthMm")]
    [InlineData("retraction-sweep", "rows")]
    public void What_a_least_layer_time_slows_is_offered_larger_and_the_larger_one_prints_nearer_its_speeds(string kind, string field)
    {
        var trial = TrialCatalogue.Get(kind);
        var offered = 0;
        foreach (var m in new[] { Machines.Dunnock, Machines.Whimbrel, Machines.Ptarmigan })
        {
            foreach (var least in new[] { 1.0, 10, 14, 20 })
            {
                var kept = new Dictionary<string, double> { ["minLayerTimeS"] = least };
                var f = Family.Find("PLA")!;
                var c = new PlanContext { Memory = TestMemory.Shared, Machine = m, Settings = PrintSettings.From(kept, m, f), Family = f, AdvisedC = f.NozzleC, Kept = kept };
                (ITrialPlan Plan, double Speed, PrintSettings Settings) Made(PlanValues values)
                {
                    var planned = trial.Plan(values, c);
                    Assert.Empty(planned.Errors);
                    var (plan, job, errors) = trial.Make(planned.Plan!, c);
                    Assert.Empty(errors);
                    var speeds = job!.Layers.Select(l => l.SlowestMmPerS).OfType<double>().Order().ToList();
                    return (plan, speeds[speeds.Count / 2], job.Settings);
                }

                var proposal = trial.Propose(c);
                var (made, speed, settings) = Made(proposal);
                if (made.Offers.FirstOrDefault(o => o.Changes.ContainsKey(field) && o.Note!.EndsWith("the speeds in force", StringComparison.Ordinal)) is not { } larger)
                    continue;
                offered++;
                Assert.NotEqual(1, least);
                Assert.True(speed < settings.OuterWallSpeedMmPerS);
                var after = Made(proposal.With(larger.Changes)).Speed;
                Assert.True(
                    after > Math.Min(0.9 * settings.OuterWallSpeedMmPerS, 1.1 * speed),
                    $"{m.Name}, {least} s: {speed} mm/s before, {after} after {larger.Label}");
            }
        }

        Assert.True(offered > 0);
    }
}
