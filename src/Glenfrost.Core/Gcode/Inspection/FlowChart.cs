namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>A slice of the print's time.</summary>
/// <param name="At">Its beginning, s.</param>
/// <param name="Seconds">Its length as far as moves fill it.</param>
/// <param name="Mean">Mean flow, mm³/s, travel counted in.</param>
/// <param name="Max">Fastest flow of a move in it, mm³/s.</param>
/// <param name="Layer">Layer in which it begins; -1 before the first.</param>
/// <param name="Line">Line at which it begins.</param>
public readonly record struct FlowSlice(double At, double Seconds, double Mean, double Max, int Layer, int Line);

/// <summary>Flow over the time of a whole print, in at most <see cref="Most"/> slices: whenever these are full, two become one.</summary>
public sealed class FlowChart
{
    /// <summary>Most slices.</summary>
    public const int Most = 2048;

    private struct Slice
    {
        public double Seconds, Volume, Max;
        public int Layer, Line;
    }

    private readonly Slice[] slices = new Slice[Most];
    private int at = -1;
    private double end;

    /// <summary>Length of a slice, s.</summary>
    public double SliceSeconds { get; private set; } = 0.05;

    /// <summary>All time so far, s.</summary>
    public double Seconds { get; private set; }

    /// <summary>Adds a move that follows the last one.</summary>
    public void Add(double seconds, double volume, double max, int layer, int line)
    {
        if (Seconds + seconds <= end && at >= 0)
        {
            ref var s = ref slices[at];
            s.Seconds += seconds;
            s.Volume += volume;
            if (max > s.Max)
                s.Max = max;
            Seconds += seconds;
            return;
        }

        Slow(seconds, volume, max, layer, line);
    }

    private void Slow(double seconds, double volume, double max, int layer, int line)
    {
        var left = seconds;
        while (left > 0)
        {
            if (Seconds >= end - 1e-9)
            {
                if (at == Most - 1)
                    Halve();
                if (Seconds >= end - 1e-9)
                {
                    slices[++at] = new() { Layer = layer, Line = line };
                    end = (at + 1) * SliceSeconds;
                }
            }

            ref var s = ref slices[at];
            var part = Math.Min(left, end - Seconds);
            if (part < 1e-9)
                part = left;
            s.Seconds += part;
            s.Volume += seconds > 0 ? volume * part / seconds : 0;
            s.Max = Math.Max(s.Max, max);
            Seconds += part;
            left -= part;
        }
    }

    private void Halve()
    {
        for (var i = 0; i < Most / 2; i++)
        {
            var (a, b) = (slices[2 * i], slices[2 * i + 1]);
            slices[i] = new() { Seconds = a.Seconds + b.Seconds, Volume = a.Volume + b.Volume, Max = Math.Max(a.Max, b.Max), Layer = a.Layer, Line = a.Line };
        }

        at = Most / 2 - 1;
        SliceSeconds *= 2;
        end = (at + 1) * SliceSeconds;
    }

    /// <summary>The slices in order.</summary>
    public IReadOnlyList<FlowSlice> Slices()
    {
        var all = new FlowSlice[at + 1];
        for (var i = 0; i <= at; i++)
            all[i] = new(
                i * SliceSeconds, slices[i].Seconds, slices[i].Seconds > 0 ? slices[i].Volume / slices[i].Seconds : 0, slices[i].Max, slices[i].Layer,
                slices[i].Line);
        return all;
    }
}
