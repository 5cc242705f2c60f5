using Glenfrost.Storage.Records;

namespace Glenfrost.Application;

/// <summary>What a machine says of itself, as far as a part that is fitted can change it. Null: not of this part, or not known.</summary>
public sealed record MachineFacts
{
    /// <summary>Nozzle, mm.</summary>
    public double? NozzleDiameterMm { get; init; }

    /// <summary>standard or high-flow.</summary>
    public string? NozzleFlow { get; init; }

    /// <summary>What the nozzle is made of.</summary>
    public string? NozzleMaterial { get; init; }

    /// <summary>What the nozzle bears, °C; null where it has no limit of its own.</summary>
    public double? NozzleMaxC { get; init; }

    /// <summary>ptfe or metal.</summary>
    public string? Liner { get; init; }

    /// <summary>What the liner bears for long, °C, where its maker says so.</summary>
    public double? LinerContinuousC { get; init; }

    /// <summary>What the liner bears at most, °C, where its maker says so.</summary>
    public double? LinerHardC { get; init; }

    /// <summary>What the heater reaches, °C.</summary>
    public double? HeaterMaxC { get; init; }

    /// <summary>What stands around the printer.</summary>
    public string? Enclosure { get; init; }

    /// <summary>How warm a heated chamber gets, °C; 0 for none.</summary>
    public double? ChamberMaxC { get; init; }

    /// <summary>The bed's surface.</summary>
    public string? BedSurface { get; init; }

    /// <summary>Firmware with its version.</summary>
    public string? Firmware { get; init; }

    /// <summary>Part fan.</summary>
    public string? PartFan { get; init; }
}

/// <summary>What the machine said before a part was fitted and what it says since, so that it can be taken back.</summary>
public sealed record FittedChange(MachineFacts Before, MachineFacts After);

/// <summary>Fitting a part changes what the printer and its toolhead say of themselves.</summary>
public static class FittedParts
{
    /// <summary>What a machine says now of what a part in that place can change; null where such a part changes nothing of it.</summary>
    /// <param name="slot">Place of the part.</param>
    /// <param name="p">The printer.</param>
    /// <param name="t">The toolhead; null where the part is of the whole printer.</param>
    public static MachineFacts? Of(string slot, Printer p, Toolhead? t) => slot switch
    {
        "nozzle" when t is not null => new()
        {
            NozzleDiameterMm = t.NozzleDiameterMm, NozzleFlow = t.NozzleFlow, NozzleMaterial = t.NozzleMaterial, NozzleMaxC = t.NozzleMaxC,
        },
        "hotend" when t is not null => new()
        {
            Liner = t.Liner, HeaterMaxC = t.HeaterMaxC, LinerContinuousC = t.LinerContinuousC, LinerHardC = t.LinerHardC,
        },
        "heater" when t is not null => new() { HeaterMaxC = t.HeaterMaxC },
        "fan" when t is not null => new() { PartFan = t.PartFan },
        "enclosure" => new() { Enclosure = p.Enclosure, ChamberMaxC = p.ChamberMaxC },
        "bed" => new() { BedSurface = p.BedSurface },
        "firmware" => new() { Firmware = p.Firmware },
        _ => null,
    };

    /// <summary>Puts what a part says in place of what the machine said of that place.</summary>
    public static void Put(string slot, MachineFacts x, Printer p, Toolhead? t)
    {
        switch (slot)
        {
            case "nozzle" when t is not null:
                (t.NozzleDiameterMm, t.NozzleFlow, t.NozzleMaterial, t.NozzleMaxC) = (
                    x.NozzleDiameterMm ?? t.NozzleDiameterMm, x.NozzleFlow ?? t.NozzleFlow, x.NozzleMaterial ?? t.NozzleMaterial, x.NozzleMaxC);
                break;
            case "hotend" when t is not null:
                (t.Liner, t.HeaterMaxC, t.LinerContinuousC, t.LinerHardC) = (
                    x.Liner ?? t.Liner, x.HeaterMaxC ?? t.HeaterMaxC, x.LinerContinuousC, x.LinerHardC);
                break;
            case "heater" when t is not null:
                t.HeaterMaxC = x.HeaterMaxC ?? t.HeaterMaxC;
                break;
            case "fan" when t is not null:
                t.PartFan = x.PartFan;
                break;
            case "enclosure":
                (p.Enclosure, p.ChamberMaxC) = (x.Enclosure ?? p.Enclosure, x.ChamberMaxC ?? 0);
                break;
            case "bed":
                p.BedSurface = x.BedSurface ?? p.BedSurface;
                break;
            case "firmware":
                p.Firmware = x.Firmware;
                break;
        }
    }
}
