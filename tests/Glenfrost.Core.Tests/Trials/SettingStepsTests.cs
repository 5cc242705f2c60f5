using System.Text.Json;
using CsCheck;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.SettingSteps;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Any setting in steps on a wall or on cones: which value is taken, and a file in which each part has its own value and nothing else.</summary>
public class SettingStepsTests
{
    private static readonly SettingTrial Trial = new();

    private static SettingVerdict Of(string factor, params (double Value, double Score)[] read) => Judged(factor, null, 0.25, read);

    private static SettingVerdict Judged(string factor, Span? limits, double noise, params (double Value, double Score)[] read) => SettingJudging.Judge(new()
    {
        Factor = factor, Piece = SteppedSetting.Of(factor).OnWall ? SettingTrial.Wall : SettingTrial.Cones, ScoreNoise = noise, Limits = limits,
        Points = [.. read.Select(x => new SettingPoint(x.Value, [x.Score, x.Score]))],
    });

    [Fact]
    public void The_fastest_that_looks_about_as_good_is_taken_and_kept()
    {
        var v = Of("outer-speed", (30, 4), (45, 4), (60, 4), (75, 2), (90, 1));
        Assert.Equal((SettingOutcome.Clear, 60.0, true), (v.Outcome, v.Value, v.Advised));
        Assert.Equal([30, 45, 60], v.AsGood);
        Assert.Equal([30, 45, 60, 75, 90], v.Values);
        Assert.Equal([4, 4, 4, 2, 1], v.Looks);
        Assert.Equal(("outerWallSpeedMmPerS", 60.0), (Assert.Single(v.Settings).Key, v.Settings[0].Value));
        Assert.InRange(v.Settings[0].Uncertainty, 7.5, 30);
        Assert.Null(v.Next);
        Assert.Equal("lineWidthMm", Assert.Single(Of("width", (0.36, 1), (0.4, 3), (0.44, 4), (0.48, 4), (0.52, 1.5)).Settings).Key);
    }

    [Fact]
    public void Of_fan_and_time_the_least_is_taken_and_what_looks_do_not_settle_is_not_kept()
    {
        var fan = Of("fan", (0, 1), (25, 2), (50, 4), (75, 4), (100, 4));
        Assert.Equal((SettingOutcome.Clear, 50.0, false), (fan.Outcome, fan.Value, fan.Advised));
        Assert.Empty(fan.Settings);
        Assert.Equal(("settle", "fan-steps"), (fan.Next!.Kind, fan.Next.Trial));
        var time = Of("layer-time", (4, 1), (6, 2), (8, 4), (10, 4), (12, 4));
        Assert.Equal((8.0, "layer-time"), (time.Value, time.Next!.Trial));
        var warm = Of("temperature", (200, 4), (205, 4), (210, 4), (215, 2), (220, 1));
        Assert.Equal(("temperature-tower", 210.0), (warm.Next!.Trial, warm.Value));
        Assert.Equal("wall-flow", Of("multiplier", (0.88, 2), (0.92, 4), (0.96, 4), (1, 4), (1.04, 1)).Next!.Trial);
    }

    [Fact]
    public void Taking_the_largest_is_taking_the_least_seen_from_the_other_end() =>
        Gen.Double[0, 4].Array[3, 8].Sample(scores =>
        {
            var n = scores.Length;
            var up = Of("fan", [.. scores.Select((s, i) => (10.0 * (i + 1), s))]);
            var down = Of("outer-speed", [.. scores.Reverse().Select((s, i) => (10.0 * (i + 1), s))]);
            Assert.Equal(up.Value is { } v ? 10 * (n + 1) - v : null, down.Value);
            Assert.Equal(up.Looks.Reverse(), down.Looks);
            Assert.Equal(up.Curve.Reverse(), down.Curve);
            Assert.Equal(up.Outcome, down.Outcome);
        }, iter: 300);

