using Glenfrost.Core.Settings;
using System.Text.Json;
using System.Text.RegularExpressions;
using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.RetractionSweep;

namespace Glenfrost.Core.Tests.Trials;

public class RetractionTests
{
    private static RetractionPoint P(double length, double score, double speed = 30, double gaps = 0) => new(length, speed, [score], [], gaps);

    private static RetractionVerdict Judge(params RetractionPoint[] points) => RetractionJudging.Judge(new() { Points = points });

    [Fact]
    public void The_shortest_that_is_about_as_good_as_the_best()
    {
        var v = Judge(P(0, 0), P(0.4, 1), P(0.8, 4), P(1.2, 4), P(1.6, 4));
        Assert.Equal(RetractionOutcome.Clear, v.Outcome);
        Assert.Equal(0.8, v.LengthMm);
        Assert.Equal([0.8, 1.2, 1.6], v.AsGood);
        // The shortest that would do lies within two steps of it, by the curves that might be true.
        Assert.InRange(Assert.Single(v.Settings).Uncertainty, 0.2, 0.6);
        Assert.True(v.ShorterIsWorse);
        // What is lost is said with it, and the curve has its values.
        Assert.InRange(v.Loss!.Expected, 0.05, 0.5);
        Assert.InRange(v.Loss.P95, v.Loss.Expected, RetractionJudging.Open);
        Assert.Equal(5, v.Curve.Count);
    }

    [Fact]
    public void An_end_is_no_best_but_nothing_shorter_than_zero()
    {
        Assert.Equal("edge", Judge(P(0, 0), P(0.4, 1), P(0.8, 2), P(1.2, 4)).Verdict);
        Assert.Equal("edge", Judge(P(0.4, 4), P(0.8, 4), P(1.2, 4)).Verdict);
        // Still rising and not clean: what is below the end is no answer, though it is within the margin of it.
        var rising = Judge(P(1, 1), P(1, 1), P(2, 2), P(2, 2), P(3, 2.5), P(3, 2.5), P(4, 3), P(4, 3));
        Assert.Equal((RetractionOutcome.Edge, 4.0, true), (rising.Outcome, rising.LengthMm, rising.AtTop));
        var none = Judge(P(0, 4), P(0.4, 4), P(0.8, 4));
        Assert.Equal(("clear", 0.0), (none.Verdict, none.LengthMm));
        // A limit forbids going on: it says so and lets it stand.
        var limited = RetractionJudging.Judge(new() { Points = [P(0, 0), P(2, 1), P(5, 4)] });
        Assert.NotEqual("edge", limited.Verdict);
        Assert.Contains(RetractionCaution.AtMost, limited.Cautions);
        var next = Judge(P(0, 0), P(0.4, 1), P(0.8, 2), P(1.2, 4)).Next!;
        Assert.Equal((1.2m, 2.8m), (next.Values!["from"], next.Values["to"]));
    }

    [Fact]
    public void What_may_lie_behind_by_more_than_a_score_is_noise_and_asks_for_repeats_that_are_worth_it()
    {
        // One look by somebody whose scores scatter by a whole one.
        RetractionVerdict With(double noise, int looks) => RetractionJudging.Judge(new()
        {
            ScoreNoise = noise, Points = [.. Enumerable.Range(0, looks).SelectMany(_ => new[] { P(0, 2), P(0.4, 3), P(0.8, 4), P(1.2, 3) })],
        });
        var v = With(1, 1);
        Assert.Equal(RetractionOutcome.Noise, v.Outcome);
        Assert.False(v.Advised);
        Assert.True(v.Loss!.P95 > RetractionJudging.Open);
        Assert.Equal(2, v.Next!.Values!["repeats"]);
        Assert.InRange(v.Next.Gain!.Value, 0.005, 0.5);
        // The same means from many readings make it sure, and another print gains nothing that anybody sees.
        var sure = With(0.5, 8);
        Assert.Equal((RetractionOutcome.Clear, 0.8), (sure.Outcome, sure.LengthMm));
        Assert.True(sure.Loss!.P95 < 0.3);
        Assert.True(sure.Next!.Gain is null or < TrialNext.SmallGain);
    }

    /// <summary>Every factor that posts are swept by, with values of its own.</summary>
    public static TheoryData<string> Factors => [.. SweepFactor.All.Select(f => f.Word)];

    private static RetractionVerdict Sweep(string factor, double[] scores, double noise = 0.35)
    {
        var f = SweepFactor.Of(factor);
        double At(int i) => (double)(f.From + i * (f.To - f.From) / (scores.Length - 1));
        return RetractionJudging.Judge(new()
        {
            Factor = factor, ScoreNoise = noise, Limits = new(0, 10000),
            Points = [.. scores.Select((s, i) => new RetractionPoint(factor == "length" ? At(i) : 1, factor == "speed" ? At(i) : 30, [s], [], 0, At(i)))],
        });
    }

