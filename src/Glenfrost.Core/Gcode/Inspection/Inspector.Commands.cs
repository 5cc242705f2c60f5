using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode.Inspection;

/// <content>What lines other than moves say.</content>
public sealed partial class Inspector
{
    private double waited;

    /// <inheritdoc/>
    public override void Dwell(double seconds)
    {
        planner?.Stop();
        facts.DwellSeconds += seconds;
        facts.Seconds += seconds;
        facts.Chart.Add(seconds, 0, 0, layer?.Index ?? -1, 0);
        waited += seconds;
    }

    /// <summary>Waits belong to the layer within or behind which printing goes on; those behind the last line belong to none.</summary>
    private void Waited()
    {
        if (layer is not null)
            layer.Seconds += waited;
        waited = 0;
    }

    /// <inheritdoc/>
    public override void Command(GcodeWords w, ReadOnlySpan<byte> line, MachineState s, int number, long offset)
    {
        fresh = true;
        if (w.Kind == LineKind.Macro)
        {
            Macro(w, line, s, number, offset);
            return;
        }

        switch (w.Code)
        {
            case Codes.M104 or Codes.M109 when w.Has('S') || w.Has('R'):
                Set(w.Code == Codes.M104 ? SettingKind.Nozzle : SettingKind.NozzleAndWait, w.Of('S') ?? w['R'], w.Has('T') ? (int)w['T'] : s.Tool);
                Stop(w.Code == Codes.M109);
                break;
            case Codes.M140 or Codes.M190 when w.Has('S') || w.Has('R'):
                Set(w.Code == Codes.M140 ? SettingKind.Bed : SettingKind.BedAndWait, s.Bed, 0);
                Stop(w.Code == Codes.M190);
                break;
            case Codes.M141 or Codes.M191:
                Set(SettingKind.Chamber, s.Chamber, 0);
                Stop(w.Code == Codes.M191);
                break;
            case Codes.M106 or Codes.M107:
                if ((w.Of('P') ?? 0) == 0)
                    Set(SettingKind.Fan, s.Fan, 0);
                break;
            case Codes.M220 when w.Has('S'):
                Set(SettingKind.SpeedPercent, w['S'], 0);
                break;
            case Codes.M221 when w.Has('S'):
                Set(SettingKind.FlowPercent, w['S'], s.Tool);
                break;
            case Codes.M572 or Codes.M900:
                if (!double.IsNaN(s.PressureAdvance))
                    Set(SettingKind.PressureAdvance, s.PressureAdvance, s.Tool);
                break;
            case Codes.M207:
                Set(SettingKind.RetractLength, s.RetractLength, s.Tool);
                break;
            case Codes.M82 or Codes.M83:
                EMode(w.Code == Codes.M83, w, s, number, offset);
                break;
            case Codes.G90:
                Set(SettingKind.AbsoluteXyz, 0, 0);
                if (eModes == 0 && !s.EModeSaid)
                    eModes = 1;
                break;
            case Codes.G91:
                Set(SettingKind.RelativeXyz, 0, 0);
                break;
            case Codes.G20:
                Set(SettingKind.Inches, 0, 0);
                break;
            case Codes.M200:
                Set(SettingKind.Volumetric, w.Of('D') ?? 0, 0);
                break;
            case Codes.M600:
                Set(SettingKind.Pause, 0, s.Tool);
                Stop(true);
                break;
            case Codes.G10 or Codes.G11:
                Firmware(w, s, number);
                break;
            case Codes.M201 or Codes.M203 or Codes.M204 or Codes.M205 or Codes.M566:
                Limits(w, s, number, offset);
                break;
            case Codes.G28:
                positionKnown = false;
                // Axes are named without a number, and all are meant where none is.
                var axes = (w.Numbers | w.Flags) & (GcodeWords.Bit('X') | GcodeWords.Bit('Y') | GcodeWords.Bit('Z'));
                if (axes == 0 || (axes & GcodeWords.Bit('Z')) != 0)
                    facts.HomedZLine = number;
                Stop(true);
                break;
            case Codes.G4:
                if (facts.Dwells.Count < FileFacts.MostDwells)
                    facts.Dwells.Add(
                        new(
                            w.Has('S') ? 'S' : 'P', w.Of('S') ?? w.Of('P') ?? 0, number, offset, w.Length, layer?.Index ?? -1));
                Stop(true);
                break;
            case Codes.M400 or Codes.G29:
                Stop(true);
                break;
            case Codes.G21 or Codes.G92 or Codes.M117:
                break;
            case Codes.M84 or Codes.M18:
                Last(facts.MotorsOff, (number, offset), 50);
                break;
            default:
                if ((w.Code & Codes.LetterMask) == Codes.T)
                {
                    Set(SettingKind.Tool, s.Tool, s.Tool);
                    Stop(true);
                }
                else
                {
                    Unknown(Codes.Text(w.Code));
                }

                break;
        }

        void Set(SettingKind kind, double value, int tool) => Setting(kind, value, tool, number, offset, w, layer);
    }

