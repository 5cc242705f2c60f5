using System.Text.Json;
using CsCheck;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Statistics;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerBond;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Broken pegs: what is told apart, how often wrongly, and what a clamp that fails still says.</summary>
public class LayerBondTests
{
    private static readonly LayerBondTrial Trial = new();

    private static BondVerdict Of(string json) => (BondVerdict)Trial.Evaluate(new(JsonDocument.Parse(json).RootElement))!;

    private static BondGroup Group(string label, double? c, params double[] forces) => new(label, c, null, [.. forces.Select(f => new BondPiece(f))]);

    /// <summary>Groups with a true mean each, pegs on two plates.</summary>
    private static BondReadings Drawn(MersenneTwister random, double[] means, int each, double scatter, double plates = 0, double driftPercent = 0,
        bool shuffled = true)
    {
        var all = Enumerable.Range(0, means.Length * each).ToList();
        var order = (shuffled ? BlindOrder.Of(all, random.Next()) : all).Select((p, i) => (p, i)).ToDictionary(x => x.p, x => x.i);
        double[] plate = [Normal.Sample(random, 0, plates), Normal.Sample(random, 0, plates)];
        return new()
        {
            Groups =
            [
                .. means.Select((m, g) => new BondGroup($"{200 + 10 * g} °C", 200 + 10 * g, null,
                [
                    .. Enumerable.Range(0, each).Select(k => new BondPiece(
                        m * Math.Exp(Normal.Sample(random, 0, scatter) + plate[k % 2] + Math.Log(1 - driftPercent / 100) * order[g * each + k]),
                            BondMode.Layer, 1 + k % 2)),
                ])),
            ],
        };
    }

    // Tables of the studentised range (Pearson and Hartley): 5 %.
    [Theory]
    [InlineData(2, 10, 3.151)]
    [InlineData(3, 10, 3.877)]
    [InlineData(4, 20, 3.958)]
    [InlineData(8, 24, 4.68)]
    [InlineData(10, 120, 4.56)]
    [InlineData(2, 1e6, 2.772)]
    public void The_range_of_equal_groups_is_that_of_the_tables(int groups, double freedom, double q) =>
        Assert.Equal(q, StudentisedRange.Critical(0.05, groups, freedom), 2);

    // Geometric means 2.7 and 3.5, scatter exactly 12.5 % in four each: 29.6 %, and not the 20 % by which a bar chart from zero looks.
    [Fact]
    public void A_pair_is_a_ratio_with_its_interval()
    {
        double[] Around(double mean) => [.. new[] { -1.2, -0.4, 0.4, 1.2 }.Select(z => mean * Math.Exp(0.125 * z / Math.Sqrt(3.2 / 3)))];
        var v = BondJudging.Judge(new() { Groups = [Group("a", null, Around(2.7)), Group("b", null, Around(3.5))], RigScatterPercent = 12.5 });
        Assert.Equal(12.5, v.ScatterPercent!.Value, 1);
        Assert.Equal(30, v.DegreesOfFreedom);
        var c = Assert.Single(v.Contrasts);
        Assert.Equal(29.6, c.Percent, 1);
        Assert.Equal(8, c.Low, 0);
        Assert.Equal(55, c.High, 0);
        Assert.Equal(["a"], v.Weaker);
    }

    // t(0.975, 24) = 2.064, t(0.8, 24) = 0.857, q(8, 24)/√2 = 3.31: 0.127 · √½ · 2.921 and · 4.167.
    [Fact]
    public void What_a_rig_sees_is_said_before_anything_is_printed()
    {
        Assert.Equal(30, BondPower.PairPercent(0.127, 4, 24), 0);
        Assert.Equal(45, BondPower.AnyPercent(0.127, 4, 8, 24), 0);
        Assert.Equal(14, BondPower.Needed(15, 0.127, 8));
        Assert.Null(BondPower.Needed(1, 0.127, 8));
    }

