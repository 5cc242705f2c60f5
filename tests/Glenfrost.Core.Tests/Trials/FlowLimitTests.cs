using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;

namespace Glenfrost.Core.Tests.Trials;

public class FlowLimitTests
{
    private static readonly StepsReadings Steps = new()
    {
        StartSpeedMmPerS = 40, IncreasePercent = 25, LastGoodStep = 4, LayerHeightMm = 0.2, LineWidthMm = 0.45,
    };

    [Fact]
    public void Stepped_speed_worked_by_hand()
    {
        // 40 × (1 + 4 × 0.25) = 80 mm/s; × 0.2 × 0.45 = 7.2 mm³/s; next 90 mm/s = 8.1; less 10 %: 6.48, down to 6.4.
        var v = StepsJudging.Judge(Steps);
        Assert.Equal("limit", v.Verdict);
        Assert.Equal(80, v.LastGoodSpeedMmPerS);
        Assert.Equal(7.2, v.FlowMm3PerS!.Value, 9);
        Assert.Equal(new FlowBracket(7.2, 8.1), v.Bracket);
        Assert.Equal(6.4, v.RecommendedFlowMm3PerS);
        Assert.Equal("maxVolumetricFlowMm3PerS", Assert.Single(v.Settings).Key);
        Assert.Equal(FlowWeighedTrial.Word, v.Next!.Trial);
        // Compounding: 40 × 1.25⁴ = 97.65625 mm/s. In mm/s: 40 + 4 × 15 = 100.
        Assert.Equal(97.65625, StepsJudging.Judge(Steps with { Compounding = true }).LastGoodSpeedMmPerS!.Value, 1e-4);
        Assert.Equal(100, StepsJudging.Judge(Steps with { IncreasePercent = null, IncreaseMmPerS = 15 }).LastGoodSpeedMmPerS);
        // Half-round ends: (0.45 − 0.2) × 0.2 + π × 0.01 = 0.0814159 mm²; × 80 = 6.5133.
        Assert.Equal(6.5133, StepsJudging.Judge(Steps with { Area = "stadium" }).FlowMm3PerS!.Value, 4);
    }

    [Fact]
    public void What_was_not_reached_and_what_never_came_are_no_limits()
    {
        var all = StepsJudging.Judge(Steps with { Steps = 5 });
        Assert.Equal(("not-reached", false, (double?)null), (all.Verdict, all.Advised, all.RecommendedFlowMm3PerS));
        Assert.Empty(all.Settings);
        Assert.Equal(80, all.Next!.Values!["startSpeedMmPerS"]);
        var none = StepsJudging.Judge(Steps with { LastGoodStep = -1 });
        Assert.Equal("none-good", none.Verdict);
        Assert.Equal(20, none.Next!.Values!["startSpeedMmPerS"]);
    }

    [Fact]
    public void A_rising_spiral_worked_by_hand()
    {
        // 4 + 0.3 × 31.5 = 13.45 ± 0.15; less 10 %: 12.105, down to 12.1.
        var v = RisingJudging.Judge(new() { StartFlowMm3PerS = 4, FlowPerMm = 0.3, FailHeightMm = 31.5, HeightUncertaintyMm = 0.5, TopHeightMm = 40 });
        Assert.Equal("limit", v.Verdict);
        Assert.Equal(13.45, v.LimitFlowMm3PerS!.Value, 9);
        Assert.Equal(0.15, v.UncertaintyMm3PerS!.Value, 9);
        Assert.Equal(12.1, v.RecommendedFlowMm3PerS);
        var top = RisingJudging.Judge(new() { StartFlowMm3PerS = 4, FlowPerMm = 0.3, TopHeightMm = 40 });
        Assert.Equal(("not-reached", 16.0), (top.Verdict, top.TopFlowMm3PerS));
        Assert.Equal(12, top.Next!.Values!["startFlowMm3PerS"]);
        Assert.Equal("none-good", RisingJudging.Judge(new() { FailHeightMm = 0.3 }).Verdict);
        Assert.Contains(RisingJudging.Check(new() { FailHeightMm = 41, TopHeightMm = 40 }), e =>
            e.Field == "failHeightMm" && e.Message.Contains("not from the bed"));
    }

    /// <summary>Masses of a curve: full up to the knee, then losing some per cent for each step.</summary>
    private static List<IReadOnlyList<double>> Curve(double full, params double[] losses) =>
        [.. losses.Select(l => (IReadOnlyList<double>)[full * (1 - l / 100)])];