    [Theory]
    [MemberData(nameof(Factors))]
    public void A_peak_is_a_peak(string factor)
    {
        // Rises to the fifth and falls: the fourth was read 1.5 behind, the last one as 1.
        var v = Sweep(factor, [0, 1, 2, 2.5, 4, 4, 2, 1]);
        var at = v.Values.ToList().IndexOf(v.Value!.Value);
        Assert.InRange(at, 4, 5);
        Assert.DoesNotContain(v.Values[^1], v.AsGood);
        Assert.DoesNotContain(v.Values[2], v.AsGood);
        Assert.All(v.AsGood, x => Assert.InRange(v.Values.ToList().IndexOf(x), 3, 5));
        // The mirror image peaks as far from the other end.
        var mirrored = Sweep(factor, [1, 2, 4, 4, 2.5, 2, 1, 0]);
        Assert.InRange(mirrored.Values.ToList().IndexOf(mirrored.Value!.Value), 2, 3);
        // What falls from the first value on is best at the first one.
        var falls = Sweep(factor, [4, 3, 2, 1, 0, 0]);
        Assert.Equal(falls.Values[0], falls.Value);
    }

    [Fact]
    public void A_value_read_below_two_is_never_offered_whatever_the_factor_and_its_neighbours() =>
        Gen.Select(Gen.Int[0, SweepFactor.All.Count - 1].Select(i => SweepFactor.All[i].Word), Gen.Int[0, 8].Array[4, 9]).Sample(
            (factor, halves) =>
            {
                var v = Sweep(factor, [.. halves.Select(h => h / 2.0)]);
                foreach (var x in v.AsGood.Concat(v.Value is { } offered ? [offered] : []))
                    Assert.True(v.Means[v.Values.ToList().IndexOf(x)] >= 2, $"{factor}: {x} of {string.Join(' ', halves)}");
                if (v.Outcome != RetractionOutcome.NotRetraction)
                    Assert.True(v.Loss!.Expected <= v.Loss.P95 + 1e-9 && v.Settings.Count > 0 == (SweepFactor.Of(factor).SettledBy is null));
                else
                    Assert.Empty(v.Settings);
            },
            iter: 150);

    [Fact]
    public void Scores_that_fall_and_rise_again_are_asked_about()
    {
        Assert.Contains(RetractionCaution.TwoPeaks, Judge(P(0, 4), P(0.4, 0), P(0.8, 4), P(1.2, 0), P(1.6, 4)).Cautions);
        Assert.DoesNotContain(RetractionCaution.TwoPeaks, Judge(P(0, 0), P(0.4, 1), P(0.8, 3), P(1.2, 2.5), P(1.6, 3)).Cautions);
    }

    [Fact]
    public void Hardly_any_noise_and_hundreds_of_values_are_borne_or_refused()
    {
        RetractionReadings Many(int values, double noise) => new()
        {
            ScoreNoise = noise, Points = [.. Enumerable.Range(0, values).Select(i => P(Math.Round(i * 0.05, 2), i < values / 2 ? i * 8.0 / values : 4))],
        };
        Assert.Contains(RetractionJudging.Check(Many(200, 0.5)), e => e.Field == "points");
        Assert.Empty(RetractionJudging.Check(Many(60, 1e-9)));
        var v = RetractionJudging.Judge(Many(60, 1e-9));
        Assert.NotNull(v.Value);
        Assert.True(v.Loss!.Expected <= v.Loss.P95);
    }

    [Fact]
    public void When_nothing_helps_it_is_not_retraction()
    {
        var v = Judge(P(0, 1), P(0.4, 1), P(0.8, 1), P(1.2, 1.5));
        Assert.Equal(RetractionOutcome.NotRetraction, v.Outcome);
        Assert.Equal("strings", v.Next!.Guide);
        Assert.Empty(v.Settings);
        Assert.Null(v.Loss);
        Assert.Contains(RetractionCaution.Colder, v.Cautions);
        // Poor and all alike: no length is better than another.
        Assert.Equal(RetractionOutcome.NotRetraction, Judge(P(0, 2), P(0.4, 2), P(0.8, 2), P(1.2, 2)).Outcome);
        // But one that gets somewhere is something.
        Assert.NotEqual(RetractionOutcome.NotRetraction, Judge(P(0, 0), P(0.4, 0), P(0.8, 1), P(1.2, 2.4)).Outcome);
    }

    [Fact]
    public void Gaps_after_travel_rule_a_length_out()
    {
        var v = Judge(P(0, 0), P(0.5, 1), P(1, 4), P(1.5, 4, gaps: 1), P(2, 4, gaps: 1));
        Assert.Equal(1.0, v.LengthMm);
        Assert.Equal([1.5, 2], v.TooLong);
        Assert.Contains(RetractionCaution.Gaps, v.Cautions);
        Assert.Equal([false, false, false, true, true], v.Curve.Select(c => c is null));
    }