    private static void Last<T>(List<T> list, T item, int most)
    {
        if (list.Count >= most)
            list.RemoveAt(0);
        list.Add(item);
    }

    private void Setting(SettingKind kind, double value, int tool, int number, long offset, GcodeWords w, LayerFacts? at)
    {
        if (facts.Settings.Count < FileFacts.MostSettings)
            facts.Settings.Add(new(kind, value, tool, number, offset, w.Length, at?.Index ?? -1, at?.Z ?? 0));
    }

    private void EMode(bool relative, GcodeWords w, MachineState s, int number, long offset)
    {
        var mode = relative ? 2 : 1;
        if (layer is not null && eModes != 0 && eModes != mode)
            facts.BothE = true;
        eModes = mode;
        Setting(relative ? SettingKind.RelativeE : SettingKind.AbsoluteE, 0, s.Tool, number, offset, w, layer);
    }

    private void Macro(GcodeWords w, ReadOnlySpan<byte> line, MachineState s, int number, long offset)
    {
        var name = w.Name(line);
        switch (name)
        {
            case "SET_PRESSURE_ADVANCE":
                Setting(SettingKind.PressureAdvance, s.PressureAdvance, s.Tool, number, offset, w, layer);
                break;
            case "SET_VELOCITY_LIMIT":
                if (planner is not null)
                {
                    var a = w.Parameter(line, "ACCEL");
                    if (a is > 0)
                        (planner.Print, planner.Travel) = (a.Value, a.Value);
                    if (w.Parameter(line, "VELOCITY") is > 0 and var v)
                        (planner.MaxX, planner.MaxY) = (Most(v, facts.Request.Motion!.MaxX), Most(v, facts.Request.Motion.MaxY));
                    if (w.Parameter(line, "SQUARE_CORNER_VELOCITY") is > 0 and var corner)
                        planner.JunctionDeviation = MotionLimits.DeviationOfCorner(corner, planner.Print);
                }

                if (w.Parameter(line, "ACCEL") is { } acceleration)
                    Setting(SettingKind.Acceleration, acceleration, s.Tool, number, offset, w, layer);
                break;
            case "SET_RETRACTION":
                Setting(SettingKind.RetractLength, s.RetractLength, s.Tool, number, offset, w, layer);
                break;
            case "SET_HEATER_TEMPERATURE":
                Setting(SettingKind.Nozzle, s.Nozzle, s.Tool, number, offset, w, layer);
                break;
            default:
                // A macro of the printer's owner may do anything, heating included.
                Unknown(name);
                Last(facts.OwnMacros, (name, number), 200);
                if ((w.Parameter(line, "EXTRUDER") ?? w.Parameter(line, "HOTEND") ?? w.Parameter(line, "NOZZLE")) is > 100 and < 500 and var c)
                {
                    s.Nozzles[s.Tool] = c;
                    Setting(SettingKind.NozzleAndWait, c, s.Tool, number, offset, w, layer);
                }

                if (w.Parameter(line, "BED") is > 20 and < 200 and var bedC)
                {
                    s.Bed = bedC;
                    Setting(SettingKind.BedAndWait, bedC, 0, number, offset, w, layer);
                }

                Stop(true);
                break;
        }
    }

    private void Firmware(GcodeWords w, MachineState s, int number)
    {
        if (w.Has('P') || w.Has('L'))
            return;
        var mm = double.IsNaN(s.RetractLength) ? 1 : s.RetractLength;
        var speed = double.IsNaN(s.RetractSpeed) ? 30 : s.RetractSpeed;
        if (w.Code == Codes.G10)
        {
            facts.Retraction.Firmware++;
            pullSpeed = speed;
            Retracted(mm);
            facts.Retraction.Speed.Add(speed, 1);
            (wasPulled, firmware) = (true, mm);
        }
        else if (firmware > 0)
        {
            facts.Retraction.ReturnSpeed.Add(speed, 1);
            firmware = 0;
        }

        var tag = new MoveTag { Layer = layer?.Index ?? -1, Line = number, Feature = -1 };
        if (planner is not null)
            planner.AddFilament(mm, speed, in tag);
        else
            Timed(in tag, mm / speed, speed);
    }

