using Glenfrost.Application.Gcode;
using Glenfrost.Core.Gcode.Fixes;
using Glenfrost.Core.Gcode.Inspection;

namespace Glenfrost.Web.Drawing;

/// <summary>What a cool-down sets the bed to, over time.</summary>
/// <param name="FromC">Bed while it printed, °C.</param>
/// <param name="Steps">Minutes from the last line, and what the bed is set to from then on, °C.</param>
/// <param name="Minutes">When the bed is switched off.</param>
/// <param name="Cooling">Room, chamber and release.</param>
/// <param name="InFile">True where it stands in the file; false where it is what the form would write.</param>
public sealed record CoolDownCurve(double FromC, IReadOnlyList<(double Minute, double C)> Steps, double Minutes, CoolingOfFile Cooling, bool InFile)
{
    /// <summary>Of a ramp that would be written.</summary>
    public static CoolDownCurve Of(CoolDown ramp, CoolingOfFile cooling) =>
        new(ramp.FromC, [.. ramp.Steps.Select((c, i) => (i * ramp.HoldMinutes, c))], ramp.AtLeastMinutes, cooling, false);

    /// <summary>Of a file's end code; null where it has none, or waits for the bed itself, for nobody knows how long.</summary>
    public static CoolDownCurve? Of(FileFacts f, CoolingOfFile cooling)
    {
        var beds = f.Settings.Where(s => s.Line > f.LastExtrudeLine && s.Kind is SettingKind.Bed or SettingKind.BedAndWait).ToList();
        var waits = f.Dwells.Where(d => d.Line > f.LastExtrudeLine).ToList();
        if (!(f.BedC > 0) || waits.Count == 0 || !beds.Any(b => b.Value > 0) || beds.Any(b => b is { Kind: SettingKind.BedAndWait, Value: > 0 }))
            return null;
        double At(int line) => waits.Where(w => w.Line < line).Sum(w => w.Seconds) / 60;
        return new(
            f.BedC, [.. beds.Where(b => b.Value > 0).Select(b => (At(b.Line), b.Value))], waits.Sum(w => w.Seconds) / 60, cooling, true);
    }
}