    [Fact]
    public void Eight_equal_groups_are_called_weaker_in_at_most_one_run_of_twenty()
    {
        var random = new MersenneTwister(4, false);
        var wrong = Enumerable.Range(0, 600).Count(_ => BondJudging.Judge(Drawn(random, [.. Enumerable.Repeat(300.0, 8)], 4, 0.127, 0.05)).Weaker.Count > 0);
        // 5 % of 600 are 30; two and a half standard errors above that.
        Assert.InRange(wrong, 12, 44);
    }

    [Fact]
    public void The_scatter_is_right_though_coefficients_were_taken_from_it_and_some_pegs_held_at_least()
    {
        var random = new MersenneTwister(5, false);
        double Mean(Func<BondReadings, BondReadings> change) => Enumerable.Range(0, 300)
            .Average(_ => Math.Pow(BondJudging.Judge(change(Drawn(random, [300, 310, 320, 330, 340, 350, 360, 370], 4, 0.127))).ScatterPercent!.Value / 12.7,
                2));
        Assert.InRange(Mean(r => r), 0.95, 1.05);
        // Every sixth peg is known to hold 80 % of what it would have: the scatter stays what it is.
        Assert.InRange(
            Mean(r => r with
            {
                Groups =
                [
                    .. r.Groups.Select((g, i) => g with
                    {
                        Pieces = [.. g.Pieces.Select((p, k) => (4 * i + k) % 6 == 0 ? p with { Force = 0.8 * p.Force, Mode = BondMode.Clamp } : p)],
                    }),
                ],
            }),
            0.85, 1.15);
    }

    // (1 − 0.005)^16 = 0.923: broken in order of the groups, the last looks 8 % weaker.
    [Fact]
    public void A_drift_over_the_breaks_is_an_effect_only_where_the_order_was_not_by_lot()
    {
        var random = new MersenneTwister(6, false);
        double Bias(bool shuffled) => Enumerable.Range(0, 400).Average(_ =>
        {
            // Groups of four, five of them: the first and the last are sixteen breaks apart.
            var v = BondJudging.Judge(Drawn(random, [300, 300, 300, 300, 300], 4, 0.05, 0, 0.5, shuffled));
            return v.Contrasts.First(c => c is { From: "200 °C", To: "240 °C" }).Percent;
        });
        Assert.InRange(Bias(false), -8.4, -7.0);
        Assert.InRange(Bias(true), -0.8, 0.8);
    }

    [Fact]
    public void A_clamp_that_gives_way_is_a_bound_neither_zero_nor_left_out()
    {
        var plain = BondJudging.Judge(new() { Groups = [Group("a", null, 30, 32, 31, 29), Group("b", null, 30, 31, 33, 32)] });
        BondReadings With(BondMode mode) => new()
        {
            Groups = [Group("a", null, 30, 32, 31, 29), new("b", null, null, [new(30), new(31), new(33), new(32), new(40, mode)])],
        };
        var bound = BondJudging.Judge(With(BondMode.Clamp));
        Assert.Equal(1, bound.Groups[1].Censored);
        Assert.True(bound.Groups[1].GeometricMean > plain.Groups[1].GeometricMean);
        // One that slipped far below says nothing.
        var slipped = BondJudging.Judge(new()
        {
            Groups = [Group("a", null, 30, 32, 31, 29), new("b", null, null, [new(30), new(31), new(33), new(32), new(5, BondMode.Slip)])],
        });
        Assert.Equal(plain.Groups[1].GeometricMean!.Value, slipped.Groups[1].GeometricMean!.Value, 2);
        var only = BondJudging.Judge(new()
        {
            Groups = [Group("a", null, 30, 32, 31, 29), new("b", null, null, [.. Enumerable.Repeat(new BondPiece(38, BondMode.Clamp), 4)])],
        });
        Assert.Null(only.Groups[1].GeometricMean);
        Assert.InRange(only.Groups[1].Low, 36, 40);
        Assert.Contains("b", only.NotRuledOut);
        Assert.Equal("mend-rig", only.Next!.Kind);
    }

