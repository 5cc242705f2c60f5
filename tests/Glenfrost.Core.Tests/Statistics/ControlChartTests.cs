using Glenfrost.Core.Statistics;
using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Tests.Statistics;

/// <summary>The control chart of single values: by hand, and how often it cries wolf.</summary>
public class ControlChartTests
{
    private static IEnumerable<(DateTime, double)> Days(params double[] values) => values.Select((v, i) => (new DateTime(2026, 1, 1).AddDays(i), v));

    [Fact]
    public void By_hand_the_limits_are_the_mean_and_two_point_six_six_moving_ranges_once_enough_is_known()
    {
        // 0.44 and 0.46 in turn, 40 times: mean 0.45, each range 0.02: ± 0.0532.
        var many = ControlChart.Of(Days([.. Enumerable.Range(0, 40).Select(i => i % 2 == 0 ? 0.44 : 0.46)]), 0.01);
        Assert.Equal((0.45, 0.3968, 0.5032), (Math.Round(many.Mean!.Value, 6), Math.Round(many.Low!.Value, 6), Math.Round(many.High!.Value, 6)));
        Assert.DoesNotContain(true, many.Points.Select(p => p.Outside));
    }

    [Fact]
    public void Fewer_than_four_have_no_limits_and_four_have_wide_ones()
    {
        Assert.Null(ControlChart.Of(Days(1, 2, 3), 1).Low);
        var (four, twelve) = (ControlChart.Of(Days(3, 3, 3, 3), 1), ControlChart.Of(Days([.. Enumerable.Repeat(3.0, 12)]), 1));
        Assert.True(four.High - four.Low > 2 * (twelve.High - twelve.Low));
        // Readings that agree scatter no less than the third of a step that rounding allows.
        Assert.True(twelve.High - 3 > 2.66 / 3);
    }

    [Fact]
    public void A_change_is_never_part_of_the_limits_that_it_is_held_to()
    {
        var c = ControlChart.Of(Days(0.45, 0.45, 0.46, 0.45, 0.45, 0.46, 0.45, 0.60, 0.60, 0.60), 0.01);
        Assert.Equal([true, true, true], c.Points.TakeLast(3).Select(p => p.Outside));
        Assert.InRange(c.Mean!.Value, 0.45, 0.454);
    }

    [Fact]
    public void In_any_order_and_any_unit_it_is_the_same_and_a_machine_that_stays_as_it_is_is_seldom_called_changed()
    {
        var random = new Random(3);
        var (called, of) = (0, 0);
        for (var i = 0; i < 400; i++)
        {
            double[] values = [.. Enumerable.Range(0, 24).Select(_ => Normal.Sample(random, 0.45, 0.008))];
            var days = Days(values).ToList();
            var c = ControlChart.Of(days, 0.01);
            Assert.Equal(c.Points, ControlChart.Of(days.AsEnumerable().Reverse(), 0.01).Points);
            Assert.Equal(c.Points.Select(p => p.Outside), ControlChart.Of(days.Select(d => (d.Item1, 1024 * d.Item2)), 10.24).Points.Select(p => p.Outside));
            called += c.Points.Skip(12).Count(p => p.Outside == true);
            of += 12;
        }

        // By known limits 0.27 %; limits learned from one or two dozen points promise one in a hundred.
        Assert.InRange((double)called / of, 0.001, 0.02);
    }
}