    [Fact]
    public void Counts_become_scores_and_many_counts_are_sure()
    {
        // 4 − log₂(1 + n): 0, 1, 3, 7 and 15 strings are worth 4, 3, 2, 1 and 0.
        Assert.Equal([4, 3, 2, 1, 0, 0], new double[] { 0, 1, 3, 7, 15, 40 }.Select(RetractionJudging.ScoreOf));
        RetractionPoint C(double length, params double[] strings) => new(length, 30, [], strings);
        var v = RetractionJudging.Judge(new() { Points = [C(0, 22, 19), C(0.5, 9, 12), C(1, 0, 0), C(1.5, 0, 0), C(2, 1, 0)] });
        Assert.Equal(("clear", 1.0), (v.Verdict, v.LengthMm));
    }

    [Fact]
    public void Length_and_speed_swept_together_and_each_factor_alone()
    {
        var both = Judge(P(0.4, 1, 20), P(0.8, 2, 20), P(1.2, 4, 20), P(0.4, 2, 40), P(0.8, 4, 40), P(1.2, 4, 40), P(0, 0, 20), P(0, 0, 40));
        Assert.Equal((0.8, 40.0), (both.LengthMm, both.SpeedMmPerS));
        Assert.Equal(["retractionLengthMm", "retractionSpeedMmPerS"], both.Settings.Select(s => s.Key));
        var wipe = RetractionJudging.Judge(
            new()
            {
                Factor = "wipe",
                Points = [P(0.8, 1) with { Value = 0 }, P(0.8, 2) with { Value = 1 }, P(0.8, 4) with { Value = 2 }, P(0.8, 4) with { Value = 3 }],
            });
        Assert.Equal(("clear", 2.0, "wipeMm"), (wipe.Verdict, wipe.Value, wipe.Settings[0].Key));
    }

    [Fact]
    public void Advice_is_for_the_drive()
    {
        var long_ = RetractionJudging.Judge(new() { Drive = "long-tube", Points = [P(2, 0), P(4, 1), P(6, 4), P(8, 4)] });
        Assert.DoesNotContain(RetractionCaution.Long, long_.Cautions);
        Assert.Contains(RetractionCaution.Long, Judge(P(2, 0), P(3, 1), P(4, 4), P(4.5, 4)).Cautions);
    }

    private static RetractionVerdict Pair(bool dried, double[] first, double[] second) =>
        RetractionJudging.Pair(new(0, 30, first, []), new(0, 30, second, []), 0.5, dried);

    public static TheoryData<bool, double[], double[], RetractionOutcome> Pairs => new()
    {
        { false, [1, 1], [4, 3], RetractionOutcome.Helps }, { true, [1, 1], [4, 3], RetractionOutcome.Helps },
        // Worse is an answer, for both pairs alike.
        { true, [3.3, 3.3], [1, 1], RetractionOutcome.Worse }, { false, [3, 3], [1, 1], RetractionOutcome.Worse },
        // So is that both failed.
        { true, [0, 0, 0], [0, 0, 0], RetractionOutcome.BothFailed }, { false, [0, 1, 0, 1], [1, 0, 1, 0], RetractionOutcome.BothFailed },
        { true, [3], [3], RetractionOutcome.Noise }, { false, [2, 3], [3, 3], RetractionOutcome.Noise },
        { false, [3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3], [3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3, 3], RetractionOutcome.NoDifference },
    };

    [Theory]
    [MemberData(nameof(Pairs))]
    public void A_pair_helps_harms_fails_makes_no_difference_or_is_noise(bool dried, double[] first, double[] second, RetractionOutcome outcome)
    {
        var v = Pair(dried, first, second);
        Assert.Equal(outcome, v.Outcome);
        Assert.Empty(v.Settings);
        // The other way round it is the other way round.
        var turned = Pair(dried, second, first);
        Assert.Equal(
            outcome switch { RetractionOutcome.Helps => RetractionOutcome.Worse, RetractionOutcome.Worse => RetractionOutcome.Helps, _ => outcome },
            turned.Outcome);
        Assert.Equal(v.Pair.Gain, -turned.Pair.Gain, 9);
    }

    private static RetractionVerdict JudgedPair(string mode, params (int Section, string Aspect, object Value)[] cells)
    {
        var (trial, c) = (new RetractionTrial(), Context(Machines.Dunnock));
        var values = trial.InMode(mode, trial.Propose(c), c);
        var plan = (RetractionPlan)trial.Plan(values, c).Plan!;
        static CellReading Cell(object value) => value is double d ? new(d, "", 1) : new(null, (string)value);
        return trial.Judge(plan, new(cells.ToDictionary(x => (x.Section, x.Aspect), x => Cell(x.Value))), new());
    }

