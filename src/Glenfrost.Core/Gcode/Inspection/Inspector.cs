using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode.Motion;
using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>Goes with a move through the planner of its time.</summary>
public struct MoveTag
{
    /// <summary>mm³ laid.</summary>
    public double Volume;

    /// <summary>Of its cross-section, mm²; 0 where none is laid.</summary>
    public double Square;

    /// <summary>Index of the layer; -1 before the first.</summary>
    public int Layer;

    /// <summary>Line in the file.</summary>
    public int Line;

    /// <summary>Index of the feature; -1 where none is known.</summary>
    public int Feature;
}

/// <summary>
/// Reads a file once and says what it is: layers as extruded, times, filament, flow, temperatures, and everything that the findings are made of.
/// </summary>
public sealed class Inspector : GcodeSink, IMoveTimes<MoveTag>
{
    private const int MostFeatures = 60;
    private const int MostUnknown = 200;

    private readonly FileFacts facts;
    private readonly LayerFinder finder = new();
    private readonly FeatureNames names = new();
    private readonly MotionPlanner<MoveTag>? planner;
    private readonly double area, coldBelow, flowLimit;
    private readonly (double MinX, double MinY, double MaxX, double MaxY, double MaxZ)? bed;
    private readonly List<Stroke> strokes = [];
    private LayerFacts? layer;
    private int feature = -1, layerOfFeature = -1;
    private FeatureInLayer? inLayer;
    private double debt, pulled, hopFrom, travelled, firmware;
    private bool wasPulled, warned, positionKnown, fresh = true, cold;
    private double pullSpeed = double.NaN, crowdSeconds, thickness, perThickness, feed = -1, perFeed;
    private long lastOffset;
    private int lastLine, crowdMoves, crowdLine, eModes;

    private readonly record struct Stroke(int Layer, double MinX, double MinY, double MaxX, double MaxY, double Volume, double Length);

    private Inspector(InspectionRequest request)
    {
        facts = new() { Request = request };
        planner = request.Motion is { } motion ? new(motion, this) : null;
        area = facts.FilamentArea;
        coldBelow = request.Machine?.Limits.MinC ?? 160;
        flowLimit = request.FlowLimit is { } limit ? limit * 1.005 : double.MaxValue;
        if (request.Machine is { } m)
        {
            var (x, y) = m.OriginInMiddle ? (-m.BedXMm / 2, -m.BedYMm / 2) : (0, 0);
            bed = (x - 1e-6, y - 1e-6, x + m.BedXMm + 1e-6, y + m.BedYMm + 1e-6, m.HeightMm + 1e-6);
        }
    }

    /// <summary>Inspects a file.</summary>
    /// <param name="file">From its first byte; read once, forward.</param>
    /// <param name="request">What is known beside it.</param>
    /// <param name="stop">Asked every 256 KiB.</param>
    public static FileFacts Inspect(Stream file, InspectionRequest request, CancellationToken stop = default)
    {
        var inspector = new Inspector(request);
        var reader = new GcodeInterpreter(inspector);
        reader.Run(file, stop: stop);
        inspector.End(reader);
        return inspector.facts;
    }

    /// <inheritdoc/>
    public override void Move(ref readonly GcodeMove m, MachineState s)
    {
        facts.Moves++;
        var e = m.E;
        if (s.VolumetricE)
            e /= area;
        var laid = 0.0;
        if (e > 0)
        {
            if (debt <= 0)
                laid = e;
            else
                laid = Back(e, in m);
        }
        else if (e < 0)
        {
            debt -= e;
            pulled = Math.Max(pulled, debt);
            if (m.Length > 0)
                facts.Retraction.WipeLength += m.Length;
            else
                facts.Retraction.Speed.Add(pullSpeed = m.Feed, 1);
            wasPulled = true;
        }

        if (m.Length == 0)
        {
            Standing(e, laid, in m, s);
            return;
        }

        var (volume, square) = (0.0, 0.0);
        if (laid > 0 && (m.X1 != m.X0 || m.Y1 != m.Y0 || m.Arc != 0))
        {
            volume = laid * area * (s.FlowPercent * 0.01);
            square = volume / m.Length;
            Extrude(in m, s, volume, square);
        }
        else
        {
            if (laid > 0)
                facts.StandingVolume += laid * area * s.FlowPercent * 0.01;
            if (layer is not null)
                layer.TravelLength += m.Length;
            travelled += m.Length;
            if (m.Z1 > m.Z0 && (debt > 0 || s.Retracted))
                hopFrom += m.Z1 - m.Z0;
        }

        if (bed is { } b && positionKnown && (m.X1 < b.MinX || m.Y1 < b.MinY || m.X1 > b.MaxX || m.Y1 > b.MaxY || m.Z1 > b.MaxZ || m.Z1 < -1e-6))
            Beside(in m, volume > 0);
        var tag = new MoveTag { Volume = volume, Square = square, Layer = layer?.Index ?? -1, Line = m.Line, Feature = volume > 0 ? feature : -1 };
        if (planner is null)
        {
            var speed = m.Feed > 0 ? m.Feed : 20;
            Timed(in tag, m.Length / speed, speed);
        }
        else if (m.Arc == 0)
        {
            planner.Add(m.X1 - m.X0, m.Y1 - m.Y0, m.Z1 - m.Z0, m.Length, e, m.Feed, in tag);
        }
        else
        {
            Arc(in m, e, in tag);
        }
    }

