using System.Globalization;
using System.Text;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Gcode;

/// <summary>The order of features, island by island, and waits whose unit is another one than was meant.</summary>
public class OrderTests
{
    private const string Usual = "outer inner fill";

    /// <summary>Squares side by side; for each layer and island the features in the order in which they are laid.</summary>
    private static FileFacts Squares(Func<int, int, string> order, int layers = 12, int islands = 2)
    {
        var to = new StringBuilder("M104 S210\nM109 S210\nM140 S60\nG28\nG90\nM83\n");
        for (var n = 1; n <= layers; n++)
        {
            to.Append(CultureInfo.InvariantCulture, $"G0 Z{n * 0.2:0.0} F600\n");
            for (var i = 0; i < islands; i++)
            {
                foreach (var feature in order(n, i).Split(' ', StringSplitOptions.RemoveEmptyEntries))
                {
                    var (name, half) = feature switch
                    {
                        "outer" => ("outer wall", 6.0),
                        "inner" => ("inner wall", 5.5),
                        "gap" => ("gap fill", 1.0),
                        _ => ("sparse fill", 5.0),
                    };
                    var cx = 30 + 30 * i;
                    to.Append(CultureInfo.InvariantCulture, $"; feature {name}\nG0 X{cx - half} Y{50 - half} F9000\n");
                    foreach (var (x, y) in new[] { (1, -1), (1, 1), (-1, 1), (-1, -1) })
                        to.Append(CultureInfo.InvariantCulture, $"G1 X{cx + x * half} Y{50 + y * half} E{half * 2 * 0.033:0.#####} F2400\n");
                }
            }
        }

        to.Append("M104 S0\nM140 S0\n");
        return ReadingTests.Inspect(to.ToString());
    }

    private static List<Oddity> Found(Func<int, int, string> order, int islands = 2) =>
        [.. Oddities.Of(Squares(order, islands: islands)).Where(o => o.Key == "feature-order")];

    [Theory]
    [InlineData("outer inner fill")]
    [InlineData("inner outer fill")]
    [InlineData("inner outer gap fill")]
    public void One_order_throughout_is_nothing_odd(string order)
    {
        Assert.Empty(Found((_, _) => order));
        Assert.Empty(Found((_, _) => order, 1));
    }

    [Theory]
    [InlineData("fill outer inner", "all fill before any wall")]
    [InlineData("inner outer fill", "the outer wall before the inner one")]
    [InlineData("gap outer inner fill", "fill a gap before the walls around it")]
    [InlineData("inner fill", "inner walls and no outer one")]
    public void One_island_that_is_laid_in_another_order_is_told_with_its_layer_and_height(string odd, string words)
    {
        // The second island of the seventh layer only; seen in a layer whose first island is as usual.
        var found = Assert.Single(Found((n, i) => n == 7 && i == 1 ? odd : Usual));
        Assert.Contains(words, found.Text, StringComparison.Ordinal);
        Assert.Contains("layer 7 (z 1.4)", found.Text, StringComparison.Ordinal);
        Assert.Equal((Weight.Odd, 6), (found.Weight, found.Layer));
    }

    [Fact]
    public void A_wall_that_is_missing_is_told()
    {
        var found = Assert.Single(Found((n, i) => n == 9 && i == 1 ? "fill" : Usual));
        Assert.Contains("1 of 11 layers lay fill with no wall around it", found.Text, StringComparison.Ordinal);
        Assert.Contains("layer 9 (z 1.8)", found.Text, StringComparison.Ordinal);
    }

    [Fact]
    public void Fill_first_in_every_layer_is_worth_a_note_and_in_a_third_of_them_it_is_odd()
    {
        Assert.Equal(Weight.Note, Assert.Single(Found((_, _) => "fill outer inner")).Weight);
        var third = Assert.Single(Found((n, _) => n % 4 == 0 ? "fill outer inner" : Usual));
        Assert.Contains("3 of 11 layers print all fill before any wall", third.Text, StringComparison.Ordinal);
        // What comes island after island, each with its own walls first, is no fill before walls.
        Assert.Empty(Found((_, i) => i == 0 ? Usual : "outer inner fill", 3));
    }

