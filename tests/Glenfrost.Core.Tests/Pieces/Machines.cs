using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Core.Tests.Pieces;

/// <summary>Printers, settings and towers for tests.</summary>
public static class Machines
{
    public static Machine Dunnock { get; } = new()
    {
        Name = "Dunnock 180",
        BedXMm = 180,
        BedYMm = 180,
        HeightMm = 180,
        BedMaxC = 90,
        MaxSpeedMmPerS = 120,
        MaxAccelerationMmPerS2 = 1200,
        LongTube = true,
        Limits = HotendLimits.Of(HotendLiner.PtfeLined, 260, null, null, null, 3, null),
    };

    public static Machine Ptarmigan { get; } = new()
    {
        Name = "Ptarmigan 350 right",
        Dialect = "m572",
        BedXMm = 350,
        BedYMm = 350,
        HeightMm = 400,
        BedMaxC = 110,
        MaxSpeedMmPerS = 200,
        MaxAccelerationMmPerS2 = 3000,
        NozzleDiameterMm = 0.6,
        Tool = 1,
        Tools = 2,
        RelativeE = false,
        Limits = HotendLimits.Of(HotendLiner.AllMetal, 285, null, null, null, 3, null),
        StartCode = "G28\nM190 S{firstLayerBedTemperatureC} ; {{bed}}\nM109 T{tool} S{nozzleTemperatureC}",
    };

    public static Machine Whimbrel { get; } = new()
    {
        Name = "Whimbrel 300",
        Dialect = "macro",
        BedXMm = 300,
        BedYMm = 300,
        HeightMm = 320,
        OriginInMiddle = true,
        BedMaxC = 120,
        MaxSpeedMmPerS = 350,
        MaxAccelerationMmPerS2 = 8000,
        ChamberMaxC = 45,
        Limits = HotendLimits.Of(HotendLiner.AllMetal, 300, null, null, null, 4, null),
    };

    public static PrintSettings Settings(Machine m, string family = "PLA") => PrintSettings.From(new Dictionary<string, double>(), m, Family.Find(family));

    public static TowerRequest Tower(Machine m, decimal hot = 220, decimal cool = 210, decimal step = 5, decimal layer = 0.2m, decimal section = 6) => new()
    {
        HottestC = hot,
        CoolestC = cool,
        StepC = step,
        LayerHeightMm = layer,
        FirstLayerHeightMm = layer,
        SectionHeightMm = section,
        BaseHeightMm = layer * 4,
        NozzleDiameterMm = (decimal)m.NozzleDiameterMm,
        BedHeightMm = (decimal)m.HeightMm,
    };

    public static (TowerPlan Plan, PieceJob Job) Job(TowerRequest request, Machine m, PrintSettings? s = null)
    {
        var result = TowerPlanning.Plan(request);
        Assert.True(result.Plan is not null, string.Join("; ", result.Errors.Select(e => $"{e.Field}: {e.Message}")));
        var (job, errors) = TowerPiece.Make(result.Plan, m, s ?? Settings(m), "Brackenfell Heath", TestMemory.Shared);
        Assert.True(job is not null, string.Join("; ", errors.Select(e => $"{e.Field}: {e.Message}")));
        return (TowerPiece.WithFile(result.Plan, job), job);
    }

    public static string Text(PieceJob job)
    {
        var to = new StringWriter();
        GcodeWriter.Write(job, new("0.0.0", new DateTime(2026, 11, 23, 9, 30, 0, DateTimeKind.Utc)), to);
        return to.ToString();
    }
}