    [Theory]
    [InlineData(RetractionTrial.OnOff)]
    [InlineData(RetractionTrial.Dried)]
    public void A_stray_score_on_a_piece_that_failed_or_is_lost_is_none(string mode)
    {
        // Two pieces of each; the second group's both failed to print, and somebody scored what is left of one.
        int[] second = mode == RetractionTrial.Dried ? [2, 3] : [1, 3];
        int[] first = mode == RetractionTrial.Dried ? [0, 1] : [0, 2];
        (int, string, object)[] good = [.. first.SelectMany(i => new[] { (i, RetractionTrial.Narrow, (object)3.0), (i, RetractionTrial.Wide, 3.0) })];
        var failed = JudgedPair(mode, [.. good, .. second.Select(i => (i, CellAspects.State, (object)"failed")), (second[0], RetractionTrial.Narrow, 4.0)]);
        Assert.Equal(RetractionOutcome.Worse, failed.Outcome);
        Assert.Equal(0, failed.Cells[1].Mean);
        // Lost ones say nothing, whatever was typed for them.
        var lost = JudgedPair(mode, [.. good, .. second.Select(i => (i, CellAspects.State, (object)"lost")), (second[0], RetractionTrial.Narrow, 4.0)]);
        Assert.Equal(RetractionOutcome.Insufficient, lost.Outcome);
        // Both failed: an answer, and no noise.
        var both = JudgedPair(mode, [.. first.Concat(second).Select(i => (i, CellAspects.State, (object)"failed"))]);
        Assert.Equal(RetractionOutcome.BothFailed, both.Outcome);
    }

    [Fact]
    public void The_order_of_points_and_their_split_into_repeats_change_nothing() =>
        Gen.Select(Gen.Int[0, 4].Array[6], Gen.Int[0, 1000])
            .Sample(
                (scores, seed) =>
                {
                    var points = scores.Select((s, i) => P(i * 0.4, s)).ToList();
                    var random = new Random(seed);
                    var shuffled = points.OrderBy(_ => random.Next()).ToArray();
                    var (a, b) = (Judge([.. points]), Judge(shuffled));
                    Assert.Equal((a.Verdict, a.Value), (b.Verdict, b.Value));
                },
                iter: 60);

    [Theory]
    [InlineData("lengthMm", -1, 30, 3)]
    [InlineData("speedMmPerS", 1, 0, 3)]
    [InlineData("score", 1, 30, 5)]
    public void Nonsense_is_refused_at_its_field(string field, double length, double speed, double score) =>
        Assert.Contains(RetractionJudging.Check(new() { Points = [P(0, 2), new(length, speed, [score], [])] }), e => e.Field == $"points[1].{field}");

    private static PlanContext Context(Machine m) =>
        new() { Memory = TestMemory.Shared, Machine = m, Settings = Machines.Settings(m), Family = Filaments.Family.Find("PLA"), AdvisedC = new(190, 220) };

    private static (RetractionPlan Plan, PrintedFile File) Written(Machine m, string mode, params (string Name, object Value)[] changes)
    {
        var (trial, c) = (new RetractionTrial(), Context(m));
        var values = trial.InMode(mode, trial.Propose(c), c);
        foreach (var (name, value) in changes)
            values[name] = value;
        var planned = trial.Plan(values, c);
        Assert.True(planned.Plan is not null, string.Join("; ", planned.Errors.Select(e => $"{e.Field}: {e.Message}")));
        var (plan, job, errors) = trial.Make(planned.Plan, c);
        Assert.True(job is not null, string.Join("; ", errors.Select(e => $"{e.Field}: {e.Message}")));
        var text = Machines.Text(job);
        Assert.Empty(GcodeGuard.Check(new StringReader(text), m));
        return ((RetractionPlan)plan, new PrintedFile(text));
    }

    /// <summary>What is pulled back before the travels of a layer, added up over wipes.</summary>
    private static List<double> Pulled(PrintedFile file, int piece, int layer)
    {
        var (list, sum) = (new List<double>(), 0.0);
        foreach (var s in file.Print.Where(s => s.Piece == piece && s.Layer == layer))
        {
            if (s.Fed < 0)
            {
                sum -= s.Fed;
            }
            else if (sum > 0)
            {
                list.Add(Math.Round(sum, 3));
                sum = 0;
            }
        }

        return list;
    }

    [Theory]
    [InlineData("Dunnock 180")]
    [InlineData("Whimbrel 300")]
    [InlineData("Ptarmigan 350 right")]
    public void Each_section_pulls_back_what_its_plan_says_and_pushes_as_much(string name)
    {
        var m = new[] { Machines.Dunnock, Machines.Whimbrel, Machines.Ptarmigan }.First(x => x.Name == name);
        var (plan, file) = Written(m, RetractionTrial.Tower);
        foreach (var part in ((ITrialPlan)plan).Parts)
        {
            // Within a section; the first layer begins with what the one below it pulled back.
            for (var layer = part.FirstLayer + 1; layer <= part.LastLayer && layer < ((ITrialPlan)plan).TotalLayers; layer++)
                Assert.All(Pulled(file, 0, layer), p => Assert.Equal((double)plan.Values[part.Index], p, 0.002));
        }
    }