    private static readonly WeighedReadings Weighed = new()
    {
        StartFlowMm3PerS = 4, StepMm3PerS = 2, MassesG = Curve(0.9, 0, 0, 0, 0, 2, 6, 12, 20), ScaleResolutionG = 0.0001,
    };

    [Fact]
    public void Weighed_samples_worked_by_hand()
    {
        // Flows 4 … 18. Full up to 10; 5 % lies between 12 (2 %) and 14 (6 %): 12 + 2 × 3/4 = 13.5; 10 % between 14 and 16: 14 + 2 × 4/6 = 15.333. Less 12 %:
        // 11.88, down to 11.8.
        var v = WeighedJudging.Judge(Weighed);
        Assert.Equal("limit", v.Verdict);
        Assert.Equal(0.9, v.FullMassG!.Value, 6);
        Assert.Equal(10, v.OnsetFlowMm3PerS);
        Assert.Equal(13.5, v.RecommendLossFlowMm3PerS!.Value, 6);
        Assert.Equal(15.3333, v.LimitFlowMm3PerS!.Value, 3);
        Assert.Equal(11.8, v.RecommendedFlowMm3PerS);
        Assert.Equal([0, 0, 0, 0, 2, 6, 12, 20], v.LossPercent.Select(l => Math.Round(l!.Value, 6)));
        Assert.InRange(13.5, v.RecommendInterval!.From, v.RecommendInterval.To);
        Assert.True(v.ScaleAdequate);
        Assert.Equal(WeighedJudging.Judge(Weighed).RecommendInterval, v.RecommendInterval);
    }

    [Fact]
    public void A_scale_is_adequate_or_the_samples_must_be_longer()
    {
        // ± 1.96 · √2 · 0.01 ÷ √12 ÷ m = ± 0.8002 points · g ÷ m: one point needs 0.80 g, 268.3 mm of 1.75 at 1.24; in tens, 270.
        Assert.Equal(0.8002, WeighedJudging.LossUncertainty(0.01, 100) * 100, 3);
        Assert.Equal(270, WeighedJudging.NeededLengthMm(0.01, 1.75, 1.24));
        Assert.Equal(30, WeighedJudging.NeededLengthMm(0.001, 1.75, 1.24));
        Assert.Equal(0.29825, WeighedJudging.MassG(100, 1.75, 1.24), 1e-5);
        var coarse = WeighedJudging.Judge(Weighed with { ScaleResolutionG = 0.05, ExtrudedLengthMm = 300, FilamentDiameterMm = 1.75, DensityGPerCm3 = 1.24 });
        Assert.False(coarse.ScaleAdequate);
        Assert.False(coarse.Advised);
        Assert.True(coarse.NeededLengthMm > 1200);
        Assert.False(coarse.ScaleAdequate);
        // The control is checked against absolute mass: 300 mm should weigh 0.8948 g.
        Assert.Equal(0.8948, coarse.ExpectedMassG!.Value, 3);
        Assert.True(WeighedJudging.Judge(Weighed with { ExtrudedLengthMm = 300, FilamentDiameterMm = 1.75, DensityGPerCm3 = 1.24 }).Numbers!.AsPlanned);
        Assert.False(WeighedJudging.Judge(Weighed with { ExtrudedLengthMm = 250, FilamentDiameterMm = 1.75, DensityGPerCm3 = 1.24 }).Numbers!.AsPlanned);
    }

    private static readonly Gen<decimal> Steps4 = Gen.Int[0, 3].Select(i => new[] { 0.001m, 0.005m, 0.01m, 0.02m }[i]);

