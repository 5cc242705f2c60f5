using Glenfrost.Core.Filaments;

namespace Glenfrost.Core.Tests;

public class SpoolPlaceTests
{
    [Theory]
    // Open for 100 h; in the box from 20 h on; in the box between 20 and 60; sealed before it was dried; a stay that is yet to come.
    [InlineData("", 100, 0)]
    [InlineData("20 dry-box", 24, 80)]
    [InlineData("20 dry-box,60 open", 62, 40)]
    [InlineData("-50 sealed", 5, 100)]
    [InlineData("-50 sealed,-10 open", 100, 0)]
    [InlineData("150 sealed", 100, 0)]
    [InlineData("60 open,20 dry-box", 62, 40)]
    [InlineData("20 dry-box,30 sealed,150 open", 24, 80)]
    public void An_hour_in_shelter_counts_a_twentieth(string stays, double open, double sheltered)
    {
        var list = stays.Split(',', StringSplitOptions.RemoveEmptyEntries).Select(s => s.Split(' ')).Select(s => (double.Parse(s[0]), s[1]));
        var (o, s) = SpoolPlaces.Hours(0, 100, list);
        Assert.Equal(open, o, 9);
        Assert.Equal(sheltered, s, 9);
    }
}