    [Fact]
    public void The_end_of_what_was_tried_is_no_answer_and_the_end_of_what_the_machine_bears_is_one()
    {
        (double, double)[] rising = [(60, 4), (80, 4), (100, 4), (120, 4)];
        var open = Judged("outer-speed", null, 0.25, rising);
        Assert.Equal((SettingOutcome.Edge, true, 120.0), (open.Outcome, open.MoreMayDo, open.Value));
        Assert.Equal((120m, 200m, 20m), (open.Next!.Values!["from"], open.Next.Values["to"], open.Next.Values["step"]));
        Assert.Equal(("wall", "outer-speed"), (open.Next.Words!["mode"], open.Next.Words["factor"]));
        Assert.Equal(150m, Judged("outer-speed", new(null, 150), 0.25, rising).Next!.Values!["to"]);
        var top = Judged("outer-speed", new(null, 120), 0.25, rising);
        Assert.Equal((SettingOutcome.Clear, 120.0), (top.Outcome, top.Value));
        // The slowest is the best: slower may be better still.
        var slow = Of("outer-speed", (60, 3.6), (80, 2), (100, 1), (120, 1));
        Assert.Equal((SettingOutcome.Edge, false, 60.0, 60m), (slow.Outcome, slow.MoreMayDo, slow.Value, slow.Next!.Values!["to"]));
        // No fan at all is the end of all fans.
        Assert.Equal(SettingOutcome.Clear, Of("fan", (0, 4), (25, 4), (50, 4), (75, 2)).Outcome);
        Assert.Equal(SettingOutcome.NotIt, Of("width", (0.4, 1), (0.44, 1), (0.48, 1)).Outcome);
        Assert.Equal(SettingOutcome.Insufficient, Of("width", (0.4, 1), (0.44, 1)).Outcome);
        // What has a 0 somewhere is never offered.
        var melted = SettingJudging.Judge(new()
        {
            Factor = "outer-speed", ScoreNoise = 0.25, Points = [new(30, [4, 4]), new(45, [4, 4]), new(60, [4, 0]), new(75, [1, 1])],
        });
        Assert.Equal(45, melted.Value);
    }

    [Fact]
    public void A_clear_speed_lies_hardly_ever_more_than_a_score_behind_the_best()
    {
        var random = new MersenneTwister(37, false);
        var (far, all) = (0, 0);
        for (var i = 0; i < 300; i++)
        {
            // Frames that swing from forty on, and some that hold a hundred.
            var swings = 50 + 70 * random.NextDouble();
            double Truth(double v) => 4 * Math.Exp(-Math.Pow(v / swings, 3));
            double[] speeds = [30, 45, 60, 75, 90];
            double Score(double v) => Math.Clamp(Math.Round(Truth(v) + Normal.Sample(random, 0, 0.5)), 0, 4);
            var v = SettingJudging.Judge(new() { Points = [.. speeds.Select(s => new SettingPoint(s, [Score(s), Score(s)]))] });
            if (v.Outcome != SettingOutcome.Clear)
                continue;
            all++;
            far += speeds.Max(Truth) - Truth(v.Value!.Value) > 1 ? 1 : 0;
        }

        Assert.True(all > 80, $"{all} clear");
        Assert.True(far <= 0.06 * all, $"{far} of {all} lie more than a score behind");
    }

    public static IEnumerable<Machine> AllMachines => [Machines.Dunnock, Machines.Ptarmigan, Machines.Whimbrel];

    public static TheoryData<string, string, string> Everything => [..
        from m in AllMachines
        from f in SteppedSetting.All
        from piece in Trial.Modes
        where f.Shows(piece)
        select new TheoryDataRow<string, string, string>(m.Name, f.Word, piece)];

    private static (SettingPlan Plan, PieceJob Job, PlanContext Context) Made(string machine, string factor, string piece, Func<PrintSettings, PrintSettings>? with = null)
    {
        var m = AllMachines.Single(x => x.Name == machine);
        var s = Machines.Settings(m);
        var c = new PlanContext { Machine = m, Settings = with is null ? s : with(s), Family = Family.Find("PLA"), Memory = TestMemory.Shared };
        Trial any = Trial;
        var values = any.InMode(piece, any.Propose(c), c);
        values["factor"] = factor;
        values = any.Refit(values, c);
        // Low ones: what is asked of them does not grow with their height.
        (values["sectionHeightMm"], values["coneHeightMm"]) = (Math.Max(4, 10 * values.Number("layerHeightMm")!.Value), 10m);
        var planned = any.Plan(values, c);
        Assert.True(planned.Plan is not null, string.Join(' ', planned.Errors.Select(e => $"{e.Field}: {e.Message}")));
        var (plan, job, errors) = any.Make(planned.Plan, c);
        Assert.True(job is not null, string.Join(' ', errors.Select(e => $"{e.Field}: {e.Message}")));
        return ((SettingPlan)plan, job, c);
    }

