using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;

namespace Glenfrost.Web.Api;

/// <summary>Reads a machine from a request; every number is checked as on the printer's page.</summary>
public static class MachineEndpoints
{
    /// <summary>A machine as a request describes it. Lengths in mm, temperatures in °C.</summary>
    public sealed record Body(
        string? Name, string? Dialect, double BedXMm, double BedYMm, double HeightMm, bool OriginInMiddle, double? BedMaxC, double? ChamberMaxC,
        double? MaxSpeedMmPerS, double? MaxAccelerationMmPerS2, double? NozzleDiameterMm, bool LongTube, int? Tool, int? Tools, bool AbsoluteE,
        string? StartCode, string? EndCode, double? ClearanceMm, double? GantryHeightMm, double? NozzleMinC, double NozzleMaxC);

    /// <summary>Reads it; null where it is missing. What is wrong is refused at its field.</summary>
    public static Machine? Read(JsonFields? json, decimal? nozzleMm)
    {
        if (json is null)
            return null;
        double Number(string name, Quantity quantity, double? otherwise)
        {
            var v = json.Number(name, otherwise is null);
            if (v is { } x && quantity.Check(x).Error is { } message)
                json.Refuse($"machine.{name}", message);
            return (double?)v ?? otherwise ?? 0;
        }

        var max = Number("nozzleMaxC", RecordFields.HeaterMaxC, null);
        var min = Number("nozzleMinC", RecordFields.ColdExtrusionC, HotendLimits.ColdExtrusionC);
        var tools = Number("tools", new Quantity("Toolheads", "", 1, 16, "printers have one to a few", true), 1);
        var tool = Number("tool", new Quantity("Toolhead", "", 0, 15, "toolheads count from 0", true), 0);
        if (tool >= tools)
            json.Refuse("machine.tool", $"Toolhead {tool} is not there: toolheads count from 0 to {tools - 1}.");
        return new Machine
        {
            Name = json.Text("name", 60) ?? "printer",
            Dialect = json.Word("dialect", [.. Dialect.All.Select(d => d.Key)]) ?? Dialect.All[0].Key,
            BedXMm = Number("bedXMm", RecordFields.BedLengthMm, null),
            BedYMm = Number("bedYMm", RecordFields.BedLengthMm, null),
            HeightMm = Number("heightMm", RecordFields.HeightMm, null),
            OriginInMiddle = json.Flag("originInMiddle"),
            BedMaxC = Number("bedMaxC", RecordFields.BedC, 100),
            ChamberMaxC = Number("chamberMaxC", RecordFields.ChamberC, 0),
            MaxSpeedMmPerS = Number("maxSpeedMmPerS", RecordFields.SpeedMmPerS, 150),
            MaxAccelerationMmPerS2 = Number("maxAccelerationMmPerS2", RecordFields.AccelerationMmPerS2, 1500),
            NozzleDiameterMm = Number("nozzleDiameterMm", RecordFields.NozzleDiameterMm, (double)(nozzleMm ?? 0.4m)),
            LongTube = json.Flag("longTube"),
            Tool = (int)tool,
            Tools = (int)tools,
            RelativeE = !json.Flag("absoluteE"),
            StartCode = json.Text("startCode", 4000),
            EndCode = json.Text("endCode", 4000),
            ClearanceMm = Number("clearanceMm", RecordFields.ClearanceMm, 40),
            GantryHeightMm = Number("gantryHeightMm", RecordFields.GantryHeightMm, 25),
            Limits = new HotendLimits(min, max, null, $"as sent, {max:0.##} °C"),
        };
    }
}
