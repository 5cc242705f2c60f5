namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>Sections that a model shows by itself: the same run of layers again and again, above a base.</summary>
/// <param name="BaseLayers">Layers beneath the first section.</param>
/// <param name="SectionLayers">Layers of a section.</param>
/// <param name="Sections">How many.</param>
/// <param name="BaseMm">Height of the base, mm.</param>
/// <param name="SectionMm">Height of a section, mm.</param>
public sealed record Repeats(int BaseLayers, int SectionLayers, int Sections, double BaseMm, double SectionMm)
{
    /// <summary>Looks for the shortest run of layers whose volumes repeat to the top of the first object.</summary>
    /// <returns>Null where nothing repeats, as in a plain block.</returns>
    public static Repeats? Of(FileFacts f)
    {
        var layers = f.Model.TakeWhile(l => l.Object == 0).Take(5000).ToList();
        var v = layers.Select(l => l.Volume).ToArray();
        var n = v.Length;
        if (n < 12)
            return null;
        var mean = v.Average();
        var spread = v.Select(x => Math.Abs(x - mean)).Average();
        if (mean <= 0 || spread < 0.02 * mean)
            return null;
        for (var p = 4; p <= n / 3; p++)
        {
            var sections = n / p;
            // The last layers may be left out by a flat top; the base is what is over at the bottom.
            var from = n - sections * p;
            var middle = v.Skip(from).Average();
            var own = v.Skip(from).Select(x => Math.Abs(x - middle)).Average();
            var difference = 0.0;
            for (var i = from; i + p < n; i++)
                difference += Math.Abs(v[i] - v[i + p]);
            if (own > 0.02 * middle && difference / (n - from - p) < 0.15 * own)
                return new(
                    from, p, sections, from == 0 ? 0 : Math.Round(layers[from - 1].Z, 4),
                    Math.Round((layers[^1].Z - (from == 0 ? 0 : layers[from - 1].Z)) / sections, 4));
        }

        return null;
    }
}