    private void Arc(ref readonly GcodeMove m, double e, in MoveTag tag)
    {
        facts.Arcs++;
        var (rx, ry) = (m.X0 - m.CentreX, m.Y0 - m.CentreY);
        var (ex, ey) = (m.X1 - m.CentreX, m.Y1 - m.CentreY);
        var (r, sign) = (Math.Sqrt(rx * rx + ry * ry), Math.Sign(m.Arc));
        planner!.AddArc(-ry / r * sign, rx / r * sign, -ey / r * sign, ex / r * sign, r, m.Length, e, m.Feed, in tag);
    }

    private void Extrude(ref readonly GcodeMove m, MachineState s, double volume, double square)
    {
        var now = finder.Of(in m, s);
        if (!ReferenceEquals(now, layer))
        {
            layer = now;
            layerOfFeature = -2;
            inLayer = null;
            feed = -1;
            fresh = true;
        }

        now.Moves++;
        now.Volume += volume;
        now.Length += m.Length;
        (lastLine, lastOffset) = (m.Line, m.Offset);
        if (now.Thickness != thickness)
        {
            thickness = now.Thickness;
            perThickness = thickness > 0 ? 1 / thickness : 0;
        }

        facts.Width.Add(square * perThickness, m.Length);
        if (square > facts.ThickestMm2)
            (facts.ThickestMm2, facts.ThickestLine) = (square, m.Line);
        if (m.Feed != feed)
        {
            feed = m.Feed > 0 ? m.Feed : 20;
            perFeed = 1 / feed;
            now.MaxSpeed = Math.Max(now.MaxSpeed, feed);
            now.MinSpeed = Math.Min(now.MinSpeed, feed);
        }

        var asked = m.Length * perFeed;
        now.AskedSeconds += asked;
        if (square * feed > now.MaxFlowAsked)
            now.MaxFlowAsked = square * feed;
        if (m.X1 < now.MinX)
            now.MinX = m.X1;
        if (m.X1 > now.MaxX)
            now.MaxX = m.X1;
        if (m.Y1 < now.MinY)
            now.MinY = m.Y1;
        if (m.Y1 > now.MaxY)
            now.MaxY = m.Y1;
        if (fresh || cold)
            Fresh(now, in m, s);
        if (inLayer is not null)
        {
            inLayer.Length += m.Length;
            inLayer.Volume += volume;
            inLayer.Asked += asked;
        }

        if (strokes.Count < 64)
            First(in m, now, volume);
        if (travelled > 0 || wasPulled)
            Travelled(s);
    }

    /// <summary>What only changes with a layer, a comment or a command.</summary>
    private void Fresh(LayerFacts now, ref readonly GcodeMove m, MachineState s)
    {
        (fresh, positionKnown) = (false, true);
        now.FanMin = Math.Min(now.FanMin, s.Fan);
        now.FanMax = Math.Max(now.FanMax, s.Fan);
        var c = s.Nozzle;
        (now.NozzleMin, now.NozzleMax) = Widen(now.NozzleMin, now.NozzleMax, c);
        (now.AdvanceMin, now.AdvanceMax) = Widen(now.AdvanceMin, now.AdvanceMax, s.PressureAdvance);
        cold = !(c >= coldBelow);
        if (cold)
            Cold(in m, c);
        if (layerOfFeature != feature)
            Feature(now);
    }

    private static (double Min, double Max) Widen(double min, double max, double v) => (v >= min ? min : v, v <= max ? max : v);

