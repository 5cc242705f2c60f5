using CsCheck;
using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;

namespace Glenfrost.Core.Tests;

public class ProfileTests
{
    private static readonly HotendLimits Lined = HotendLimits.Of(HotendLiner.PtfeLined, 260, null, null, null, 3, null);

    private static ProfileSetting Kept(string key, double value, SettingState state = SettingState.Provisional, Guid? run = null) =>
        new(key, value, 4, SettingOrigin.Run, "tower 1", state, null, run ?? Guid.NewGuid());

    [Fact]
    public void A_lined_hotend_is_limited_by_its_liner_less_the_overshoot()
    {
        Assert.Equal(237, Lined.MaxC);
        Assert.Equal(230, Lined.ContinuousMaxC);
        Assert.Equal(170, Lined.MinC);
        Assert.Equal("PTFE liner, 240 °C less 3 °C of heater overshoot", Lined.MaxBecause);
    }

    [Fact]
    public void The_lowest_part_sets_the_limit_and_a_better_liner_reopens_it()
    {
        Assert.Equal(215, HotendLimits.Of(HotendLiner.AllMetal, 300, 220, null, null, 5, null).MaxC);
        Assert.Equal(255, HotendLimits.Of(HotendLiner.PtfeLined, 300, null, 250, 260, 5, null).MaxC);
        Assert.Null(HotendLimits.Of(HotendLiner.AllMetal, 300, null, null, null, 0, null).ContinuousMaxC);
        Assert.Equal(180, HotendLimits.Of(HotendLiner.AllMetal, 300, null, null, null, 0, 180).MinC);
    }

    [Fact]
    public void Sources_that_contradict_are_united()
    {
        Assert.Equal(new Span(190, 230), Span.Union([new(195, 225), new(190, 200), new(null, 230)]));
        Assert.Null(Span.Union([new(null, null)]));
        Assert.True(new Span(190, 200).Contradicts(new Span(210, 230)));
    }

    [Fact]
    public void The_start_is_marked_and_within_the_limits()
    {
        var settings = StartingProfile.Of(new(Family.Find("ASA"), null, null, 1.75, false, Lined, 90, 0.4, true)).ToDictionary(s => s.Key);
        // Within what the liner bears for long, the first layer too: a starting value is nobody's decision to go above it.
        Assert.Equal(230, settings["nozzleTemperatureC"].Value);
        Assert.Equal(230, settings["firstLayerNozzleTemperatureC"].Value);
        Assert.Contains("the liner bears for long", settings["nozzleTemperatureC"].OriginText);
        Assert.Equal(90, settings["bedTemperatureC"].Value);
        Assert.All(settings.Values, s => Assert.Equal(SettingState.Start, s.State));
        Assert.Equal(
            SettingOrigin.Label, StartingProfile.Of(new(Family.Find("PLA"), new(200, 220), null, 1.75, false, Lined, 90, 0.4, false))
                .First(s => s.Key == "nozzleTemperatureC")
                .Origin);
    }

    public static TheoryData<string> Kinds => [.. TrialCatalogue.All.Select(t => t.Kind)];

    [Theory]
    [MemberData(nameof(Kinds))]
    public void No_trial_proposes_more_than_a_liner_bears_for_long(string kind)
    {
        foreach (var family in Family.All)
        {
            var context = new PlanContext { Machine = new() { Limits = Lined, BedMaxC = 110 }, AdvisedC = family.NozzleC, Family = family };
            var hot = TrialCatalogue.Get(kind).Propose(context)
                .Where(v => v.Key.EndsWith("C", StringComparison.Ordinal) && !v.Key.Contains("bed", StringComparison.OrdinalIgnoreCase));
            Assert.All(hot, v => Assert.True(v.Value is not decimal c || (double)c <= Lined.ContinuousMaxC, $"{family.Name}, {v.Key}: {v.Value}"));
        }
    }

