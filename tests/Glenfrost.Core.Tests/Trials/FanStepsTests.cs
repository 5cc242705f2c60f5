using System.Text.Json;
using CsCheck;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FanSteps;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Fan in steps: the least that looks about as good as the best, what that may lose, and a file that obeys.</summary>
public class FanStepsTests
{
    private static readonly FanTrial Trial = new();

    private static FanVerdict Of(double noise, params (double Fan, double Bridge, double Overhang)[] sections) => FanJudging.Judge(new()
    {
        Points = [.. sections.Select(s => new FanPoint(s.Fan, [s.Bridge, s.Overhang], []))], ScoreNoise = noise,
    });

    [Fact]
    public void The_least_fan_that_is_about_as_good_is_taken_and_kept_for_bridges_too()
    {
        var v = Of(0.25, (0, 1, 1), (20, 2, 2), (40, 4, 4), (60, 4, 4), (80, 4, 4), (100, 4, 3));
        Assert.Equal((FanOutcome.Clear, 40), (v.Outcome, v.FanPercent));
        Assert.Equal(["fanPercent", "bridgeFanPercent"], v.Settings.Select(s => s.Key));
        Assert.All(v.Settings, s => Assert.Equal(40, s.Value));
        Assert.Contains(60, v.AsGood);
        Assert.DoesNotContain(20, v.AsGood);
        // What it may lose is not said: it could not be kept.
        Assert.Null(v.Loss);
    }

    [Fact]
    public void A_peak_is_a_peak_and_a_section_that_failed_is_never_offered()
    {
        // Too much fan lifts the edges of a family that shrinks.
        var v = Of(0.25, (0, 1, 2), (20, 3, 4), (40, 4, 4), (60, 3, 2), (80, 2, 1), (100, 1, 0));
        Assert.InRange(v.FanPercent!.Value, 20, 40);
        // An overhang that is useless counts, however well the bridge looks.
        Assert.NotEqual(20, Of(0.25, (0, 1, 1), (20, 4, 0), (40, 4, 4), (60, 4, 4), (80, 4, 4)).FanPercent);
    }

    [Fact]
    public void The_ends_of_what_was_tried_are_no_answer_and_what_is_poor_throughout_is_not_the_fan()
    {
        var most = Of(0.25, (0, 0.5, 0.5), (20, 1, 1), (40, 2, 2), (60, 3.4, 3.4));
        Assert.Equal((FanOutcome.Edge, true), (most.Outcome, most.AtMost));
        Assert.Equal((60m, 100m), (most.Next!.Values!["fanFromPercent"], most.Next.Values["fanToPercent"]));
        var least = Of(0.25, (40, 4, 4), (60, 4, 4), (80, 3, 3), (100, 2, 2));
        Assert.Equal((FanOutcome.Edge, false), (least.Outcome, least.AtMost));
        Assert.Equal(FanOutcome.NotFan, Of(0.25, (0, 1, 1), (50, 1, 1), (100, 1, 1)).Outcome);
        // No fan at all that is as good as any is an answer: there is nothing below it.
        Assert.Equal((FanOutcome.Clear, 0), Of(0.25, (0, 4, 4), (50, 4, 4), (100, 2, 2)) is var none ? (none.Outcome, none.FanPercent) : default);
    }

    /// <summary>2 N and 8 N of one fan are 4 N: their geometric mean. Over the looks' axis the strongest stands at 4.</summary>
    [Fact]
    public void What_a_rig_pulled_stands_over_the_same_axis_and_changes_no_advice()
    {
        FanPoint At(double fan, double looks, params double[] forces) => new(fan, [looks, looks], [2]) { Forces = forces };
        var v = FanJudging.Judge(new() { Points = [At(0, 1, 2, 8), At(50, 4), At(100, 4, 2)], ScoreNoise = 0.25 });
        Assert.Equal([4, null, 2], v.Forces);
        Assert.Equal(50, v.FanPercent);
        var (line, said) = BondBeside.Line(v.Fans, v.Bond, v.Forces);
        Assert.Equal([(0, 4), (100, 2)], line);
        Assert.Contains("rig", said);
        // One pull alone is no line: then the hand's scores are.
        var one = FanJudging.Judge(new() { Points = [At(0, 1, 2), At(50, 4), At(100, 4)], ScoreNoise = 0.25 });
        Assert.Equal([(0, 2), (50, 2), (100, 2)], BondBeside.Line(one.Fans, one.Bond, one.Forces).Line);
        Assert.Equal("points[1].forceN", FanJudging.Check(new() { Points = [At(0, 1), At(50, 4, -3), At(100, 4)] }).Single().Field);
    }

