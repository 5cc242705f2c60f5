using System.Globalization;

namespace Glenfrost.Core.Evidence;

/// <summary>The conditions of a run that can differ from another's.</summary>
public sealed record RunConditions
{
    /// <summary>Room temperature, °C.</summary>
    public double? RoomC { get; init; }

    /// <summary>Room humidity, %RH.</summary>
    public double? HumidityPercent { get; init; }

    /// <summary>Chamber temperature, °C.</summary>
    public double? ChamberC { get; init; }

    /// <summary>Spool that was used.</summary>
    public Guid? SpoolId { get; init; }

    /// <summary>Its name at the time.</summary>
    public string? SpoolName { get; init; }

    /// <summary>Its dryness in words.</summary>
    public string? Dryness { get; init; }

    /// <summary>Slicer with version.</summary>
    public string? Slicer { get; init; }

    /// <summary>Firmware with version.</summary>
    public string? Firmware { get; init; }

    /// <summary>Place on the bed and neighbours on the plate.</summary>
    public string? Plate { get; init; }

    /// <summary>Hardware revision: count of parts fitted so far.</summary>
    public int? HardwareRevision { get; init; }
}

/// <summary>Lists what differs between two runs. One difference: the effect is its; more: it cannot be attributed.</summary>
public static class Attribution
{
    /// <summary>Room differences smaller than this are not counted, °C.</summary>
    public const double RoomToleranceC = 2;

    /// <summary>Every factor that differs, in words.</summary>
    public static IReadOnlyList<string> Differences(RunConditions now, RunConditions before)
    {
        var list = new List<string>();
        if (now.SpoolId != before.SpoolId)
            list.Add("spool");
        if (now.RoomC is { } a && before.RoomC is { } b && Math.Abs(a - b) >= RoomToleranceC)
            list.Add($"room {(a - b).ToString("+0.#;−0.#", CultureInfo.InvariantCulture)} °C");
        if (now.HumidityPercent is { } h && before.HumidityPercent is { } g && Math.Abs(h - g) >= 15)
            list.Add($"humidity {(h - g).ToString("+0;−0", CultureInfo.InvariantCulture)} %RH");
        void Text(string name, string? x, string? y)
        {
            if (!string.Equals(x?.Trim() ?? "", y?.Trim() ?? "", StringComparison.OrdinalIgnoreCase))
                list.Add(name);
        }

        Text("dryness", now.Dryness, before.Dryness);
        Text("slicer", now.Slicer, before.Slicer);
        Text("firmware", now.Firmware, before.Firmware);
        Text("place on the plate", now.Plate, before.Plate);
        if (now.HardwareRevision is { } r && before.HardwareRevision is { } q && r != q)
            list.Add("hardware");
        return list;
    }
}
