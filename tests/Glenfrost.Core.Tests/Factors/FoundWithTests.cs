using Glenfrost.Core.Factors;
using Glenfrost.Core.Filaments;

namespace Glenfrost.Core.Tests.Factors;

/// <summary>Two runs and their repeats: which belong to a group, and what the groups may say.</summary>
public class FoundWithTests
{
    private static readonly PoolingRule Rule = new(["temperature"], ["nozzleTemperatureC"], new(Family.Find("PLA"), "none", true));

    private static FactorSet Known(params (string Key, double Number)[] values)
    {
        // Everything that the rule asks for is known; what is given stands on top.
        var set = new FactorSet { RunId = Guid.NewGuid() };
        foreach (var d in FactorRegistry.All)
        {
            var value = !d.AppliesTo(Rule.Situation) ? FactorValue.NotApplicable
                : d.Kind == FactorKind.Number ? FactorValue.Of(10, FactorSource.Plan) : FactorValue.Of("as it came", FactorSource.Record);
            set = set.With([KeyValuePair.Create(d.Key, value)]);
        }

        return set.With(values.Select(v => KeyValuePair.Create(v.Key, FactorValue.Of(v.Number, FactorSource.Typed))));
    }

    private static FactorSet Without(FactorSet set, string key) =>
        set with
        {
            Values = new(set.Values.Where(v => v.Key != key).ToDictionary(), StringComparer.Ordinal),
        };

    private static FoundRun Run(FactorSet set, double? value, double sd = 0.5) => new(set, () => value is { } v ? new(v, sd) : null);

    [Fact]
    public void Repeats_of_both_make_an_effect_out_of_one_difference()
    {
        // By hand: means 206 and 215; pooled sd √2 = 1.414; t(2) = 4.303; half 6.085.
        var (slow, fast) = (Known(("fanPercent", 40)), Known(("fanPercent", 100)));
        var a = FoundWith.Conclude(Rule, Run(fast, 207), Run(slow, 216), [Run(Known(("fanPercent", 100)), 205), Run(Known(("fanPercent", 40)), 214)]);
        Assert.Equal(Conclusion.Effect, a.Verdict);
        Assert.Equal((-9, -15.1, -2.9), (a.Effect!.Value, Math.Round(a.Low!.Value, 1), Math.Round(a.High!.Value, 1)));
    }

    [Fact]
    public void A_run_that_differs_or_is_unknown_is_a_repeat_of_neither()
    {
        var (slow, fast) = (Known(("fanPercent", 40)), Known(("fanPercent", 100)));
        FoundRun[] others =
        [
            Run(Known(("fanPercent", 70)), 100), Run(Known(("fanPercent", 100), ("bedTemperatureC", 90)), 100), Run(Without(fast, "spool"), 100),
            Run(fast, null),
        ];
        var a = FoundWith.Conclude(Rule, Run(fast, 207), Run(slow, 216), others);
        Assert.Equal(Conclusion.OnlyDifference, a.Verdict);
        Assert.Equal(-9, a.Effect);
    }

    [Fact]
    public void Repeats_that_happen_to_agree_scatter_as_much_as_each_of_them_by_itself()
    {
        // Both groups agree to the degree, but each piece alone is only good to 3 °C: half 3·4.303 = 12.9.
        var (slow, fast) = (Known(("fanPercent", 40)), Known(("fanPercent", 100)));
        var a = FoundWith.Conclude(
            Rule, Run(fast, 210, 3), Run(slow, 215, 3), [Run(Known(("fanPercent", 100)), 210, 3), Run(Known(("fanPercent", 40)), 215, 3)]);
        Assert.Equal(Conclusion.NotShown, a.Verdict);
        Assert.Equal(12.9, Math.Round(a.High!.Value - a.Effect!.Value, 1));
    }

    [Fact]
    public void No_number_is_asked_for_where_repeats_could_tell_nothing()
    {
        FoundRun Never(FactorSet set) => new(set, () => throw new InvalidOperationException("asked"));
        var now = Known(("fanPercent", 40), ("bedTemperatureC", 90));
        Assert.Equal(Conclusion.NotAttributed, FoundWith.Conclude(Rule, Never(now), Never(Known()), [Never(Known())]).Verdict);
        Assert.Equal(Conclusion.NothingDiffers, FoundWith.Conclude(Rule, Never(Known()), Never(Known()), [Never(Known())]).Verdict);
    }

    [Fact]
    public void What_a_sweep_goes_through_and_who_read_it_is_no_difference()
    {
        var then = Known(("nozzleTemperatureC", 230), ("hoursOpen", 90))
            .With([KeyValuePair.Create(FactorRegistry.Person, FactorValue.Of(Guid.NewGuid(), "Isla", FactorSource.Record))]);
        Assert.Empty(FoundWith.Differences(Rule, Known(), then));
    }

    [Theory]
    [InlineData(1.0, null, "dry")] // an hour open is dry in any room
    [InlineData(60.0, null, null)] // 60 h hang on the humidity
    [InlineData(60.0, 20.0, "dry")]
    [InlineData(60.0, 80.0, "damp")]
    [InlineData(5000.0, null, "damp")]
    [InlineData(null, null, null)]
    public void Dryness_is_recorded_only_where_it_does_not_hang_on_a_humidity_that_nobody_measured(double? open, double? humidity, string? state) =>
        Assert.Equal(state, DrynessAdvice.Recorded(new() { Family = Family.Find("PETG"), OpenHours = open, HumidityPercent = humidity }));

    [Fact]
    public void A_spool_that_loses_water_while_it_dries_is_damp_in_any_room() =>
        Assert.Equal(
            "damp", DrynessAdvice.Recorded(new() { Family = Family.Find("PETG"), OpenHours = 0, LastDrying = (0, 4), Weighings = [new(1, 900), new(4, 898)] }));

    [Theory]
    [InlineData(1.0)]
    [InlineData(60.0)]
    [InlineData(90.0)]
    public void Advice_that_reckons_with_a_humidity_which_nobody_logged_says_so(double open)
    {
        var f = new DrynessFacts { Family = Family.Find("PETG"), OpenHours = open };
        Assert.Equal((50.0, false), (DrynessAdvice.Of(f).HumidityPercent, DrynessAdvice.Of(f).HumidityLogged));
        Assert.True(DrynessAdvice.Of(f with { HumidityPercent = 50 }).HumidityLogged);
    }
}
