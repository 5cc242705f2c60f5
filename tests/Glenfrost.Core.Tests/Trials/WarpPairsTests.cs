using System.Text.Json;
using Glenfrost.Core.Factors;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.WarpPairs;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Plates in pairs: what so few can show, when the lift came, and when nothing may be laid to the difference.</summary>
public class WarpPairsTests
{
    private static readonly WarpTrial Trial = new();

    private static WarpPart Plate(string arm, int pair, double released, double? room = 20, double? cooled = null, double? during = null,
        double? chamber = null) =>
        new(
            arm, pair,
            [
                .. WarpPlaces.All.SkipLast(1).SelectMany(place => new[] { ("during", during), ("cooled", cooled), ("released", released) }
                    .Where(x => x.Item2 is not null).Select(x => new WarpLift(place, x.Item1, x.Item2!.Value))),
            ])
        {
            RoomC = room, ChamberC = chamber,
        };

    private static WarpVerdict Of(params (double Without, double With)[] pairs) => WarpJudging.Judge(new()
    {
        Parts = [.. pairs.SelectMany((p, i) => new[] { Plate("without", i + 1, p.Without), Plate("with", i + 1, p.With) })],
    });

    // Differences −0.9, −0.7, −1.0, −0.8: mean −0.85, s = 0.129, t(3) = 3.182: ± 0.205.
    [Fact]
    public void Four_pairs_say_their_effect_with_its_interval_and_never_less_than_one_in_eight()
    {
        var v = Of((1.2, 0.3), (1.1, 0.4), (1.5, 0.5), (1.2, 0.4));
        Assert.Equal(WarpOutcome.Separable, v.Outcome);
        Assert.Equal(-0.85, v.EffectMm!.Value, 2);
        Assert.Equal(-1.055, v.Low!.Value, 2);
        Assert.Equal(-0.645, v.High!.Value, 2);
        Assert.Equal((0.125, 0.125), (v.P, v.PFloor));
        Assert.Equal(1.0 / 32, WarpJudging.Exact([1, 1, 1, 1, 1, 1]).P, 9);
        Assert.True(WarpJudging.Exact([1, 1, 1, 1, 1]).Floor > 0.05);
    }

    [Fact]
    public void Corners_of_one_part_are_no_repeats()
    {
        // Four corners that agree to the hair change nothing: there are two plates.
        var v = Of((1.0, 0.5));
        Assert.Equal((WarpOutcome.Insufficient, 1), (v.Outcome, v.Pairs));
        Assert.Null(v.Low);
        Assert.Equal("measure-more", v.Next!.Kind);
    }

    [Fact]
    public void A_warmer_room_is_no_effect_of_the_box()
    {
        WarpReadings r = new()
        {
            Parts = [.. Enumerable.Range(1, 3).SelectMany(n => new[] { Plate("without", n, 1.3 + 0.1 * n, 18), Plate("with", n, 0.4, 23) })],
        };
        var refused = WarpJudging.Judge(r);
        Assert.Equal(WarpOutcome.NotAttributed, refused.Outcome);
        Assert.Equal([5, 5, 5], refused.LeftOut.Select(o => o.DifferenceC!.Value));
        Assert.False(refused.Advised);
        Assert.Null(((Trial)Trial).Finding(refused));
        // Pairs of one room stand, those before are left out and said.
        var holds = WarpJudging.Judge(r with
        {
            Parts = [.. r.Parts, .. Enumerable.Range(4, 3).SelectMany(n => new[] { Plate("without", n, 1.2 + 0.05 * n, 19), Plate("with", n, 0.4, 19.5) })],
        });
        Assert.Equal((WarpOutcome.Separable, 3), (holds.Outcome, holds.Pairs));
        Assert.Equal([1, 2, 3], holds.LeftOut.Select(o => o.Pair));
        // Blank is never the same.
        var blank = WarpJudging.Judge(r with
        {
            Parts = [.. Enumerable.Range(1, 3).SelectMany(n => new[] { Plate("without", n, 1.3, 18), Plate("with", n, 0.4 + 0.1 * n, null) })],
        });
        Assert.Equal(WarpOutcome.NotAttributed, blank.Outcome);
    }

    [Fact]
    public void A_warmer_chamber_belongs_to_the_box_and_not_to_the_brim()
    {
        WarpReadings r = new()
        {
            Parts = [.. Enumerable.Range(1, 3).SelectMany(n => new[] { Plate("without", n, 1.3 + 0.1 * n, 20, null, null, 30), Plate("with", n, 0.4, 20, null,
                null, 55) })],
        };
        Assert.Equal(WarpOutcome.Separable, WarpJudging.Judge(r).Outcome);
        Assert.Equal(WarpOutcome.NotAttributed, WarpJudging.Judge(r with { Difference = "brim" }).Outcome);
    }

