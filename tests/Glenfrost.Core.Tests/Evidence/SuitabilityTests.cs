using Glenfrost.Core.Routes;

namespace Glenfrost.Core.Tests.Evidence;

/// <summary>What a filament suits on a machine: by what was measured there, and silent on the rest.</summary>
public class SuitabilityTests
{
    private static IReadOnlyList<Suitability> Of(double? flow, int passed, int judged, params (string Aspect, double Score)[] scores) =>
        Suitability.Of(new(scores.ToDictionary(s => s.Aspect, s => s.Score), flow, passed, judged));

    [Fact]
    public void Nothing_measured_says_nothing() => Assert.Empty(Of(null, 0, 0));

    [Fact]
    public void Bond_is_no_look_and_no_overhang() => Assert.Empty(Of(null, 0, 0, ("bond", 4)));

    [Theory]
    [InlineData(3, SuitedHow.Well)]
    [InlineData(2.99, SuitedHow.Somewhat)]
    [InlineData(2, SuitedHow.Somewhat)]
    [InlineData(1.99, SuitedHow.Poorly)]
    public void Strings_alone_speak_of_open_shapes_and_of_looks(double score, SuitedHow how)
    {
        var said = Of(null, 0, 0, ("strings", score));
        Assert.Equal([SuitedFor.Looks, SuitedFor.OpenShapes], said.Select(s => s.For));
        Assert.All(said, s => Assert.Equal((how, score), (s.How, s.Value)));
    }

    [Theory]
    // A line of 0.45 × 0.2 mm is 0.09 mm²: 13.5 mm³/s are 150 mm/s, 5.4 are 60.
    [InlineData(13.5, SuitedHow.Well)]
    [InlineData(13.4, SuitedHow.Somewhat)]
    [InlineData(5.4, SuitedHow.Somewhat)]
    [InlineData(5.3, SuitedHow.Poorly)]
    public void A_flow_limit_says_how_fast_a_large_part_is(double flow, SuitedHow how) => Assert.Equal(how, Assert.Single(Of(flow, 0, 0)).How);

    [Theory]
    [InlineData(3, 3, SuitedHow.Well)]
    [InlineData(1, 3, SuitedHow.Somewhat)]
    [InlineData(0, 1, SuitedHow.Poorly)]
    public void Real_parts_speak_by_how_many_passed(int passed, int judged, SuitedHow how) => Assert.Equal(how, Assert.Single(Of(null, passed, judged)).How);

    [Fact]
    public void A_better_score_never_suits_worse()
    {
        for (var a = 0.0; a <= 4; a += 0.25)
        {
            for (var b = a; b <= 4; b += 0.25)
            {
                foreach (var (worse, better) in Of(null, 0, 0, ("overhang", a), ("bridge", 2)).Zip(Of(null, 0, 0, ("overhang", b), ("bridge", 2))))
                    Assert.True(better.How <= worse.How);
            }
        }
    }
}
