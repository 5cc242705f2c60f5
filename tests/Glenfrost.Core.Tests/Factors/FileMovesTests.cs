using Glenfrost.Core.Factors;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Samples;

namespace Glenfrost.Core.Tests.Factors;

/// <summary>What the moves of a file say of the settings that it was sliced with.</summary>
public class FileMovesTests
{
    private static IReadOnlyDictionary<string, FactorValue> Read(SlicedFile file) =>
        PrintFactors.Read(Inspector.Inspect(new MemoryStream(file.ToBytes()), new() { Name = "a.gcode", Motion = null }));

    [Theory]
    [InlineData(25, 60, 150, 35, 0.2, 0.45)]
    [InlineData(80, 120, 300, 50, 0.4, 0.6)]
    [InlineData(60, 60, 90, 20, 0, 0.4)]
    public void Speeds_hop_and_width_are_those_that_the_file_was_sliced_with(double wall, double fill, double travel, double retract, double hop, double width)
    {
        var read = Read(new SlicedFile { Layers = 40, WallSpeed = wall, FillSpeed = fill, TravelSpeed = travel, RetractSpeed = retract, Hop = hop, Width = width });
        double? Of(string key) => read.TryGetValue(key, out var v) ? v.Number : null;
        Assert.Equal(wall, Of("outerWallSpeedMmPerS")!.Value, 0.6);
        Assert.Equal(fill, Of("fillSpeedMmPerS")!.Value, 0.6);
        Assert.Equal(travel, Of("travelSpeedMmPerS")!.Value, 1.1);
        Assert.Equal(retract, Of("retractionSpeedMmPerS")!.Value, 1.1);
        Assert.Equal(hop, Of("zHopMm")!.Value, 0.011);
        Assert.Equal(width, Of("lineWidthMm")!.Value, 0.011);
        Assert.All(read.Values, v => Assert.Equal(FactorSource.File, v.Source));
    }

    [Fact]
    public void Layers_that_are_slowed_hide_no_speed_and_two_files_differ_only_in_what_was_changed()
    {
        var whole = Read(new SlicedFile { Layers = 40 });
        var slowed = Read(new SlicedFile { Layers = 40, Slow = n => n > 20 ? 0.4 : 1 });
        Assert.Equal(whole["outerWallSpeedMmPerS"].Number, slowed["outerWallSpeedMmPerS"].Number);
        var other = Read(new SlicedFile { Layers = 40, WallSpeed = 30, Retraction = 1.4 });
        Assert.Equal(whole.Keys.Order(), other.Keys.Order());
        // Inner walls run at the walls' speed in these files.
        string[] changed = ["innerWallSpeedMmPerS", "outerWallSpeedMmPerS", "retractionLengthMm"];
        Assert.Equal(changed, whole.Keys.Where(k => whole[k].Number is { } a && other[k].Number is { } b && Math.Abs(a - b) > 0.011).Order());
    }

    [Fact]
    public void A_planned_speed_is_proven_where_the_moves_have_it_and_stays_where_they_are_slowed_while_a_temperature_gives_way()
    {
        var file = Read(new SlicedFile { Layers = 40, WallSpeed = 30, NozzleC = 215 });
        var plan = new Dictionary<string, FactorValue>
        {
            ["outerWallSpeedMmPerS"] = FactorValue.Of(40, FactorSource.Plan), ["travelSpeedMmPerS"] = FactorValue.Of(150, FactorSource.Plan),
            ["nozzleTemperatureC"] = FactorValue.Of(210, FactorSource.Plan),
        };
        var all = PrintFactors.Prove(plan, file, []);
        Assert.Equal((40.0, false), (all["outerWallSpeedMmPerS"].Number!.Value, all["outerWallSpeedMmPerS"].Proven));
        Assert.True(all["travelSpeedMmPerS"].Proven);
        Assert.Equal((215.0, FactorSource.File), (all["nozzleTemperatureC"].Number!.Value, all["nozzleTemperatureC"].Source));
        Assert.Equal(file["retractionSpeedMmPerS"], all["retractionSpeedMmPerS"]);
    }

    [Fact]
    public void A_file_without_names_or_with_names_that_mean_two_things_says_nothing_of_its_features()
    {
        var read = Read(new SlicedFile { Layers = 40, Features = false });
        Assert.DoesNotContain(read.Keys, k => k is "outerWallSpeedMmPerS" or "innerWallSpeedMmPerS" or "fillSpeedMmPerS" or "bridgeSpeedMmPerS" or "lineWidthMm");
        Assert.Equal(150, read["travelSpeedMmPerS"].Number!.Value, 1.1);
    }
}
