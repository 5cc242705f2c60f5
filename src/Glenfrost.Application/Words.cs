using System.Globalization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Application;

/// <summary>Numbers and times as pages say them.</summary>
public static class Words
{
    /// <summary>A number with a point and at most so many decimals; a dash where there is none.</summary>
    public static string N(double? v, int digits = 2) =>
        v is { } x ? Core.Settings.Say.N(x, digits) : "–";

    /// <summary>A number with a point and at most so many decimals; a dash where there is none.</summary>
    public static string N(decimal? v, int digits = 2) => N((double?)v, digits);

    /// <summary>Micrograms as grams; a dash where there is none.</summary>
    public static string G(long? microgram, int digits = 0) => microgram is { } m ? N(m / 1e6, digits) + " g" : "–";

    /// <summary>Minutes as hours and minutes; a dash for none.</summary>
    public static string Minutes(int? minutes) => minutes switch
    {
        null or 0 => "–",
        < 60 => $"{minutes} min",
        _ => minutes % 60 == 0 ? $"{minutes / 60} h" : $"{minutes / 60} h {minutes % 60:00}",
    };

    /// <summary>Hours, minutes and seconds since the start of a print.</summary>
    public static string Clock(double seconds) => TimeSpan.FromSeconds(Math.Round(seconds)).ToString(@"h\:mm\:ss", CultureInfo.InvariantCulture);

    /// <summary>Minutes, grams and money of a piece; rough ones say so.</summary>
    public static string Cost(Core.Trials.TrialEstimate e, string? currency) =>
        $"{(e.FromFile ? "" : "roughly ")}{Minutes(e.Minutes)}, {N(e.MassG, e.FromFile || e.MassG < 10 ? 1 : 0)} " +
            $"g{(e.CostMinor is { } c ? $", {Money(c, currency)}" : "")}";

    /// <summary>Minor units as an amount with its currency.</summary>
    public static string Money(double minor, string? currency) => $"{(minor / 100).ToString("0.00", CultureInfo.InvariantCulture)} {currency}".TrimEnd();

    /// <summary>Bytes as kB or MB.</summary>
    public static string Size(long bytes) => bytes < 100_000 ? $"{Math.Max(1, bytes / 1000)} kB" : $"{N(bytes / 1e6, 1)} MB";

    /// <summary>The place's zone: that of the machine at the bench.</summary>
    public static TimeZoneInfo Zone { get; } = TimeZoneInfo.Local;

    /// <summary>A moment as clocks at the bench show it. A day that somebody typed has no time, and stays that day in every zone.</summary>
    /// <param name="at">UTC.</param>
    /// <param name="zone">Null for the place's own.</param>
    public static DateTime Local(DateTime at, TimeZoneInfo? zone = null) =>
        at.TimeOfDay == TimeSpan.Zero ? at : TimeZoneInfo.ConvertTimeFromUtc(DateTime.SpecifyKind(at, DateTimeKind.Utc), zone ?? Zone);

    /// <summary>The moment at which a day of the place begins, UTC.</summary>
    /// <param name="day">A day, without a time.</param>
    /// <param name="zone">Null for the place's own.</param>
    public static DateTime DayBegins(DateTime day, TimeZoneInfo? zone = null)
    {
        var midnight = DateTime.SpecifyKind(day.Date, DateTimeKind.Unspecified);
        // A zone whose clocks are put forward at midnight has none that day.
        return TimeZoneInfo.ConvertTimeToUtc((zone ?? Zone).IsInvalidTime(midnight) ? midnight.AddHours(1) : midnight, zone ?? Zone);
    }

    /// <summary>The zone's sign behind a time: none where clocks at the bench show it, UTC where the machine knows of no place.</summary>
    public static string ZoneSign => Zone.BaseUtcOffset == TimeSpan.Zero && !Zone.SupportsDaylightSavingTime ? " UTC" : "";

