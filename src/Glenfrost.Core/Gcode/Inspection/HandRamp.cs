namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>A ramp of the bed that somebody wrote into the end code: temperatures set, or waited for, and waits between them.</summary>
/// <param name="Beds">Its lines that set the bed, in order; those that switch it off included.</param>
/// <param name="Waits">Its lines that wait.</param>
public sealed record HandRamp(IReadOnlyList<SettingLine> Beds, IReadOnlyList<DwellLine> Waits)
{
    /// <summary>First line, from 1.</summary>
    public int FirstLine => Beds.Select(b => b.Line).Concat(Waits.Select(w => w.Line)).Min();

    /// <summary>Last line, from 1.</summary>
    public int LastLine => Beds.Select(b => b.Line).Concat(Waits.Select(w => w.Line)).Max();

    /// <summary>Temperatures in order, °C, the bed's own not included.</summary>
    public IReadOnlyList<double> StepsC => [.. Beds.Select(b => b.Value).Where(c => c > 0)];

    /// <summary>Minutes of its waits; waiting for a temperature comes on top.</summary>
    public double Minutes => Waits.Sum(w => w.Seconds) / 60;

    /// <summary>True where a step waits for its temperature, for as long as that takes.</summary>
    public bool WaitsForBed => Beds.Any(b => b is { Kind: SettingKind.BedAndWait, Value: > 0 });

    /// <summary>Finds it behind the last line that lays anything.</summary>
    /// <returns>Null where the end code only switches the bed off, with or without a wait, or where the ramp is ours.</returns>
    public static HandRamp? Of(FileFacts f)
    {
        if (f.CoolDownLine > f.LastExtrudeLine)
            return null;
        var beds = f.Settings.Where(s => s.Line > f.LastExtrudeLine && s.Kind is SettingKind.Bed or SettingKind.BedAndWait).ToList();
        if (!beds.Any(b => b.Value > 0))
            return null;
        var (first, last) = (beds[0].Line, beds[^1].Line);
        // A wait before the first step holds the bed where it is; one behind the last belongs to its step unless that switches the bed off.
        return new(
            beds, [.. f.Dwells.Where(d => d.Line > f.LastExtrudeLine && d.Seconds >= 1 && (d.Line < last || (beds[^1].Value > 0 && d.Line > first)))]);
    }
}
