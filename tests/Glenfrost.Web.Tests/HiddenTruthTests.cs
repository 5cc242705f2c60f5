using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using System.Globalization;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.ExtruderFeed;
using Glenfrost.Core.Trials.FirstLayer;
using Glenfrost.Core.Trials.FlexCompression;
using Glenfrost.Core.Trials.FlowLimit;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Core.Trials.PressureAdvance;
using Glenfrost.Core.Trials.RetractionSweep;
using Glenfrost.Core.Trials.SurfaceFlow;
using Glenfrost.Core.Trials.Verification;
using Glenfrost.Core.Trials.WallFlow;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;
using Glenfrost.Application.Simulated;
using Glenfrost.Web.Simulated;

namespace Glenfrost.Web.Tests;

/// <summary>Files that Glenfrost wrote, printed and read on the bench that knows nothing of it: the verdict must find what is hidden.</summary>
public class HiddenTruthTests
{
    private static readonly Machine Dunnock = new()
    {
        Name = "Dunnock 180",
        Dialect = "m900",
        BedXMm = 180,
        BedYMm = 180,
        HeightMm = 180,
        BedMaxC = 90,
        MaxSpeedMmPerS = 120,
        MaxAccelerationMmPerS2 = 1200,
        Limits = HotendLimits.Of(HotendLiner.AllMetal, 280, null, null, null, 3, null),
    };

    private sealed record Bench(HiddenMachine Machine, HiddenMaterial Material, string Family)
    {
        public PlanContext Context { get; init; } =
            new()
            {
                Machine = Dunnock, Settings = PrintSettings.From(new Dictionary<string, double>(), Dunnock, Core.Filaments.Family.Find(Family)) with
                {
                    FilamentDiameterMm = Math.Round(Material.DiameterMm, 2),
                },
                Family = Core.Filaments.Family.Find(Family), AdvisedC = Core.Filaments.Family.Find(Family)!.NozzleC, StepsPerMm = 93,
            };

        public (ITrialPlan Plan, SimulatedPiece Piece, RunReadings Read) Print(Trial trial, int seed, params (string Field, decimal Value)[] changes) =>
            PrintValues(trial, seed, trial.Propose(Context).With(changes.ToDictionary(c => c.Field, c => c.Value)));

        public (ITrialPlan Plan, SimulatedPiece Piece, RunReadings Read) PrintValues(Trial trial, int seed, PlanValues values)
        {
            var planned = trial.Plan(values, Context);
            Assert.Empty(planned.Errors);
            var (plan, lines) = (planned.Plan!, trial.Lines(planned.Plan!, Context)?.Lines?.ToArray());
            if (lines is null)
            {
                var (made, job, errors) = trial.Make(plan, Context);
                Assert.Empty(errors);
                var text = new StringWriter(CultureInfo.InvariantCulture);
                GcodeWriter.Write(job!, new("test", DateTime.UnixEpoch), text);
                (plan, lines) = (made, text.ToString().Split('\n'));
            }

            var spec = new PrinterSpec
            {
                Name = "Dunnock 180", BedXMm = 180, BedYMm = 180, HeightMm = 180, BedMaxC = 120, HeaterMaxC = 300,
                Factory = new() { StepsPerMm = 93, MaxX = 120, MaxY = 120, AccelerationX = 1200, AccelerationY = 1200, Print = 1000, Travel = 1200 },
            };
            var piece = new SimulatedPiece(new SimulatedBench(spec, Material, Machine, 1).Print(lines).Trace, Material, Machine, Chance.Hash($"hidden {seed}"));
            var states = trial.States(plan, new RunReadings(new Dictionary<(int, string), CellReading>()));
            return (
                plan, piece,
                new RunReadings(
                    SimulatedTrial.Of(trial.Kind).Readings(piece, plan, states, Chance.Hash($"eyes {seed}"))
                        .ToDictionary(
                            r => (r.Section, r.Aspect),
                            r => r.Word is { } w ? new CellReading(null, w) : new CellReading(r.Shown.Value, "", r.Shown.Resolution))));
        }
    }