    /// <summary>The same scale, length and filament are judged alike before and after, whatever the samples weigh within what filament scatters.</summary>
    [Fact]
    public void Plan_and_verdict_judge_a_scale_by_the_same_number() =>
        Gen.Select(Steps4, Gen.Int[10, 60], Gen.Double[0.975, 1.025]).Sample((step, tens, weighs) =>
        {
            var (trial, c) = (new FlowWeighedTrial(), Context(Machines.Dunnock));
            var plan = (WeighedPlan)trial
                .Plan(trial.Propose(c).With(new Dictionary<string, decimal> { ["scaleResolutionG"] = step, ["extrudedLengthMm"] = tens * 10 }), c).Plan!;
            var whole = plan.ExpectedMassG * weighs;
            var cells = plan.FlowsMm3PerS.Select((_, i) => (i, G: Math.Round(whole * (i < 6 ? 1 : 1 - 0.03 * (i - 5)), 4)))
                .ToDictionary(x => (x.i, FlowWeighedTrial.Mass + "1"), x => new CellReading(x.G, "", (double)step));
            var v = (WeighedFlowVerdict)trial.Judge(plan, new(cells), new());
            Assert.Equal((plan.ScaleAdequate, plan.LossUncertaintyPoints, plan.NeededLengthMm), (v.ScaleAdequate, v.LossUncertaintyPoints, v.NeededLengthMm));
        });

    [Fact]
    public void The_margin_is_the_same_on_the_page_and_in_the_api()
    {
        Assert.Equal(12, new WeighedRequest().MarginPercent);
        Assert.Equal(12, new WeighedReadings().MarginPercent);
        Assert.Equal(12, new FlowWeighedTrial().Propose(Context(Machines.Dunnock)).To<WeighedRequest>().MarginPercent);
    }

    [Fact]
    public void A_tangle_is_kept_and_left_out_with_its_reason()
    {
        var masses = Weighed.MassesG.ToList();
        masses[2] = [0.4];
        var dipped = WeighedJudging.Judge(Weighed with { MassesG = masses });
        Assert.Equal([8], dipped.Numbers!.DipsMm3PerS);
        var v = WeighedJudging.Judge(Weighed with { MassesG = masses, Failed = new Dictionary<int, string> { [2] = "tangle" } });
        Assert.Null(v.LossPercent[2]);
        Assert.Equal("tangle", v.From.Failed[2]);
        Assert.Equal(13.5, v.RecommendLossFlowMm3PerS!.Value, 6);
    }

    [Fact]
    public void No_loss_is_not_reached_few_samples_say_nothing_and_clicking_ends_it()
    {
        Assert.Equal("not-reached", WeighedJudging.Judge(Weighed with { MassesG = Curve(0.9, 0, 0, 0, 1, 2, 3) }).Verdict);
        Assert.Equal("insufficient", WeighedJudging.Judge(Weighed with { MassesG = [[0.9], [], [], [0.9], [0.9]] }).Verdict);
        // It clicked at 12 mm³/s: nothing above 10 is proposed; 10 less 12 % is 8.8.
        Assert.Equal(8.8, WeighedJudging.Judge(Weighed with { ClickedAt = 4 }).RecommendedFlowMm3PerS);
    }

    [Fact]
    public void The_fitted_loss_never_falls_and_scale_of_mass_changes_nothing() =>
        Gen.Select(Gen.Double[0.2, 2], Gen.Double[-0.02, 0.02].Array[8])
            .Sample(
                (full, noise) =>
                {
                    var masses = new double[] { 0, 0, 0, 1, 4, 9, 15, 22 }.Select((l, i) => (IReadOnlyList<double>)[full * (1 - l / 100) * (1 + noise[i])])
                        .ToList();
                    var v = WeighedJudging.Judge(Weighed with { MassesG = masses, ScaleResolutionG = 0.001 * full });
                    var fitted = v.FittedLossPercent.Select(f => f!.Value).ToList();
                    Assert.True(fitted.Zip(fitted.Skip(1)).All(p => p.Second >= p.First - 1e-9));
                    Assert.All(fitted, f => Assert.InRange(f, 0, 100));
                    if (v.RecommendLossFlowMm3PerS is { } r && v.LimitFlowMm3PerS is { } l)
                        Assert.True(r <= l && v.OnsetFlowMm3PerS <= r);
                    var doubled = WeighedJudging.Judge(
                        Weighed with
                        {
                            MassesG = [.. masses.Select(m => (IReadOnlyList<double>)[m[0] * 2])],
                            ScaleResolutionG = 0.002 * full,
                        });
                    Assert.Equal(v.RecommendLossFlowMm3PerS ?? 0, doubled.RecommendLossFlowMm3PerS ?? 0, 1e-6);
                },
                iter: 60);