    [Fact]
    public void Small_pieces_have_one_value_each_and_both_ways_are_counted()
    {
        var (plan, file) = Written(Machines.Whimbrel, RetractionTrial.Plate, ("from", 0m), ("to", 1m), ("step", 0.25m));
        for (var piece = 0; piece < 5; piece++)
            Assert.All(Pulled(file, piece, 12), p => Assert.Equal((double)plan.Values[piece], p, 0.002));
        Assert.Equal(["one piece by height", "small pieces on one plate", "small pieces, one print each"], plan.Ways.Select(w => w.Way));
        Assert.Equal([1, 1, 5], plan.Ways.Select(w => w.Walks));
        Assert.All(plan.Ways, w => Assert.True(w.Minutes > 0));
        Assert.True(plan.Ways[1].Chosen);
    }

    [Theory]
    [InlineData("speed", 15, 45, 15)]
    [InlineData("travel", 60, 180, 60)]
    [InlineData("hop", 0, 0.6, 0.3)]
    [InlineData("coast", 0, 1, 0.5)]
    [InlineData("wipe", 0, 3, 1.5)]
    public void One_factor_changes_and_the_others_stay(string factor, double from, double to, double step)
    {
        var (plan, file) = Written(
            Machines.Whimbrel, RetractionTrial.Tower, ("factor", factor), ("from", (decimal)from), ("to", (decimal)to), ("step", (decimal)step));
        foreach (var part in ((ITrialPlan)plan).Parts)
        {
            var moves = file.Print.Where(s => s.Layer > part.FirstLayer && s.Layer <= part.LastLayer && s.Layer < ((ITrialPlan)plan).TotalLayers).ToList();
            var value = (double)plan.Values[part.Index];
            var far = moves.Where(s => s.Fed == 0 && s.Length > 8).ToList();
            switch (factor)
            {
                case "speed":
                    Assert.All(moves.Where(s => s is { Fed: < 0, Moves: false }), s => Assert.Equal(value, s.MmPerMin / 60, 0.1));
                    break;
                case "travel":
                    Assert.All(far, s => Assert.Equal(value, s.MmPerMin / 60, 0.1));
                    break;
                case "hop":
                    Assert.All(far, s => Assert.Equal(value, s.Z - moves.Where(x => x.Layer == s.Layer && x.Fed > 0 && x.Moves).Min(x => x.Z), 0.01));
                    break;
                case "wipe":
                    Assert.All(moves.GroupBy(s => s.Layer), l =>
                        Assert.True(l.Where(s => s is { Fed: < 0, Moves: true }).Sum(s => s.Length) <= 6.5 * value + 0.01));
                    break;
                default:
                    // Where it coasts, the last of the way before a retraction is run without feeding.
                    Assert.Equal(
                        value > 0,
                        moves.Zip(moves.Skip(1)).Any(x => x.First is { Moves: true, Fed: 0, Length: < 1.01 } && x.First.Z == x.Second.Z && x.Second.Fed < 0));
                    break;
            }

            Assert.All(moves.GroupBy(s => s.Layer).SelectMany(l => Pulled(file, 0, l.Key)), p =>
                Assert.Equal((double)plan.Request.RetractionLengthMm, p, 0.002));
        }
    }

    [Theory]
    [InlineData(RetractionTrial.Tower)]
    [InlineData(RetractionTrial.Plate)]
    public void A_swept_temperature_is_waited_for_in_the_file_and_stands_with_its_part(string mode)
    {
        var (plan, file) = Written(Machines.Whimbrel, mode, ("factor", "temperature"), ("from", 200m), ("to", 215m), ("step", 5m));
        Assert.Equal([200, 205, 210, 215], ((ITrialPlan)plan).Parts.Select(p => p.NozzleC!.Value));
        // Each is set and waited for, in the order of the parts, before anything of its part is laid; the head and the end of the file come besides.
        Assert.Equal([200, 205, 210, 215], file.Heat.Where(h => h is { Command: "M109", Value: > 0 }).Select(h => h.Value!.Value).Distinct());
        Assert.DoesNotContain("210 °C", ((ITrialPlan)plan).Summary.Replace("200 to 215 °C", ""));
    }