    private void First(ref readonly GcodeMove m, LayerFacts now, double volume)
    {
        if (strokes.Count == 0)
            (facts.FirstExtrudeLine, facts.RelativeE) = (m.Line, eModes == 2);
        strokes.Add(new(now.Index, Math.Min(m.X0, m.X1), Math.Min(m.Y0, m.Y1), Math.Max(m.X0, m.X1), Math.Max(m.Y0, m.Y1), volume, m.Length));
    }

    private void Travelled(MachineState s)
    {
        if (!wasPulled && !s.Retracted && travelled > 2)
            facts.Retraction.LongTravelsWithout++;
        (travelled, wasPulled, hopFrom) = (0, false, 0);
    }

    /// <summary>Filament comes back after a retraction; what goes beyond it is laid.</summary>
    private double Back(double e, ref readonly GcodeMove m)
    {
        if (m.Length == 0)
            facts.Retraction.ReturnSpeed.Add(m.Feed, 1);
        if (e < debt - 1e-7)
        {
            debt -= e;
            return 0;
        }

        var laid = e - debt;
        if (pulled > 0.02)
            Retracted(pulled);
        (debt, pulled) = (0, 0);
        return laid < 1e-7 ? 0 : laid;
    }

    private void Retracted(double mm)
    {
        var r = facts.Retraction;
        r.Add(mm);
        if (hopFrom > 1e-6)
            r.Hop.Add(hopFrom + 1e-9, 1);
        if (layer is null)
            return;
        layer.Retractions++;
        (layer.RetractMin, layer.RetractMax) = Widen(layer.RetractMin, layer.RetractMax, mm);
        (layer.RetractSpeedMin, layer.RetractSpeedMax) = Widen(layer.RetractSpeedMin, layer.RetractSpeedMax, pullSpeed);
    }

    private void Standing(double e, double laid, ref readonly GcodeMove m, MachineState s)
    {
        if (laid > 0)
        {
            facts.StandingVolume += laid * area * s.FlowPercent * 0.01;
            if (!(s.Nozzle >= coldBelow))
                Cold(in m, s.Nozzle);
        }

        if (e == 0)
            return;
        var tag = new MoveTag { Layer = layer?.Index ?? -1, Line = m.Line, Feature = -1 };
        if (planner is not null)
            planner.AddFilament(e, m.Feed, in tag);
        else
            Timed(in tag, Math.Abs(e) / (m.Feed > 0 ? m.Feed : 20), m.Feed);
    }

    private void Cold(ref readonly GcodeMove m, double c)
    {
        if (facts.ColdMoves++ == 0)
            (facts.ColdLine, facts.ColdC) = (m.Line, c);
    }

    private void Beside(ref readonly GcodeMove m, bool extrudes)
    {
        if (facts.BesideMoves++ == 0 || extrudes && !facts.BesideExtrudes)
            (facts.BesideLine, facts.BesideWhere, facts.BesideExtrudes) = (
                m.Line, FormattableString.Invariant($"X {m.X1:0.##}, Y {m.Y1:0.##}, Z {m.Z1:0.##}"), extrudes);
    }

    private void Feature(LayerFacts now)
    {
        layerOfFeature = feature;
        inLayer = null;
        if (feature < 0)
            return;
        foreach (var f in now.Features)
        {
            if (f.Feature == feature)
            {
                inLayer = f;
                return;
            }
        }

        now.Features.Add(inLayer = new() { Feature = feature });
    }

    /// <summary>Takes the time of a move that the clock has planned.</summary>
    public void Timed(ref readonly MoveTag tag, double seconds, double peak)
    {
        facts.Seconds += seconds;
        var flow = 0.0;
        if (tag.Volume > 0)
        {
            facts.ExtrudeSeconds += seconds;
            flow = tag.Square * peak;
            var now = layer!.Index == tag.Layer ? layer : finder.Layers[tag.Layer];
            now.Seconds += seconds;
            now.ExtrudeSeconds += seconds;
            if (flow > now.MaxFlow)
                (now.MaxFlow, now.MaxFlowLine) = (flow, tag.Line);
            if (seconds > 0)
                facts.Flow.Add(tag.Volume / seconds, seconds);
            if (flow > flowLimit)
            {
                now.SecondsAbove += seconds;
                facts.SecondsAbove += seconds;
            }

            if (tag.Feature >= 0)
            {
                var f = facts.Features[tag.Feature];
                f.Length += tag.Volume / tag.Square;
                f.Volume += tag.Volume;
                f.Seconds += seconds;
            }
        }
        else
        {
            facts.TravelSeconds += seconds;
            if (tag.Layer >= 0)
                finder.Layers[tag.Layer].Seconds += seconds;
        }

        facts.Chart.Add(seconds, tag.Volume, flow, tag.Layer, tag.Line);
        crowdMoves++;
        crowdSeconds += seconds;
        if (crowdSeconds >= 0.25)
            Crowd(tag.Line);
    }