    /// <summary>What the page proposes of every setting has a file on every machine, and what a reader of its own finds in it is each part's own value.</summary>
    [Theory]
    [MemberData(nameof(Everything))]
    public void Each_part_of_a_file_has_its_own_value(string machine, string factor, string piece)
    {
        var (plan, job, c) = Made(machine, factor, piece);
        Assert.InRange(plan.Values.Count, 3, 9);
        var text = Machines.Text(job);
        Assert.Empty(GcodeGuard.Check(new StringReader(text), c.Machine!));
        var file = new PrintedFile(text);
        Assert.Empty(file.Unknown);
        var s = c.Settings!;
        var spacing = s.SpacingMm((double)plan.Request.LayerHeightMm);
        double? last = null;
        foreach (var (part, value) in ((ITrialPlan)plan).Parts.Zip(plan.Values))
        {
            // The layers in the middle of a part: first layers have their own speed, last ones of a cone hardly a line.
            bool Within(Step x) => x is { Fed: > 0, Moves: true } && (plan.IsCones
                ? x.Piece == part.Index && x.Layer > plan.ConeSize.PadLayers + 4 && x.Layer <= plan.ConeSize.PadLayers + plan.ConeSize.ConeLayers / 2
                : x.Layer > part.FirstLayer + PointedWall.GrooveLayers + 1 && x.Layer < part.LastLayer);
            var laid = file.Print.Where(Within).ToList();
            Assert.True(laid.Count > 20, $"{laid.Count} lines in {part.Label}");
            var width = laid.Sum(x => x.Fed) * s.FilamentAreaMm2 / laid.Sum(x => x.Length) / (double)plan.Request.LayerHeightMm / s.ExtrusionMultiplier;
            Assert.Equal(factor == "width" ? value - (s.LineWidthMm - spacing) : factor == "multiplier" ? spacing * value / plan.Multiplier : spacing, width, 0.015);
            var outer = laid.Where(x => x.Feature.Contains("outer wall", StringComparison.Ordinal)).ToList();
            var inner = laid.Where(x => x.Feature.Contains("inner wall", StringComparison.Ordinal)).ToList();
            Assert.NotEmpty(outer);
            if (factor == "outer-speed")
                Assert.All(outer, x => Assert.Equal(value * 60, x.MmPerMin, 1.0));
            if (factor == "inner-speed")
                Assert.All(inner, x => Assert.Equal(value * 60, x.MmPerMin, 1.0));
            if (factor == "temperature")
                Assert.All(laid, x => Assert.Equal(value, x.SetC));
            if (factor == "fan")
                Assert.All(job.Layers.Where(l => l.Piece == (plan.IsCones ? part.Index : 0) && l.Section == (plan.IsCones ? 0 : part.Index)), l => Assert.All(
                    l.Moves.Where(x => x.Kind == Glenfrost.Core.TestPieces.Toolpaths.MoveKind.Fan), x => Assert.Equal(value, x.E)));
            if (factor == "layer-time")
            {
                // Where it is long enough to be slowed to it: the first half of a cone.
                var low = job.Layers.Where(l => l.Piece == part.Index && l.Section == 0).Take(20).ToList();
                Assert.All(low, l => Assert.True(l.Seconds > value - 0.1 || l.TooShort, $"{l.Seconds} s of {value}"));
                var mean = low.Average(l => l.Seconds);
                Assert.True(last is null || mean > last - 1e-9);
                last = mean;
            }
        }

        // And so do all of its walls where their speed is not stepped: one speed throughout, or slower.
        if (factor is not ("outer-speed" or "inner-speed" or "layer-time" or "width"))
            Assert.All(file.Print.Where(x => x is { Fed: > 0, Moves: true, Layer: > 3 }), x => Assert.True(x.MmPerMin <= 60 * s.FillSpeedMmPerS + 1));
    }

