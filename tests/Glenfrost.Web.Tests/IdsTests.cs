using Glenfrost.Application;
using Glenfrost.Storage;

namespace Glenfrost.Web.Tests;

/// <summary>Ids of rows.</summary>
public class IdsTests
{
    [Fact]
    public void Ids_made_in_one_go_keep_their_order_as_they_are_stored_and_are_version_7_of_now()
    {
        var ids = Enumerable.Range(0, 20_000).Select(_ => Ids.New()).ToList();
        // The database sorts what it stores as text.
        Assert.Equal(ids.Select(i => i.ToString()), ids.Select(i => i.ToString()).Order(StringComparer.Ordinal));
        Assert.All(ids, i => Assert.Equal((7, 8), (i.Version, i.Variant & 0xC)));
        var ms = Convert.ToInt64(ids[0].ToString("N")[..12], 16);
        Assert.InRange(DateTimeOffset.UtcNow.ToUnixTimeMilliseconds() - ms, -1000, 60_000);
    }

    [Fact]
    public async Task Ids_made_side_by_side_are_all_different()
    {
        var all = await Task.WhenAll(Enumerable.Range(0, 8).Select(_ => Task.Run(() => Enumerable.Range(0, 5_000).Select(_ => Ids.New()).ToList())));
        Assert.Equal(40_000, all.SelectMany(x => x).Distinct().Count());
        Assert.All(all, own => Assert.Equal(own.Select(i => i.ToString()), own.Select(i => i.ToString()).Order(StringComparer.Ordinal)));
    }

    private sealed class SetClock : TimeProvider
    {
        public DateTimeOffset Says { get; set; } = new(2026, 3, 1, 12, 0, 0, TimeSpan.Zero);

        public override DateTimeOffset GetUtcNow() => Says;
    }

    [Fact]
    public void A_clock_that_stands_or_is_set_back_still_tells_what_came_later_and_one_that_was_wrong_is_put_right()
    {
        var set = new SetClock();
        var clock = new SteadyClock(set);
        var first = clock.GetUtcNow();
        var second = clock.GetUtcNow();
        set.Says = set.Says.AddSeconds(-40);
        var third = clock.GetUtcNow();
        Assert.Equal(set.Says.AddSeconds(40), first);
        Assert.True(first < second && second < third, $"{first:O} {second:O} {third:O}");
        Assert.InRange(third - first, TimeSpan.Zero, TimeSpan.FromMilliseconds(1));
        set.Says = set.Says.AddDays(-3);
        Assert.Equal(set.Says, clock.GetUtcNow());
    }

    [Fact]
    public void Times_are_those_of_the_place_and_a_typed_day_stays_that_day()
    {
        var west = TimeZoneInfo.CreateCustomTimeZone("west", TimeSpan.FromHours(-5), "west", "west");
        var east = TimeZoneInfo.CreateCustomTimeZone("east", TimeSpan.FromHours(9.5), "east", "east");
        var at = new DateTime(2026, 11, 28, 22, 40, 0, DateTimeKind.Utc);
        Assert.Equal(new DateTime(2026, 11, 28, 17, 40, 0), Words.Local(at, west));
        Assert.Equal(new DateTime(2026, 11, 29, 8, 10, 0), Words.Local(at, east));
        var day = new DateTime(2026, 11, 23, 0, 0, 0, DateTimeKind.Utc);
        Assert.All(new[] { west, east }, z => Assert.Equal(day, Words.Local(day, z)));
        // What a filter of that day begins with, and what it shows first, are one day.
        Assert.All(new[] { west, east }, z => Assert.Equal(day, Words.Local(Words.DayBegins(day, z).AddMilliseconds(1), z).Date));
        Assert.Equal(new DateTime(2026, 11, 23, 5, 0, 0, DateTimeKind.Utc), Words.DayBegins(day, west));
    }

    [Fact]
    public void What_somebody_else_named_has_one_id_that_is_no_id_of_ours()
    {
        Assert.Equal(Ids.Of("room/a/h-1"), Ids.Of("room/a/h-1"));
        Assert.NotEqual(Ids.Of("room/a/h-1"), Ids.Of("room/a/h-2"));
        Assert.Equal((8, 7), (Ids.Of("room/a/h-1").Version, Ids.New().Version));
    }
}