    [Theory]
    [InlineData(0.1, 0.2, 1.4, WarpWhen.Release, "cool-slower")]
    [InlineData(0.1, 1.2, 1.3, WarpWhen.Cooling, null)]
    [InlineData(1.1, 1.2, 1.3, WarpWhen.During, null)]
    public void When_most_of_the_lift_came_decides_what_helps(double during, double cooled, double released, WarpWhen when, string? next)
    {
        var v = WarpJudging.Judge(new()
        {
            Parts = [.. Enumerable.Range(1, 3).SelectMany(n => new[] { Plate("without", n, released, 20, cooled, during), Plate("with", n, released / 2, 20,
                cooled / 2, during / 2) })],
        });
        Assert.Equal(when, v.When);
        Assert.Equal(next, v.Next?.Kind);
    }

    [Fact]
    public void An_interval_leaves_the_truth_out_one_time_in_twenty()
    {
        var random = new MersenneTwister(8, false);
        var (held, wrong) = (0, 0);
        for (var i = 0; i < 1500; i++)
        {
            var effect = i % 2 == 0 ? -0.4 : 0;
            var v = Of([.. Enumerable.Range(0, 5).Select(_ => (1 + Normal.Sample(random, 0, 0.2), 1 + effect + Normal.Sample(random, 0, 0.2)))]);
            held += v.Low <= effect && v.High >= effect ? 1 : 0;
            wrong += effect == 0 && v.Outcome == WarpOutcome.Separable ? 1 : 0;
        }

        Assert.InRange(held / 1500.0, 0.935, 0.965);
        Assert.InRange(wrong / 750.0, 0.03, 0.075);
    }

    [Fact]
    public void Plates_are_printed_in_turn()
    {
        var (pair, arm) = (1, "without");
        var order = new List<string> { "1 without" };
        for (var i = 0; i < 7; i++)
        {
            (pair, arm) = WarpTrial.After(pair, arm);
            order.Add($"{pair} {arm}");
        }

        Assert.Equal(["1 without", "1 with", "2 with", "2 without", "3 without", "3 with", "4 with", "4 without"], order);
    }

    [Fact]
    public void The_file_differs_in_the_one_thing_and_the_run_sets_just_that_aside()
    {
        var c = new PlanContext
        {
            Machine = Machines.Whimbrel, Settings = PrintSettings.From(new Dictionary<string, double>(), Machines.Whimbrel, null),
        };
        Trial any = Trial;
        (ITrialPlan Plan, double Feed) Made(string difference, string arm)
        {
            var planned = Trial.Plan(new() { Difference = difference, Arm = arm, ArmFanPercent = 15, LengthMm = 80 }, c);
            Assert.Empty(planned.Errors);
            var (plan, job, errors) = any.Make(planned.Plan!, c);
            Assert.Empty(errors);
            return (plan, job!.FeedMm);
        }

        Assert.True(Made("brim", "with").Feed > 1.05 * Made("brim", "without").Feed);
        Assert.Equal(Made("enclosure", "without").Feed, Made("enclosure", "with").Feed, 6);
        Assert.Contains("brimWidthMm", any.Swept(Made("brim", "with").Plan));
        Assert.DoesNotContain("brimWidthMm", any.Swept(Made("enclosure", "with").Plan));
        Assert.Contains(FactorRegistry.Enclosure, any.Swept(Made("enclosure", "with").Plan));
    }

    [Theory]
    [InlineData("""{"parts": [{"arm": "boxed", "pair": 1, "lifts": []}]}""", "parts[0].arm")]
    [InlineData("""{"parts": [{"arm": "with", "pair": 1, "lifts": [{"moment": "released", "mm": 900}]}]}""", "parts[0].lifts[0].mm")]
    [InlineData("""{"parts": [{"arm": "with", "pair": 1, "lifts": []}, {"arm": "with", "pair": 1, "lifts": []}]}""", "parts[1].pair")]
    [InlineData("""{"parts": [], "smallestUsefulMm": 0}""", "smallestUsefulMm")]
    public void What_is_no_plate_is_refused_at_its_field(string json, string field)
    {
        var fields = new JsonFields(JsonDocument.Parse(json).RootElement);
        Assert.Null(Trial.Evaluate(fields));
        Assert.Contains(field, fields.Errors.Keys);
    }
}
