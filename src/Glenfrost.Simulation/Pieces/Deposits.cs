using Glenfrost.Simulation.Printer;

namespace Glenfrost.Simulation.Pieces;

/// <summary>How the printer stands while a move runs.</summary>
/// <param name="DisplayC">Nozzle's display, °C.</param>
/// <param name="BedC">°C.</param>
/// <param name="Fan">0–1.</param>
/// <param name="RetractedMm">Filament drawn back now, mm.</param>
/// <param name="ClockS">When the move began.</param>
public readonly record struct Moment(
    double DisplayC, double BedC, double Fan, double RetractedMm, double ClockS, double PressureAdvanceS, double WipedMm = 0, double CoastedMm = 0,
    double RetractMmPerS = 0, bool PressureSet = false);

/// <summary>Follows the nozzle and notes what it lays where: free stretches, overhangs, travels over gaps, flows and times, layer by layer.</summary>
public sealed class Deposits(double filamentMm, double nozzleMm)
{
    /// <summary>Shorter free stretches bend with what holds them.</summary>
    public const double LeastSpanMm = 2.5;

    private readonly HeightField field = new();
    private readonly double area = Math.PI * filamentMm * filamentMm / 4;
    private LayerTrace? layer;
    private double layerZ, below, free, freeC, freeFan, freeFlow, weightedC, weightedFan, weightedBed, weightedHang, retractions;
    private double endS, laidS, firstS = double.NaN;
    private int objects;

    /// <summary>What was noted so far.</summary>
    public PrintTrace Trace { get; } = new();

    /// <summary>The layer that is being laid; null before the first line.</summary>
    public LayerTrace? Now => layer;

    /// <summary>Faults that hold from now on.</summary>
    public double Grip { get; set; } = 1;
    /// <summary>Open share of the nozzle, 0 to 1.</summary>
    public double Open { get; set; } = 1;
    /// <summary>True where less came than was asked for.</summary>
    public bool Starved { get; set; }
    /// <summary>True where the nozzle knocked the piece.</summary>
    public bool Knocked { get; set; }

    /// <summary>A move with nothing laid.</summary>
    public void Travelled(in Motion m, double seconds, in Moment at)
    {
        EndSpan();
        endS = at.ClockS + seconds;
        var length = Math.Sqrt((m.X1 - m.X0) * (m.X1 - m.X0) + (m.Y1 - m.Y0) * (m.Y1 - m.Y0));
        if (layer is null || length < 1.5 || m.Z1 < layerZ - 0.5 || m.Z1 > layerZ + 3)
            return;
        // A string needs plastic at this height at both sides of the gap.
        var (steps, least) = ((int)Math.Ceiling(length / 0.25), (int)Math.Round((layerZ - 1.6 * layer.HeightMm) * 100));
        var (dx, dy) = ((m.X1 - m.X0) / steps, (m.Y1 - m.Y0) / steps);
        var left = -1;
        for (var i = 0; i <= steps; i++)
        {
            if (field.At(m.X0 + dx * i, m.Y0 + dy * i) < least)
                continue;
            if (left >= 0 && (i - left) * 0.25 >= 1.5)
            {
                var gap = (i - left) * length / steps;
                Cross(
                    layer,
                    new(
                        Math.Round(gap * 2) / 2, Math.Round(at.RetractedMm * 10) / 10, Math.Round(seconds * gap / length, 3), Math.Round(at.DisplayC * 2) / 2,
                        1, Math.Round(at.WipedMm * 4) / 4, Math.Round(at.CoastedMm * 10) / 10, Math.Round(m.Z1 - layerZ, 1), Math.Round(at.RetractMmPerS)));
            }

            left = i;
        }
    }

