namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>How wide a part is from one height to the next, as its layers lie, seen from one side. Lengths in mm.</summary>
/// <param name="TopMm">Upper edge.</param>
/// <param name="FromMm">Left edge, from that of the whole part.</param>
/// <param name="ToMm">Right edge.</param>
public sealed record OutlineBand(double TopMm, double FromMm, double ToMm);

/// <summary>A file of somebody's own as a run needs it. Lengths in mm.</summary>
/// <param name="Name">Of the file.</param>
/// <param name="HeightMm">Top of its last layer.</param>
/// <param name="LayerHeightMm">Thickness of most of its layers.</param>
/// <param name="Layers">Of the model, the first object's where several stand one after another.</param>
/// <param name="NozzleC">Nozzle that most of its layers are printed at, °C; null where the file sets none.</param>
/// <param name="Minutes">Of printing.</param>
/// <param name="Grams">Filament, with brim and purge.</param>
/// <param name="TopsMm">Heights at which its shape changes, the lowest first.</param>
public sealed record OwnFile(
    string Name, double HeightMm, double LayerHeightMm, int Layers, double? NozzleC, int Minutes, double Grams, IReadOnlyList<double> TopsMm)
{
    /// <summary>Most bands of an outline: as fine as a drawing of it can be read.</summary>
    public const int MostBands = 120;

    /// <summary>What it looks like from the side, the lowest band first.</summary>
    public IReadOnlyList<OutlineBand> Outline { get; init; } = [];

    /// <summary>Longest side of it, seen from above, mm.</summary>
    public double LengthMm { get; init; }

    /// <summary>What a file is for a run; null where it lays nothing above the bed.</summary>
    public static OwnFile? Of(FileFacts facts)
    {
        var model = facts.Model.Where(l => l.Object == 0).OrderBy(l => l.Z).ToList();
        if (model.Count == 0 || !(model[^1].Z > 0))
            return null;
        static double Usual(IEnumerable<double> values) => values.GroupBy(v => Math.Round(v, 3)).MaxBy(g => g.Count())!.Key;
        var nozzles = model.Select(l => l.NozzleMax).Where(double.IsFinite).ToList();
        return new(
            facts.Request.Name, Math.Round(model[^1].Z, 3), Usual(model.Select(l => l.Thickness)), model.Count, nozzles.Count == 0 ? null : Usual(nozzles),
            (int)Math.Ceiling(facts.Seconds / 60), Math.Round(facts.Grams, 1), FileZones.Of([.. model.Select(l => (l.Z, l.Volume))]))
        {
            Outline = OutlineOf(model),
            LengthMm = Math.Round(Math.Max(
                model.Max(l => l.MaxX) - model.Min(l => l.MinX), model.Max(l => l.MaxY) - model.Min(l => l.MinY)) is var mm && double.IsFinite(mm) ? mm : 0, 1),
        };
    }

    /// <summary>From the side on which more of its shape is seen: the front, unless the other one shows more.</summary>
    private static IReadOnlyList<OutlineBand> OutlineOf(IReadOnlyList<LayerFacts> model)
    {
        var front = OutlineOf([.. model.Where(l => l.MaxX > l.MinX).Select(l => (l.Z, l.MinX, l.MaxX))]);
        var side = OutlineOf([.. model.Where(l => l.MaxY > l.MinY).Select(l => (l.Z, l.MinY, l.MaxY))]);
        return side.Count > 2 * front.Count ? side : front;
    }

    /// <summary>Layers as wide as the one beneath are one band; where there are too many bands, what differs least is put together.</summary>
    /// <param name="layers">Height of the top, left and right edge of each layer, mm, from the bed up.</param>
    internal static IReadOnlyList<OutlineBand> OutlineOf(IReadOnlyList<(double ZMm, double FromMm, double ToMm)> layers)
    {
        if (layers.Count == 0)
            return [];
        var left = layers.Min(l => l.FromMm);
        for (var fine = 0.1; ; fine *= 1.6)
        {
            var bands = new List<OutlineBand>();
            foreach (var (z, from, to) in layers)
            {
                var band = new OutlineBand(Math.Round(z, 3), Math.Round(from - left, 2), Math.Round(to - left, 2));
                if (bands is [.., var last] && Math.Abs(last.FromMm - band.FromMm) <= fine && Math.Abs(last.ToMm - band.ToMm) <= fine)
                    bands[^1] = last with { TopMm = band.TopMm };
                else
                    bands.Add(band);
            }

            if (bands.Count <= MostBands)
                return bands;
        }
    }
}

/// <summary>
/// Where the shape of a part changes, as its file shows it: heights at which layers begin to take clearly more or less plastic than those beneath. A base, a
/// post, a roof are so told apart; what changes without changing the amount is not.
/// </summary>
public static class FileZones
{
    /// <summary>Most heights that are named.</summary>
    public const int Most = 6;

    /// <summary>Layers on either side that are compared.</summary>
    private const int Window = 5;

    /// <summary>A smaller change is none: walls that slope and infill that alternates stay below it.</summary>
    private const double LeastChange = 0.35;

    /// <summary>Zones are at least that high, mm: lower ones can't be looked at by themselves. Of a low part less is enough.</summary>
    private const double LeastMm = 2, LeastShare = 0.15;

    /// <summary>The heights, mm, the lowest first.</summary>
    /// <param name="layers">Height of the nozzle, mm, and plastic, mm³, of each layer of one object, from the bed up.</param>
    public static IReadOnlyList<double> Of(IReadOnlyList<(double ZMm, double VolumeMm3)> layers)
    {
        static double Middle(IEnumerable<double> of) => of.Order().ToList() is var sorted ? sorted[sorted.Count / 2] : 0;
        var changes = new List<(int Below, double Change)>();
        for (var i = Window; i <= layers.Count - Window; i++)
        {
            var (below, above) = (
                Middle(layers.Skip(i - Window).Take(Window).Select(l => l.VolumeMm3)), Middle(layers.Skip(i).Take(Window).Select(l => l.VolumeMm3)));
            if (Math.Max(below, above) > 0 && Math.Abs(above - below) / Math.Max(below, above) is var change && change >= LeastChange)
                changes.Add((i - 1, change));
        }

        var tops = new List<double>();
        var least = layers.Count == 0 ? LeastMm : Math.Min(LeastMm, LeastShare * layers[^1].ZMm);
        // The clearest change first, and of one change its clearest layer.
        foreach (var (below, _) in changes.OrderByDescending(c => Math.Round(c.Change, 1)).ThenByDescending(c => Step(c.Below)).ThenBy(c => c.Below))
        {
            var top = layers[below].ZMm;
            if (tops.Count < Most && top >= least && layers[^1].ZMm - top >= least && tops.All(t => Math.Abs(t - top) >= least))
                tops.Add(Math.Round(top, 3));
        }

        return [.. tops.Order()];

        // Where medians say about the same, the step itself decides.
        double Step(int below) => Math.Abs(layers[below + 1].VolumeMm3 - layers[below].VolumeMm3);
    }
}
