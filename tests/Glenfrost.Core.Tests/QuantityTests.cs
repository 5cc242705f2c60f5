using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Tests;

public class QuantityTests
{
    private static readonly Quantity Height = TowerFieldsLike.Height;
    private static readonly Quantity Nozzle = RecordFields.NozzleC;

    [Theory]
    [InlineData("0.2", 0.2)]
    [InlineData("0,2", 0.2)]
    [InlineData(" 0.2 mm ", 0.2)]
    [InlineData(",2", 0.2)]
    [InlineData("0,20mm", 0.2)]
    public void Comma_point_and_the_own_unit_are_read(string typed, double expected) => Assert.Equal((decimal)expected, Height.Parse(typed).Value);

    [Theory]
    [InlineData("0.2 m", "200 mm")]
    [InlineData("0.02 cm", "0.2 mm")]
    [InlineData("200 µm", "0.2 mm")]
    [InlineData("", "empty")]
    [InlineData("abc", "not a number")]
    [InlineData("-0.2", "not between 0.04 and 1.2 mm")]
    [InlineData("1.234,5", "both a comma and a point")]
    [InlineData("1.2.3", "not a number")]
    [InlineData("0.2 furlong", "not a unit")]
    public void A_refusal_says_what_is_wrong(string typed, string part)
    {
        var parsed = Height.Parse(typed);
        Assert.Null(parsed.Value);
        Assert.Contains(part, parsed.Error);
    }

    [Fact]
    public void A_slipped_digit_gets_a_guess() => Assert.Contains("Did you mean 210?", Nozzle.Parse("2100 °C").Error);

    [Theory]
    [InlineData("1800", "1800 mm/min is 30 mm/s")]
    [InlineData("2400 mm/s", "2400 mm/min is 40 mm/s")]
    [InlineData("1850", "Did you mean 185?")]
    public void A_speed_by_the_minute_is_recognised_before_a_slipped_digit(string typed, string guess) =>
        Assert.Contains(guess, SettingRegistry.Get("retractionSpeedMmPerS").Quantity.Parse(typed).Error);

    [Theory]
    [InlineData("2 h 15", 135)]
    [InlineData("2 h 15 min", 135)]
    [InlineData("2:15", 135)]
    [InlineData("2h05", 125)]
    [InlineData("135", 135)]
    [InlineData("2 h 75", null)]
    public void A_time_is_read_as_it_is_written(string typed, int? minutes)
    {
        Assert.Equal(minutes, (int?)new Quantity("Took", "min", 0, 10_000, "longer than a week").Parse(typed).Value);
        if (minutes is not null && typed.Contains('h', StringComparison.Ordinal))
            Assert.Equal(minutes.Value / 60m, new Quantity("Drying", "h", 0, 96, "longer helps nothing").Parse(typed).Value!.Value, 3);
    }

    [Fact]
    public void Fahrenheit_is_converted_in_the_room_and_refused_at_the_nozzle()
    {
        Assert.Equal(20m, RecordFields.RoomC.Parse("68 °F").Value);
        Assert.Contains("210 °C", Nozzle.Parse("410 F").Error);
    }

    [Fact]
    public void Huge_text_is_refused_with_its_length() => Assert.Contains("50000 characters", Height.Parse(new string('9', 50_000)).Error);

    [Fact]
    public void Whole_numbers_are_asked_for_where_only_they_make_sense() => Assert.Contains("whole number", RecordFields.Layer.Parse("2.5").Error);

    [Fact]
    public void Flow_and_speed_round_down_the_rest_to_the_nearest()
    {
        Assert.Equal(12.3, SettingRegistry.Get("maxVolumetricFlowMm3PerS").Round(12.39), 9);
        Assert.Equal(12.3, SettingRegistry.Get("maxVolumetricFlowMm3PerS").Round(12.3), 9);
        Assert.Equal(4.6, SettingRegistry.Get("retractionLengthMm").Round(4.6), 9);
        Assert.Equal(0.964, SettingRegistry.Get("extrusionMultiplier").Round(0.9638), 9);
    }

    [Fact]
    public void Keys_are_unique_and_every_key_has_help()
    {
        Assert.Equal(SettingRegistry.All.Count, SettingRegistry.All.Select(d => d.Key).Distinct().Count());
        Assert.All(SettingRegistry.All, d => Assert.NotEmpty(d.Help));
    }

    public static TheoryData<Quantity> EveryField
    {
        get
        {
            var data = new TheoryData<Quantity>();
            foreach (var property in typeof(RecordFields).GetProperties())
                data.Add((Quantity)property.GetValue(null)!);
            foreach (var quantity in Glenfrost.Core.Trials.TemperatureTower.TowerFields.All.Values)
                data.Add(quantity);
            return data;
        }
    }

    [Theory]
    [MemberData(nameof(EveryField), DisableDiscoveryEnumeration = true)]
    public void Every_number_field_has_a_range_and_a_reason_and_says_both(Quantity field)
    {
        Assert.True(field.Min < field.Max);
        Assert.Null(field.Check(field.Min).Error);
        Assert.Null(field.Check(field.Max).Error);
        foreach (var outside in new[] { field.Min - 1, field.Max + 1 })
        {
            var message = field.Check(outside).Error;
            Assert.Contains(field.RangeText(), message);
            Assert.Contains(field.Why, message);
        }
    }

    [Theory]
    [InlineData(0.04, 1, "0")]
    [InlineData(-0.04, 1, "0")]
    [InlineData(0.05, 1, "+0.1")]
    [InlineData(-0.05, 1, "−0.1")]
    [InlineData(0.04, 2, "+0.04")]
    [InlineData(-3, 0, "−3")]
    [InlineData(0, 2, "0")]
    public void A_sign_stands_before_what_is_not_nothing_with_its_digits(double v, int digits, string said) => Assert.Equal(said, Say.Signed(v, digits));

    private static class TowerFieldsLike
    {
        public static Quantity Height => Glenfrost.Core.Trials.TemperatureTower.TowerFields.All["layerHeightMm"];
    }
}
