using Glenfrost.Core.Statistics;
using CsCheck;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlowLimit;

namespace Glenfrost.Core.Tests.Evidence;

public class BracketingTests
{
    [Fact]
    public void Places_halve_an_interval_where_nothing_blurs()
    {
        // One place in the middle of 0 … 8: the interval is 4 wide then, ± 1.9. Three places: 2 wide, ± 0.95.
        Assert.Equal(0.475 * 8, Bracketing.HalfWidth(0, 8));
        Assert.Equal(1.9, Bracketing.Expected(0, 8, [4], 0), 1);
        Assert.Equal(0.95, Bracketing.Expected(0, 8, [2, 4, 6], 0), 1);
        var p = Bracketing.Plan(10, 14, 0, 0.5, 4, 24)!;
        Assert.True(p.Reached);
        Assert.Equal(3, p.Places.Count);
        Assert.Equal([11, 12, 13], p.Places);
        Assert.Equal(1.9, p.HalfNow);
        // A plain grid over 4 … 24 needs a step of 1.05 for as much: 20 values.
        Assert.Equal(20, p.GridPieces);
        // One at a time 1.9 is halved twice: 0.95, 0.475.
        Assert.Equal(2, p.OneByOne);
    }

    [Fact]
    public void A_blurred_edge_takes_more_and_a_narrow_one_nothing()
    {
        Assert.Null(Bracketing.Plan(10, 10.5, 0, 0.5, 4, 24));
        Assert.Null(Bracketing.Plan(10, 10, 0, 0.5, 4, 24));
        var (sharp, blurred) = (Bracketing.Expected(0, 8, [2, 4, 6], 0), Bracketing.Expected(0, 8, [2, 4, 6], 2));
        Assert.True(blurred > sharp);
        Assert.True(blurred < Bracketing.HalfWidth(0, 8));
        Assert.Equal([0.45, 0.5, 0.55], Bracketing.Plan(0.4, 0.6, 0, 0.03, 0, 2, 0.05)!.Places);
    }

    [Fact]
    public void More_places_never_tell_less_and_scale_changes_nothing() =>
        Gen.Select(Gen.Double[1, 50], Gen.Double[0, 0.2], Gen.Int[1, 5])
            .Sample(
                (width, blur, n) =>
                {
                    double At(int k, double scale) =>
                        Bracketing.Expected(0, width * scale, [.. Enumerable.Range(1, k).Select(i => width * scale * i / (k + 1))], blur * width * scale);
                    Assert.True(At(n + 1, 1) <= At(n, 1) + 0.01 * width);
                    Assert.Equal(At(n, 1) * 3, At(n, 3), 1e-6 * width);
                },
                iter: 25);

    [Fact]
    public void A_monotone_fit_pools_what_rises()
    {
        Assert.Equal([5, 4, 3], Isotonic.Falling([5, 4, 3], [1, 1, 1]));
        Assert.Equal([4.5, 4.5, 3], Isotonic.Falling([4, 5, 3], [1, 1, 1]));
        Assert.Equal([2, 2, 2], Isotonic.Falling([1, 2, 3], [1, 1, 1]));
        Assert.Equal([3.5, 3.5], Isotonic.Falling([3, 4], [1, 1]));
        Assert.Equal([3.75, 3.75], Isotonic.Falling([3, 4], [1, 3]));
    }

    [Theory]
    [InlineData(14, 12, 5, 0.2, true)]
    [InlineData(12.5, 12, 5, 0.2, false)]
    [InlineData(9, 12, 5, 0.2, false)]
    public void Practice_contradicts_a_flow_limit_only_from_above_what_was_measured(
        double known, double tested, double margin, double uncertainty, bool contradicts)
    {
        var said = KnownGoodValues.Of(new("maxVolumetricFlowMm3PerS", tested, uncertainty), [new("maxVolumetricFlowMm3PerS", known, 215, "every day")], margin)!.Value;
        Assert.Equal(contradicts, said.Decides is not null);
        Assert.Equal(contradicts, said.Sentence.Contains("stepped speed", StringComparison.Ordinal));
    }

