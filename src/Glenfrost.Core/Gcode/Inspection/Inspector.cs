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
public sealed partial class Inspector : GcodeSink, IMoveTimes<MoveTag>
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
    private readonly List<LayerOrder.Block> blocks = new(64);
    private readonly List<LineClass> classes = [];
    private LayerOrder.Block block;
    private bool blockOpen;
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
        if (waited > 0)
            Waited();
        if (!ReferenceEquals(now, layer))
        {
            EndOrder();
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
        if (fresh || travelled > 0)
            CloseBlock();
        if (feature >= 0)
            Grow(in m);
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

    /// <summary>The move in the block of lines that it belongs to.</summary>
    private void Grow(ref readonly GcodeMove m)
    {
        if (!blockOpen)
        {
            (block.Class, block.MinX, block.MinY, block.MaxX, block.MaxY) = (
                classes[feature], Math.Min(m.X0, m.X1), Math.Min(m.Y0, m.Y1), Math.Max(m.X0, m.X1), Math.Max(m.Y0, m.Y1));
            blockOpen = true;
            return;
        }

        if (m.X1 < block.MinX)
            block.MinX = m.X1;
        if (m.X1 > block.MaxX)
            block.MaxX = m.X1;
        if (m.Y1 < block.MinY)
            block.MinY = m.Y1;
        if (m.Y1 > block.MaxY)
            block.MaxY = m.Y1;
    }

    /// <summary>Lines that lie beside the ones before, of the same class, are one block with them.</summary>
    private void CloseBlock()
    {
        if (!blockOpen)
            return;
        blockOpen = false;
        if (blocks.Count > 0 && blocks[^1] is var last && last.Class == block.Class && last.Meets(in block, block.Class == LineClass.Fill ? 3 : 0.3))
        {
            last.Take(in block);
            blocks[^1] = last;
        }
        else if (blocks.Count < LayerOrder.MostBlocks)
        {
            blocks.Add(block);
        }
    }

    private void EndOrder()
    {
        CloseBlock();
        if (layer is not null && blocks.Count > 0)
            layer.Order = LayerOrder.Of(blocks);
        blocks.Clear();
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
            {
                facts.Flow.Add(tag.Volume / seconds, seconds);
                facts.PeakFlow.Add(flow, seconds);
            }

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

    private void End(GcodeInterpreter reader)
    {
        planner?.Stop();
        EndOrder();
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
