using Glenfrost.Core.Gcode.Fixes;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Gcode;

/// <summary>Least layer times: stated ones, those that layers show, and what another one would save.</summary>
public class LayerTimeTests
{
    private static FileFacts Inspect(SlicedFile file) => ReadingTests.Inspect(file.ToBytes());

    /// <summary>A ring that gets wider and narrower, so that every layer's own time is another one: 2.4 to 5.4 s.</summary>
    private static SlicedFile Vase(double least, string says = "") =>
        new() { Fill = false, Layers = 40, Sides = 120, Notch = n => 1 + 0.4 * Math.Sin(n / 6.0), LeastLayerTime = least, ExtraStart = says };

    [Theory]
    [InlineData("; least layer time: 12 s", 12.0)]
    [InlineData("; minimum layer time = 8", 8.0)]
    [InlineData("; min_layer_time = 7.5", 7.5)]
    [InlineData("; lines are slowed below a layer time of 15 s, nothing else", 15.0)]
    [InlineData("; minimal layer printing time 9 sec", 9.0)]
    [InlineData("; layer time, least: 20", 20.0)]
    [InlineData("; layer 12 time 34 s", null)]
    [InlineData("; fan full below minimum layer time 30", null)]
    [InlineData("; least layer height 0.08", null)]
    [InlineData("; min_layer_time = 0", null)]
    [InlineData("; estimated minutes, layer 3, time 12", null)]
    public void A_least_layer_time_is_read_from_a_comment_and_a_fan_s_time_is_none(string comment, double? seconds) =>
        Assert.Equal(seconds, StatedLayerTime.Of(comment));

    [Fact]
    public void Every_layer_slowed_to_the_stated_time_is_said_to_be()
    {
        var slow = SlowDowns.Of(Inspect(Vase(12, "; least layer time: 12 s")))!;
        Assert.Equal((39, 12, true, true), (slow.Layers, slow.MinimumS, slow.Stated, slow.AtLeast));
        // The widest ring shows the fastest speed; the file without a minimum is what it would really be.
        var saved = Inspect(Vase(12)).Seconds - Inspect(Vase(0)).Seconds;
        Assert.InRange(slow.CostS, 0.3 * saved, saved);
        // Alike layers show nothing of their own speed: they are slowed, and no number is made up for what that costs.
        var alike = SlowDowns.Of(Inspect(Vase(12, "; least layer time: 12 s") with { Notch = _ => 1 }))!;
        Assert.Equal((39, true), (alike.Layers, alike.AtLeast));
        Assert.InRange(alike.CostS, 0, 1);
        var odd = Oddities.Of(Inspect(Vase(12, "; least layer time: 12 s") with { Notch = _ => 1 }));
        Assert.Contains("none shows how fast", odd.Single(o => o.Key == "slowed").Text);
    }

    [Fact]
    public void Small_layers_of_many_short_lines_are_seen_too_though_ramps_make_them_last_longer_than_was_reckoned()
    {
        var slow = SlowDowns.Of(Inspect(Vase(6, "; least layer time: 6 s") with { Sides = 12, Radius = 12, WallSpeed = 90, TravelSpeed = 60 }))!;
        Assert.Equal((39, 6.0, true), (slow.Layers, slow.MinimumS, slow.AtLeast));
        Assert.True(slow.CostS > 0);
    }

    [Fact]
    public void Layers_of_different_length_that_last_alike_give_the_minimum_away()
    {
        var slow = SlowDowns.Of(Inspect(Vase(12)))!;
        Assert.Equal((39, false), (slow.Layers, slow.Stated));
        // What the file's writer left out of its reckoning, travel and ramps, comes on top.
        Assert.Equal(12, slow.MinimumS, 0.6);
        // Layers at their own speeds last as long as they are: none is slowed, alike or not.
        Assert.Null(SlowDowns.Of(Inspect(Vase(0))));
        Assert.Null(SlowDowns.Of(Inspect(Vase(0) with { Notch = _ => 1 })));
    }

    [Fact]
    public void Where_some_layers_run_free_the_cost_is_what_the_slowing_took()
    {
        foreach (var least in new[] { 3.5, 4.2 })
        {
            var f = Inspect(Vase(least));
            var slow = SlowDowns.Of(f)!;
            var saved = f.Seconds - Inspect(Vase(0)).Seconds;
            Assert.False(slow.AtLeast);
            Assert.InRange(slow.CostS, 0.9 * saved, 1.1 * saved);
            Assert.Equal(least, slow.MinimumS, 0.5);
        }
    }

    [Fact]
    public void A_stated_time_that_slows_nothing_is_said_and_costs_nothing()
    {
        var slow = SlowDowns.Of(Inspect(Vase(0, "; least layer time: 1 s")))!;
        Assert.Equal((0, 1.0, true, 0.0), (slow.Layers, slow.MinimumS, slow.Stated, slow.CostS));
        Assert.DoesNotContain(Oddities.Of(Inspect(Vase(0, "; least layer time: 1 s"))), o => o.Key == "slowed");
    }

    /// <summary>
    /// The same piece of ours written at two least layer times and timed move by move: what the first file is promised to save is what the second one saves,
    /// within a tenth, or it is given as a bound and is one.
    /// </summary>
    [Theory]
    [InlineData("dunnock", 32, 12)]
    [InlineData("dunnock", 20, 12)]
    [InlineData("whimbrel", 30, 15)]
    [InlineData("whimbrel", 22, 14)]
    [InlineData("ptarmigan", 25, 10)]
    public void A_promise_of_minutes_is_kept_or_is_a_bound(string printer, double from, double to)
    {
        var machine = printer switch { "dunnock" => Machines.Dunnock, "whimbrel" => Machines.Whimbrel, _ => Machines.Ptarmigan };
        FileFacts With(double least) =>
            ReadingTests.Inspect(
                Machines.Text(
                    Machines.Job(
                        Machines.Tower(machine, layer: machine == Machines.Ptarmigan ? 0.3m : 0.2m), machine,
                        Machines.Settings(machine) with { MinLayerTimeS = least }).Job),
                new() { Machine = machine });
        var (slow, quick) = (With(from), With(to));
        var found = SlowDowns.Of(slow)!;
        Assert.Equal((from, true), (found.MinimumS, found.Stated));
        var promised = -SlowDowns.ChangeS(SlowDowns.Natural(slow), to, found.AtLeast);
        var came = slow.Seconds - quick.Seconds;
        Assert.True(
            came > 20 && (found.AtLeast ? promised <= came && promised > 0.5 * came : Math.Abs(promised - came) <= 0.1 * came),
            $"{printer} {from} to {to} s: promised {promised:0.0} s{(found.AtLeast ? " at least" : "")}, came {came:0.0} s, of {slow.Seconds:0} s");
    }
}
