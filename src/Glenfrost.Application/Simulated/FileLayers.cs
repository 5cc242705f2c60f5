using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Watching;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application.Simulated;

/// <summary>The layers of a file with the times that its own moves need on a machine.</summary>
public static class FileLayers
{
    /// <summary>Reads a file through.</summary>
    public static IReadOnlyList<TimedLayer> Read(Stream file, Toolhead head, Filament? filament)
    {
        var printer = head.Printer!;
        var facts = Inspector.Inspect(
            file, new InspectionRequest
            {
                Motion = MotionLimits.Of(printer.MaxSpeedMmPerS, printer.MaxAccelerationMmPerS2), FilamentDiameterMm = filament?.DiameterMm ?? 1.75,
            });
        var (list, at) = (new List<TimedLayer>(facts.Layers.Count), 0.0);
        // The first line that is laid, priming too, is where a tester presses "it begins".
        foreach (var l in facts.Layers)
        {
            if (!l.Priming)
                list.Add(new(list.Count + 1, l.Z, l.Thickness, at, l.Seconds, l.ExtrudeSeconds > 0 ? l.Volume / l.ExtrudeSeconds : 0));
            at += l.Seconds;
        }

        return list;
    }
}