    [Fact]
    public void Limits_and_speeds_round_down() => Gen.Select(Gen.Double[0.5, 60], Gen.Double[0, 30]).Sample((flow, margin) =>
    {
        var r = Flows.Recommended(flow, margin);
        Assert.True(r <= flow * (1 - margin / 100) + 1e-6 && r > flow * (1 - margin / 100) - 0.1 - 1e-6);
        foreach (var area in Flows.Areas)
        {
            var t = Flows.Table(flow, area, 0.4);
            for (var i = 0; i < t.Rows.Count; i++)
            {
                for (var k = 0; k < t.LineWidthsMm.Count; k++)
                    Assert.True(t.Rows[i].SpeedsMmPerS[k] * Flows.AreaMm2(area, t.LineWidthsMm[k], t.Rows[i].LayerHeightMm) <= flow + 1e-6);
            }
        }
    }, iter: 200);

    [Fact]
    public void The_table_worked_by_hand()
    {
        // 12.8 ÷ (0.44 × 0.2) = 145.45; ÷ ((0.44 − 0.2) × 0.2 + π × 0.01) = 12.8 ÷ 0.0794159 = 161.18.
        Assert.Equal(145, Flows.Table(12.8, "rectangular", 0.4).Rows[2].SpeedsMmPerS[2]);
        Assert.Equal(161, Flows.Table(12.8, "stadium", 0.4).Rows[2].SpeedsMmPerS[2]);
        // 12.8 mm³/s through 1.75 filament: ÷ 2.40528 = 5.3216 mm/s.
        Assert.Equal(5.3216, Flows.FeedMmPerS(12.8, 1.75), 3);
    }

    private static PlanContext Context(Machine m) =>
        new()
        {
            Machine = m, Settings = Machines.Settings(m) with { ExtrusionMultiplier = 1 }, Family = Filaments.Family.Find("PLA"), AdvisedC = new(190, 220),
        };

    public static TheoryData<string> Names => ["Dunnock 180", "Whimbrel 300", "Ptarmigan 350 right"];

    private static Machine Of(string name) => new[] { Machines.Dunnock, Machines.Whimbrel, Machines.Ptarmigan }.First(m => m.Name == name);