    [Fact]
    public void A_swept_fan_blows_and_a_swept_multiplier_feeds_in_each_section_what_its_plan_says()
    {
        var (fan, blown) = Written(Machines.Whimbrel, RetractionTrial.Tower, ("factor", "fan"), ("from", 0m), ("to", 100m), ("step", 50m));
        // The fan as it stands at the end of each layer.
        var (at, layer, now) = (new Dictionary<int, double>(), 0, -1.0);
        foreach (var line in blown.Lines)
        {
            if (Regex.Match(line, @"^; layer (\d+),") is { Success: true } m)
                layer = int.Parse(m.Groups[1].Value);
            else if (Regex.Match(line, @"^M106 S([\d.]+)") is { Success: true } set)
                now = double.Parse(set.Groups[1].Value, System.Globalization.CultureInfo.InvariantCulture) / 255 * 100;
            else if (line.StartsWith("M107", StringComparison.Ordinal))
                now = 0;
            at[layer] = now;
        }

        foreach (var part in ((ITrialPlan)fan).Parts)
            Assert.All(Enumerable.Range(part.FirstLayer, part.LastLayer - part.FirstLayer), l => Assert.Equal((double)fan.Values[part.Index], at[l], 1.0));
        var (flow, fed) = Written(Machines.Whimbrel, RetractionTrial.Tower, ("factor", "multiplier"), ("from", 0.9m), ("to", 1.1m), ("step", 0.1m));
        double PerMm(int part)
        {
            var p = ((ITrialPlan)flow).Parts[part];
            var laid = fed.Print.Where(s => s is { Fed: > 0, Moves: true } && s.Layer > p.FirstLayer + 2 && s.Layer < p.LastLayer).ToList();
            return laid.Sum(s => s.Fed) / laid.Sum(s => s.Length);
        }

        Assert.Equal(1 / 0.9, PerMm(1) / PerMm(0), 0.01);
        Assert.Equal(1.1 / 0.9, PerMm(2) / PerMm(0), 0.01);
        // What is in force is reckoned in: the multiplier itself is swept, not a share of the profile's.
        Assert.Equal(Machines.Settings(Machines.Whimbrel).ExtrusionMultiplier, flow.Multiplier);
    }

    [Fact]
    public void Of_temperatures_and_multipliers_the_largest_is_taken_and_another_trial_settles_them()
    {
        RetractionVerdict Of(string factor, params (double At, double Score)[] read) => RetractionJudging.Judge(new()
        {
            Factor = factor, ScoreNoise = 0.2, Points = [.. read.Select(x => new RetractionPoint(0.8, 30, [x.Score, x.Score], [], 0, x.At))],
        });
        var v = Of("temperature", (195, 4), (200, 4), (205, 4), (210, 4), (215, 2), (220, 1));
        Assert.Equal((RetractionOutcome.Clear, 210.0), (v.Outcome, v.Value));
        Assert.Equal([195, 200, 205, 210], v.AsGood);
        Assert.Equal([195, 200, 205, 210, 215, 220], v.Values);
        Assert.Equal(215, v.Shorter!.At);
        Assert.True(v.ShorterIsWorse);
        // Nothing is kept by it: strings alone don't settle a temperature.
        Assert.Empty(v.Settings);
        Assert.False(v.Advised);
        Assert.Contains(RetractionCaution.StringsAlone, v.Cautions);
        Assert.Equal(("settle", "temperature-tower"), (v.Next!.Kind, v.Next.Trial));
        Assert.Equal("wall-flow", Of("multiplier", (0.85, 4), (0.9, 4), (0.95, 4), (1, 2), (1.05, 1)).Next!.Trial);
        var fan = Of("fan", (0, 1), (20, 2), (40, 4), (60, 4), (80, 4));
        Assert.Equal((40.0, "fan-steps"), (fan.Value!.Value, fan.Next!.Trial));
        // The warmest that was tried is still clean: warmer ones may be too, and the next print begins where this one ended.
        var end = Of("temperature", (195, 4), (200, 4), (205, 4));
        Assert.Equal((RetractionOutcome.Edge, 205m), (end.Outcome, end.Next!.Values!["from"]));
        Assert.True(end.Next.Values["to"] > 205);
        Assert.Equal("temperature", end.Next.Words!["factor"]);
        // Strings whatever it is: it is none of these.
        Assert.Equal(RetractionOutcome.NotRetraction, Of("temperature", (195, 1), (200, 1), (205, 1)).Outcome);
    }

    [Fact]
    public void Taking_the_largest_is_taking_the_smallest_seen_from_the_other_end() =>
        Gen.Select(Gen.Double[0, 4].Array[3, 7], Gen.Int[1, 40]).Sample((scores, offset) =>
        {
            RetractionReadings Of(string factor, Func<int, double> at) => new()
            {
                Factor = factor, ScoreNoise = 0.4, Limits = new(0, 500),
                Points = [.. scores.Select((s, i) => new RetractionPoint(0.8, 30, [Math.Round(s)], [], 0, at(i)))],
            };
            var least = RetractionJudging.Judge(Of("fan", i => offset + 5 * i));
            var most = RetractionJudging.Judge(Of("temperature", i => 500 - offset - 5 * i));
            Assert.Equal(least.Outcome, most.Outcome);
            Assert.Equal(least.Value is { } x ? 500 - x : null, most.Value);
            Assert.Equal(least.AsGood.Select(a => 500 - a).Reverse(), most.AsGood);
            Assert.Equal(least.Loss, most.Loss);
            Assert.Equal(least.Curve.Reverse(), most.Curve);
            Assert.Equal(least.NextRange is { } r ? (500 - r.To, 500 - r.From) : null, most.NextRange is { } m ? (m.From, m.To) : ((double, double)?)null);
        }, iter: 60);