    /// <summary>A line is laid.</summary>
    /// <param name="asked">Filament asked for, mm.</param>
    public void Laid(in Motion m, double asked, double seconds, in Moment at)
    {
        var length = Math.Sqrt((m.X1 - m.X0) * (m.X1 - m.X0) + (m.Y1 - m.Y0) * (m.Y1 - m.Y0));
        endS = laidS = at.ClockS + seconds;
        Trace.FedMm += asked;
        if (length < 0.02)
            return;
        if (double.IsNaN(firstS))
            firstS = at.ClockS;
        // A spiral rises while it lays: a turn is a layer, as high as the one before it.
        var rises = Math.Abs(m.Z1 - m.Z0) > 1e-6;
        if (layer is null || (rises ? m.Z0 > layerZ - 1e-6 : Math.Abs(m.Z1 - layerZ) > 0.015))
            NewLayer(rises && layer is not null ? layerZ + layer.HeightMm : m.Z1, at);
        Pressed(m, at);
        var (now, h, mm3) = (layer!, Math.Max(0.03, layer!.HeightMm), asked * area);
        var flow = seconds > 0 ? mm3 / seconds : 0;
        var width = Math.Clamp(mm3 / (length * h), 0.3 * nozzleMm, 3 * nozzleMm);
        (now.FedMm, now.PathMm, now.ExtrudeSeconds) = (now.FedMm + asked, now.PathMm + length, now.ExtrudeSeconds + seconds);
        now.Shaking += seconds > 0 ? length * Math.Pow(length / seconds, 3) : 0;
        (weightedC, weightedFan, weightedBed) = (weightedC + at.DisplayC * seconds, weightedFan + at.Fan * seconds, weightedBed + at.BedC * seconds);
        var bin = Math.Clamp((int)(flow * 2), 0, 199);
        if (now.FlowMm3.Length <= bin)
        {
            var more = now.FlowMm3;
            Array.Resize(ref more, bin + 1);
            now.FlowMm3 = more;
        }

        now.FlowMm3[bin] += mm3;
        Place(m, asked);
        (now.MinX, now.MaxX) = (Math.Min(now.MinX, Math.Min(m.X0, m.X1)), Math.Max(now.MaxX, Math.Max(m.X0, m.X1)));
        (now.MinY, now.MaxY) = (Math.Min(now.MinY, Math.Min(m.Y0, m.Y1)), Math.Max(now.MaxY, Math.Max(m.Y0, m.Y1)));
        Lay(m, length, width, flow, h, at, now);
    }

    private double laidX = double.NaN, laidY, laidSpeed, laidDx, laidDy;

    /// <summary>Notes how much the speed breaks from one line to the next, by the pressure advance in force.</summary>
    private void Pressed(in Motion m, in Moment at)
    {
        var length = Math.Sqrt((m.X1 - m.X0) * (m.X1 - m.X0) + (m.Y1 - m.Y0) * (m.Y1 - m.Y0));
        var (dx, dy) = ((m.X1 - m.X0) / length, (m.Y1 - m.Y0) / length);
        if (at.PressureSet && m.X0 == laidX && m.Y0 == laidY && length > 3)
        {
            var turns = dx * laidDx + dy * laidDy < 0.5;
            var change = turns ? Math.Min(m.Speed, laidSpeed) : Math.Abs(m.Speed - laidSpeed);
            if (change > 5)
            {
                var (k, runs) = (at.PressureAdvanceS, Trace.Pressure);
                var i = runs.FindIndex(p => Math.Abs(p.K - k) < 1e-7);
                if (i >= 0)
                    runs[i] = runs[i] with { ChangeMmPerS = Math.Max(runs[i].ChangeMmPerS, change) };
                else if (runs.Count < 200)
                    runs.Add(new(k, change));
            }
        }

        (laidX, laidY, laidSpeed, laidDx, laidDy) = (m.X1, m.Y1, m.Speed, dx, dy);
    }

    private readonly SortedDictionary<int, (double Fed, double MinY, double MaxY)> places = [];

    /// <summary>Notes what is fed where from left to right.</summary>
    private void Place(in Motion m, double asked)
    {
        var steps = Math.Max(1, (int)Math.Ceiling(Math.Abs(m.X1 - m.X0) / (LayerTrace.PlaceMm / 2)));
        for (var i = 0; i < steps; i++)
        {
            var at = (int)Math.Floor((m.X0 + (m.X1 - m.X0) * (i + 0.5) / steps) / LayerTrace.PlaceMm);
            var y = m.Y0 + (m.Y1 - m.Y0) * (i + 0.5) / steps;
            var (fed, low, high) = places.TryGetValue(at, out var p) ? p : (0, double.MaxValue, double.MinValue);
            places[at] = (fed + asked / steps, Math.Min(low, y), Math.Max(high, y));
        }
    }

    private void Lay(in Motion m, double length, double width, double flow, double h, in Moment at, LayerTrace now)
    {
        var (ux, uy) = ((m.X1 - m.X0) / length, (m.Y1 - m.Y0) / length);
        var floor = (int)Math.Round((layerZ - 1.6 * h) * 100);
        var onBed = layerZ - h < 0.06;
        var steps = Math.Max(1, (int)Math.Ceiling(length / 0.25));
        var step = length / steps;
        if (!onBed)
        {
            for (var i = 0; i < steps; i++)
            {
                var s = (i + 0.5) * step;
                var (x, y) = (m.X0 + ux * s, m.Y0 + uy * s);
                var (ox, oy) = (-uy * 0.36 * width, ux * 0.36 * width);
                var held = (field.At(x, y) >= floor ? 1 : 0) + (field.At(x + ox, y + oy) >= floor ? 1 : 0) + (field.At(x - ox, y - oy) >= floor ? 1 : 0);
                if (held == 0)
                {
                    (free, freeC, freeFan, freeFlow) = (free + step, at.DisplayC, at.Fan, flow);
                    continue;
                }

                EndSpan();
                if (held < 3)
                {
                    now.OverhangMm += step;
                    weightedHang += step * (3 - held) / 3;
                }
            }
        }

        // Laid in cells: over its length and its width.
        var top = (int)Math.Round(layerZ * 100);
        var along = Math.Max(1, (int)Math.Ceiling(length * 8));
        var across = Math.Max(1, (int)Math.Ceiling(width * 8));
        for (var i = 0; i <= along; i++)
        {
            var (x, y) = (m.X0 + ux * length * i / along, m.Y0 + uy * length * i / along);
            for (var j = 0; j < across; j++)
            {
                var off = ((j + 0.5) / across - 0.5) * width;
                field.Raise(x - uy * off, y + ux * off, top);
            }
        }
    }

