using System.Text.Json;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Release;
using MathNet.Numerics.Distributions;
using MathNet.Numerics.Random;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Where parts let go: bounds and not values, a working value first, and what waiting costs.</summary>
public class ReleaseTests
{
    private static ReleaseVerdict Of(params ReleasePrint[] prints) => ReleaseJudging.Judge(new()
    {
        Prints = prints, FamilyBedC = 100, BedC = 100,
        MeasuredAirC = 25
    });

    // Free at 62, 58 and 55: 55 − 5.
    [Fact]
    public void A_few_that_were_seen_free_ask_for_five_below_the_lowest()
    {
        var v = Of(new(62), new(58), new(55));
        Assert.Equal((ReleaseOutcome.Working, 50), (v.Outcome, v.ReleaseC));
        Assert.False(v.Proves);
        Assert.Equal(50, v.Settings[0].Value);
        // One that held colder bounds it too; one that was pulled warm says nothing against it.
        Assert.Equal(47, Of(new(62), new(58), new(null, 52)).ReleaseC);
        Assert.Equal(50, Of(new(62), new(58), new(55), new(null, null, 80)).ReleaseC);
        Assert.Equal(ReleaseOutcome.Insufficient, Of(new ReleasePrint(null, 60)).Outcome);
    }

    [Fact]
    public void From_five_on_nineteen_of_twenty_next_parts_lie_free()
    {
        var random = new MersenneTwister(3, false);
        var (free, all, colder) = (0, 0, 0.0);
        for (var bed = 0; bed < 150; bed++)
        {
            var (middle, spread) = (Normal.Sample(random, 60, 6), 3.0);
            ReleasePrint One()
            {
                // Somebody nudges it every few degrees as the bed cools, or looks once at some moment: when that is has nothing to do with where it lets go.
                var goes = Normal.Sample(random, middle, spread);
                if (random.NextDouble() < 0.3)
                    return Math.Floor(45 + random.NextDouble() * 20) is var once && goes >= once ? new(once) : new(null, once);
                var (at, step) = (80 + random.NextDouble() * 10, 3 + random.NextDouble() * 6);
                var held = Math.Ceiling(at);
                while (Math.Ceiling(at) > goes)
                {
                    held = Math.Ceiling(at);
                    at -= step;
                }

                return new(Math.Ceiling(at), held);
            }

            var v = Of([.. Enumerable.Range(0, 8).Select(_ => One())]);
            Assert.Equal(ReleaseOutcome.Fitted, v.Outcome);
            free += Enumerable.Range(0, 20).Count(_ => Normal.Sample(random, middle, spread) >= v.ReleaseC);
            all += 20;
            colder += middle - v.ReleaseC!.Value;
        }

        // Not below what it promises, and not so cold that nobody waits for it.
        Assert.InRange(free / (double)all, 0.94, 0.995);
        Assert.InRange(colder / 150, 4, 13);
    }

    // τ = 25 / ln((100 − 25) / (65 − 25)) = 39.8; to 50: 39.8 · ln(75 / 25) = 43.7.
    [Fact]
    public void Waiting_costs_what_the_beds_own_cooling_says_and_a_guess_says_so()
    {
        ReleaseReadings r = new() { Prints = [new(62), new(58), new(55)], BedC = 100, MeasuredAirC = 25, Cooling = new(100, 65, 25) };
        var v = ReleaseJudging.Judge(r);
        Assert.Equal(39.8, v.CoolingConstantMinutes!.Value, 1);
        Assert.Equal(44, v.Minutes);
        Assert.False(v.Guessed);
        Assert.True(ReleaseJudging.Judge(r with { Cooling = null }).Guessed);
        // A bed that nobody named has no minutes.
        Assert.Null(ReleaseJudging.Judge(r with { BedC = null }).Minutes);
        // Twice as slow a bed takes twice as long.
        Assert.Equal(2 * 43.7, ReleaseJudging.Judge(r with { Cooling = new(100, 65, 50) }).Minutes!.Value, 0);
    }

    [Fact]
    public void A_log_of_a_bed_gives_its_own_constant_and_two_of_its_entries_the_same_as_by_hand()
    {
        // By hand: 100 to 65 °C in 25 minutes in air of 25: 25 / ln(75 / 40) = 39.8; a third entry on the same curve, 75·e^(−50/39.77) + 25 = 46.3.
        var (minutes, fault) = CoolingLog.Constant([new(0, 100), new(25, 65), new(50, 46.3)], 25);
        Assert.Null(fault);
        Assert.Equal(39.8, minutes!.Value, 0.1);
        // The clock may have begun before the bed was switched off, and the last hours beside the air say nothing.
        Assert.Equal(39.8, CoolingLog.Constant([new(30, 100), new(55, 65), new(80, 46.3), new(400, 25.4), new(500, 25)], 25).Minutes!.Value, 0.1);
        // Whatever the constant, and with what a sensor scatters.
        var random = new MersenneTwister(5, false);
        foreach (var constant in new[] { 8.0, 20, 38, 75 })
        {
            var log = Enumerable.Range(0, 25).Select(k => k * constant / 10).Select(t => new LoggedBed(t, 22 + 70 * Math.Exp(-t / constant) + Normal.Sample(random, 0, 0.3)));
            Assert.InRange(CoolingLog.Constant([.. log], 22).Minutes!.Value / constant, 0.97, 1.03);
        }
    }