    [Fact]
    public void A_clear_fan_lies_hardly_ever_more_than_a_score_behind_the_best()
    {
        var random = new MersenneTwister(12, false);
        var (far, all) = (0, 0);
        for (var i = 0; i < 400; i++)
        {
            // Looks rise to a peak somewhere and fall off gently beyond.
            var (peak, width, fall) = (20 + 60 * random.NextDouble(), 15 + 25 * random.NextDouble(), 0.02 * random.NextDouble());
            double Truth(double fan) => fan < peak ? Math.Max(0, 4 - Math.Pow((peak - fan) / width, 2)) : Math.Max(0, 4 - fall * (fan - peak));
            double[] fans = [0, 20, 40, 60, 80, 100];
            double Score(double fan) => Math.Clamp(Math.Round(Truth(fan) + Normal.Sample(random, 0, 0.5)), 0, 4);
            var v = Of(0.5, [.. fans.Select(f => (f, Score(f), Score(f)))]);
            if (v.Outcome != FanOutcome.Clear)
                continue;
            all++;
            far += fans.Max(Truth) - Truth(v.FanPercent!.Value) > 1 ? 1 : 0;
        }

        Assert.True(all > 150, $"{all} clear");
        Assert.True(far <= 0.06 * all, $"{far} of {all} lie more than a score behind");
    }

    [Fact]
    public void Its_file_turns_the_fan_at_each_section_and_nowhere_else() => Gen.Select(Gen.Int[0, 3], Gen.Int[1, 3]).Sample((least, step) =>
    {
        var settings = PrintSettings.From(new Dictionary<string, double> { ["fanPercent"] = 35 }, Machines.Whimbrel, null);
        var c = new PlanContext { Machine = Machines.Whimbrel, Settings = settings };
        var planned = Trial.Plan(new() { FanFromPercent = 10 * least, FanToPercent = 10 * least + 40 * step / 2, FanStepPercent = 5 * step }, c);
        Assert.Empty(planned.Errors);
        Trial any = Trial;
        var (plan, job, errors) = any.Make(planned.Plan!, c);
        Assert.Empty(errors);
        var text = new StringWriter();
        GcodeWriter.Write(job!, new("1.0", DateTime.UnixEpoch), text);
        var (fan, section, seen) = (-1.0, -1, new Dictionary<int, HashSet<double>>());
        foreach (var line in text.ToString().Split('\n'))
        {
            if (line.StartsWith("M106 S", StringComparison.Ordinal))
                fan = Math.Round(double.Parse(line[6..], System.Globalization.CultureInfo.InvariantCulture) / 2.55);
            else if (line.StartsWith("M107", StringComparison.Ordinal))
                fan = 0;
            else if (line.StartsWith("; layer", StringComparison.Ordinal))
                section = line.IndexOf("section ", StringComparison.Ordinal) is > 0 and var at
                    ? int.Parse(line[(at + 8)..], System.Globalization.CultureInfo.InvariantCulture) - 1 : -1;
            // A wipe of the section before draws back; what is laid is fed.
            if (section < 0 || !line.StartsWith("G1", StringComparison.Ordinal) || !line.Contains(" E") || line.Contains(" E-") || !line.Contains(" X"))
                continue;
            seen.TryAdd(section, []);
            seen[section].Add(fan);
        }

        var fans = ((FanPlan)plan).Fans;
        Assert.Equal(fans.Count, seen.Count);
        // Bridges of a section have its fan too: one value each.
        Assert.All(seen, s => Assert.Equal([Math.Round(fans[s.Key])], s.Value));
    }, iter: 4);

    [Theory]
    [InlineData("""{"points": [{"fanPercent": 0, "bridge": 3}]}""", "points")]
    [InlineData("""{"points": [{"fanPercent": 140, "bridge": 3}, {"fanPercent": 0, "bridge": 3}, {"fanPercent": 50, "bridge": 3}]}""", "points[0].fanPercent")]
    [InlineData("""{"points": [{"fanPercent": 0}, {"fanPercent": 50, "bridge": 3}, {"fanPercent": 100, "bridge": 3}]}""", "points[0].bridge")]
    public void What_is_no_fan_is_refused_at_its_field(string json, string field)
    {
        var fields = new JsonFields(JsonDocument.Parse(json).RootElement);
        Assert.Null(Trial.Evaluate(fields));
        Assert.Contains(field, fields.Errors.Keys);
    }

    [Fact]
    public void Too_few_and_too_many_sections_are_said_with_a_step_that_fits()
    {
        var few = Trial.Plan(new() { FanFromPercent = 0, FanToPercent = 100, FanStepPercent = 100 }, new());
        Assert.Equal("fanStepPercent", Assert.Single(few.Errors).Field);
        Assert.Equal(20, few.Errors[0].Offers[0].Changes["fanStepPercent"]);
        Assert.Equal("fanStepPercent", Assert.Single(Trial.Plan(new() { FanStepPercent = 5 }, new()).Errors).Field);
        Assert.Equal("fanToPercent", Assert.Single(Trial.Plan(new() { FanFromPercent = 60, FanToPercent = 40 }, new()).Errors).Field);
    }
}