    [Theory]
    [InlineData("M140 S50\nG4 P30\nM140 S40\nG4 P30\nM140 S0", "dwell-unit", "G4 P30 waits 0.03 s, and 1 more like it")]
    [InlineData("G4 S30000\nM140 S0", "dwell-unit", "G4 S30000 waits 8 h 20 min")]
    [InlineData("M190 R45\nM190 R40\nM140 S0", "hand-ramp", "45, 40 °C, each waited for")]
    [InlineData("M140 S50\nM140 S40\nM140 S0", "hand-ramp", "the bed never sees its steps")]
    public void A_wait_in_the_wrong_unit_and_a_ramp_of_any_kind_are_seen(string end, string key, string words)
    {
        var odd = Oddities.Of(ReadingTests.Inspect(new SlicedFile { EndCode = end }.ToBytes())).Single(o => o.Key == key);
        Assert.Contains(words, odd.Text, StringComparison.Ordinal);
        var first = end.Split('\n').First(l => key == "hand-ramp" || l.StartsWith("G4", StringComparison.Ordinal));
        Assert.Equal(first, Encoding.UTF8.GetString(new SlicedFile { EndCode = end }.ToBytes()).Split('\n')[odd.Line - 1]);
    }

    [Fact]
    public void A_wait_of_minutes_over_the_part_is_seen()
    {
        var f = ReadingTests.Inspect(new SlicedFile { Before = n => n == 8 ? "G4 S500" : "" }.ToBytes());
        Assert.Contains("G4 P500, or G4 S0.5", Oddities.Of(f).Single(o => o.Key == "dwell-unit").ToDo, StringComparison.Ordinal);
        Assert.DoesNotContain(
            Oddities.Of(ReadingTests.Inspect(new SlicedFile { Before = n => n == 8 ? "G4 S30" : "" }.ToBytes())), o => o.Key == "dwell-unit");
    }

    [Theory]
    [InlineData("G4 S20\nM140 S0")]
    [InlineData("G4 P20000\nM140 S0")]
    [InlineData("G4 P0\nM140 S0")]
    public void A_usual_wait_is_nothing_odd(string end) =>
        Assert.DoesNotContain(
            Oddities.Of(ReadingTests.Inspect(new SlicedFile { EndCode = end }.ToBytes())), o => o.Key is "dwell-unit" or "hand-ramp");

    [Fact]
    public void Seconds_on_a_printer_that_reads_milliseconds_only_are_seen()
    {
        var f = ReadingTests.Inspect(new SlicedFile { EndCode = "G4 S20\nM140 S0" }.ToBytes(), new() { Machine = Machines.Whimbrel });
        Assert.Contains("G4 P20000", Oddities.Of(f).Single(o => o.Key == "dwell-unit").ToDo, StringComparison.Ordinal);
    }

    [Fact]
    public void Waits_behind_the_last_line_belong_to_no_layer_and_those_within_to_theirs()
    {
        var plain = ReadingTests.Inspect(new SlicedFile().ToBytes());
        var waits = ReadingTests.Inspect(new SlicedFile { EndCode = "G4 S600\nM140 S0", Before = n => n == 8 ? "G4 S30" : "" }.ToBytes());
        Assert.Equal(630, waits.DwellSeconds);
        Assert.Equal(plain.Layers[^1].Seconds, waits.Layers[^1].Seconds, 6);
        Assert.Equal(30, waits.Layers.Zip(plain.Layers).Sum(p => p.First.Seconds - p.Second.Seconds), 0.5);
    }

    [Fact]
    public void A_tower_that_gets_hotter_upwards_is_told_and_one_that_gets_cooler_is_not()
    {
        FileFacts Tower(Func<int, double> c) =>
            ReadingTests.Inspect(new SlicedFile { Layers = 40, Before = n => n > 1 && n % 10 == 1 ? $"M104 S{c(n / 10)}" : "" }.ToBytes());
        var cold = Oddities.Of(Tower(i => 210 + 5 * i)).Single(o => o.Key == "coldest-at-bottom");
        Assert.Contains("from 210 to 225 °C", cold.Text, StringComparison.Ordinal);
        Assert.DoesNotContain(Oddities.Of(Tower(i => 210 - 5 * i)), o => o.Key == "coldest-at-bottom");
    }
}