    /// <summary>Hours and minutes with the zone's sign.</summary>
    public static string TimeIn(DateTime at) => Time(at) + ZoneSign;

    /// <summary>Day with its year.</summary>
    public static string Day(DateTime at) => Local(at).ToString("d MMM yyyy", CultureInfo.InvariantCulture);

    /// <summary>Day without its year.</summary>
    public static string ShortDay(DateTime at) => Local(at).ToString("d MMM", CultureInfo.InvariantCulture);

    /// <summary>A setting's value as pages show it, with what is not known where it is used.</summary>
    public static string Value(Core.Profiles.ProfileSetting s) =>
        Core.Profiles.ConditionedValues.Elsewhere(s, v => SettingRegistry.Text(s.Key, v, null, s.Uncertainty)) ?? s.ValueText;

    /// <summary>Weekday, day and month.</summary>
    public static string LongDay(DateTime at) => Local(at).ToString("dddd d MMMM", CultureInfo.InvariantCulture);

    /// <summary>Hours and minutes.</summary>
    public static string Time(DateTime at) => Local(at).ToString("HH:mm", CultureInfo.InvariantCulture);

    /// <summary>How long ago, in days.</summary>
    public static string Ago(DateTime at, DateTime now) => (Local(now).Date - Local(at).Date).Days switch
    {
        <= 0 => "today",
        1 => "yesterday",
        < 60 and var d => $"{d} days ago",
        var d => $"{d / 30} months ago",
    };

    /// <summary>A setting's value with its own digits.</summary>
    public static string Setting(string key, double value)
    {
        var d = SettingRegistry.Find(key);
        return d is null ? N(value) : d.Text(value);
    }

    /// <summary>A setting's value with its unit.</summary>
    public static string Value(string key, double value) => $"{Setting(key, value)} {Unit(key)}".TrimEnd();

    /// <summary>A setting with its value, within a sentence.</summary>
    public static string Named(Core.Profiles.ProfileSetting s) =>
        $"{Core.Settings.SettingRegistry.Get(s.Key).Label.InSentence()} {Value(s.Key, s.Value)}";

    /// <summary>What is said of a first layer that is colder than the print; null where it is not.</summary>
    /// <param name="nozzleC">Nozzle of the print, °C.</param>
    /// <param name="firstLayerC">Nozzle of the first layer, °C.</param>
    public static string? ColderFirstLayer(double? nozzleC, double? firstLayerC) =>
        Core.Profiles.BesideNozzle.FirstLayerIsColder(nozzleC, firstLayerC)
            ? $"The first layer is laid at {N(firstLayerC)} °C, colder than the print at {N(nozzleC)} °C: it grips worse so. Where that is not meant, put " +
                $"{N(nozzleC)} °C or a little more in the profile for it."
            : null;

    /// <summary>A name within a sentence.</summary>
    public static string Lower(string name) => name.Length == 0 ? name : char.ToLowerInvariant(name[0]) + name[1..];

    /// <summary>A humidity within a sentence; where nobody logged one, the usual one that is reckoned with, said to be that.</summary>
    public static string Humidity(double? percent) =>
        percent is { } rh ? $"{N(rh, 0)} %RH" : $"the usual {N(Core.Filaments.DrynessFacts.UsualHumidityPercent, 0)} %RH (nobody logged it)";

    /// <summary>Unit of a setting; empty for none.</summary>
    public static string Unit(string key) => SettingRegistry.Find(key)?.Quantity.Unit ?? "";

    /// <summary>How a time stands to another, before "files foresee": 1.2 times what.</summary>
    public static string Times(double ratio) => N(ratio, 3) is "1" ? "1.0 times what" : $"{N(ratio, 3)} times what";

    /// <summary>One thing, or several.</summary>
    public static string Plural(int n, string one, string? many = null) => n == 1 ? $"1 {one}" : $"{n} {many ?? one + "s"}";
}