    [Theory]
    // Kept, first layer as it stands (state), bed as printed; what is proposed with it.
    [InlineData(212, 215, SettingState.Start, 60.0, "firstLayerNozzleTemperatureC=217 bedTemperatureC=60 firstLayerBedTemperatureC=60")]
    [InlineData(212, 217, SettingState.Start, 60.0, "bedTemperatureC=60 firstLayerBedTemperatureC=60")]
    [InlineData(212, 205, SettingState.Confirmed, null, "firstLayerNozzleTemperatureC=217")]
    [InlineData(212, 213, SettingState.Confirmed, null, "")]
    [InlineData(212, 205, SettingState.Doubtful, 0.0, "firstLayerNozzleTemperatureC=217")]
    // A liner bears 230 °C for long and 237 at most: not warmer by itself, never colder than the print.
    [InlineData(228, 215, SettingState.Start, 130.0, "firstLayerNozzleTemperatureC=230")]
    [InlineData(235, 215, SettingState.Start, null, "firstLayerNozzleTemperatureC=235")]
    public void With_a_nozzle_temperature_come_its_first_layer_and_its_bed(double kept, double first, SettingState state, double? bed, string proposed)
    {
        var profile = new[] { Kept("firstLayerNozzleTemperatureC", first, state), Kept("bedTemperatureC", 55, SettingState.Inherited) };
        Assert.Equal(proposed, string.Join(" ", BesideNozzle.Of(kept, profile, bed, null, Lined, 110).Select(c => $"{c.Key}={c.Value}")));
        // What foams would swell in a warmer first layer.
        Assert.DoesNotContain(BesideNozzle.Of(kept, [], bed, null, Lined, 110, 0), c => c.Key == BesideNozzle.FirstLayer && c.Value != kept);
        // A bed that was tried stays.
        Assert.DoesNotContain(
            BesideNozzle.Of(kept, [.. profile.Take(1), Kept("bedTemperatureC", 55)], 60, 60, Lined, 110), c => c.Key == "bedTemperatureC");
    }

    [Fact]
    public void Inherited_values_are_never_confirmed_and_never_above_the_limit()
    {
        var inherited = ProfileRules.Inherit(
            [Kept("nozzleTemperatureC", 250, SettingState.Confirmed), Kept("fanPercent", 40), Kept("retractionLengthMm", 4)], "A on B", 237, new(false, false));
        Assert.Equal(["nozzleTemperatureC", "fanPercent"], inherited.Select(s => s.Key));
        Assert.Equal(237, inherited[0].Value);
        Assert.All(inherited, s => Assert.Equal((SettingState.Inherited, null), (s.State, s.Uncertainty)));
        Assert.All(inherited, s => Assert.Null(s.RunId));
    }

    [Theory]
    [InlineData(214.0, 218.0, 0)]
    [InlineData(214.0, 219.0, 9)]
    [InlineData(219.0, 214.0, 9)]
    public void A_move_of_more_than_four_degrees_makes_flow_and_strings_doubtful(double from, double to, int keys) =>
        Assert.Equal(keys, AgeingRules.AfterTemperature(from, to).Count);

    [Fact]
    public void Every_part_that_can_be_fitted_has_its_rule()
    {
        Assert.All(PartSlot.All, s => Assert.NotEmpty(AgeingRules.AfterFitting(s.Key)));
        Assert.DoesNotContain("fanPercent", AgeingRules.AfterFitting("nozzle"));
        Assert.True(AgeingRules.MakesFeedDoubtful("extruder"));
    }

    [Fact]
    public void The_most_alike_pairing_comes_first_with_its_reasons()
    {
        var product = Guid.NewGuid();
        PairingTraits T(Guid filament, string family, bool tube, double nozzle, bool kept = true) =>
            new(Guid.NewGuid(), "x", filament, family, null, tube, nozzle, "standard", tube, "none", kept);
        var wanted = T(product, "PLA", true, 0.4);
        var ranked = Likeness.Rank(
            wanted,
            [T(Guid.NewGuid(), "PLA", true, 0.4), T(product, "PLA", false, 0.4), T(Guid.NewGuid(), "PETG", true, 0.4), T(product, "PLA", true, 0.4, false)]);
        Assert.Equal(2, ranked.Count);
        Assert.Contains("same family", ranked[0].Why);
        Assert.Contains("same product", ranked[1].Why);
    }

    [Fact]
    public void Seven_stones_from_the_ground_up()
    {
        var stones = ProfileProgress.Of(
            [Kept("nozzleTemperatureC", 214, SettingState.Confirmed), Kept("extrusionMultiplier", 1, SettingState.Start)], StoneState.Doubtful, "gear changed");
        Assert.Equal(["machine", "first layer", "temperature", "flow", "strings", "pressure", "flow limit"], stones.Select(s => s.Name));
        Assert.Equal(StoneState.Confirmed, stones[2].State);
        Assert.Equal(StoneState.Open, stones[3].State);
        Assert.Equal("gear changed", stones[0].Why);
    }

    [Fact]
    public void Damp_comes_sooner_in_a_damp_room()
    {
        var tpu = Family.Find("TPU")!;
        Assert.Equal(14, tpu.OpenHoursLeft(10, 50), 6);
        Assert.Equal(2, tpu.OpenHoursLeft(10, 100), 6);
        Assert.True(tpu.OpenHoursLeft(30, 50) < 0);
    }

    [Fact]
    public void Diameter_readings_give_mean_spread_and_ovality()
    {
        var s = DiameterSummary.Of([new(1, 1, 1.74), new(1, 2, 1.78), new(2, 1, 1.75), new(3, 1, 1.73)])!;
        Assert.Equal(1.75, s.MeanMm, 9);
        Assert.Equal(0.05, s.SpreadMm, 9);
        Assert.Equal(0.04, s.OvalityMm!.Value, 9);
        Assert.Null(DiameterSummary.Of([]));
    }

