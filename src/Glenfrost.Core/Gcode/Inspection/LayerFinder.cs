using Glenfrost.Core.Gcode.Reading;

namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>
/// Finds layers from the heights at which filament is really laid. Lifted travel plays no part. Where the nozzle goes back to the bed, another object begins.
/// A move that rises while it extrudes is part of a spiral: its layer ends one layer's thickness above where it began, or after one turn of the path where
/// no flat layer has told the thickness.
/// </summary>
public sealed class LayerFinder
{
    /// <summary>Most heights that are told apart; what comes after is counted to the last one.</summary>
    public const int Most = 50_000;

    private readonly Dictionary<long, int> seen = [];
    private readonly List<LayerFacts> layers = [];
    private LayerFacts? now;
    private double flatZ = double.NaN, thickness, turned, heading, turnFrom;
    private bool turning;
    private int first;
    private double top;

    /// <summary>Layers so far.</summary>
    public List<LayerFacts> Layers => layers;

    /// <summary>True where the last one may hold more than one height.</summary>
    public bool Full => layers.Count >= Most;

    /// <summary>The layer of an extruding move.</summary>
    public LayerFacts Of(ref readonly GcodeMove m, MachineState state)
    {
        if (m.Z1 == flatZ && m.Z0 == flatZ)
            return now!;
        return Other(in m, state);
    }

    private LayerFacts Other(ref readonly GcodeMove m, MachineState state)
    {
        if (Math.Abs(m.Z1 - m.Z0) < 1e-4)
        {
            turning = false;
            if (now is null || Key(m.Z1) != Key(now.Z) || now.Spiral)
                Level(m.Z1, in m, state);
            flatZ = m.Z1 == m.Z0 ? m.Z1 : double.NaN;
            return now!;
        }

        flatZ = double.NaN;
        Slope(in m, state);
        return now!;
    }

    private void Level(double z, ref readonly GcodeMove m, MachineState state)
    {
        // Back at the bed from well above: another object, whatever height it begins at.
        var returned = now is not null && z < now.Z && z <= layers[first].Z * 1.5 + 1e-6 && now.Index >= first + 2;
        if (!returned && seen.TryGetValue(Key(z), out var known))
        {
            now = layers[known];
            return;
        }

        var part = now?.Object ?? 0;
        var below = 0.0;
        if (now is not null)
        {
            // A little lower than the only height so far: the model after a priming line.
            if (returned || z < now.Z && z <= layers[first].Z * 1.5 + 1e-6)
                part = Next();
            else if (z > top)
                below = top;
            else
                below = seen.Keys.Where(k => k < Key(z)).DefaultIfEmpty(0).Max() / 1000.0;
        }

        Begin(z, below, part, false, in m, state);
        if (layers.Count > 1 && below > 0)
            thickness = z - below;
    }

    private void Slope(ref readonly GcodeMove m, MachineState state)
    {
        var (low, high) = (Math.Min(m.Z0, m.Z1), Math.Max(m.Z0, m.Z1));
        if (now is null)
        {
            Begin(high, 0, 0, true, in m, state);
            (turning, turned, turnFrom, heading) = (true, 0, low, Heading(in m));
            return;
        }

        // A new object can begin with a slope too.
        if (high < now.Z && low <= layers[first].Z * 0.5 && now.Index > first)
        {
            Begin(high, 0, Next(), true, in m, state);
            return;
        }

        if (thickness > 0)
        {
            if (low >= now.Z - 1e-4)
                Begin(now.Z + thickness, now.Z, now.Object, true, in m, state);
            return;
        }

        if (!turning)
        {
            // The first slope above a single flat layer: that layer's own thickness is the best guess until a turn tells.
            (turning, turned, turnFrom, heading) = (true, 0, low, Heading(in m));
            if (low >= now.Z - 1e-4)
                Begin(high, now.Z, now.Object, true, in m, state);
            return;
        }

        var h = Heading(in m);
        turned += Math.IEEERemainder(h - heading, 2 * Math.PI) + m.Arc;
        heading = h + m.Arc;
        now.Z = Math.Max(now.Z, high);
        now.Thickness = now.Z - turnFrom;
        if (Math.Abs(turned) >= 2 * Math.PI - 1e-3 && m.Z0 > turnFrom)
        {
            // The move that closes the turn begins the next layer.
            thickness = m.Z0 - turnFrom;
            now.Z = m.Z0;
            now.Thickness = thickness;
            Begin(now.Z + thickness, now.Z, now.Object, true, in m, state);
            turning = false;
        }
    }

    private static double Heading(ref readonly GcodeMove m) =>
        m.Arc == 0 ? Math.Atan2(m.Y1 - m.Y0, m.X1 - m.X0) : Math.Atan2(m.Y0 - m.CentreY, m.X0 - m.CentreX) + Math.CopySign(Math.PI / 2, m.Arc);

    private int Next()
    {
        seen.Clear();
        (first, top) = (layers.Count, 0);
        return now!.Object + 1;
    }

    private void Begin(double z, double below, int part, bool spiral, ref readonly GcodeMove m, MachineState state)
    {
        if (Full)
            return;
        // The register of E has been moved on by this very move.
        var before = state.Copy();
        before.E -= m.E;
        now = new()
        {
            Index = layers.Count, Object = part, Z = z, Thickness = z - below, Spiral = spiral, FirstLine = m.Line, FirstOffset = m.Offset, Before = before,
        };
        layers.Add(now);
        top = Math.Max(top, z);
        seen.TryAdd(Key(z), now.Index);
    }

    private static long Key(double z) => (long)Math.Round(z * 1000);
}