    [Fact]
    public void Strength_rises_to_a_peak_and_a_drop_is_said_only_where_it_is_shown()
    {
        BondReadings At(params (double C, double F)[] groups) => new()
        {
            Groups = [.. groups.Select(g => Group($"{g.C} °C", g.C, [.. new[] { 0.97, 1.01, 0.99, 1.03 }.Select(x => x * g.F)]))],
        };
        var rises = BondJudging.Judge(At((220, 200), (230, 222), (240, 246), (250, 273)));
        Assert.Equal(11, rises.TrendPercentPer10C!.Value, 0);
        Assert.Null(rises.DropAboveC);
        var falls = BondJudging.Judge(At((220, 200), (230, 260), (240, 300), (250, 220)));
        Assert.Equal(240, falls.DropAboveC);
        Assert.True(falls.TrendPercentPer10C!.Value > 15);
        Assert.Equal([200, 260, 300, 220], falls.Curve.Select(c => Math.Round(c.Force)));
        Assert.Equal(["220 °C", "230 °C", "250 °C"], falls.Weaker);
    }

    // 100 at full fan, 290 at 40 %: the fan does more than 10 °C, so it comes first.
    [Fact]
    public void Fan_and_temperature_crossed_stand_side_by_side_and_the_greater_comes_first()
    {
        BondGroup Of(double c, double fan, double f) => new($"{c} °C, fan {fan} %", c, fan,
            [.. new[] { 0.95, 1.02, 0.98, 1.05 }.Select((x, i) => new BondPiece(x * f, BondMode.Layer, 1 + i % 2))]);
        var v = BondJudging.Judge(new() { Groups = [Of(230, 40, 290), Of(230, 100, 100), Of(240, 40, 319), Of(240, 100, 110)] });
        Assert.Equal(["fan", "temperature"], v.Effects.Select(e => e.Factor));
        Assert.Equal(190, v.Effects[0].Percent, 0);
        Assert.Equal(10, v.Effects[1].Percent, 0);
        Assert.Equal((100, 40), (v.Effects[0].From, v.Effects[0].To));
        Assert.False(v.EffectsMeet);
        Assert.Equal("fan-first", v.Next!.Kind);
    }

    [Theory]
    // Three arms of one peg each: 3! orders, the expected one is one of them.
    [InlineData("[1, 2, 3]", "[\"a\", \"b\", \"c\"]", 6, "insufficient")]
    // Four and four, all of one below all of the other: 1 of 70.
    [InlineData("[1, 2, 3, 4, 5, 6, 7, 8]", "[\"a\", \"a\", \"a\", \"a\", \"b\", \"b\", \"b\", \"b\"]", 70, "trend")]
    [InlineData("[1, 5, 2, 7, 3, 4, 8, 6]", "[\"a\", \"a\", \"a\", \"a\", \"b\", \"b\", \"b\", \"b\"]", 0, "noise")]
    public void Ranks_by_hand_say_their_exact_odds(string ranks, string labels, double oneIn, string verdict)
    {
        var (r, l) = (JsonSerializer.Deserialize<double[]>(ranks)!, JsonSerializer.Deserialize<string[]>(labels)!);
        var body = new { ranks = r.Zip(l).Select(x => new { label = x.Second, rank = x.First }), expected = l.Distinct() };
        var v = Of(JsonSerializer.Serialize(body));
        Assert.Equal(verdict, v.Verdict);
        Assert.True(v.RankOdds!.Exact);
        if (oneIn > 0)
            Assert.Equal(oneIn, v.RankOdds.OneIn, 6);
    }

    [Fact]
    public void By_hand_more_pegs_of_one_plate_are_asked_for_and_no_second_order()
    {
        var p = new BondPlan { Request = new() { CoolestC = 220, HottestC = 250, ReadBy = "hand" }, Estimate = new(60, 20, 0) };
        RunReadings Ranked(BondPlan of) => new(Enumerable.Range(0, of.Pegs).ToDictionary(
            i => (i, LayerBondTrial.Rank), i => new CellReading(1 + (i * 5 + of.GroupOf(i)) % of.Pegs, "1")));
        var v = Trial.Judge(p, Ranked(p), new());
        Assert.Equal((BondOutcome.Noise, "more-pieces"), (v.Outcome, v.Next?.Kind));
        Assert.Equal(4, v.Next!.Values!["together"]);
        Assert.False(v.Next.Values.ContainsKey("block"));
    }