    [Fact]
    public void A_wall_whose_speed_is_stepped_keeps_it_and_what_else_is_in_the_layer_is_slowed()
    {
        var (plan, job, _) = Made("Whimbrel 300", "outer-speed", "wall", s => s with { MinLayerTimeS = 20 });
        var file = new PrintedFile(Machines.Text(job));
        var part = ((ITrialPlan)plan).Parts[^1];
        var lines = file.Print.Where(x => x is { Fed: > 0, Moves: true } && x.Layer == part.LastLayer - 3).ToList();
        Assert.All(lines.Where(x => x.Feature.Contains("outer wall", StringComparison.Ordinal)), x => Assert.Equal(60 * plan.Values[^1], x.MmPerMin, 1.0));
        Assert.All(lines.Where(x => x.Feature.Contains("inner wall", StringComparison.Ordinal)), x => Assert.True(x.MmPerMin < 60 * 25, $"{x.MmPerMin}"));
        Assert.InRange(job.Layers.Single(l => l.Number == part.LastLayer - 3).Seconds, 19.9, 20.5);
    }

    /// <summary>What a verdict at either end asks for next is a plan with a file.</summary>
    [Theory]
    [MemberData(nameof(Everything))]
    public void What_is_asked_for_next_is_accepted(string machine, string factor, string piece)
    {
        var (plan, _, c) = Made(machine, factor, piece);
        Trial any = Trial;
        foreach (var upward in new[] { true, false })
        {
            var scores = plan.Values.Select((v, i) => new SettingPoint(v, [Math.Max(1, 4 - (upward ? plan.Values.Count - 1 - i : i))]));
            var v = SettingJudging.Judge(new() { Factor = factor, Piece = piece, Points = [.. scores], ScoreNoise = 0.1, Limits = plan.Limits });
            if (v.Next is not { Kind: "edge", Values: { } range })
                continue;
            var values = any.ValuesOf(plan);
            foreach (var (field, value) in range)
                values[field] = value;
            var planned = any.Plan(values, c);
            // A range beyond what a wall of this length gets up to is offered a longer one.
            if (planned.Errors is [{ Offers: [var offer, ..] }, ..])
                planned = any.Plan(values.With(offer.Changes), c);
            Assert.True(planned.Plan is not null, $"{range["from"]} to {range["to"]}: {string.Join(' ', planned.Errors.Select(e => e.Message))}");
            Assert.Empty(any.Make(planned.Plan, c).Errors);
        }
    }

    private static IReadOnlyList<FieldError> Refused(Func<SettingRequest, SettingRequest> change, Func<PrintSettings, PrintSettings>? with = null)
    {
        var s = Machines.Settings(Machines.Dunnock);
        var c = new PlanContext { Machine = Machines.Dunnock, Settings = with is null ? s : with(s) };
        return Trial.Plan(change(new SettingRequest { From = 30, To = 60, Step = 10, LengthMm = 80 }), c).Errors;
    }