    [Theory]
    [MemberData(nameof(Names))]
    public void The_written_tube_steps_at_its_heights_and_holds_its_flow(string name)
    {
        var (m, trial) = (Of(name), new FlowStepsTrial());
        var c = Context(m);
        var planned = trial.Plan(trial.Propose(c), c);
        Assert.Empty(planned.Errors);
        var plan = (StepsPlan)planned.Plan!;
        var text = string.Join('\n', trial.Lines(plan, c)!.Value.Lines!);
        Assert.Empty(GcodeGuard.Check(new StringReader(text), m));
        var file = new PrintedFile(text);
        Assert.DoesNotContain(file.Unknown, u => u.StartsWith('G'));
        var area = c.Settings!.FilamentAreaMm2;
        foreach (var part in ((ITrialPlan)plan).Parts)
        {
            var moves = file.Print.Where(s => s.Fed > 0 && s.Moves && s.Layer >= part.FirstLayer && s.Layer <= part.LastLayer).ToList();
            Assert.Equal(72 * (part.LastLayer - part.FirstLayer + 1), moves.Count);
            // Flow of each move as the file asks it: fed × area ÷ (length ÷ speed), speeds in whole mm/min.
            Assert.All(moves, s =>
                Assert.Equal(
                    plan.FlowsMm3PerS[part.Index], s.Fed * area / (Math.Sqrt(s.Length * s.Length + (s.Z - s.Z0) * (s.Z - s.Z0)) / (s.MmPerMin / 60)),
                    0.02 * plan.FlowsMm3PerS[part.Index]));
            Assert.True(moves[0].Z0 >= part.FromZMm!.Value - 1e-3 && moves[^1].Z <= part.ToZMm!.Value + 1e-3);
        }

        Assert.DoesNotContain(file.Lines, l => l.Contains("M221", StringComparison.Ordinal) || l.Contains("M220", StringComparison.Ordinal));
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void The_written_spirals_flow_rises_with_its_height(string name)
    {
        var (m, trial) = (Of(name), new FlowRisingTrial());
        var c = Context(m);
        var plan = (RisingPlan)trial.Plan(trial.Propose(c), c).Plan!;
        var text = string.Join('\n', trial.Lines(plan, c)!.Value.Lines!);
        Assert.Empty(GcodeGuard.Check(new StringReader(text), m));
        var base_ = TubeShape.BaseLayers * (double)plan.Request.LayerHeightMm;
        var moves = new PrintedFile(text).Print.Where(s => s.Fed > 0 && s.Moves && s.Z > s.Z0).ToList();
        Assert.Equal(72 * plan.Request.Turns, moves.Count);
        Assert.All(moves, s =>
            Assert.Equal(
                plan.FlowAt((s.Z + s.Z0) / 2 - base_),
                s.Fed * c.Settings!.FilamentAreaMm2 / (Math.Sqrt(s.Length * s.Length + (s.Z - s.Z0) * (s.Z - s.Z0)) / (s.MmPerMin / 60)),
                0.02 * plan.FlowAt(plan.TopHeightMm)));
        // An inspector that knows nothing of it sees a spiral with that flow at its top.
        var facts = Inspector.Inspect(
            new MemoryStream(System.Text.Encoding.ASCII.GetBytes(text)),
            new() { Motion = Glenfrost.Core.Gcode.Motion.MotionLimits.Of(m.MaxSpeedMmPerS, m.MaxAccelerationMmPerS2) });
        Assert.InRange(facts.MaxFlow, 0.9 * (double)plan.Request.TopFlowMm3PerS, 1.03 * (double)plan.Request.TopFlowMm3PerS);
        Assert.True(facts.Model.Count(l => l.Spiral) > plan.Request.Turns * 0.9);
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void Samples_are_equal_lengths_at_their_flow_with_a_pause_after_each(string name)
    {
        var (m, trial) = (Of(name), new FlowWeighedTrial());
        var c = Context(m);
        var values = trial.Propose(c)
            .With(new Dictionary<string, decimal> { ["repeats"] = 2, ["secondTemperatureC"] = 220, ["samples"] = 5, ["nozzleTemperatureC"] = 200 });
        var plan = (WeighedPlan)trial.Plan(values, c).Plan!;
        var text = string.Join('\n', trial.Lines(plan, c)!.Value.Lines!);
        Assert.Empty(GcodeGuard.Check(new StringReader(text), m));
        var fed = new PrintedFile(text).Print.Where(s => s.Fed > 0).ToList();
        // Each temperature is primed before its samples.
        Assert.Equal(2 * (1 + 5 * 2), fed.Count);
        Assert.All(new[] { fed[0], fed[11] }, s => Assert.Equal(FlowWeighedTrial.PrimeMm, s.Fed, 3));
        fed = [.. fed.Where((_, i) => i is not (0 or 11))];
        Assert.All(fed, s => Assert.Equal((double)plan.Request.ExtrudedLengthMm, s.Fed, 3));
        Assert.All(fed.Select((s, i) => (s, i)), x =>
            Assert.Equal(plan.FlowsMm3PerS[x.i % 10 / 2], x.s.MmPerMin / 60 * c.Settings!.FilamentAreaMm2, 0.02 * 40));
        Assert.All(fed.Take(10), s => Assert.Equal(200, s.SetC));
        Assert.All(fed.Skip(10), s => Assert.Equal(220, s.SetC));
        Assert.Equal(22, text.Split('\n').Count(l => l.StartsWith("G4 ", StringComparison.Ordinal)));
        // Cups are numbered once, in the file as in the table, and flow rises through them.
        var numbers = text.Split('\n').Where(l => l.StartsWith("; sample ", StringComparison.Ordinal))
            .Select(l => l["; sample ".Length..].Split(':')[0]).ToList();
        Assert.Equal(Enumerable.Range(1, 20).Select(i => $"{i}"), numbers);
        Assert.Equal(
            Enumerable.Range(0, 10).Select(i => $"samples {2 * i + 1} to {2 * i + 2}"), trial.Grid(plan).Rows.OrderBy(r => r.Section).Select(r => r.Sub));
        Assert.Equal(plan.FlowsMm3PerS.Order(), plan.FlowsMm3PerS);
    }

    [Fact]
    public void What_cant_be_reached_is_refused_at_its_field_with_what_would_be()
    {
        var (steps, rising, weighed) = (new FlowStepsTrial(), new FlowRisingTrial(), new FlowWeighedTrial());
        var c = Context(Machines.Dunnock);
        Settings.FieldError One(Trial t, params (string, decimal)[] changes) =>
            Assert.Single(t.Plan(t.Propose(c).With(changes.ToDictionary(x => x.Item1, x => x.Item2)), c).Errors);
        var fast = One(steps, ("startSpeedMmPerS", 100));
        Assert.Equal("steps", fast.Field);
        // Every one of its speeds is beyond the circle: nothing that is offered would help. From 60 on, some are reached.
        Assert.Empty(fast.Offers);
        Assert.Equal(["steps"], Assert.Single(One(steps, ("startSpeedMmPerS", 60)).Offers).Changes.Keys);
        Assert.Contains("with 1200 mm/s²", One(steps, ("diameterMm", 20), ("startSpeedMmPerS", 60), ("increasePercent", 12)).Message);
        Assert.Equal("topFlowMm3PerS", One(rising, ("topFlowMm3PerS", 40)).Field);
        Assert.Equal("topFlowMm3PerS", One(rising, ("topFlowMm3PerS", 2)).Field);
        Assert.Equal("diameterMm", One(rising, ("diameterMm", 200)).Field);
        Assert.Equal("nozzleTemperatureC", One(weighed, ("nozzleTemperatureC", 255)).Field);
        Assert.Equal("secondTemperatureC", One(weighed, ("secondTemperatureC", 255)).Field);
        Assert.Equal("increaseMmPerS", One(steps, ("increaseMmPerS", 10)).Field);
        // Scale adequacy is said in the plan, with the length that would do, one press away.
        var coarse = (WeighedPlan)weighed.Plan(weighed.Propose(c).With(new Dictionary<string, decimal> { ["scaleResolutionG"] = 0.05m }), c).Plan!;
        Assert.False(coarse.ScaleAdequate);
        Assert.Equal(coarse.NeededLengthMm, (double)Assert.Single(coarse.Offers).Changes["extrudedLengthMm"]);
        Assert.True(
            (
                (WeighedPlan)
                    weighed.Plan(weighed.Propose(c).With(coarse.Offers[0].Changes).With(new Dictionary<string, decimal> { ["scaleResolutionG"] = 0.05m }), c)
                        .Plan!).ScaleAdequate);
    }

    [Fact]
    public void Two_temperatures_stand_on_one_chart_and_are_never_averaged()
    {
        var (trial, c) = (new FlowWeighedTrial(), Context(Machines.Whimbrel));
        var plan = (WeighedPlan)
            trial
                .Plan(
                    trial.Propose(c)
                        .With(
                            new Dictionary<string, decimal>
                            {
                                ["startFlowMm3PerS"] = 4, ["stepMm3PerS"] = 2, ["samples"] = 8, ["repeats"] = 1, ["nozzleTemperatureC"] = 200,
                                ["secondTemperatureC"] = 215, ["scaleResolutionG"] = 0.001m,
                            }),
                    c)
                .Plan!;
        RunReadings Read(params double[][] rows) =>
            new(
                rows.SelectMany((masses, k) => masses.Select((g, i) => ((k * 8 + i, FlowWeighedTrial.Mass + "1"), new CellReading(g, ""))))
                    .ToDictionary(x => x.Item1, x => x.Item2));
        // The hotter one loses two steps of 2 mm³/s later.
        double[] cool = [.. Curve(0.9, 0, 0, 0, 0, 3, 8, 14, 20).Select(g => g[0])], hot = [.. Curve(0.9, 0, 0, 0, 0, 0, 0, 3, 8).Select(g => g[0])];
        var v = (WeighedFlowVerdict)trial.Judge(plan, Read(cool, hot), new());
        Assert.Equal(215, v.Other!.NozzleTemperatureC);
        var alone = (WeighedFlowVerdict)trial.Judge(plan, Read(cool), new());
        Assert.Equal(alone.RecommendedFlowMm3PerS, v.RecommendedFlowMm3PerS);
        Assert.True(v.Other.RecommendLossFlowMm3PerS is null || v.Other.RecommendLossFlowMm3PerS > v.RecommendLossFlowMm3PerS + 3);
        var chart = trial.Chart(plan, v)!;
        Assert.Equal(16, chart.Points.Count);
        Assert.NotEmpty(chart.OtherLine);
        Assert.Equal(["200 °C, filled", "215 °C, open"], chart.Legend);
        Assert.Equal(v.RecommendedFlowMm3PerS, chart.Chosen);
    }

    [Fact]
    public void Readings_of_a_tube_become_the_last_good_step()
    {
        var trial = new FlowStepsTrial();
        var c = Context(Machines.Dunnock);
        var plan = trial.Plan(trial.Propose(c), c).Plan!;
        RunReadings Read(params string[] words) =>
            new(words.Select((w, i) => (w, i)).Where(x => x.w.Length > 0).ToDictionary(x => (x.i, FlowTrial.Fault), x => new CellReading(null, x.w)));
        var v = (SteppedFlowVerdict)trial.Judge(plan, Read("good", "good", "good", "thin wall"), new());
        Assert.Equal(((StepsPlan)plan).FlowsMm3PerS[2], v.FlowMm3PerS!.Value, 0.002);
        Assert.Equal("none-good", trial.Judge(plan, Read("gaps"), new()).Verdict);
        // Steps below a good one, or below the fault, are taken as good, and shown as taken.
        string[][] ladders = [["good", "", "good", "thin wall"], ["", "", "", "thin wall"], ["", "", "last good"], ["good", "good", "last good", "gaps"]];
        foreach (var words in ladders)
        {
            var same = (SteppedFlowVerdict)trial.Judge(plan, Read(words), new());
            Assert.Equal(("limit", v.FlowMm3PerS), (same.Verdict, same.FlowMm3PerS));
            var notes = trial.RowNotes(plan, Read(words));
            Assert.Equal(words.Select((w, i) => (w, i)).Where(x => x.w.Length == 0).Select(x => x.i), notes.Keys.Order());
            Assert.Equal(notes.Count, same.Ladder.Taken);
            Assert.Empty(trial.Waiting(plan, Read(words)));
        }

        Assert.Equal([0], trial.RowNotes(plan, Read("", "gaps", "", "good")).Keys);
        Assert.Equal([3, 4], trial.Waiting(plan, Read("", "", "good")).Take(2).Select(w => w.Section));
        Assert.Equal((2, 1), (((SteppedFlowVerdict)trial.Judge(plan, Read("good", "gaps", "last good"), new())).Ladder is var told ? (told.SaidGood, told.SaidBad) : (null, null)));
        Assert.Equal("not-reached", trial.Judge(plan, Read([.. plan.Parts.Select(x => x.Index == plan.Parts.Count - 1 ? "last good" : "")]), new()).Verdict);
        // Clicking ends the run: nothing above it is waited for.
        var clicked = Read("good", "good", "clicking");
        Assert.DoesNotContain(trial.Waiting(plan, clicked), w => w.Section > 2);
        Assert.Equal("limit", trial.Judge(plan, clicked, new()).Verdict);
        // A tube that was knocked over says nothing of what lay above.
        var lost = new RunReadings(
            new Dictionary<(int, string), CellReading> { [(0, FlowTrial.Fault)] = new(null, "good"), [(1, FlowTrial.Fault)] = new(null, "good") },
            plan.Parts[1].LastLayer);
        Assert.Equal("insufficient", trial.Judge(plan, lost, new()).Verdict);
    }

    [Fact]
    public void What_a_limit_costs_and_saves_in_a_file_worked_by_hand()
    {
        // Two lines of 100 mm, 0.25 mm³ each mm: at 20 mm/s 5, at 40 mm/s 10 mm³/s, slow enough that speeding up takes little.
        var e = 100 * 0.25 * 4 / (Math.PI * 1.75 * 1.75);
        var text = FormattableString.Invariant($"M83\nG1 X0 Y0 Z0.2 F6000\nG1 X100 E{e:0.00000} F1200\nG1 X0 E{e:0.00000} F2400\n");
        var facts = Inspector.Inspect(
            new MemoryStream(System.Text.Encoding.ASCII.GetBytes(text)), new() { Motion = Glenfrost.Core.Gcode.Motion.MotionLimits.Of(1000, 10_000) });
        var at8 = FlowEffect.Of(facts, 8);
        // 2.5 s at 10 mm³/s take 2.5 × 10 ÷ 8 = 3.125 s: 0.625 s more.
        Assert.Equal(0.625, at8.CostSeconds, 0.07);
        Assert.Equal(0, at8.SavesSeconds);
        Assert.Single(at8.Above);
        var at20 = FlowEffect.Of(facts, 20);
        Assert.Empty(at20.Above);
        // What runs at its cap of 10 could run at 20: half of 2.5 s.
        Assert.Equal(1.25, at20.SavesSeconds, 0.1);
    }
}