    [Fact]
    public void Diameters_in_another_order_have_the_same_mean_to_the_last_digit()
    {
        // 1.74 + 1.75 + 1.735 in one order is 5.225000000000001, in another 5.225: rows of one moment come in any order.
        DiameterReading[] readings = [new(1, 1, 1.74), new(2, 1, 1.735), new(3, 1, 1.75), new(1, 2, 1.741), new(2, 2, 1.738), new(3, 2, 1.746)];
        var means = Enumerable.Range(0, 200).Select(i => DiameterSummary.Of([.. readings.OrderBy(r => HashCode.Combine(r, i))])!.MeanMm).Distinct();
        Assert.Single(means);
    }

    [Fact]
    public void Every_kind_in_the_catalogue_settles_a_known_setting() =>
        Assert.All(TrialCatalogue.All.SelectMany(k => k.Settles), k => Assert.NotNull(Glenfrost.Core.Settings.SettingRegistry.Find(k)));

    [Theory]
    [InlineData(SettingState.Start, "family, cautious", true)]
    [InlineData(SettingState.Provisional, "old notes, 2 Apr 2025", true)]
    [InlineData(SettingState.Provisional, "temperature tower 1, 3 May", false)]
    [InlineData(SettingState.Confirmed, "typed: practice", false)]
    [InlineData(SettingState.Doubtful, "temperature tower 1, 3 May", false)]
    public void An_old_note_goes_in_only_where_nothing_better_stands(SettingState state, string from, bool taken)
    {
        List<ProfileSetting> settings = [new("nozzleTemperatureC", 210, null, SettingOrigin.Run, from, state)];
        Assert.Equal(taken, ProfileRules.TakeOldNote(settings, "nozzleTemperatureC", 205, "3 Apr 2025"));
        Assert.Equal(
            taken ? (205, SettingState.Provisional, "old notes, 3 Apr 2025") : (210, state, from),
            (settings.Single().Value, settings.Single().State, settings.Single().OriginText));
        Assert.True(ProfileRules.TakeOldNote(settings, "bedTemperatureC", 55, null));
        Assert.Equal("old notes", settings.Last().OriginText);
    }

    [Theory]
    [InlineData("pressureAdvance", 0.0375, 0.0013, "0.0375", "0.0013")]
    [InlineData("pressureAdvance", 0.6, 0.025, "0.600", "0.025")]
    [InlineData("retractionLengthMm", 4, 1.75, "4.0", "1.8")]
    [InlineData("retractionLengthMm", 0.8, 0.4, "0.80", "0.40")]
    [InlineData("nozzleTemperatureC", 212, 4.0, "212", "4")]
    [InlineData("nozzleTemperatureC", 212, 20.0, "212", "20")]
    [InlineData("extrusionMultiplier", 1.0034, 0.012, "1.003", "0.012")]
    [InlineData("extrusionMultiplier", 1.0034, 0.087, "1.003", "0.087")]
    [InlineData("extrusionMultiplier", 1.0034, null, "1.003", "")]
    [InlineData("maxVolumetricFlowMm3PerS", 11.27, 0.35, "11.2", "0.4")]
    public void A_value_has_the_digits_that_its_uncertainty_supports(string key, double value, double? half, string text, string halfText)
    {
        var d = SettingRegistry.Get(key);
        Assert.Equal(text, d.Text(value, half));
        Assert.Equal(halfText, d.HalfText(half));
        Assert.Equal(double.Parse(text, System.Globalization.CultureInfo.InvariantCulture), d.Round(value, half), 9);
    }

    [Fact]
    public void No_uncertainty_of_any_setting_is_shown_as_nothing_or_wrong_by_more_than_a_tenth() =>
        Gen.Select(Gen.Int[0, SettingRegistry.All.Count - 1], Gen.Double[-4, 1.5]).Sample((i, power) =>
        {
            var (d, half) = (SettingRegistry.All[i], Math.Pow(10, power));
            if (d.Rounding == Rounding.Down)
                return;
            var shown = double.Parse(d.HalfText(half), System.Globalization.CultureInfo.InvariantCulture);
            Assert.True(Math.Abs(shown / half - 1) <= 0.101, $"{d.Key}: {half} shown as {d.HalfText(half)}");
            // What is kept differs from what was found by less than half of what it is known to.
            Assert.True(Math.Abs(d.Round(1.23456789, half) - 1.23456789) <= Math.Max(0.5 * half, 0.5 * Math.Pow(10, -d.Digits)) + 1e-12);
        }, iter: 500);
}