    [Fact]
    public void Where_nobody_said_where_a_peg_broke_the_verdict_knows()
    {
        var v = Of("""{"groups": [{"label": "a", "pieces": [{"force": 3}, {"force": 3.1, "mode": "layer"}, {"force": 3.2, "mode": "clamp"}]}]}""");
        Assert.Equal(1, v.From.BreaksNotSaid);
    }

    [Fact]
    public void Luck_of_ranks_is_as_often_as_it_says() => Gen.Int[0, 100_000].Sample(seed =>
    {
        var random = new MersenneTwister(seed, false);
        int[] group = [0, 0, 0, 1, 1, 1, 2, 2, 2];
        var wrong = Enumerable.Range(0, 60).Count(_ =>
            RankOdds.Of([.. BlindOrder.Of(Enumerable.Range(1, 9), random.Next()).Select(x => (double)x)], group, false).P <= 0.1);
        Assert.InRange(wrong, 0, 15);
    }, iter: 6);

    [Fact]
    public void A_unit_changes_no_verdict() => Gen.Int[0, 100_000].Sample(seed =>
    {
        var r = Drawn(new(seed, false), [200, 240, 300], 4, 0.1, 0.05);
        var other = r with
        {
            Unit = "kgf",
            Groups = [.. r.Groups.Select(g => g with { Pieces = [.. g.Pieces.Select(p => p with { Force = p.Force / BondJudging.NewtonPerKgf })] })],
        };
        var (a, b) = (BondJudging.Judge(r), BondJudging.Judge(other));
        Assert.Equal(a.Weaker, b.Weaker);
        Assert.Equal(a.ScatterPercent!.Value, b.ScatterPercent!.Value, 6);
        Assert.InRange(b.Groups[0].GeometricMean!.Value * BondJudging.NewtonPerKgf / a.Groups[0].GeometricMean!.Value, 0.998, 1.002);
    }, iter: 20);

    [Theory]
    [InlineData("""{"groups": [{"label": "a", "pieces": [{"force": -3}]}]}""", "groups[0].pieces[0].force")]
    [InlineData("""{"groups": [{"label": "a", "pieces": []}, {"label": "a", "pieces": []}]}""", "groups[1].label")]
    [InlineData("""{"groups": [{"label": "a", "pieces": [{"force": 3, "mode": "snap"}]}]}""", "groups[0].pieces[0].mode")]
    [InlineData("""{"groups": [{"label": "a", "pieces": [{"force": 3}]}], "reference": "b"}""", "reference")]
    [InlineData("{}", "groups")]
    public void What_is_no_force_is_refused_at_its_field(string json, string field)
    {
        var fields = new JsonFields(JsonDocument.Parse(json).RootElement);
        Assert.Null(Trial.Evaluate(fields));
        Assert.Contains(field, fields.Errors.Keys);
    }

    [Fact]
    public void Each_plate_has_its_own_lot_and_goes_on_counting()
    {
        var first = new BondPlan { Request = new() { CoolestC = 220, HottestC = 250 }, Estimate = new(0, null, 0) };
        var second = first with { Request = first.Request with { Block = 2 } };
        Assert.Equal(Enumerable.Range(1, 8), first.Numbers.Order());
        Assert.Equal(Enumerable.Range(9, 8), second.Numbers.Order());
        Assert.NotEqual(first.Rows, second.Rows);
        foreach (var p in new[] { first, second })
        {
            // Two of each group, every peg broken once, and not in the order of the groups.
            Assert.All(Enumerable.Range(0, 8).GroupBy(p.GroupOf), g => Assert.Equal(2, g.Count()));
            Assert.Equal(Enumerable.Range(0, 8), p.Breaking.Order());
            Assert.NotEqual(Enumerable.Range(0, 8), p.Breaking);
            Assert.DoesNotContain(((ITrialPlan)p).PieceLabels.Concat(Trial.Grid(p).Rows.Select(r => r.Label + r.Sub)), l => l.Contains("°C")
                || l.Contains('%'));
        }
    }

