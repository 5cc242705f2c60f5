using Glenfrost.Core.Filaments;

namespace Glenfrost.Core.Tests;

/// <summary>A spool's own trim of the flow, by hand.</summary>
public class SpoolTrimTests
{
    [Theory]
    // 0.955 of 0.98 is 97.45 %, 0.01 of it 1.02 %.
    [InlineData(0.955, 0.01, 0.98, 97.45, 1.02, true)]
    [InlineData(0.985, 0.01, 0.98, 100.51, 1.02, false)]
    [InlineData(1.02, 0.004, 0.97, 105.15, 0.41, true)]
    public void A_multiplier_found_on_a_spool_is_a_share_of_the_profiles(
        double found, double half, double kept, double percent, double halfPercent, bool differs)
    {
        var trim = SpoolTrim.OfMultiplier(found, half, kept);
        Assert.Equal((percent, halfPercent, differs), (trim.Percent, trim.HalfPercent, trim.Differs));
    }

    [Theory]
    // A wall of 0.4635 beside 0.45 is 3 % wider: 1/1.03 is 97.09 %; half an interval of 1 % shrinks by its square to 0.94.
    [InlineData(3, 1, 97.09, 0.94)]
    [InlineData(-4, 2, 104.17, 2.17)]
    [InlineData(0, 1.5, 100, 1.5)]
    public void A_wall_that_is_wider_wants_as_much_less(double change, double half, double percent, double halfPercent)
    {
        var trim = SpoolTrim.OfWall(change, half);
        Assert.Equal((percent, halfPercent), (trim.Percent, trim.HalfPercent));
        // Laid on, it brings the wall back.
        Assert.Equal(100, trim.Percent * (1 + change / 100), 0.01);
    }

    [Fact]
    public void It_ages_with_the_spool_and_falls_with_the_multiplier_that_it_is_a_share_of()
    {
        var at = new DateTime(2026, 7, 1, 0, 0, 0, DateTimeKind.Utc);
        TrimDoubt Of(int days, int? dried, int? anew) => SpoolTrim.DoubtOf(at, at.AddDays(days), at.AddDays(dried ?? -9), anew is { } n ? at.AddDays(n) : null);
        Assert.Equal(TrimDoubt.None, Of(10, null, null));
        Assert.Equal(TrimDoubt.None, Of(120, null, -30));
        Assert.Equal(TrimDoubt.Old, Of(121, null, null));
        Assert.Equal(TrimDoubt.DriedSince, Of(10, 5, null));
        Assert.Equal(TrimDoubt.FoundAnew, Of(10, 5, 6));
    }
}
