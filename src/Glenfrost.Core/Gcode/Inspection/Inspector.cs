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

    private const double ShortTravelMm = 2;
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
            {
                layer.TravelLength += m.Length;
                if (m.Length > ShortTravelMm && m.Z1 == m.Z0)
                    facts.TravelSpeed.Add(m.Feed + 1e-9, m.Length);
            }

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
}
