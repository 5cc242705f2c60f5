using System.Globalization;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.ExtruderFeed;
using Glenfrost.Core.Trials.FirstLayer;
using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Core.Trials.SurfaceFlow;
using Glenfrost.Core.Trials.WallFlow;
using Glenfrost.Simulation;
using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Simulation.Printer;
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
        public PlanContext Context { get; } = new() { Machine = Dunnock, Settings = PrintSettings.From(new Dictionary<string, double>(), Dunnock, Core.Filaments.Family.Find(Family)) with { FilamentDiameterMm = Math.Round(Material.DiameterMm, 2) }, Family = Core.Filaments.Family.Find(Family), AdvisedC = Core.Filaments.Family.Find(Family)!.NozzleC, StepsPerMm = 93 };

        public (ITrialPlan Plan, SimulatedPiece Piece, RunReadings Read) Print(Trial trial, int seed, params (string Field, decimal Value)[] changes)
        {
            var planned = trial.Plan(trial.Propose(Context).With(changes.ToDictionary(c => c.Field, c => c.Value)), Context);
            Assert.Empty(planned.Errors);
            var (plan, lines) = (planned.Plan!, trial.Lines(planned.Plan!, Context)?.ToArray());
            if (lines is null)
            {
                var (made, job, errors) = trial.Make(plan, Context);
                Assert.Empty(errors);
                var text = new StringWriter(CultureInfo.InvariantCulture);
                GcodeWriter.Write(job!, new("test", DateTime.UnixEpoch), text);
                (plan, lines) = (made, text.ToString().Split('\n'));
            }

            var spec = new PrinterSpec { Name = "Dunnock 180", BedXMm = 180, BedYMm = 180, HeightMm = 180, BedMaxC = 120, HeaterMaxC = 300, Factory = new() { StepsPerMm = 93, MaxX = 120, MaxY = 120, AccelerationX = 1200, AccelerationY = 1200, Print = 1000, Travel = 1200 } };
            var piece = new SimulatedPiece(new SimulatedBench(spec, Material, Machine, 1).Print(lines).Trace, Material, Machine, Chance.Hash($"hidden {seed}"));
            var states = trial.States(plan, new RunReadings(new Dictionary<(int, string), CellReading>()));
            return (plan, piece, new RunReadings(SimulatedTrial.Of(trial.Kind).Readings(piece, plan, states, Chance.Hash($"eyes {seed}")).ToDictionary(r => (r.Section, r.Aspect), r => r.Word is { } w ? new CellReading(null, w) : new CellReading(r.Shown.Value, "", r.Shown.Resolution))));
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
        Assert.InRange(piece.Look(5, 12).LineMm / (double)((WallPlanV1)again).Request.TargetWidthMm, 0.975, 1.025);
    }

    [Theory]
    [InlineData(1, 0.97)]
    [InlineData(3, 1.05)]
    public void A_strip_is_best_where_it_is_just_full(int seed, double feed)
    {
        var trial = new SurfaceFlowTrial();
        var (plan, piece, read) = Of(seed, "PLA", feed).Print(trial, seed, ("stepPercent", 4));
        var p = (SurfacePlanV1)plan;
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
        var (plan, piece, read) = bench.Print(trial, seed, ("nozzleOffsetMm", -0.05m), ("stepMm", 0.02m));
        var v = (FirstLayerVerdict)trial.Judge(plan, read, new());
        if (v.Verdict == "edge")
            Assert.True(Math.Abs(piece.Laws.BestOffsetMm + 0.05) > 0.03);
        else
            Assert.InRange(v.NewOffsetMm!.Value - piece.Laws.BestOffsetMm, -0.03, 0.03);
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
        var at = ((FoamingPlanV1)plan).Steps.ToList().FindIndex(s => (double)s.TemperatureC == v.ChosenTemperatureC);
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
        var planned = trial.Plan(values.With(new Dictionary<string, decimal> { ["nozzleTemperatureC"] = 245, ["mostMultiplier"] = 0.6m, ["leastMultiplier"] = 0.2m, ["multiplierStep"] = 0.2m }), c);
        var (made, job, _) = trial.Make(planned.Plan!, c);
        var text = new StringWriter(CultureInfo.InvariantCulture);
        GcodeWriter.Write(job!, new("test", DateTime.UnixEpoch), text);
        var piece = new SimulatedPiece(new SimulatedBench(new PrinterSpec { Name = "x", HeaterMaxC = 300 }, bench.Material, bench.Machine, 1).Print(text.ToString().Split('\n')).Trace, bench.Material, bench.Machine, 3);
        var read = SimulatedTrial.Of(trial.Kind).Readings(piece, made, [.. made.Parts.Select(_ => SectionState.Judged)], 1).ToList();
        Assert.Contains(read, r => r.Section == 2 && r.Word == "blobs");
        Assert.DoesNotContain(read, r => r.Section == 0 && r.Word == "blobs");
    }
}