    private static Bench Of(int seed, string family = "PLA", double feed = 1) =>
        new(HiddenMachine.Draw(Chance.Hash($"machine {seed}")) with { FeedRatio = feed }, HiddenMaterial.Draw(family, Chance.Hash($"material {seed}")), family);

    [Theory]
    [InlineData(1, 0.965)]
    [InlineData(2, 1.04)]
    public void The_feed_that_is_hidden_is_found_and_a_value_set_by_the_file_feeds_right(int seed, double feed)
    {
        var trial = new ExtruderFeedTrial();
        var bench = Of(seed, "PLA", feed);
        var (plan, _, read) = bench.Print(trial, seed);
        var v = (FeedVerdict)trial.Judge(plan, read, new());
        Assert.Equal("adjust", v.Verdict);
        // Free air loses a little of what the gear moves.
        Assert.InRange(v.NewStepsPerMm!.Value * feed / 93, 0.99, 1.02);
        // The check run's own file sets it on the printer.
        var (checkPlan, _, checkRead) = bench.Print(trial, seed + 10, ("stepsPerMm", (decimal)v.NewStepsPerMm.Value));
        Assert.Equal("within-tolerance", trial.Judge(checkPlan, checkRead, new()).Verdict);
    }

    [Theory]
    [InlineData(1, 0.95)]
    [InlineData(2, 1.05)]
    public void A_walls_multiplier_gives_the_width_that_is_meant(int seed, double feed)
    {
        var trial = new WallFlowTrial();
        var bench = Of(seed, "PLA", feed);
        var (plan, _, read) = bench.Print(trial, seed);
        var v = (WallVerdict)trial.Judge(plan, read, new());
        Assert.Equal("adjust", v.Verdict);
        var (again, piece, _) = bench.Print(trial, seed, ("extrusionMultiplier", (decimal)v.NewExtrusionMultiplier!.Value));
        Assert.InRange(piece.Look(5, 12).LineMm / (double)((WallPlan)again).Request.TargetWidthMm, 0.975, 1.025);
    }