    /// <summary>Moves of the last quarter of a second: more than the controller takes, and the nozzle stutters.</summary>
    private void Crowd(int line)
    {
        var rate = crowdMoves / crowdSeconds;
        if (rate > facts.Request.MostMovesPerSecond)
            facts.CrowdedSeconds += crowdSeconds;
        if (rate > facts.MostMovesPerSecond)
            (facts.MostMovesPerSecond, facts.MostMovesLine) = (rate, crowdLine == 0 ? line : crowdLine);
        (crowdMoves, crowdSeconds, crowdLine) = (0, 0, line);
    }

    /// <inheritdoc/>
    public override void Dwell(double seconds)
    {
        planner?.Stop();
        facts.DwellSeconds += seconds;
        facts.Seconds += seconds;
        facts.Chart.Add(seconds, 0, 0, layer?.Index ?? -1, 0);
        if (layer is not null)
            layer.Seconds += seconds;
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
                Stop(true);
                break;
            case Codes.G4 or Codes.M400 or Codes.G29:
                Stop(true);
                break;
            case Codes.G21 or Codes.G92 or Codes.M117:
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
                feature = facts.Features.Count - 1;
            }

            return;
        }

        if (text.IndexOf(StepMark.Bytes) is >= 0 and < 4 && facts.StepMarks.Count < 100)
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

    private void End(GcodeInterpreter reader)
    {
        planner?.Stop();
        (facts.LastExtrudeLine, facts.LastExtrudeOffset) = (lastLine, lastOffset);
        // The last one belongs to no layer: what follows may be the unloading of the filament.
        layer = null;
        if (debt > 0 && pulled > 0.02)
            Retracted(pulled);
        var f = facts;
        (f.Bytes, f.Lines, f.CarriageReturns, f.LongLines, f.End) = (reader.Bytes, reader.Lines, reader.CarriageReturns, reader.LongLines, reader.State);
        f.SaysTower |= TowerWords.In(f.Request.Name);
        f.Layers = [.. finder.Layers];
        f.TooManyLayers = finder.Full;
        Priming();
        f.Objects = f.Model.Select(l => l.Object).Distinct().Count();
        var model = f.Model.ToList();
        foreach (var l in f.Layers)
        {
            f.Volume += l.Volume;
            if (!l.Priming && l.MaxFlow > f.MaxFlow)
                (f.MaxFlow, f.MaxFlowLine, f.MaxFlowLayer) = (l.MaxFlow, l.MaxFlowLine, l.Index);
        }

        f.Volume += f.StandingVolume + f.PrimingVolume;
        f.FilamentMm = f.Volume / area;
        if (model.Count > 0)
            f.Box = (model.Min(l => l.MinX), model.Min(l => l.MinY), model.Max(l => l.MaxX), model.Max(l => l.MaxY), model.Max(l => l.Z));
    }

    /// <summary>
    /// Tells priming from the model: a first height that is left again for a lower one after a few lines, and first lines that lie clear of everything that
    /// stands above the first layer.
    /// </summary>
    private void Priming()
    {
        var layers = facts.Layers;
        if (layers.Count == 0)
            return;
        if (layers.Count > 1 && layers[1].Object == 1 && layers[0].Moves <= 20)
            layers[0].Priming = true;
        var model = layers.Where(l => !l.Priming).ToList();
        foreach (var l in model)
            l.Object -= layers[0].Priming ? 1 : 0;
        var above = model.Where(l => l.Index != model[0].Index).ToList();
        if (above.Count == 0)
            return;
        var (minX, minY, maxX, maxY) = (above.Min(l => l.MinX) - 1, above.Min(l => l.MinY) - 1, above.Max(l => l.MaxX) + 1, above.Max(l => l.MaxY) + 1);
        foreach (var s in strokes)
        {
            if (s.MaxX >= minX && s.MinX <= maxX && s.MaxY >= minY && s.MinY <= maxY)
                break;
            if (s.Layer != model[0].Index || model[0].Moves <= 1)
                continue;
            facts.PrimingVolume += s.Volume;
            model[0].Volume -= s.Volume;
            model[0].Length -= s.Length;
            model[0].Moves--;
        }
    }
}
