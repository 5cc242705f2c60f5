using System.Text;
using CsCheck;
using Glenfrost.Core.Gcode.Fixes;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Gcode;

/// <summary>A file trimmed as a whole: what was asked is read back layer by layer, and nothing else changes.</summary>
public class TrimTests
{
    private static (Fix? Fix, string Said, FileFacts Before, FileFacts? After, string[] Was, string[] Is) Trimmed(SlicedFile file, TrimRequest r)
    {
        var bytes = file.ToBytes();
        var before = ReadingTests.Inspect(bytes);
        var (fix, errors) = FixPlanning.Plan(new() { Key = "trim", Trim = r }, before, () => new MemoryStream(bytes), Machines.Whimbrel);
        var was = Encoding.Latin1.GetString(bytes).Split('\n');
        if (fix is null)
            return (null, string.Join("; ", errors.Select(e => $"{e.Field}: {e.Message}")), before, null, was, []);
        var to = new MemoryStream();
        fix.Write(() => new MemoryStream(bytes), to);
        return (fix, "", before, ReadingTests.Inspect(to.ToArray()), was, Encoding.Latin1.GetString(to.ToArray()).Split('\n'));
    }

    private static Gen<decimal?> One(params decimal?[] any) => Gen.Int[0, any.Length - 1].Select(i => any[i]);

    [Fact]
    public void What_was_asked_is_read_back_layer_by_layer() => Gen.Select(
        Gen.Int[60, 140], One(null, 0, 50, 80), One(null, -5, 5), One(null, 10), Gen.Bool,
            Gen.Int[0, 15])
        .Sample((flow, fan, nozzle, bed, stays, kind) =>
    {
        var r = new TrimRequest(flow, fan, nozzle, bed, stays);
        var t = Trimmed(new() { RelativeE = (kind & 1) > 0, CrLf = (kind & 2) > 0, Arcs = (kind & 4) > 0, NoSpaces = (kind & 8) > 0 }, r);
        Assert.True(t.Fix is not null, t.Said);
        Assert.All(Trim.ReadBack(r, t.Before, t.After!), f => Assert.True(f.Holds, $"{f.What}: {f.Found}, asked {r}"));
        Assert.Equal(t.Before.Box.MaxX, t.After!.Box.MaxX, 6);
        // The other way round it does not hold: reading back is no formality.
        if (flow != 100)
            Assert.Contains(Trim.ReadBack(r with { FlowPercent = 100 }, t.Before, t.After), f => !f.Holds);
    }, iter: 40);

    [Fact]
    public void Lines_that_set_nothing_of_it_stay_as_they_were()
    {
        var t = Trimmed(new(), new(null, 50, 5, null, false));
        Assert.Equal(t.Was.Length, t.Is.Length);
        Assert.All(t.Was.Zip(t.Is), x => Assert.True(
            x.First == x.Second || x.First.StartsWith("M106", StringComparison.Ordinal) || x.First.StartsWith("M104", StringComparison.Ordinal)
                || x.First.StartsWith("M109", StringComparison.Ordinal), $"{x.First} became {x.Second}"));
        Assert.Contains(t.Was.Zip(t.Is), x => x.First != x.Second);
    }

    [Fact]
    public void The_first_layer_keeps_what_it_has_where_that_is_asked()
    {
        var t = Trimmed(new(), new(90, 0, 10, null, true));
        Assert.Equal(t.Before.Layers[0].Volume, t.After!.Layers[0].Volume, 6);
        Assert.Equal(t.Before.Layers[0].NozzleMax, t.After.Layers[0].NozzleMax, 6);
        Assert.Equal(0.9 * t.Before.Layers[3].Volume, t.After.Layers[3].Volume, 3);
        Assert.Equal(t.Before.Layers[3].NozzleMax + 10, t.After.Layers[3].NozzleMax, 6);
        Assert.Equal(0, t.After.Layers[3].FanMax);
    }

    [Fact]
    public void What_only_warms_up_is_left_alone()
    {
        var t = Trimmed(new() { ExtraStart = "M104 S150 ; probe" }, new(null, null, 5, null, false));
        Assert.True(t.Fix is not null, t.Said);
        Assert.Contains("M104 S150 ; probe", t.Is);
        Assert.Contains("M109 S215", t.Is);
    }

    [Theory]
    [InlineData(null, null, null, null, "flowPercent: Nothing is trimmed yet")]
    [InlineData(20, null, null, null, "flowPercent: 20 % is outside 50 to 150")]
    [InlineData(null, 400, null, null, "fanShare: 400 % is outside")]
    [InlineData(null, null, 90, null, "nozzleBy: 90 °C is outside")]
    [InlineData(null, null, null, 40, "bedBy: ")]
    public void What_is_no_trim_or_goes_beyond_the_machine_is_said_at_its_field(int? flow, int? fan, int? nozzle, int? bed, string says)
    {
        var t = Trimmed(new() { ExtraStart = "M190 S90" }, new(flow, fan, nozzle, bed, false));
        Assert.Null(t.Fix);
        Assert.StartsWith(says, t.Said);
    }
}
