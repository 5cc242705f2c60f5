using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;

namespace Glenfrost.Core.Profiles;

/// <summary>What a starting profile is made from.</summary>
public sealed record StartingPoint(
    Family? Family, Span? LabelNozzleC, Span? LabelBedC, double? FilamentDiameterMm, bool DiameterMeasured,
    HotendLimits Limits, double BedMaxC, double NozzleDiameterMm, bool LongTube)
{
    /// <summary>Drying temperature that the maker gives, °C; null where nobody said.</summary>
    public double? LabelDryingC { get; init; }

    /// <summary>Drying time that the maker gives, h; null where nobody said.</summary>
    public double? LabelDryingHours { get; init; }
}

/// <summary>The first profile of a pairing: cautious values, each marked with its source, none called confirmed.</summary>
public static class StartingProfile
{
    /// <summary>Builds the settings. Values are within the machine's limits.</summary>
    public static IReadOnlyList<ProfileSetting> Of(StartingPoint p)
    {
        var settings = new List<ProfileSetting>();
        void Add(string key, double? value, SettingOrigin origin, string text, string? why = null)
        {
            if (value is { } v)
                settings.Add(new(key, Settings.SettingRegistry.Get(key).Round(v), null, origin, why is null ? text : $"{text}, {why}", SettingState.Start));
        }

        var familyText = $"family {p.Family?.Name}, cautious";
        void Drying(string key, double? label, double? family) =>
            Add(key, label ?? family, label is null ? SettingOrigin.Family : SettingOrigin.Label, label is null ? familyText : "label");
        var (nozzle, nozzleOrigin, nozzleText) = p.LabelNozzleC?.Middle is { } label
            ? (label, SettingOrigin.Label, "middle of the label's range")
            : (p.Family?.NozzleC.Middle ?? double.NaN, SettingOrigin.Family, familyText);
        if (!double.IsNaN(nozzle))
        {
            var clipped = Math.Clamp(nozzle, p.Limits.MinC, p.Limits.ProposedMaxC);
            var why = clipped >= nozzle ? null
                : p.Limits.ProposedMaxC < p.Limits.MaxC ? $"brought down to {p.Limits.ProposedMaxC:0} °C, what the liner bears for long"
                : $"brought down to the limit: {p.Limits.MaxBecause}";
            Add("nozzleTemperatureC", clipped, nozzleOrigin, nozzleText, why);
            Add(
                BesideNozzle.FirstLayer, Math.Min(clipped + BesideNozzle.FirstLayerUpC, p.Limits.ProposedMaxC), nozzleOrigin,
                nozzleText + (clipped + BesideNozzle.FirstLayerUpC <= p.Limits.ProposedMaxC ? ", 5 °C up" : ", as far up as the hotend bears for long"));
        }

        var (bed, bedOrigin, bedText) = p.LabelBedC?.Middle is { } labelBed
            ? (labelBed, SettingOrigin.Label, "middle of the label's range")
            : (p.Family?.BedC.Middle ?? double.NaN, SettingOrigin.Family, familyText);
        if (!double.IsNaN(bed))
        {
            Add("bedTemperatureC", Math.Min(bed, p.BedMaxC), bedOrigin, bedText, bed > p.BedMaxC ? "brought down to the bed's limit" : null);
            Add("firstLayerBedTemperatureC", Math.Min(bed, p.BedMaxC), bedOrigin, bedText);
        }

        Add("fanPercent", p.Family?.FanPercent.Middle, SettingOrigin.Family, familyText);
        Drying("dryingTemperatureC", p.LabelDryingC, p.Family?.DryingC);
        Drying("dryingHours", p.LabelDryingHours, p.Family?.DryingHours);
        Add(
            "filamentDiameterMm", p.FilamentDiameterMm, p.DiameterMeasured ? SettingOrigin.Typed : SettingOrigin.Label,
            p.DiameterMeasured ? "measured on a spool" : "label");
        Add("layerHeightMm", p.NozzleDiameterMm / 2, SettingOrigin.Machine, "half the nozzle");
        Add("lineWidthMm", p.NozzleDiameterMm * 1.1, SettingOrigin.Machine, "nozzle and a tenth");
        Add("extrusionMultiplier", 1, SettingOrigin.Family, "starting value");
        Add("retractionLengthMm", p.LongTube ? 4 : 0.8, SettingOrigin.Machine, p.LongTube ? "long tube, starting value" : "direct drive, starting value");
        return settings;
    }
}