    [Fact]
    public void A_verdict_waits_until_the_last_peg_is_broken_and_takes_the_second_plate_as_a_block()
    {
        var p = new BondPlan { Request = new() { CoolestC = 220, HottestC = 250 }, Estimate = new(60, 20, 0), ProfileC = 240 };
        RunReadings Broken(BondPlan of, int count) => new(of.Breaking.Take(count).SelectMany(i => new[]
        {
            ((i, LayerBondTrial.Force), new CellReading(100 * (1 + of.GroupOf(i)) + 3 * (i % 3), "1")), ((i, LayerBondTrial.Broke),
                new CellReading(null, "layer")),
        }).ToDictionary(x => x.Item1, x => x.Item2));
        Assert.Equal(BondOutcome.Insufficient, Trial.Judge(p, Broken(p, 7), new()).Outcome);
        var q = p with { Request = p.Request with { Block = 2 } };
        var v = Trial.Judge(q, Broken(q, 8), new() { Earlier = [(p, Broken(p, 8))] });
        Assert.Equal((BondOutcome.Separable, 2), (v.Outcome, v.Plates));
        Assert.Equal("250 °C", v.Strongest);
        Assert.Equal("240 °C", v.Own);
        Assert.Equal(new AreaFinding("bond", false, [], false), ((Trial)Trial).Finding(v)! with { Doubts = [] });
        // Two of a group off one plate are too few, and one plate proves nothing.
        Assert.Null(((Trial)Trial).Finding(Trial.Judge(p, Broken(p, 8), new())));
    }

    [Fact]
    public void Its_file_prints_each_row_at_its_own_temperature_and_fan_and_stands_up_by_itself()
    {
        var c = new PlanContext
        {
            Machine = Machines.Whimbrel, Settings = PrintSettings.From(new Dictionary<string, double>(), Machines.Whimbrel, null),
            Kept = new Dictionary<string, double>(),
        };
        var planned = Trial.Plan(new() { Mode = LayerBondTrial.Crossed, CoolestC = 220, HottestC = 240, FanFromPercent = 20, FanToPercent = 80 }, c);
        Assert.Empty(planned.Errors);
        Trial any = Trial;
        var (_, job, errors) = any.Make(planned.Plan!, c);
        Assert.Empty(errors);
        var text = new StringWriter();
        GcodeWriter.Write(job!, new("1.0", DateTime.UnixEpoch), text);
        var (temperature, fan, seen) = (0.0, 0.0, new List<(double, double)>());
        foreach (var line in text.ToString().Split('\n'))
        {
            if (line.StartsWith("M104 S", StringComparison.Ordinal) || line.StartsWith("M109 S", StringComparison.Ordinal))
                temperature = double.Parse(line[6..].Split(' ')[0], System.Globalization.CultureInfo.InvariantCulture);
            else if (line.StartsWith("M106 S", StringComparison.Ordinal))
                fan = Math.Round(double.Parse(line[6..], System.Globalization.CultureInfo.InvariantCulture) / 2.55);
            else if (line.Contains("layer 60,") && line.StartsWith("; ", StringComparison.Ordinal))
                seen.Add((temperature, fan));
        }

        Assert.Equal([(220, 20), (220, 80), (240, 20), (240, 80)], seen.Order());
        // No layer reaches further out of the one below than it is high: 45° at most.
        var layers = job!.Request.Pieces[0].Layers;
        Assert.All(layers.Zip(layers.Skip(1)), pair => Assert.True(
            Core.TestPieces.Shapes.Plane.Outset(pair.First.Region, 1.02 * pair.Second.HeightMm + 0.65).Covers(pair.Second.Region),
                $"layer {pair.Second.Number}"));
        Assert.InRange(layers.First(l => l.Section == Peg.WaistSection).Islands[0].Shape.Area, 0.99 * Math.PI * 4, Math.PI * 4);
    }
}