    [Fact]
    public void A_contradiction_is_warned_of_and_the_deciding_test_comes_next()
    {
        var v = StepsJudging.Judge(new() { StartSpeedMmPerS = 40, IncreasePercent = 25, LastGoodStep = 4 });
        var beside = KnownGoodValues.Beside(v, [new("maxVolumetricFlowMm3PerS", 14, null, "shields. Daily")], FlowWeighedTrial.Word, 10);
        Assert.Equal("deciding-test", beside.Next!.Kind);
        // A full stop in somebody's note is no end of the sentence.
        Assert.StartsWith("Print a wall at 14 mm³/s", beside.Next.Text);
        Assert.Same(beside, KnownGoodValues.Beside(beside, [new("maxVolumetricFlowMm3PerS", 14, null, "shields. Daily")], null, 10));
        Assert.Contains("Practice says otherwise", beside.Warnings[0]);
        Assert.False(beside.Proves);
        var agrees = KnownGoodValues.Beside(v, [new("maxVolumetricFlowMm3PerS", 5, null, "shields")], FlowWeighedTrial.Word, 10);
        Assert.Contains(agrees.Reasons, r => r.Contains("the test agrees"));
        Assert.Same(v, KnownGoodValues.Beside(v, [], null));
        Assert.NotNull(KnownGoodValues.Of(new("retractionLengthMm", 1.2, 0.1), [new("retractionLengthMm", 0.6, null, "x")])!.Value.Decides);
        Assert.Null(KnownGoodValues.Of(new("retractionLengthMm", 1.2, 0.1), [new("retractionLengthMm", 2, null, "x")])!.Value.Decides);
        Assert.Null(KnownGoodValues.Of(new("fanPercent", 50, 5), [new("retractionLengthMm", 2, null, "x")]));
    }

    private static DrynessFacts Facts(string family, double? open, double humidity = 50) =>
        new() { Family = Family.Find(family), OpenHours = open, HumidityPercent = humidity, DryerMaxC = 80 };

    [Theory]
    [InlineData("PETG", 10, 50, "dry", false)]
    [InlineData("PETG", 60, 50, "doubtful", false)]
    [InlineData("PETG", 80, 50, "damp", true)]
    [InlineData("PETG", 60, 80, "damp", true)]
    [InlineData("PA", 9, 50, "damp", true)]
    [InlineData("PLA", 200, 50, "dry", false)]
    public void Open_hours_humidity_and_family_say_whether_to_dry(string family, double open, double humidity, string state, bool first)
    {
        var a = DrynessAdvice.Of(Facts(family, open, humidity));
        Assert.Equal((state, first), (a.State, a.DryFirst));
        Assert.Equal(first || state == "doubtful", a.Hours > 0);
    }

    [Fact]
    public void A_spool_that_still_loses_mass_dries_on()
    {
        // 742.0 → 741.6 g in an hour of drying: 0.4 g an hour, two hours more.
        var still = DrynessAdvice.Of(Facts("PETG", 0) with { LastDrying = (-6, 0), Weighings = [new(-1, 742.0), new(0, 741.6)] });
        Assert.Equal(("drying", true, 2.0, 65.0), (still.State, still.DryFirst, still.Hours, still.TemperatureC));
        Assert.Equal(0.4, still.LossGPerH!.Value, 9);
        Assert.Equal("dry", DrynessAdvice.Of(Facts("PETG", 0) with { LastDrying = (-6, 0), Weighings = [new(-1, 742.0), new(0, 741.95)] }).State);
        // Weighings before it was dried, or a single one, say nothing.
        Assert.Null(DrynessAdvice.Of(Facts("PETG", 0) with { LastDrying = (-6, 0), Weighings = [new(-100, 760), new(0, 741.6)] }).LossGPerH);
        Assert.Equal("unknown", DrynessAdvice.Of(Facts("PETG", null)).State);
    }

    [Fact]
    public void No_hotter_than_the_reel_bears_and_the_dryer_reaches()
    {
        // 80 °C × 12 h wanted; a reel that bears 60: 2² = 4 times as long.
        var reel = DrynessAdvice.Of(Facts("PA", 20) with { ReelMaxC = 60 });
        Assert.Equal((60.0, 48.0), (reel.TemperatureC, reel.Hours));
        Assert.Equal((80.0, 60.0, true, true, 4.0), (reel.WantedC, reel.AllowedC, reel.ReelBounds, reel.ReelSaid, reel.TimesLonger));
        var dryer = DrynessAdvice.Of(Facts("PA", 20) with { DryerMaxC = 70 });
        Assert.Equal((70.0, 24.0), (dryer.TemperatureC, dryer.Hours));
        Assert.Equal((70.0, false, 2.0), (dryer.AllowedC, dryer.ReelBounds, dryer.TimesLonger));
        Assert.Equal(50, DrynessAdvice.Of(Facts("PLA", 400) with { DryingC = 50, DryingHours = 5 }).TemperatureC);
    }
}
