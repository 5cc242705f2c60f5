using Glenfrost.Core.Costs;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Tests.Costs;

/// <summary>What a print costs, and a good one.</summary>
public class PartCostTests
{
    [Fact]
    public void Eight_of_ten_good_at_2_84_is_3_55_a_good_part_between_3_01_and_5_79()
    {
        // 2.84 × 10 / 8 = 3.55. Wilson for 8 of 10: (0.8 + 3.8415/20 ± 1.96 √(0.016 + 3.8415/400)) / 1.38415 = 0.4902 and 0.9433.
        var cost = new GoodPartCost(284, 8, 10);
        Assert.Equal(355, cost.EachMinor!.Value, 6);
        Assert.Equal((301, 579), (Math.Round(cost.Between!.Value.LowMinor), Math.Round(cost.Between.Value.HighMinor)));
    }

    [Theory]
    // By hand, z² = 3.841459: 0 of 5 → 0 to z²/(5 + z²); 5 of 5 → 5/(5 + z²) to 1; 1 of 2 → 1/2 ± z √(1/8 + z²/16) / (1 + z²/2).
    [InlineData(0, 5, 0, 0.434482)]
    [InlineData(5, 5, 0.565518, 1)]
    [InlineData(1, 2, 0.094531, 0.905469)]
    public void Wilsons_interval_is_right_at_its_ends_and_in_the_middle(int counted, int of, double low, double high)
    {
        var (l, h) = Wilson.Interval(counted, of);
        Assert.Equal(low, l, 5);
        Assert.Equal(high, h, 5);
    }

    [Fact]
    public void Wilsons_interval_holds_the_share_as_often_as_it_says_on_average()
    {
        // Exact coverage: every outcome of n prints weighed with its chance, averaged over true shares.
        var (sum, shares) = (0.0, 0);
        const int N = 12;
        for (var p = 0.05; p < 0.951; p += 0.01, shares++)
        {
            for (var (k, chance) = (0, Math.Pow(1 - p, N)); k <= N; k++)
            {
                var (low, high) = Wilson.Interval(k, N);
                if (low <= p && p <= high)
                    sum += chance;
                chance *= (double)(N - k) / (k + 1) * p / (1 - p);
            }
        }

        Assert.InRange(sum / shares, 0.94, 0.97);
    }

    [Fact]
    public void A_share_of_nothing_or_more_than_all_is_none()
    {
        Assert.Throws<ArgumentOutOfRangeException>(() => Wilson.Interval(0, 0));
        Assert.Throws<ArgumentOutOfRangeException>(() => Wilson.Interval(3, 2));
        Assert.Throws<ArgumentOutOfRangeException>(() => Wilson.Interval(-1, 2));
        Assert.Null(new GoodPartCost(100, 0, 0).Between);
        Assert.Null(new GoodPartCost(100, 0, 4).EachMinor);
        Assert.Equal(double.PositiveInfinity, new GoodPartCost(100, 0, 4).Between!.Value.HighMinor);
    }

    [Fact]
    public void Electricity_is_watts_times_hours_times_price_and_unknown_where_either_is()
    {
        // 210 W over 6 h are 1.26 kWh; at 32 minor units 40.32.
        Assert.Equal(40.32, new Electricity(210, 32).MinorOf(360)!.Value, 9);
        Assert.Null(new Electricity(210, null).MinorOf(360));
        Assert.Null(new Electricity(null, 32).MinorOf(360));
        Assert.False(new Electricity(210, null).IsKnown);
        // 46 g at 2.5 and the same print: what is not known is left out, and without the filament there is no sum.
        var known = PrintCost.Of(46, 2.5, 360, new(210, 32));
        Assert.Equal((115.0, 40.32, 155.32), (known.FilamentMinor!.Value, Math.Round(known.PrintingMinor!.Value, 9), Math.Round(known.SumMinor!.Value, 9)));
        Assert.Equal(115, PrintCost.Of(46, 2.5, 360, Electricity.Unknown).SumMinor);
        Assert.Null(PrintCost.Of(46, null, 360, new(210, 32)).SumMinor);
    }

    [Fact]
    public void A_drying_is_shared_by_the_grams_of_a_reel()
    {
        // 85 W for 6 h are 0.51 kWh; at 32 cent 16.32 cent, over 1,000 g 0.01632 cent a gram; 50 g carry 0.816 cent.
        var each = DryingCost.MinorPerGram(6, new(85, 32), 1000);
        Assert.Equal(0.01632, each!.Value, 8);
        var print = PrintCost.Of(50, 2.5, 60, new(100, 32), each);
        Assert.Equal((125, 3.2, 0.816), (print.FilamentMinor!.Value, print.PrintingMinor!.Value, Math.Round(print.DryingMinor, 6)));
        Assert.Equal(129.016, print.SumMinor!.Value, 6);
        // Twice as long and half the reel cost four times as much; what is not known costs nothing that could be said.
        Assert.Equal(4 * each.Value, DryingCost.MinorPerGram(12, new(85, 32), 500)!.Value, 8);
        Assert.All(
            new[]
            {
                DryingCost.MinorPerGram(6, new(null, 32), 1000), DryingCost.MinorPerGram(6, new(85, null), 1000), DryingCost.MinorPerGram(6, new(85, 32), 0),
                DryingCost.MinorPerGram(6, new(85, 32), null),
            }, Assert.Null);
        Assert.Equal(0, PrintCost.Of(50, 2.5, 60, new(100, 32)).DryingMinor);
    }
}