    [Theory]
    [InlineData(1, 0.97)]
    [InlineData(3, 1.05)]
    public void A_strip_is_best_where_it_is_just_full(int seed, double feed)
    {
        var trial = new SurfaceFlowTrial();
        var (plan, piece, read) = Of(seed, "PLA", feed).Print(trial, seed, ("stepPercent", 4));
        var p = (SurfacePlan)plan;
        var step = (double)p.Request.StepMm;
        var full = Enumerable.Range(0, p.ChangesPercent.Count).Select(i => piece.FillOf(i * step + 2, (i + 1) * step - 2)!.Value).ToList();
        // The plastic in each step is what its number says.
        Assert.All(full.Select((f, i) => f / full[3] / (1 + (double)p.ChangesPercent[i] / 100)), r => Assert.InRange(r, 0.98, 1.02));
        var v = (SurfaceVerdict)trial.Judge(plan, read, new());
        Assert.InRange(v.ChangePercent!.Value + 100 * (full[3] - 1), -4, 4);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public void The_offset_that_lays_best_is_found(int seed)
    {
        var trial = new FirstLayerTrial();
        var bench = Of(seed);
        bench = bench with { Machine = bench.Machine with { TiltXMm = 0, TiltYMm = 0 } };
        var best = bench.Print(trial, seed, ("nozzleOffsetMm", -0.05m), ("stepMm", 0.02m)).Piece.Laws.BestOffsetMm;
        FirstLayerVerdict At(double start)
        {
            var (plan, _, read) = bench.Print(trial, seed, ("nozzleOffsetMm", Math.Round((decimal)start, 2)), ("stepMm", 0.02m));
            return (FirstLayerVerdict)trial.Judge(plan, read, new());
        }

        // A row around it finds it. From farther away it comes as near, or it advises nothing: never a wrong value.
        var v = At(best + 0.01);
        Assert.True(v.Advised, v.Verdict);
        Assert.InRange(v.NewOffsetMm!.Value - best, -0.03, 0.03);
        foreach (var off in new[] { -0.12, -0.09, -0.06, -0.03, 0.03, 0.06, 0.09, 0.12 })
        {
            if (At(best + off) is { Advised: true } far)
                Assert.True(Math.Abs(far.NewOffsetMm!.Value - best) <= 0.06, $"from {off}: {far.NewOffsetMm} where {best} is best ({far.Verdict})");
        }
    }

    [Fact]
    public void A_bed_that_is_not_parallel_shows_in_its_corners()
    {
        var trial = new FirstLayerTrial();
        var bench = Of(1);
        bench = bench with { Machine = bench.Machine with { TiltXMm = 0.06, TiltYMm = 0, OffsetMm = -0.05 } };
        var (plan, _, read) = bench.Print(trial, 4, ("nozzleOffsetMm", -0.05m));
        var v = (FirstLayerVerdict)trial.Judge(plan, read, new());
        double Tilt(string side) => v.Corners.Where(c => c.Place.EndsWith(side, StringComparison.Ordinal)).Average(c => c.TiltMm) ?? 0;
        Assert.True(Math.Abs(Tilt("right") - Tilt("left")) > 0.04, $"{Tilt("left")} and {Tilt("right")}");
    }

    [Theory]
    [InlineData(1)]
    [InlineData(5)]
    public void Foam_is_printed_where_it_is_greatest_or_cooler_and_its_expansion_is_what_it_is(int seed)
    {
        var trial = new FoamingFlowTrial();
        var bench = Of(seed, "foaming PLA");
        var (plan, piece, read) = bench.Print(trial, seed, ("hottestC", 270), ("coolestC", 210), ("stepC", 10));
        var v = (FoamVerdict)trial.Judge(plan, read, new() { Limits = Dunnock.Limits });
        var truth = plan.Parts.Select(p => piece.Look(p.FromZMm!.Value + 3, p.ToZMm!.Value).Expansion).ToList();
        Assert.Equal("suggest", v.Verdict);
        var at = ((FoamingPlan)plan).Steps.ToList().FindIndex(s => (double)s.TemperatureC == v.ChosenTemperatureC);
        Assert.True(truth[at] > 0.92 * truth.Max());
        Assert.InRange(v.Expansion.First(e => e.TemperatureC == v.ChosenTemperatureC).Expansion!.Value / truth[at], 0.94, 1.06);
    }

    [Fact]
    public void Walls_printed_with_too_little_tear_and_are_read_as_blobs()
    {
        var trial = new FoamingFlowTrial();
        var bench = Of(1, "foaming PLA");
        var values = trial.Propose(bench.Context);
        values["mode"] = FoamingFlowTrial.MultiplierMode;
        var c = bench.Context;
        var planned = trial.Plan(
            values.With(
                new Dictionary<string, decimal>
                {
                    ["nozzleTemperatureC"] = 245, ["mostMultiplier"] = 0.6m, ["leastMultiplier"] = 0.2m, ["multiplierStep"] = 0.2m,
                }),
            c);
        var (made, job, _) = trial.Make(planned.Plan!, c);
        var text = new StringWriter(CultureInfo.InvariantCulture);
        GcodeWriter.Write(job!, new("test", DateTime.UnixEpoch), text);
        var piece = new SimulatedPiece(
            new SimulatedBench(new PrinterSpec { Name = "x", HeaterMaxC = 300 }, bench.Material, bench.Machine, 1).Print(text.ToString().Split('\n')).Trace,
            bench.Material, bench.Machine, 3);
        var read = SimulatedTrial.Of(trial.Kind).Readings(piece, made, [.. made.Parts.Select(_ => SectionState.Judged)], 1).ToList();
        Assert.Contains(read, r => r.Section == 2 && r.Word == "blobs");
        Assert.DoesNotContain(read, r => r.Section == 0 && r.Word == "blobs");
    }

    public static TheoryData<string, string, Dictionary<string, decimal>> MovedByAnOverride => new()
    {
        { WallFlowTrial.Word, "PLA", [] },
        { SurfaceFlowTrial.Word, "PLA", new() { ["stepPercent"] = 4 } },
        {
            FoamingFlowTrial.Word, "foaming PLA",
            new() { ["nozzleTemperatureC"] = 245, ["mostMultiplier"] = 0.8m, ["leastMultiplier"] = 0.6m, ["multiplierStep"] = 0.1m }
        },
        {
            FlowStepsTrial.Word, "PLA",
            new()
            {
                ["startSpeedMmPerS"] = 30, ["increasePercent"] = 0, ["increaseMmPerS"] = 5, ["steps"] = 18, ["layerHeightMm"] = 0.3m, ["lineWidthMm"] = 0.6m,
            }
        },
        {
            FlowRisingTrial.Word, "PLA",
            new() { ["startFlowMm3PerS"] = 4, ["topFlowMm3PerS"] = 20, ["layerHeightMm"] = 0.3m, ["lineWidthMm"] = 0.6m }
        },
        {
            FlowWeighedTrial.Word, "PLA",
            new() { ["startFlowMm3PerS"] = 3, ["stepMm3PerS"] = 1.5m, ["samples"] = 14, ["scaleResolutionG"] = 0.001m }
        },
    };

    [Theory]
    [MemberData(nameof(MovedByAnOverride))]
    public void What_is_found_under_a_flow_override_is_reckoned_for_real_prints_with_it_or_without(
        string kind, string family, Dictionary<string, decimal> changes)
    {
        var trial = Core.Trials.TrialCatalogue.Get(kind);
        var clean = Of(1, family);
        var left = clean with { Context = clean.Context with { Machine = Dunnock with { StartCode = "M221 S94" } } };
        (double Value, TrialVerdict Verdict) Found(Bench bench, string answer)
        {
            var values = trial.Propose(bench.Context).With(changes);
            values[FlowOverride.Answer] = answer;
            if (kind == FoamingFlowTrial.Word)
                values["mode"] = FoamingFlowTrial.MultiplierMode;
            var (plan, _, read) = bench.PrintValues(trial, 1, values);
            var v = trial.Judge(plan, read, new() { Limits = Dunnock.Limits });
            return (v.Settings.First(s => s.Key == trial.Settles[0]).Value, v);
        }

        var (truth, goes, stays) = (Found(clean, ""), Found(left, FlowOverride.Goes), Found(left, FlowOverride.Stays));
        Assert.InRange(goes.Value / truth.Value, 0.96, 1.04);
        Assert.InRange(stays.Value * 0.94 / goes.Value, 0.985, 1.015);
        // The next print is proposed as its file counts, in which the override is still in force.
        foreach (var (field, at) in goes.Verdict.Next?.Values ?? new Dictionary<string, decimal>())
        {
            if (stays.Verdict.Next?.Values?.TryGetValue(field, out var same) == true && same != 0)
                Assert.InRange((double)(at / same), 0.9, 1.1);
        }
    }

    /// <summary>Flow at which a share of the plastic is missing, by the laws that nobody at the bench knows.</summary>
    private static double FlowAt(Bench bench, double displayC, double lost, bool free) =>
        Enumerable.Range(10, 500).Select(i => i * 0.1).First(q => new Laws(bench.Material, bench.Machine).Loss(q, displayC, free: free) >= lost);

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void Weighed_samples_find_the_flow_at_which_that_much_is_lost(int seed)
    {
        var (trial, bench) = (new FlowWeighedTrial(), Of(seed));
        var (plan, _, read) = bench.Print(trial, seed, ("startFlowMm3PerS", 3), ("stepMm3PerS", 1.5m), ("samples", 14), ("scaleResolutionG", 0.001m));
        var v = (WeighedFlowVerdict)trial.Judge(plan, read, new());
        Assert.Equal("limit", v.Verdict);
        var at = plan.HottestC;
        // Against what comes at the slowest flow, which loses a little too.
        var truth = FlowAt(bench, at, 0.05 + new Laws(bench.Material, bench.Machine).Loss(3, at, free: true), true);
        Assert.InRange(v.RecommendLossFlowMm3PerS!.Value / truth, 0.95, 1.05);
        Assert.True(v.RecommendedFlowMm3PerS < truth);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public void A_spiral_fails_where_plastic_is_missing_and_a_stepped_tube_brackets_it(int seed)
    {
        var bench = Of(seed);
        var rising = new FlowRisingTrial();
        var (plan, _, read) = bench.Print(rising, seed, ("startFlowMm3PerS", 4), ("topFlowMm3PerS", 20), ("layerHeightMm", 0.3m), ("lineWidthMm", 0.6m));
        var v = (RisingFlowVerdict)rising.Judge(plan, read, new());
        Assert.Equal("limit", v.Verdict);
        // Where a wall is seen to be thin: at about a twelfth.
        var truth = FlowAt(bench, plan.HottestC, 0.08, false);
        Assert.InRange(v.LimitFlowMm3PerS!.Value / truth, 0.9, 1.1);
        var steps = new FlowStepsTrial();
        var (stepPlan, _, stepRead) = bench.Print(
            steps, seed, ("startSpeedMmPerS", 30), ("increasePercent", 0), ("increaseMmPerS", 10), ("steps", 9), ("layerHeightMm", 0.3m), ("lineWidthMm", 0.6m)
        );
        var s = (SteppedFlowVerdict)steps.Judge(stepPlan, stepRead, new());
        Assert.Equal("limit", s.Verdict);
        Assert.InRange(truth, 0.93 * s.Bracket!.From, 1.07 * s.Bracket.To);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public void The_pressure_advance_that_is_hidden_is_found_and_a_row_without_changes_shows_none(int seed)
    {
        var (trial, bench) = (new PressureTrial(), Of(seed));
        var (plan, piece, read) = bench.Print(trial, seed);
        Assert.Equal(((PressurePlan)plan).Ks.Count, piece.Trace.Pressure.Count);
        var v = (PressureVerdict)trial.Judge(plan, read, new());
        Assert.InRange(v.K!.Value, bench.Machine.PressureAdvanceS - 0.012, bench.Machine.PressureAdvanceS + 0.012);
        // A file that never sets it: nothing is told apart.
        var lines = trial.Lines(plan, bench.Context)!.Value.Lines!.Where(l => !l.StartsWith("M900", StringComparison.Ordinal)).ToList();
        var spec = new PrinterSpec { Name = "x", BedXMm = 180, BedYMm = 180, HeightMm = 180, HeaterMaxC = 300 };
        Assert.Empty(new SimulatedBench(spec, bench.Material, bench.Machine, 1).Print(lines).Trace.Pressure);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(4)]
    public void The_retraction_that_is_found_strings_hardly_more_than_the_best(int seed)
    {
        var (trial, bench) = (new RetractionTrial(), Of(seed));
        var values = trial.Propose(bench.Context);
        values["readBy"] = "counts";
        var (plan, piece, read) = bench.PrintValues(trial, seed, values);
        var v = (RetractionVerdict)trial.Judge(plan, read, new());
        double Expected(int i) => piece.StringsIn(plan.Parts[i].FromZMm!.Value, plan.Parts[i].ToZMm!.Value, 2, 90).Expected;
        // What the file did is what the trace shows: more retraction, fewer strings.
        Assert.True(Expected(0) > 2 * Expected(plan.Parts.Count - 1));
        Assert.NotNull(v.Value);
        var at = ((RetractionPlan)plan).Values.ToList().FindIndex(x => (double)x == v.Value);
        Assert.True(Expected(at) < 0.5 * Expected(0), $"{v.Value}: {Expected(at)} of {Expected(0)}");
    }

    [Fact]
    public void A_damp_spool_shows_in_a_pair_and_a_dry_one_does_not()
    {
        var trial = new RetractionTrial();
        RetractionVerdict At(double moisture)
        {
            var bench = Of(2, "TPU") is var b ? b with { Material = b.Material with { Moisture = moisture } } : null!;
            var values = trial.InMode(RetractionTrial.Dried, trial.Propose(bench.Context), bench.Context);
            values["readBy"] = "counts";
            values["repeats"] = 4m;
            var (plan, _, read) = bench.PrintValues(trial, 5, values);
            return (RetractionVerdict)trial.Judge(plan, read, new());
        }

        Assert.Equal("helps", At(0.9).Verdict);
        Assert.NotEqual("helps", At(0.02).Verdict);
    }

    [Fact]
    public void Soft_filament_packs_as_much_as_it_does_and_stiff_filament_not_at_all()
    {
        var trial = new FlexTrial();
        var soft = Of(3, "TPU");
        var (plan, _, read) = soft.Print(trial, 3, ("pieces", 6), ("resolutionMm", 0.01m));
        var v = (FlexVerdict)trial.Judge(plan, read, new());
        Assert.Equal("compression", v.Verdict);
        Assert.InRange(
            new Laws(soft.Material, soft.Machine).CompressionMm(40), v.CompressionMm!.Value - 1.5 * v.UncertaintyMm!.Value,
            v.CompressionMm.Value + 1.5 * v.UncertaintyMm.Value);
        var (stiffPlan, _, stiffRead) = Of(3).Print(trial, 3);
        Assert.Equal("no-compression", trial.Judge(stiffPlan, stiffRead, new()).Verdict);
    }

    [Fact]
    public void A_vane_shows_what_its_zones_are_there_for_and_a_clip_what_its_lines_are()
    {
        var trial = new VerificationTrial();
        (double House, double All) Vane(int seed, double retractionMm, decimal hotter)
        {
            var b = Of(seed);
            b = b with { Context = b.Context with { Settings = b.Context.Settings! with { RetractionLengthMm = retractionMm } } };
            var at = trial.Propose(b.Context).Number("nozzleTemperatureC")!.Value;
            var (plan, _, read) = b.Print(trial, seed, ("nozzleTemperatureC", at + hotter));
            var scores = ((ITrialPlan)plan).Parts.Select(p => read.Value(p.Index, PartTrial.Score) ?? 0).ToList();
            return (scores[1], scores.Sum());
        }

        int[] seeds = [1, 2, 3, 4];
        // Without retraction the house is strung; forty degrees too hot, everything droops.
        Assert.True(seeds.Sum(s => Vane(s, 0, 0).House) < seeds.Sum(s => Vane(s, 3, 0).House));
        Assert.True(seeds.Sum(s => Vane(s, 3, 40).All) < seeds.Sum(s => Vane(s, 3, 0).All) - seeds.Length);
        double Bore(int seed, double multiplier)
        {
            var b = Of(seed);
            b = b with { Context = b.Context with { Settings = b.Context.Settings! with { ExtrusionMultiplier = multiplier } } };
            var values = trial.InMode(VerificationTrial.Clip, trial.Propose(b.Context), b.Context);
            var (plan, _, read) = b.PrintValues(trial, seed, values);
            return ((VerificationVerdict)trial.Judge(plan, read, new())).BoreOffMm!.Value;
        }

        // A fifth more plastic makes lines wider by about as much, and the bore narrower by about one line's share of it.
        Assert.All(seeds, s => Assert.InRange(Bore(s, 1) - Bore(s, 1.2), 0.04, 0.14));
    }
}