    /// <summary>A line begins after a travel.</summary>
    public void Began(double retractedMm)
    {
        if (layer is null)
            return;
        layer.LineStarts++;
        retractions += retractedMm;
    }

    /// <summary>Closes the trace.</summary>
    public PrintTrace End(double clockS)
    {
        CloseLayer();
        Trace.TotalSeconds = clockS;
        Trace.PrintSeconds = double.IsNaN(firstS) ? 0 : laidS - firstS;
        return Trace;
    }

    private void NewLayer(double z, in Moment at)
    {
        CloseLayer();
        // Far below what was laid last: the next object of a plate begins.
        if (Trace.Layers.Count > 0 && z < layerZ - 1)
        {
            objects++;
            below = 0;
        }

        var height = z - below;
        if (height <= 0 || height > 2)
            height = Trace.Layers.Count > 0 ? Trace.Layers[^1].HeightMm : z;
        layer = new LayerTrace
        {
            Object = objects,
            Number = Trace.Layers.Count > 0 && Trace.Layers[^1].Object == objects ? Trace.Layers[^1].Number + 1 : 1,
            ZMm = z,
            HeightMm = Math.Round(height, 4),
            StartS = at.ClockS,
            Grip = Grip,
            Open = Open,
            Starved = Starved,
            PressureAdvanceS = at.PressureAdvanceS,
        };
        (layerZ, below) = (z, z);
    }

    private void CloseLayer()
    {
        EndSpan();
        if (layer is not { } l)
            return;
        l.Seconds = endS - l.StartS;
        if (l.ExtrudeSeconds > 0)
            (l.DisplayC, l.Fan, l.BedC) = (weightedC / l.ExtrudeSeconds, weightedFan / l.ExtrudeSeconds, weightedBed / l.ExtrudeSeconds);
        l.Unsupported = l.OverhangMm > 0 ? weightedHang / l.OverhangMm : 0;
        l.RetractedMm = l.LineStarts > 0 ? retractions / l.LineStarts : 0;
        if (places.Count > 0)
        {
            var (from, to) = (places.First().Key, places.Last().Key);
            l.FedFromXMm = from * LayerTrace.PlaceMm;
            l.FedByX = [.. Enumerable.Range(from, to - from + 1).Select(i => places.TryGetValue(i, out var p) ? Math.Round(p.Fed, 4) : 0)];
            l.DepthByX = [.. Enumerable.Range(from, to - from + 1).Select(i => places.TryGetValue(i, out var p) ? Math.Round(p.MaxY - p.MinY, 3) : 0)];
            places.Clear();
            // A surface is felt on its last layers: what lies below is forgotten.
            if (Trace.Layers.Count >= 2 && Trace.Layers[^2].Object == l.Object)
                (Trace.Layers[^2].FedByX, Trace.Layers[^2].DepthByX) = ([], []);
        }

        if (!Knocked)
            Trace.Layers.Add(l);
        (weightedC, weightedFan, weightedBed, weightedHang, retractions) = (0, 0, 0, 0, 0);
        layer = null;
    }

    private void EndSpan()
    {
        if (free >= LeastSpanMm && layer is { } l)
        {
            var span = new FreeSpan(Math.Round(free), Math.Round(freeC * 2) / 2, Math.Round(freeFan, 2), Math.Round(freeFlow * 2) / 2, 1);
            var i = l.Spans.FindIndex(s => s with { Count = 1 } == span);
            if (i >= 0)
                l.Spans[i] = l.Spans[i] with { Count = l.Spans[i].Count + 1 };
            else
                l.Spans.Add(span);
        }

        free = 0;
    }

    private static void Cross(LayerTrace l, Crossing c)
    {
        var i = l.Crossings.FindIndex(x =>
            x.GapMm == c.GapMm && x.RetractedMm == c.RetractedMm && x.DisplayC == c.DisplayC && x.WipedMm == c.WipedMm && x.CoastedMm == c.CoastedMm);
        if (i >= 0)
            l.Crossings[i] = l.Crossings[i] with { Count = l.Crossings[i].Count + 1 };
        else
            l.Crossings.Add(c);
    }
}