    [Fact]
    public void The_reeds_are_thin_and_stand_at_two_spacings()
    {
        var piece = Reeds.Build(new(4, 10, 20, 5, 0.2, 0.4), [new(new(0.5)), new(new(1))], PieceMemory.None);
        var posts = piece.Layers[^1].Islands.Select(i => i.Shape.EnvelopeInternal).OrderBy(e => e.MinX).ToList();
        Assert.Equal(3, posts.Count);
        Assert.All(posts, p => Assert.Equal(4, p.Width, 0.05));
        Assert.Equal(10, posts[1].MinX - posts[0].MaxX, 0.05);
        Assert.Equal(20, posts[2].MinX - posts[1].MaxX, 0.05);
        // A collar marks where the second section begins, on the first reed only.
        var collar = piece.Layers.First(l => l.Section == 1).Islands.Select(i => i.Shape.EnvelopeInternal.Width).Order().ToList();
        Assert.Equal([4, 4, 6], collar.Select(w => Math.Round(w)));
    }

    [Fact]
    public void Plans_are_refused_at_their_fields_with_what_would_be_right()
    {
        var (trial, c) = (new RetractionTrial(), Context(Machines.Whimbrel));
        Settings.FieldError One(string mode, params (string, decimal)[] changes) =>
            Assert.Single(trial.Plan(trial.InMode(mode, trial.Propose(c), c).With(changes.ToDictionary(x => x.Item1, x => x.Item2)), c).Errors);
        Assert.Equal(5m, Assert.Single(One(RetractionTrial.Tower, ("to", 7), ("step", 1)).Offers).Changes["to"]);
        Assert.Equal("to", One(RetractionTrial.Tower, ("to", 0)).Field);
        Assert.Equal("step", One(RetractionTrial.Tower, ("step", 0.05m)).Field);
        Assert.Equal("wideGapMm", One(RetractionTrial.Tower, ("wideGapMm", 6)).Field);
        Assert.Equal("postMm", One(RetractionTrial.Tower, ("postMm", 2)).Field);
        Assert.Equal("nozzleTemperatureC", One(RetractionTrial.Tower, ("nozzleTemperatureC", 330)).Field);
        foreach (var (factor, from, to) in new[] { ("temperature", 210m, 400m), ("fan", 20m, 160m), ("multiplier", 0.9m, 1.6m) })
        {
            var values = trial.Propose(c);
            (values["factor"], values["from"], values["to"], values["step"]) = (factor, from, to, (to - from) / 4);
            Assert.Equal("to", Assert.Single(trial.Plan(values, c).Errors).Field);
        }

        Assert.Equal("retractionLengthMm", One(RetractionTrial.OnOff, ("retractionLengthMm", 0)).Field);
        var soft = trial.Plan(trial.Propose(c), c with { Dryness = new("damp", true, 8, 55, null) }).Plan!;
        Assert.Contains(soft.Warnings, w => w is { Kind: PlanWarningKind.DryFirst, Names: ["damp", "strings"] });
    }

    public static TheoryData<string, string> FactorsOnMachines =>
        new(SweepFactor.All.SelectMany(f => new[] { "dunnock", "whimbrel", "ptarmigan", "slow" }.Select(m => (f.Word, m))));

