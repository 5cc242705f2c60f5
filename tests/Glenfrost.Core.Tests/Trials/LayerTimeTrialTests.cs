using System.Text;
using System.Text.Json;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Tests.Gcode;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.LayerTime;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Layer time in steps: the shortest that looks about as good as the best, and a file whose every layer lasts what its section asks.</summary>
public class LayerTimeTrialTests
{
    private static readonly LayerTimeTrial Trial = new();

    private static LayerTimeVerdict Of(double noise, double? inForce, params (double Seconds, double Corners, double Walls)[] sections) =>
        LayerTimeJudging.Judge(new()
        {
            Points = [.. sections.Select(s => new LayerTimePoint(s.Seconds, [s.Corners, s.Walls], []))], ScoreNoise = noise, InForceS = inForce,
        });

    [Fact]
    public void The_shortest_time_that_is_about_as_good_is_taken_with_what_it_saves()
    {
        var v = Of(0.25, 10, (4, 1, 1), (6, 2, 3), (8, 4, 4), (10, 4, 4), (12, 4, 4));
        Assert.Equal((LayerTimeOutcome.Clear, 8), (v.Outcome, v.Seconds));
        Assert.Equal(("minLayerTimeS", 8), (Assert.Single(v.Settings).Key, v.Settings[0].Value));
        Assert.Equal([8, 10, 12], v.AsGood);
        // A part whose every layer is slowed lasts 8 s a layer and not 10.
        Assert.Equal(80, v.PercentOfBefore);
        Assert.Null(Of(0.25, null, (4, 1, 1), (6, 2, 3), (8, 4, 4), (10, 4, 4), (12, 4, 4)).PercentOfBefore);
    }

    [Fact]
    public void The_ends_are_no_answer_and_what_is_poor_throughout_is_not_the_layer_time()
    {
        var longest = Of(0.25, 10, (4, 0.5, 0.5), (6, 1, 1), (8, 2, 2), (10, 3.4, 3.4));
        Assert.Equal((LayerTimeOutcome.Edge, true), (longest.Outcome, longest.AtLongest));
        Assert.Equal((10m, 14.5m), (longest.Next!.Values!["shortestS"], longest.Next.Values["longestS"]));
        var shortest = Of(0.25, 10, (4, 4, 4), (6, 4, 4), (8, 4, 3), (10, 3, 3));
        Assert.Equal((LayerTimeOutcome.Edge, false), (shortest.Outcome, shortest.AtLongest));
        Assert.Equal((2.5m, 4m), (shortest.Next!.Values!["shortestS"], shortest.Next.Values["longestS"]));
        Assert.Equal(LayerTimeOutcome.NotTime, Of(0.25, 10, (4, 1, 1), (6, 1, 1), (8, 1, 1)).Outcome);
        // Corners that melted away count, however straight the walls are.
        Assert.NotEqual(6, Of(0.25, 10, (4, 1, 1), (6, 0, 4), (8, 4, 4), (10, 4, 4)).Seconds);
        Assert.Equal(LayerTimeOutcome.Insufficient, LayerTimeJudging.Judge(new() { Points = [new(4, [3], []), new(6, [3], [])] }).Outcome);
    }

    [Fact]
    public void A_clear_time_lies_hardly_ever_more_than_a_score_behind_the_best()
    {
        var random = new MersenneTwister(31, false);
        var (far, all) = (0, 0);
        for (var i = 0; i < 300; i++)
        {
            // Looks rise as it sets and stay: some set in three seconds, some in nine.
            var sets = 3 + 6 * random.NextDouble();
            double Truth(double t) => 4 * Math.Exp(-5 * Math.Exp(-Math.Pow(t / sets, 1.6) * 1.6));
            double[] times = [4, 6, 8, 10, 12];
            double Score(double t) => Math.Clamp(Math.Round(Truth(t) + Normal.Sample(random, 0, 0.5)), 0, 4);
            var v = Of(0.5, 10, [.. times.Select(t => (t, Score(t), Score(t)))]);
            if (v.Outcome != LayerTimeOutcome.Clear)
                continue;
            all++;
            far += times.Max(Truth) - Truth(v.Seconds!.Value) > 1 ? 1 : 0;
        }

        Assert.True(all > 80, $"{all} clear");
        Assert.True(far <= 0.06 * all, $"{far} of {all} lie more than a score behind");
    }

    public static TheoryData<string> Names => [nameof(Machines.Dunnock), nameof(Machines.Ptarmigan), nameof(Machines.Whimbrel)];