    private void Limits(GcodeWords w, MachineState s, int number, long offset)
    {
        if (w.Code == Codes.M204)
            Setting(SettingKind.Acceleration, w.Of('P') ?? w.Of('S') ?? w.Of('T') ?? 0, s.Tool, number, offset, w, layer);
        if (planner is null)
            return;
        var known = facts.Request.Motion!;
        switch (w.Code)
        {
            case Codes.M204:
                planner.Print = Positive(w.Of('P') ?? w.Of('S'), planner.Print, Math.Max(known.AccelerationX, known.AccelerationY));
                planner.Travel = Positive(w.Of('T') ?? w.Of('S'), planner.Travel, Math.Max(known.AccelerationX, known.AccelerationY));
                planner.Retract = Positive(w.Of('R'), planner.Retract, known.AccelerationE);
                break;
            case Codes.M201:
                planner.AccelerationX = Positive(w.Of('X'), planner.AccelerationX, known.AccelerationX);
                planner.AccelerationY = Positive(w.Of('Y'), planner.AccelerationY, known.AccelerationY);
                planner.AccelerationZ = Positive(w.Of('Z'), planner.AccelerationZ, double.MaxValue);
                planner.AccelerationE = Positive(w.Of('E'), planner.AccelerationE, double.MaxValue);
                break;
            case Codes.M203:
                // Some printers take mm/s, others mm/min; nothing prints at a metre a second.
                var minutes = (w.Of('X') ?? w.Of('Y') ?? 0) > 1200 ? 60 : 1;
                planner.MaxX = Positive(w.Of('X') / minutes, planner.MaxX, known.MaxX);
                planner.MaxY = Positive(w.Of('Y') / minutes, planner.MaxY, known.MaxY);
                planner.MaxZ = Positive(w.Of('Z') / minutes, planner.MaxZ, double.MaxValue);
                planner.MaxE = Positive(w.Of('E') / minutes, planner.MaxE, double.MaxValue);
                break;
            case Codes.M205:
                if (w.Of('J') is > 0 and <= 1 and var deviation)
                    planner.JunctionDeviation = deviation;
                else if (w.Of('X') is > 0 and var corner)
                    planner.JunctionDeviation = MotionLimits.DeviationOfCorner(corner, planner.Print);
                break;
            case Codes.M566:
                if (w.Of('X') is > 0 and var cornerPerMinute)
                    planner.JunctionDeviation = MotionLimits.DeviationOfCorner(cornerPerMinute / 60, planner.Print);
                break;
        }
    }

    private static double Positive(double? said, double before, double most) => said is > 0 and var v ? Most(v, most) : before;

    private static double Most(double v, double most) => Math.Min(v, most);

    private void Stop(bool stop)
    {
        if (stop)
            planner?.Stop();
    }

    private void Unknown(string name)
    {
        facts.UnknownLines++;
        if (facts.Unknown.TryGetValue(name, out var n))
            facts.Unknown[name] = n + 1;
        else if (facts.Unknown.Count < MostUnknown)
            facts.Unknown[name] = 1;
    }

    /// <inheritdoc/>
    public override void Comment(ReadOnlySpan<byte> text, MachineState state, int number, long offset)
    {
        if (names.Of(text) is { } name)
        {
            fresh = true;
            feature = facts.Features.FindIndex(f => f.Name == name);
            if (feature < 0 && facts.Features.Count < MostFeatures)
            {
                facts.Features.Add(new(name));
                classes.Add(LayerOrder.ClassOf(name));
                feature = facts.Features.Count - 1;
            }

            return;
        }

        if (facts.StatedLayerTimeS is null && text.Length < 200 && text.IndexOf("ayer"u8) >= 0 && StatedLayerTime.Of(GcodeText.Of(text)) is { } stated)
            facts.StatedLayerTimeS = stated;
        else if (text.IndexOf("cool-down begins"u8) >= 0 && text.IndexOf("glenfrost"u8) >= 0)
            facts.CoolDownLine = number;
        else if (text.IndexOf(StepMark.Bytes) is >= 0 and < 4 && facts.StepMarks.Count < 100)
            facts.StepMarks.Add(GcodeText.Of(text).TrimStart(';', ' '));
        else if (layer is null && text.Length < 200 && GcodeText.Of(text) is var words && words.Contains("thumbnail begin", StringComparison.OrdinalIgnoreCase))
            facts.Thumbnails++;
        else if (layer is null && text.Length < 200 && !warned && TowerWords.In(GcodeText.Of(text)))
            facts.SaysTower = warned = true;
    }

    /// <inheritdoc/>
    public override void Unreadable(string why, ReadOnlySpan<byte> line, int number, long offset)
    {
        facts.UnreadLines++;
        if (facts.Unread.Count < 20)
            facts.Unread.Add(new(number, why, GcodeText.Of(line[..Math.Min(60, line.Length)])));
    }
}