    [Theory]
    [InlineData("0 100 5 90", 25, "log")]
    [InlineData("0 100 10 80 10 70", 25, "log[2].minute")]
    [InlineData("0 100 10 80 20 95", 25, "log[2].bedC")]
    [InlineData("0 60 10 58 20 56", 25, "log")]
    [InlineData("0 100 10 500 20 56", 25, "log[1].bedC")]
    [InlineData("0 100 10 60 20 58 30 57 40 40", 25, "log")]
    [InlineData("0 45 10 30 20 26", 25, "log")]
    public void A_log_that_says_no_cooling_is_refused_at_its_entry(string entries, double air, string field)
    {
        var numbers = entries.Split(' ').Select(double.Parse).ToList();
        var (minutes, fault) = CoolingLog.Constant([.. numbers.Chunk(2).Select(c => new LoggedBed(c[0], c[1]))], air);
        Assert.Null(minutes);
        Assert.Equal(field, fault!.Field);
    }

    [Fact]
    public void What_was_logged_counts_before_what_was_typed_and_its_middle_counts()
    {
        ReleaseReadings r = new() { Prints = [new(62), new(58), new(55)], BedC = 100, MeasuredAirC = 25, Cooling = new(100, 65, 25), LoggedMinutes = [30, 90, 32] };
        var v = ReleaseJudging.Judge(r);
        Assert.Equal((32, false), (v.CoolingConstantMinutes, v.Guessed));
        Assert.False(ReleaseJudging.Judge(r with { Cooling = null }).Guessed);
        // A script posts the log itself.
        var fields = new JsonFields(JsonDocument.Parse(
            """{"prints":[{"freeAtC":62}],"surroundingsC":25,"cooling":{"log":[{"minute":0,"bedC":100},{"minute":25,"bedC":65},{"minute":50,"bedC":46.3}]}}""").RootElement);
        var answer = Assert.IsType<ReleaseVerdict>(new ReleaseTrial().Evaluate(fields));
        Assert.Equal(39.8, answer.CoolingConstantMinutes!.Value, 0.1);
        var few = new JsonFields(JsonDocument.Parse("""{"prints":[],"cooling":{"log":[{"minute":0,"bedC":100}]}}""").RootElement);
        Assert.Null(new ReleaseTrial().Evaluate(few));
        Assert.Contains("cooling.log", few.Errors.Keys);
    }

    [Fact]
    public void A_release_that_no_bed_reaches_is_refused()
    {
        var v = ReleaseJudging.Judge(new() { Prints = [new(36), new(34)], BedC = 60, MeasuredAirC = 26 });
        Assert.Equal((ReleaseOutcome.TooNear, 29), (v.Outcome, v.ReleaseC));
        Assert.Empty(v.Settings);
        Assert.False(v.Advised);
    }

    [Theory]
    [InlineData("""{"prints": [{"freeAtC": 60, "heldAtC": 50}]}""", "prints[0].heldAtC")]
    [InlineData("""{"prints": [{"freeAtC": 900}]}""", "prints[0].freeAtC")]
    [InlineData("""{"prints": [], "cooling": {"fromC": 60, "toC": 90, "minutes": 5}}""", "cooling.toC")]
    [InlineData("{}", "prints")]
    public void What_is_no_release_is_refused_at_its_field(string json, string field)
    {
        var fields = new JsonFields(JsonDocument.Parse(json).RootElement);
        Assert.Null(new ReleaseTrial().Evaluate(fields));
        Assert.Contains(field, fields.Errors.Keys);
    }

    [Fact]
    public void Half_a_logged_cooling_is_asked_for_at_the_field_that_is_missing()
    {
        var planned = new ReleaseTrial().Plan(new() { CoolingFromC = 100, CoolingMinutes = 20 }, new());
        Assert.Equal("coolingToC", Assert.Single(planned.Errors).Field);
        Assert.Equal("coolingToC", Assert.Single(new ReleaseTrial().Plan(new() { CoolingFromC = 60, CoolingToC = 10, CoolingMinutes = 20 },
            new()).Errors).Field);
    }
}
