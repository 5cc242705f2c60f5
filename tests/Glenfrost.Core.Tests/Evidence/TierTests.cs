using Glenfrost.Core.Profiles;

namespace Glenfrost.Core.Tests.Evidence;

/// <summary>Variants of a profile: what they put in force, and what is to be said of it.</summary>
public class TierTests
{
    private static ProfileSetting Found(string key, double value, double? half = null, double? atC = null) =>
        new(key, value, half, SettingOrigin.Run, "run 1", SettingState.Provisional, "one run") { AtC = atC };

    private static readonly ProfileSetting[] Profile =
    [
        Found("nozzleTemperatureC", 212, 5), Found("extrusionMultiplier", 0.97, 0.01, 212), Found("maxVolumetricFlowMm3PerS", 9.5, 0.4, 212),
        Found("maxVolumetricFlowMm3PerS", 14, 0.5, 230), Found("layerHeightMm", 0.2), Found("lineWidthMm", 0.44), Found("outerWallSpeedMmPerS", 60),
    ];

    [Fact]
    public void A_tier_takes_what_was_found_at_its_own_temperature_and_says_what_nobody_found_there()
    {
        var hot = new Tier("fast", [new("nozzleTemperatureC", 230)]);
        var over = Tiers.Over(Profile, hot);
        Assert.Equal(14, over.Single(s => s.Key == "maxVolumetricFlowMm3PerS").Value);
        Assert.Equal((230, SettingState.Start), over.Where(s => s.Key == "nozzleTemperatureC").Select(s => (s.Value, s.State)).Single());
        var remarks = Tiers.Of(Profile, hot, 0.4);
        Assert.Contains(new(TierRemarkKind.OutsideFound, "nozzleTemperatureC", 230, 212, 5), remarks);
        Assert.Contains(new(TierRemarkKind.NotKnownThere, "extrusionMultiplier", 230, 212), remarks);
        Assert.DoesNotContain(remarks, r => r.Key == "maxVolumetricFlowMm3PerS");
        // A value within what the run shows, and one that is the profile's, are nothing to speak of, and the profile's keeps its evidence.
        Assert.Empty(Tiers.Of(Profile, new("good", [new("nozzleTemperatureC", 209)]), 0.4));
        Assert.True(Tiers.Over(Profile, new("good", [new("nozzleTemperatureC", 212)])).Single(s => s.Key == "nozzleTemperatureC").IsEvidence);
    }

    [Fact]
    public void Speeds_above_the_flow_limit_of_the_tier_are_said_and_below_it_are_not()
    {
        // A line of 0.44 × 0.2 mm as a stadium is 0.0794 mm²: 9.5 mm³/s are 119.6 mm/s.
        TierRemark? At(double speed, params TierValue[] more) => Tiers.Of(Profile, new("fast", [new("outerWallSpeedMmPerS", speed), .. more]), 0.4)
            .FirstOrDefault(r => r.Kind == TierRemarkKind.AboveFlowLimit);
        Assert.Null(At(119));
        Assert.Equal((9.53, 9.5), At(120) is { } over ? (over.Value, over.Beside) : default);
        // Thicker layers ask for more at the profile's own speed; at 230 °C more comes.
        Assert.Null(At(150, new TierValue("nozzleTemperatureC", 230)));
        Assert.Contains(Tiers.Of(Profile, new("thick", [new("layerHeightMm", 0.32), new("lineWidthMm", 0.6)]), 0.4), r => r.Key == "outerWallSpeedMmPerS");
        Assert.Empty(Tiers.Of(Profile, new("thin", [new("layerHeightMm", 0.12)]), 0.4));
        // Where the limit is not known at the temperature, nothing is said of it.
        Assert.Null(At(300, new TierValue("nozzleTemperatureC", 250)));
    }

    [Fact]
    public void A_list_is_changed_by_name_and_key_keeps_what_stood_before_once_and_says_what_is_wrong_with_it()
    {
        var list = new TierList().With("fast", new("outerWallSpeedMmPerS", 120)).With("FAST", new("outerWallSpeedMmPerS", 110))
            .With("strong", new("fanPercent", 20));
        Assert.Equal(["fast", "strong"], list.Tiers.Select(t => t.Name));
        Assert.Equal(110, Assert.Single(list.Find("Fast")!.Values).Value);
        Assert.Null(list.Before!.Before);
        Assert.Equal(["fast"], list.Before.Tiers.Select(t => t.Name));
        Assert.Null(list.Fault());
        Assert.Equal(["fast"], list.Without("strong", "fanPercent").Tiers.Select(t => t.Name));
        Assert.Equal(["strong"], list.Without("fast", null).Tiers.Select(t => t.Name));
        Assert.NotNull(new TierList { Tiers = [new("a", [new("fanPercent", 4000)])] }.Fault());
        Assert.NotNull(new TierList { Tiers = [new("a", [new("moonPhase", 1)])] }.Fault());
        Assert.NotNull(new TierList { Tiers = [new("a", [new("fanPercent", double.NaN)])] }.Fault());
        Assert.NotNull(new TierList { Tiers = [new("a", []), new("A", [])] }.Fault());
        Assert.NotNull(new TierList { Tiers = [.. Enumerable.Range(0, 7).Select(i => new Tier($"t{i}", []))] }.Fault());
        Assert.NotNull(new TierList { Before = new() { Before = new() } }.Fault());
    }
}
