using Glenfrost.Core.Gcode.Inspection;

namespace Glenfrost.Web.Drawing;

/// <summary>Heights beside the strip of a whole print: where in its time the piece has grown so tall.</summary>
public static class HeightMarks
{
    private const int Most = 10;

    private static readonly double[] Steps = [0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200];

    /// <summary>Round heights, mm, and their place in the time of the print, 0 to 1; none where objects stand one after another or nothing was timed.</summary>
    public static IReadOnlyList<(double Z, double Share)> Of(FileFacts f)
    {
        var total = f.Layers.Sum(l => l.Seconds);
        if (f.Objects > 1 || total <= 0)
            return [];
        var top = f.Layers.Where(l => !l.Priming).Select(l => l.Z).DefaultIfEmpty().Max();
        if (Steps.FirstOrDefault(s => top / s <= Most) is not (> 0 and var step))
            return [];
        var marks = new List<(double, double)>();
        var (before, next) = (0.0, step);
        foreach (var layer in f.Layers)
        {
            // A height counts once the layer that reaches it is laid.
            before += layer.Seconds;
            if (layer.Priming || layer.Z < next - 1e-6)
                continue;
            marks.Add((next, Math.Min(1, before / total)));
            next = (Math.Floor(layer.Z / step + 1e-6) + 1) * step;
        }

        return marks;
    }
}
