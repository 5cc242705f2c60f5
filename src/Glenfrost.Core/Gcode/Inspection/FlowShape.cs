namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>A file whose flow rises with height, as flow trials do, and what becomes of the rise.</summary>
/// <param name="FromFlow">Flow that the file asks for at the bottom, mm³/s.</param>
/// <param name="ToFlow">The most that it asks for.</param>
/// <param name="ClippedFromLayer">Layer from which it stays the same although it rose before; -1 where it does not.</param>
/// <param name="HeldBackFromLayer">Layer from which acceleration holds more than a fifth of it back; -1 where it does not.</param>
/// <param name="ReachedFlow">Flow reached at the top.</param>
/// <param name="SpeedOnly">Speeds rise, but the flow that is asked for does not.</param>
public sealed record FlowShape(double FromFlow, double ToFlow, int ClippedFromLayer, int HeldBackFromLayer, double ReachedFlow, bool SpeedOnly)
{
    /// <summary>Looks at the flow per layer.</summary>
    /// <returns>Null where neither flow nor speed is meant to rise.</returns>
    public static FlowShape? Of(FileFacts f)
    {
        var layers = f.Model.Where(l => l.AskedSeconds > 0 && l.Volume > 0).Skip(2).ToList();
        if (layers.Count < 20)
            return null;
        var asked = Smooth([.. layers.Select(l => l.Volume / l.AskedSeconds)]);
        var speed = Smooth([.. layers.Select(l => l.Length / l.AskedSeconds)]);
        var n = asked.Length;
        var peak = asked.Max();
        if (!Rises(asked))
            return Rises(speed) && peak <= asked[0] * 1.15 ? new(asked[0], peak, -1, -1, layers[^1].MeanFlow, true) : null;
        var plateau = n;
        while (plateau > 0 && asked[plateau - 1] >= 0.99 * peak)
            plateau--;
        var long_ = n - plateau;
        // One step of a stair is level too: longer than any level before it is a cut.
        var clipped = long_ >= Math.Max(8, 0.15 * n) && long_ > 1.8 * LongestLevel(asked.AsSpan(0, plateau));
        var held = Array.FindIndex([.. layers], l => l.MeanFlow < 0.8 * l.Volume / l.AskedSeconds);
        return new(
            asked[0], peak, clipped ? layers[plateau].Index : -1, f.Request.Motion is not null && held >= 0 ? layers[held].Index : -1, layers[^1].MeanFlow,
            false);
    }

    /// <summary>Goes up by two fifths or more, hardly ever down.</summary>
    private static bool Rises(double[] v)
    {
        if (v.Max() < 1.4 * v[0])
            return false;
        var (up, down) = (0.0, 0.0);
        for (var i = 1; i < v.Length; i++)
        {
            if (v[i] > v[i - 1])
                up += v[i] - v[i - 1];
            else
                down += v[i - 1] - v[i];
        }

        return down < 0.15 * up;
    }

    private static int LongestLevel(ReadOnlySpan<double> v)
    {
        var (best, from) = (0, 0);
        for (var i = 1; i <= v.Length; i++)
        {
            if (i < v.Length && Math.Abs(v[i] - v[from]) <= 0.01 * v[from])
                continue;
            best = Math.Max(best, i - from);
            from = i;
        }

        return best;
    }

    /// <summary>Median of five.</summary>
    private static double[] Smooth(double[] v) => [.. v.Select((_, i) =>
    {
        var part = v[Math.Max(0, i - 2)..Math.Min(v.Length, i + 3)];
        Array.Sort(part);
        return part[part.Length / 2];
    })];
}