    [Fact]
    public void What_a_piece_can_not_show_is_refused_at_its_field_with_what_would_be_right()
    {
        Assert.Empty(Refused(r => r));
        Assert.Contains("a wall would show it", Assert.Single(Refused(r => r with { Mode = "cones" })).Message);
        var time = Assert.Single(Refused(r => r with { Factor = "layer-time", From = 4, To = 12, Step = 2 }));
        Assert.Equal("factor", time.Field);
        Assert.Contains("cones", time.Message);
        // Faster than the machine, or than what melts through; each with what it gives.
        var fast = Assert.Single(Refused(r => r with { To = 150, Step = 30, LengthMm = 200 }, s => s with { MaxFlowMm3PerS = 30 }));
        Assert.Contains("at most at 120 mm/s", fast.Message);
        Assert.Equal(120, Assert.Single(fast.Offers).Changes["to"]);
        var flow = Assert.Single(Refused(r => r with { To = 90, Step = 15 }, s => s with { MaxFlowMm3PerS = 5, LineWidthMm = 0.5 }));
        Assert.Contains("flow limit of 5 mm³/s: 50 mm/s", flow.Message);
        // A wall that ends before the speed is reached.
        var brief = Assert.Single(Refused(r => r with { To = 120, Step = 30, LengthMm = 30 }, s => s with { AccelerationMmPerS2 = 500, MaxFlowMm3PerS = 30 }));
        Assert.Equal("lengthMm", brief.Field);
        Assert.Empty(Refused(
            r => r with { To = 120, Step = 30, LengthMm = Assert.Single(brief.Offers).Changes["lengthMm"] },
            s => s with { AccelerationMmPerS2 = 500, MaxFlowMm3PerS = 30 }));
        Assert.Equal("factor", Assert.Single(Refused(r => r with { Factor = "inner-speed" }, s => s with { Walls = 1 })).Field);
        Assert.Equal("from", Assert.Single(Refused(r => r with { Factor = "width", From = 0.2m, To = 0.5m, Step = 0.1m })).Field);
        Assert.Equal("to", Assert.Single(Refused(r => r with { Factor = "temperature", From = 220, To = 260, Step = 20 })).Field);
        Assert.Equal("to", Assert.Single(Refused(r => r with { Factor = "fan", From = 0, To = 120, Step = 30 })).Field);
        Assert.Equal("to", Assert.Single(Refused(r => r with { To = 30 })).Field);
        var few = Assert.Single(Refused(r => r with { Step = 25 }));
        Assert.Equal("step", few.Field);
        Assert.Empty(Refused(r => r with { Step = Assert.Single(few.Offers).Changes["step"] }));
        Assert.Equal("step", Assert.Single(Refused(r => r with { Step = 2 })).Field);
    }

    [Fact]
    public void A_machine_that_gets_up_to_speed_slowly_is_proposed_a_longer_wall()
    {
        Trial any = Trial;
        decimal Length(double acceleration)
        {
            var c = new PlanContext
            {
                Machine = Machines.Whimbrel, Memory = TestMemory.Shared,
                Settings = Machines.Settings(Machines.Whimbrel) with { AccelerationMmPerS2 = acceleration, OuterWallSpeedMmPerS = 60, MaxFlowMm3PerS = 20 },
            };
            var values = any.Propose(c);
            Assert.Empty(any.Plan(values, c).Errors);
            return values.Number("lengthMm")!.Value;
        }

        Assert.Equal(40, Length(3000));
        // 110 mm/s at 300 mm/s²: 60.5 mm of straight line, three quarters of an 81 mm wall.
        Assert.Equal(81, Length(300));
    }

    [Theory]
    [InlineData("""{"factor": "outer-speed", "points": [{"value": 30, "corners": 4}]}""", "points")]
    [InlineData("""{"factor": "outer-speed", "points": [{"value": 0.5, "corners": 4}, {"value": 45, "corners": 4}, {"value": 60, "walls": 4}]}""", "points[0].value")]
    [InlineData("""{"factor": "fan", "points": [{"value": 0}, {"value": 50, "corners": 4}, {"value": 100, "corners": 4}]}""", "points[0].corners")]
    [InlineData("""{"factor": "fan", "points": [{"value": 0, "tip": 5}, {"value": 50, "tip": 4}, {"value": 100, "tip": 4}], "piece": "cones"}""", "points[0].tip")]
    [InlineData("""{"factor": "outer-speed", "piece": "cones", "points": [{"value": 9, "tip": 3}, {"value": 20, "tip": 4}, {"value": 30, "tip": 4}]}""", "piece")]
    [InlineData("""{"factor": "glow", "points": []}""", "factor")]
    public void What_is_no_setting_is_refused_at_its_field(string json, string field)
    {
        var fields = new JsonFields(JsonDocument.Parse(json).RootElement);
        Assert.Null(Trial.Evaluate(fields));
        Assert.Contains(field, fields.Errors.Keys);
    }
}