    /// <summary>What the page proposes has a file on each machine, and another program's clock, the inspector's, finds each section's time in it.</summary>
    [Theory]
    [MemberData(nameof(Names))]
    public void Every_layer_of_a_section_lasts_its_time_by_the_inspectors_clock(string name)
    {
        var m = (Machine)typeof(Machines).GetProperty(name)!.GetValue(null)!;
        var c = new PlanContext { Machine = m, Settings = PrintSettings.From(new Dictionary<string, double> { ["minLayerTimeS"] = 9 }, m, null) };
        Trial any = Trial;
        var planned = any.Plan(any.Propose(c), c);
        Assert.Empty(planned.Errors);
        var (plan, job, errors) = any.Make(planned.Plan!, c);
        Assert.Empty(errors);
        var p = (LayerTimePlan)plan;
        Assert.InRange(p.Times.Count, 3, 9);
        var text = Machines.Text(job!);
        // One least time for all of it would be untrue of it.
        Assert.DoesNotContain("least layer time: 9", text);
        var facts = ReadingTests.Inspect(Encoding.UTF8.GetBytes(text));
        foreach (var part in ((ITrialPlan)p).Parts)
        {
            var layers = facts.Model.Where(l => l.Z > part.FromZMm + 0.01 && l.Z <= part.ToZMm + 0.01).Skip(TimedColumn.GrooveLayers).ToList();
            Assert.True(layers.Count > 10);
            // Its last layer ends with the way to the next section, and the inspector's corners are its own.
            Assert.All(layers.SkipLast(1), l => Assert.InRange(l.Seconds, 0.93 * p.Times[part.Index], 1.07 * p.Times[part.Index]));
        }

        // What is slower is slower: the foot keeps the profile's own time.
        Assert.Equal(p.Times.Count, p.SpeedsMmPerS.Count);
        Assert.Equal(p.SpeedsMmPerS.Order(), p.SpeedsMmPerS);
        Assert.All(job!.Layers.Where(l => l.LeastTimeS is null), l => Assert.True(l.Seconds >= 8.9));
        Assert.DoesNotContain(p.Warnings, w => w.Kind is PlanWarningKind.Slowed or PlanWarningKind.TooShort && w.Numbers.Contains(p.Times[0]));
    }

    /// <summary>What a verdict at an end asks for next is a plan with a file, at usual speeds and at slow ones.</summary>
    [Theory]
    [MemberData(nameof(Names))]
    public void What_is_asked_for_next_is_accepted(string name)
    {
        var m = (Machine)typeof(Machines).GetProperty(name)!.GetValue(null)!;
        Trial any = Trial;
        foreach (var speed in new[] { 22.0, 40 })
        {
            var c = new PlanContext { Machine = m, Settings = PrintSettings.From(new Dictionary<string, double> { ["outerWallSpeedMmPerS"] = speed }, m, null) };
            foreach (var v in new[] { Of(0.25, 10, (6, 4, 4), (8, 4, 4), (10, 3, 3)), Of(0.25, 10, (8, 1, 1), (10, 2, 2), (12, 3.6, 3.6)) })
            {
                Assert.Equal(LayerTimeOutcome.Edge, v.Outcome);
                var values = any.Propose(c);
                foreach (var (field, value) in v.Next!.Values!)
                    values[field] = value;
                var planned = any.Plan(values, c);
                Assert.True(planned.Plan is not null, $"{speed}: {string.Join(' ', planned.Errors.Select(e => e.Message))}");
                Assert.Empty(any.Make(planned.Plan, c).Errors);
            }
        }
    }

    [Fact]
    public void A_range_that_one_column_can_not_show_is_refused_with_one_that_it_can()
    {
        var c = new PlanContext { Machine = Machines.Whimbrel, Settings = Machines.Settings(Machines.Whimbrel) };
        var e = Assert.Single(Trial.Plan(new() { LongestS = 30, ShortestS = 3, StepS = 9 }, c).Errors);
        Assert.Equal("shortestS", e.Field);
        var offer = Assert.Single(e.Offers).Changes["shortestS"];
        // What is offered is accepted, by the plan and by the file.
        var planned = Trial.Plan(new() { LongestS = 30, ShortestS = Math.Ceiling(1.3m * offer), StepS = 5 }, c);
        Assert.Empty(planned.Errors);
        Assert.Equal("stepS", Assert.Single(Trial.Plan(new() { LongestS = 12, ShortestS = 6, StepS = 6 }, c).Errors).Field);
        Assert.Equal("longestS", Assert.Single(Trial.Plan(new() { LongestS = 4, ShortestS = 6 }, c).Errors).Field);
        Assert.Equal("longestS", Assert.Single(Trial.Plan(new() { LongestS = 110, ShortestS = 100, StepS = 3 }, c with
        {
            Settings = Machines.Settings(Machines.Whimbrel) with { MinPrintSpeedMmPerS = 60 },
        }).Errors).Field);
    }

    [Theory]
    [InlineData("""{"points": [{"seconds": 4, "corners": 3}]}""", "points")]
    [InlineData("""{"points": [{"seconds": 0, "corners": 3}, {"seconds": 6, "corners": 3}, {"seconds": 8, "walls": 3}]}""", "points[0].seconds")]
    [InlineData("""{"points": [{"seconds": 4}, {"seconds": 6, "corners": 3}, {"seconds": 8, "corners": 3}]}""", "points[0].corners")]
    public void What_is_no_layer_time_is_refused_at_its_field(string json, string field)
    {
        var fields = new JsonFields(JsonDocument.Parse(json).RootElement);
        Assert.Null(Trial.Evaluate(fields));
        Assert.Contains(field, fields.Errors.Keys);
    }
}
