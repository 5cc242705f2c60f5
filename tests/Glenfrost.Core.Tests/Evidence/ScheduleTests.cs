using Glenfrost.Core.Routes;

namespace Glenfrost.Core.Tests.Evidence;

/// <summary>The evenings ahead: nothing overlaps, nothing is done before its turn, and nothing that fits is left.</summary>
public class ScheduleTests
{
    private static ScheduleItem On(string printer, int minutes) => new($"{minutes} on {printer}", minutes, printer, null);

    private static ScheduleItem Desk() => new("read", 15, null, null);

    [Fact]
    public void Two_printers_work_beside_each_other_and_one_after_the_other_on_one()
    {
        var s = Schedule.Of([new("a", [On("D", 100)]), new("b", [On("W", 200)]), new("c", [On("D", 60)]), new("d", [On("D", 100)])], 240, 3);
        Assert.Equal([("a", 0), ("c", 110), ("b", 0)], s.Evenings[0].Select(x => (x.Way, x.FromMinute)));
        // 100 + 10 + 60 + 10 + 100 would be 280.
        Assert.Equal(["d"], s.Evenings[1].Select(x => x.Way));
        Assert.Equal((2, 0), (s.Evenings.Count, s.Left));
    }

    [Fact]
    public void The_next_of_a_pairing_waits_for_the_answer_of_the_one_before()
    {
        var s = Schedule.Of([new("a", [Desk(), On("D", 30), On("D", 30)])], 240, 2);
        Assert.Equal(["read", "30 on D"], s.Evenings.Select(e => Assert.Single(e).Item.Title));
        Assert.Equal(1, s.Left);
    }

    [Fact]
    public void One_that_is_longer_than_an_evening_has_its_printer_to_itself_and_says_so()
    {
        var s = Schedule.Of([new("a", [On("D", 30)]), new("b", [On("D", 300)]), new("c", [On("D", 30)])], 120, 3);
        Assert.Equal(["a", "c"], s.Evenings[0].Select(x => x.Way));
        Assert.Equal(("b", true), (s.Evenings[1][0].Way, s.Evenings[1][0].TooLong));
    }

    [Fact]
    public void Whatever_is_wanted_is_laid_out_in_order_without_overlap()
    {
        var r = new Random(11);
        for (var trial = 0; trial < 300; trial++)
        {
            var evening = r.Next(30, 400);
            var ways = Enumerable.Range(0, r.Next(0, 12)).Select(w => new ScheduleWay($"w{w}", [
                .. Enumerable.Range(0, r.Next(1, 5)).Select(i => new ScheduleItem($"{w}.{i}", r.Next(5, 500), r.Next(4) == 0 ? null : $"p{r.Next(3)}", null)),
            ])).ToList();
            var s = Schedule.Of(ways, evening, 400);
            Assert.Equal(0, s.Left);
            foreach (var e in s.Evenings)
            {
                Assert.Equal(e.Count, e.Select(x => x.Way).Distinct().Count());
                foreach (var lane in e.Where(x => x.Item.Printer is not null).GroupBy(x => x.Item.Printer))
                {
                    var end = -Schedule.BetweenMinutes;
                    foreach (var x in lane.OrderBy(x => x.FromMinute))
                    {
                        Assert.True(x.FromMinute >= end + Schedule.BetweenMinutes);
                        Assert.True(x.TooLong ? lane.Count() == 1 : x.FromMinute + x.Item.Minutes <= evening);
                        end = x.FromMinute + x.Item.Minutes;
                    }
                }
            }

            foreach (var way in ways)
                Assert.Equal(way.Items.Select(i => i.Title), s.Evenings.SelectMany(e => e).Where(x => x.Way == way.Name).Select(x => x.Item.Title));
        }
    }

    [Fact]
    public void What_several_pairings_want_of_one_machine_is_done_once_for_all()
    {
        ScheduleItem Check() => new("grip", 15, null, null, "D grip");
        var s = Schedule.Of([new("a", [Check(), On("D", 30)]), new("b", [Check(), On("D", 30)]), new("c", [On("D", 30), Check(), On("D", 60)])], 120, 5);
        Assert.Equal(["c", "a"], s.Evenings[0].Select(x => x.Way));
        Assert.Equal([("a", 30), ("b", 30)], s.Evenings[1].Select(x => (x.Way, x.Item.Minutes)));
        Assert.Equal(("c", 60), (s.Evenings[2][0].Way, s.Evenings[2][0].Item.Minutes));
        Assert.Single(s.Evenings.SelectMany(e => e), x => x.Item.Shared is not null);
        Assert.Equal(0, s.Left);
    }

    [Fact]
    public void An_evening_of_nothing_is_none()
    {
        Assert.Empty(Schedule.Of([], 60, 5).Evenings);
        Assert.Throws<ArgumentOutOfRangeException>(() => Schedule.Of([], 29, 5));
        Assert.Throws<ArgumentOutOfRangeException>(() => Schedule.Of([], 60, 0));
    }
}
