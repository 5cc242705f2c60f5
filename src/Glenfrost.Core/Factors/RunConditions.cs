namespace Glenfrost.Core.Factors;

/// <summary>Conditions of a run as earlier versions kept them, typed or proposed; read once, when its factors are filled in.</summary>
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
