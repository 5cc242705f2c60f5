using Glenfrost.Core.Equipment;
using System.Globalization;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Gcode.Writing;

/// <summary>
/// A file of single lines that no region describes: patterns of lines, spirals, samples fed into the air. It starts and ends as every file of Glenfrost does,
/// counts time and
/// plastic while it is written, and is read back against the limits like them. Lengths in mm, speeds in mm/s, coordinates from the bed's front left corner.
/// </summary>
public sealed class PatternFile
{
    private readonly List<string> lines = [];
    private readonly Machine m;
    private readonly PrintSettings s;
    private readonly MotionClock clock;
    private readonly Dialect dialect;
    private double x, y, z, fed, owed;
    private bool retracted;

    private PatternFile(Machine m, PrintSettings s)
    {
        (this.m, this.s, dialect) = (m, s, Dialect.Of(m.Dialect));
        clock = new(s.AccelerationMmPerS2);
    }

    /// <summary>Filament fed so far, mm.</summary>
    public double FeedMm { get; private set; }

    /// <summary>Seconds so far, heating up not counted.</summary>
    public double Seconds => clock.Seconds;

    /// <summary>Cross-section of the filament, mm².</summary>
    public double FilamentAreaMm2 => s.FilamentAreaMm2;

    /// <summary>Where the nozzle is, mm.</summary>
    public double Z => z;

    /// <summary>Dialect of the printer.</summary>
    public Dialect Dialect => dialect;

    /// <summary>Begins a file: head, start code, heat, units. Refused at a field where the printer's own code can't be filled or is too hot.</summary>
    /// <param name="m">The machine.</param>
    /// <param name="s">What to print with.</param>
    /// <param name="nozzleC">Nozzle, °C.</param>
    /// <param name="head">Words for the head.</param>
    /// <param name="layerMm">Layer height, for the start code's placeholders.</param>
    /// <param name="heightMm">Height of what is printed.</param>
    /// <param name="bed">False where nothing is printed on the bed: it stays as it is.</param>
    public static (PatternFile? File, IReadOnlyList<FieldError> Errors) Begin(
        Machine m, PrintSettings s, double nozzleC, IReadOnlyList<string> head, double layerMm, double heightMm, bool bed = true)
    {
        var errors = new List<FieldError>();
        var f = new PatternFile(m, s);
        var values = Placeholders.Values(
            m, bed ? s : s with { BedTemperatureC = 0, FirstLayerBedTemperatureC = 0 }, nozzleC, layerMm, layerMm,
            Math.Max(1, (int)Math.Round(heightMm / layerMm)), heightMm);
        string? Code(string field, string name, string? own, string usual)
        {
            var code = string.IsNullOrWhiteSpace(own) ? usual : own;
            if (Placeholders.Check(code) is { } wrong)
                errors.Add(new(field, $"The {name} of {m.Name} can't be filled: {wrong}"));
            else if (GcodeGuard.Temperatures(Placeholders.Fill(code, values), m) is { } hot)
                errors.Add(new(field, $"The {name} of {m.Name}: {hot}"));
            else
                return Placeholders.Fill(code, values);
            return null;
        }

        var start = Code("startCode", "start code", m.StartCode, f.dialect.StartCode);
        f.endCode = Code("endCode", "end code", m.EndCode, f.dialect.EndCode) ?? "";
        if (bed && s.FirstLayerBedTemperatureC > m.BedMaxC)
            errors.Add(new("bedTemperatureC", $"{Say.N(s.FirstLayerBedTemperatureC, 3)} °C is above the bed's limit of {Say.N(m.BedMaxC, 3)} °C."));
        if (errors.Count > 0)
            return (null, errors);
        foreach (var text in head)
            f.Comment(text);
        f.Comment(
            $"printer: {m.Name}{(m.Tools > 1 ? $", toolhead {m.Tool}" : "")}, nozzle {Say.N(m.NozzleDiameterMm, 3)} mm, dialect {m.Dialect}, E " +
                $"{(m.RelativeE ? "relative" : "absolute")}"
        );
        f.Comment($"limits: nozzle {Say.N(m.Limits.MinC, 3)} to {Say.N(m.Limits.MaxC, 3)} C, bed {Say.N(m.BedMaxC, 3)} C");
        f.Comment($"filament: {Say.N(s.FilamentDiameterMm, 3)} mm, multiplier {Say.N(s.ExtrusionMultiplier, 3)}");
        f.Comment("nozzle and bed burn, moving axes pinch, hot plastic gives off fumes: ventilate and stand by");
        f.Comment("start code of the printer");
        if (m.Tools > 1)
            f.Line($"T{m.Tool}");
        foreach (var text in start!.Split('\n'))
            f.Line(text.TrimEnd());
        f.Comment("print begins");
        if (bed)
            f.Line($"M140 S{Say.N(s.FirstLayerBedTemperatureC, 3)}");
        f.Line($"M104 S{Say.N(nozzleC, 3)}");
        if (bed)
            f.Line($"M190 S{Say.N(s.FirstLayerBedTemperatureC, 3)}");
        f.Line($"M109 S{Say.N(nozzleC, 3)}");
        f.Line("G21");
        f.Line("G90");
        f.Line(m.RelativeE ? "M83" : "M82");
        f.Line("G92 E0");
        f.Line(f.dialect.Acceleration(s.AccelerationMmPerS2));
        return (f, []);
    }

    private string endCode = "";

    /// <summary>A comment.</summary>
    public void Comment(string text) => Line("; " + text);

    /// <summary>A line as it is.</summary>
    public void Line(string text) => lines.Add(Ascii(text));

