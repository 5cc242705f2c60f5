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
    public void The_shortest_that_is_not_inferior_to_the_best()
    {
        var v = Judge(P(0, 0), P(0.4, 1), P(0.8, 4), P(1.2, 4), P(1.6, 4));
        Assert.Equal("clear", v.Verdict);
        Assert.Equal(0.8, v.LengthMm);
        Assert.Equal([0.8, 1.2, 1.6], v.AsGood);
        // The shortest that would do lies between the longest that is told to be worse and this one.
        Assert.Equal(0.4, Assert.Single(v.Settings).Uncertainty);
        Assert.False(v.Shown);
        Assert.Contains(v.Reasons, r => r.Contains("not shown"));
        // Within the margin is good enough: 3.5 against 4 at a margin of 0.5.
        Assert.Equal(0.4, Judge(P(0, 0), P(0.4, 3.5), P(0.8, 4), P(1.2, 3.5)).LengthMm);
    }

    [Fact]
    public void An_end_is_no_best_but_nothing_shorter_than_zero()
    {
        Assert.Equal("edge", Judge(P(0, 0), P(0.4, 1), P(0.8, 2), P(1.2, 4)).Verdict);
        Assert.Equal("edge", Judge(P(0.4, 4), P(0.8, 4), P(1.2, 4)).Verdict);
        var none = Judge(P(0, 4), P(0.4, 4), P(0.8, 4));
        Assert.Equal(("clear", 0.0), (none.Verdict, none.LengthMm));
        // A limit forbids going on: it says so and lets it stand.
        var limited = RetractionJudging.Judge(new() { Points = [P(0, 0), P(2, 1), P(5, 4)] });
        Assert.NotEqual("edge", limited.Verdict);
        Assert.Contains(limited.Warnings, w => w.Contains("not extended"));
        var next = Judge(P(0, 0), P(0.4, 1), P(0.8, 2), P(1.2, 4)).Next!;
        Assert.Equal(1.2m, next.Values!["from"]);
    }

    [Fact]
    public void What_scores_cant_tell_is_noise_and_asks_for_repeats()
    {
        var v = Judge(P(0, 2), P(0.4, 3), P(0.8, 4), P(1.2, 3));
        Assert.Equal("noise", v.Verdict);
        Assert.False(v.Advised);
        Assert.Equal(2, v.Next!.Values!["repeats"]);
        // Repeats make it sure: the same means from four readings each.
        var sure = RetractionJudging.Judge(new() { Points = [.. Enumerable.Range(0, 4).SelectMany(_ => new[] { P(0, 2), P(0.4, 3), P(0.8, 4), P(1.2, 4) })] });
        Assert.Equal(("clear", 0.8), (sure.Verdict, sure.LengthMm));
    }

    [Fact]
    public void When_nothing_helps_it_is_not_retraction()
    {
        var v = Judge(P(0, 1), P(0.4, 1), P(0.8, 1), P(1.2, 2));
        Assert.Equal("not-retraction", v.Verdict);
        Assert.Equal("strings", v.Next!.Guide);
        Assert.Empty(v.Settings);
        Assert.Contains(v.Warnings, w => w.Contains("Colder"));
    }

    [Fact]
    public void Gaps_after_travel_rule_a_length_out()
    {
        var v = Judge(P(0, 0), P(0.5, 1), P(1, 4), P(1.5, 4, gaps: 1), P(2, 4, gaps: 1));
        Assert.Equal(("clear", 1.0), (v.Verdict, v.LengthMm));
        Assert.Equal([1.5, 2], v.TooLong);
        Assert.Contains(v.Warnings, w => w.Contains("Gaps after travel"));
    }

    [Fact]
    public void Counts_become_scores_and_many_counts_are_sure()
    {
        // 4 − log₂(1 + n): 0, 1, 3, 7 and 15 strings are worth 4, 3, 2, 1 and 0.
        Assert.Equal([4, 3, 2, 1, 0, 0], new double[] { 0, 1, 3, 7, 15, 40 }.Select(RetractionJudging.ScoreOf));
        RetractionPoint C(double length, params double[] strings) => new(length, 30, [], strings);
        var v = RetractionJudging.Judge(new() { Points = [C(0, 22, 19), C(0.5, 9, 12), C(1, 0, 1), C(1.5, 0, 0), C(2, 1, 0)] });
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
        Assert.DoesNotContain(long_.Warnings, w => w.Contains("usual"));
        Assert.Contains(Judge(P(2, 0), P(3, 1), P(4, 4), P(4.5, 4)).Warnings, w => w.Contains("longer than the 2 mm that is usual"));
        Assert.Contains(RetractionJudging.Judge(new() { Soft = true, Points = [P(2, 0), P(3, 1), P(4, 4), P(4.5, 4)] }).Warnings, w =>
            w.Contains("Soft filament"));
    }

    [Fact]
    public void A_pair_helps_makes_no_difference_or_is_noise()
    {
        RetractionPoint G(params double[] scores) => new(0, 30, scores, []);
        Assert.Equal("helps", RetractionJudging.Pair(G(1, 1), G(4, 3), 0.5, false).Verdict);
        var damp = RetractionJudging.Pair(G(1, 1), G(4, 3), 0.5, true);
        Assert.Contains("damp", damp.Sentence);
        Assert.Contains(damp.Warnings, w => w.Contains("flow limit"));
        Assert.Equal("noise", RetractionJudging.Pair(G(3), G(3), 0.5, true).Verdict);
        var none = RetractionJudging.Pair(G([.. Enumerable.Repeat(3.0, 12)]), G([.. Enumerable.Repeat(3.0, 12)]), 0.5, false);
        Assert.Equal(("no-difference", "strings"), (none.Verdict, none.Next!.Guide));
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
                    // Means that never fall are not smoothed: what is proposed is within the margin of the best.
                    if (a.Value is { } v && scores.SequenceEqual(scores.Order()))
                        Assert.True(a.Means[a.Values.ToList().IndexOf(v)] >= a.Means.Max() - 0.5 - 1e-9);
                },
                iter: 200);

    [Theory]
    [InlineData("lengthMm", -1, 30, 3)]
    [InlineData("speedMmPerS", 1, 0, 3)]
    [InlineData("score", 1, 30, 5)]
    public void Nonsense_is_refused_at_its_field(string field, double length, double speed, double score) =>
        Assert.Contains(RetractionJudging.Check(new() { Points = [P(0, 2), new(length, speed, [score], [])] }), e => e.Field == $"points[1].{field}");

    private static PlanContext Context(Machine m) =>
        new() { Machine = m, Settings = Machines.Settings(m), Family = Filaments.Family.Find("PLA"), AdvisedC = new(190, 220) };

    private static (RetractionPlanV1 Plan, PrintedFile File) Written(Machine m, string mode, params (string Name, object Value)[] changes)
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
        return ((RetractionPlanV1)plan, new PrintedFile(text));
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

    [Fact]
    public void The_reeds_are_thin_and_stand_at_two_spacings()
    {
        var piece = Reeds.Build(new(4, 10, 20, 5, 0.2, 0.4), [new(0.5), new(1)]);
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
        Assert.Equal("retractionLengthMm", One(RetractionTrial.OnOff, ("retractionLengthMm", 0)).Field);
        var soft = trial.Plan(trial.Propose(c), c with { Dryness = new("damp", true, 8, 55, null, "Damp: open for 90 h.", []) }).Plan!;
        Assert.Contains(soft.Warnings, w => w.StartsWith("Dry first", StringComparison.Ordinal));
    }
}