    /// <summary>A factor that is chosen gets its own range on every machine: no 0 to 1.6 mm on a long tube, no travel at 1 mm/s.</summary>
    [Theory]
    [MemberData(nameof(FactorsOnMachines))]
    public void A_factor_that_is_chosen_gets_its_own_range(string factor, string machine)
    {
        var m = machine switch
        {
            "dunnock" => Machines.Dunnock,
            "whimbrel" => Machines.Whimbrel,
            "slow" => Machines.Dunnock with { MaxSpeedMmPerS = 55 },
            _ => Machines.Ptarmigan,
        };
        var (trial, c) = (new RetractionTrial(), Context(m));
        var f = SweepFactor.Of(factor);
        var values = trial.Propose(c);
        values["factor"] = factor;
        var fitted = trial.Refit(values, c);
        var (from, to, step) = (fitted.Number("from")!.Value, fitted.Number("to")!.Value, fitted.Number("step")!.Value);
        Assert.InRange((to - from) / step, 3, 20);
        if (f.Unit == "mm/s")
            Assert.True(from >= 10, $"{from} to {to} mm/s");
        if (factor == "travel")
            Assert.True(to <= (decimal)m.MaxSpeedMmPerS, $"{from} to {to} mm/s on {m.MaxSpeedMmPerS}");
        if (factor == "length")
            Assert.Equal(m.LongTube, to > 4);
        // Help beside the upper end speaks of what is swept, in its unit and within its range.
        var help = ((Trial)trial).HelpOf("to", c, field => field == "factor" ? factor : "");
        Assert.Equal(f.Unit == "mm", help.Contains(" mm", StringComparison.Ordinal) && !help.Contains("mm/s", StringComparison.Ordinal));
        if (factor != "length")
            Assert.Equal($"Usually {Say.N(from)} to {Say.N(to)}{(f.Unit.Length == 0 ? "" : $" {f.Unit}")} here.", help);
        var result = ((Trial)trial).Plan(fitted, c);
        Assert.True(result.Plan is not null, string.Join(" ", result.Errors.Select(e => e.Message)));
        // A script that names the factor alone gets the same.
        var asked = ((Trial)trial).PlanFrom(new JsonFields(JsonDocument.Parse($$"""{"factor":"{{factor}}"}""").RootElement), c);
        Assert.Equal(((RetractionPlan)result.Plan).Request.Values, ((RetractionPlan)asked.Plan!).Request.Values);
        var less = JsonDocument.Parse(FormattableString.Invariant($"{{\"factor\":\"{factor}\",\"to\":{to - step}}}")).RootElement;
        var own = (RetractionPlan)((Trial)trial).PlanFrom(new JsonFields(less), c).Plan!;
        Assert.Equal((from, to - step), (own.Request.From, own.Request.To));
    }

    [Theory]
    [InlineData(0.48)]
    [InlineData(1)]
    [InlineData(1.46)]
    public void A_multiplier_is_swept_around_the_one_in_force_and_within_what_a_reed_is_laid_with(double inForce)
    {
        var c = Context(Machines.Whimbrel);
        c = c with { Settings = c.Settings! with { ExtrusionMultiplier = inForce } };
        var trial = new RetractionTrial();
        var values = trial.Propose(c);
        values["factor"] = "multiplier";
        var plan = ((Trial)trial).Plan(trial.Refit(values, c), c);
        Assert.Empty(plan.Errors);
        Assert.InRange(inForce, (double)((RetractionPlan)plan.Plan!).Values[0] - 0.07, (double)((RetractionPlan)plan.Plan!).Values[^1] + 0.07);
    }

    [Fact]
    public void A_plate_is_proposed_with_as_many_pieces_as_fit_whatever_is_swept()
    {
        var trial = new RetractionTrial();
        foreach (var m in new[] { Machines.Dunnock, Machines.Whimbrel, Machines.Ptarmigan })
        {
            var c = new PlanContext { Machine = m, Settings = Machines.Settings(m, "PLA"), Family = Filaments.Family.Find("PLA"), AdvisedC = new(190, 220) };
            foreach (var factor in SweepFactor.All)
            {
                var values = trial.InMode(RetractionTrial.Plate, trial.Propose(c), c);
                values["factor"] = factor.Word;
                values = trial.Refit(values, c);
                var planned = trial.Plan(values, c);
                Assert.Empty(planned.Errors);
                Assert.True(trial.Make(planned.Plan!, c).Errors.Count == 0, $"{m.Name}, {factor.Word}");
                var plan = (RetractionPlan)planned.Plan!;
                Assert.InRange(plan.Values.Count, 3, 30);
                // Each piece is labelled by its value.
                Assert.Equal(plan.Values.Count, ((ITrialPlan)plan).PieceLabels.Distinct().Count());
            }
        }

        // The pieces of a dried pair are printed twice: on their plate they differ by nothing.
        var d = new PlanContext { Machine = Machines.Dunnock, Settings = Machines.Settings(Machines.Dunnock, "PLA"), Family = Filaments.Family.Find("PLA"), AdvisedC = new(190, 220) };
        Assert.All(trial.Plan(trial.InMode(RetractionTrial.Dried, trial.Propose(d), d), d).Plan!.PieceLabels, Assert.Empty);
    }

    [Theory]
    [InlineData(RetractionTrial.OnOff, false)]
    [InlineData(RetractionTrial.Dried, false)]
    [InlineData(RetractionTrial.Tower, true)]
    [InlineData(RetractionTrial.Plate, true)]
    [InlineData(RetractionTrial.Tower, false, "temperature")]
    [InlineData(RetractionTrial.Plate, false, "fan")]
    public void A_question_that_settles_no_value_needs_no_decision(string mode, bool decides, string factor = "length")
    {
        var (trial, m) = (TrialCatalogue.Get("retraction-sweep"), Machines.Dunnock);
        var c = new PlanContext { Machine = m, Settings = Machines.Settings(m, "PLA"), Family = Filaments.Family.Find("PLA"), AdvisedC = new(190, 220) };
        var values = trial.InMode(mode, trial.Propose(c), c);
        values["factor"] = factor;
        values = trial.Refit(values, c);
        Assert.Equal(decides, trial.Decides(trial.Plan(values, c).Plan!));
    }
}