    /// <summary>Stands still, s.</summary>
    public void Dwell(double seconds)
    {
        Line(dialect.Dwell(seconds));
        clock.Wait(seconds);
    }

    /// <summary>Part fan, %.</summary>
    public void Fan(double percent) => Line(percent <= 0 ? "M107" : $"M106 S{Say.N(Math.Round(percent * 2.55), 3)}");

    /// <summary>Goes there without extruding, retracted where it is farther than a line's width or two.</summary>
    public void Go(double toX, double toY, double toZ)
    {
        var far = Math.Sqrt((toX - x) * (toX - x) + (toY - y) * (toY - y)) > 2 * s.LineWidthMm;
        if (far && !retracted && s.RetractionLengthMm > 0)
        {
            Feed(-s.RetractionLengthMm, s.RetractionSpeedMmPerS);
            retracted = true;
        }

        if (toZ > z)
            Rise(toZ);
        clock.Add(toX - x, toY - y, 0, 0, s.TravelSpeedMmPerS);
        (x, y) = (toX, toY);
        Line($"G0 X{Say.N(Bx(x), 3)} Y{Say.N(By(y), 3)} F{MmPerMin(s.TravelSpeedMmPerS)}");
        if (toZ < z)
            Rise(toZ);
        if (retracted)
        {
            Feed(s.RetractionLengthMm, s.UnretractSpeedMmPerS);
            retracted = false;
        }
    }

    private void Rise(double toZ)
    {
        clock.Add(0, 0, toZ - z, 0, Math.Min(10, s.TravelSpeedMmPerS));
        z = toZ;
        Line($"G0 Z{Say.N(z, 3)} F{MmPerMin(Math.Min(10, s.TravelSpeedMmPerS))}");
    }

    /// <summary>Lays a line of a cross-section.</summary>
    public void To(double toX, double toY, double toZ, double areaMm2, double speed)
    {
        var length = Math.Sqrt((toX - x) * (toX - x) + (toY - y) * (toY - y) + (toZ - z) * (toZ - z));
        var e = length * areaMm2 * s.ExtrusionMultiplier / s.FilamentAreaMm2;
        clock.Add(toX - x, toY - y, toZ - z, e, speed);
        var rises = toZ != z;
        (x, y, z) = (toX, toY, toZ);
        FeedMm += e;
        Line($"G1 X{Say.N(Bx(x), 3)} Y{Say.N(By(y), 3)}{(rises ? $" Z{Say.N(z, 3)}" : "")} E{E(e)} F{MmPerMin(speed)}");
    }

    /// <summary>Moves filament alone; below 0 it is pulled back.</summary>
    public void Feed(double mm, double speedMmPerS)
    {
        clock.Add(0, 0, 0, mm, speedMmPerS);
        if (mm > 0)
            FeedMm += mm;
        Line($"G1 E{E(mm)} F{MmPerMin(speedMmPerS)}");
    }

    /// <summary>Two passes along the front edge.</summary>
    public void Prime(double heightMm, double areaMm2)
    {
        Comment("prime line");
        var (from, to) = (10.0, Math.Min(m.BedXMm - 10, 90));
        var slow = Math.Min(s.FirstLayerSpeedMmPerS, s.MaxFlowMm3PerS / (1.2 * areaMm2));
        Go(from, 5, heightMm);
        To(to, 5, heightMm, 1.2 * areaMm2, slow);
        To(to, 5 + s.LineWidthMm, heightMm, 1.2 * areaMm2, slow);
        To(from, 5 + s.LineWidthMm, heightMm, 1.2 * areaMm2, slow);
    }

    /// <summary>Ends it: away from the piece, heaters off.</summary>
    /// <param name="bed">False where nothing was printed on the bed.</param>
    public IReadOnlyList<string> End(bool bed = true)
    {
        clock.Stop();
        Comment("away from the piece");
        if (s.RetractionLengthMm > 0 && !retracted)
            Line($"G1 E{E(-s.RetractionLengthMm)} F{MmPerMin(s.RetractionSpeedMmPerS)}");
        var clear = Math.Min(m.HeightMm, z + 5);
        if (clear > z)
            Line($"G0 Z{Say.N(clear, 3)} F600");
        if (bed && s.CoolDown is { Count: > 0 } ramp)
        {
            foreach (var text in BedRamp.Lines(ramp, s.BedTemperatureC, dialect, null))
                Line(text);
            clock.Wait(BedRamp.Seconds(ramp));
        }

        Comment("print ends; end code of the printer");
        foreach (var text in endCode.Split('\n'))
            Line(text.TrimEnd());
        Line(m.Tools > 1 ? $"M104 T{m.Tool} S0" : "M104 S0");
        if (bed)
            Line("M140 S0");
        return lines;
    }

    private double Bx(double v) => Math.Round(m.OriginInMiddle ? v - m.BedXMm / 2 : v, 3);

    private double By(double v) => Math.Round(m.OriginInMiddle ? v - m.BedYMm / 2 : v, 3);

    /// <summary>The feed to write: what rounding left over before is carried on.</summary>
    private string E(double e)
    {
        owed += e;
        e = Math.Round(owed, 5);
        owed -= e;
        fed = Math.Round(fed + e, 5);
        return (m.RelativeE ? e : fed).ToString("0.#####", CultureInfo.InvariantCulture);
    }

    private static int MmPerMin(double mmPerS) => Math.Max(1, (int)Math.Floor(mmPerS * 60 + 1e-6));

    private static string Ascii(string text) =>
        new([
            .. text.Replace(" °C", " C", StringComparison.Ordinal)
                .Select(c =>
                    c is < ' ' or > '~'
                        ? char.IsWhiteSpace(c) || char.IsControl(c)
                            ? ' '
                            : '?'
                        : c),
        ]);

}
