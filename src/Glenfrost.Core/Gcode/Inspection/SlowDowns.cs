namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>What another minimum layer time would do.</summary>
/// <param name="MinimumS">s.</param>
/// <param name="ChangeS">Seconds more, or fewer where negative.</param>
/// <param name="Layers">Layers that it would slow.</param>
public sealed record OtherMinimum(double MinimumS, double ChangeS, int Layers);

/// <summary>Layers that were slowed down because they would be done too soon.</summary>
/// <param name="Layers">How many.</param>
/// <param name="FirstLayer">Index of the first.</param>
/// <param name="MinimumS">The time that they are slowed to, s; NaN where they have none in common.</param>
/// <param name="CostS">Seconds that the slowing costs.</param>
/// <param name="SlowestShare">Slowest of them, as a share of the file's usual speeds.</param>
/// <param name="Others">Other minimums.</param>
public sealed record SlowDowns(int Layers, int FirstLayer, double MinimumS, double CostS, double SlowestShare, IReadOnlyList<OtherMinimum> Others)
{
    private const double Slowed = 0.93;

    /// <summary>Compares each layer with the speeds that the same features usually have in the file.</summary>
    /// <returns>Null where no layer is slowed.</returns>
    public static SlowDowns? Of(FileFacts f)
    {
        var layers = Natural(f);
        var slowed = layers.Where(l => l.Share < Slowed).ToList();
        if (slowed.Count < 2)
            return null;
        var times = slowed.Select(l => l.Layer.Seconds).Order().ToList();
        var middle = times[times.Count / 2];
        var together = times.Count(t => Math.Abs(t - middle) <= 0.1 * middle) >= 0.6 * times.Count;
        // Usual ones, and some around the one that was found.
        var minimums = new[] { 3, 5, 8, 10, 15, 20 }.Select(t => (double)t)
            .Concat(together ? new[] { 0.5, 0.75, 1.25, 1.5 }.Select(k => Math.Round(k * middle)) : []).Where(t => t > 0).Distinct().Order().ToList();
        return new(
            slowed.Count, slowed[0].Layer.Index, together ? middle : double.NaN, slowed.Sum(l => l.Layer.Seconds - l.NaturalS), slowed.Min(l => l.Share),
            [.. minimums.Select(t => new OtherMinimum(t, layers.Sum(l => Math.Max(l.NaturalS, t) - l.Layer.Seconds), layers.Count(l => l.NaturalS < t)))]);
    }

    /// <summary>For each layer but an object's first: its time at the usual speeds, and how much of these it has.</summary>
    public static IReadOnlyList<(LayerFacts Layer, double NaturalS, double Share)> Natural(FileFacts f)
    {
        var model = f.Model.ToList();
        var layers = model.Where((l, i) => i > 0 && model[i - 1].Object == l.Object).ToList();
        var usual = UsualSpeeds(f, layers);
        return
        [
            .. layers.Select(l =>
            {
                if (l.AskedSeconds <= 0)
                    return (l, l.Seconds, 1.0);
                var left = l.AskedSeconds - l.Features.Sum(x => x.Asked);
                var natural =
                    l.Features.Sum(x => Math.Min(x.Asked, x.Length / usual[x.Feature])) + (l.Features.Count > 0 ? left : Math.Min(left, l.Length / usual[-1]));
                return (l, l.Seconds - (l.AskedSeconds - natural), natural / l.AskedSeconds);
            }),
        ];
    }

    /// <summary>The speed that most of a feature's layers reach: the one that a fifth of the length exceeds.</summary>
    private static Dictionary<int, double> UsualSpeeds(FileFacts f, List<LayerFacts> layers)
    {
        var usual = new Dictionary<int, double>
        {
            [-1] = Upper(layers.Where(l => l.Length > 0 && l.AskedSeconds > 0).Select(l => (l.Length / l.AskedSeconds, l.Length))),
        };
        for (var i = 0; i < f.Features.Count; i++)
        {
            var of = layers.SelectMany(l => l.Features).Where(x => x.Feature == i && x.Asked > 0).Select(x => (x.Length / x.Asked, x.Length));
            usual[i] = Upper(of);
        }

        return usual;
    }

    private static double Upper(IEnumerable<(double Speed, double Length)> of)
    {
        var sorted = of.OrderBy(x => x.Speed).ToList();
        var left = 0.8 * sorted.Sum(x => x.Length);
        foreach (var (speed, length) in sorted)
        {
            left -= length;
            if (left <= 0)
                return speed;
        }

        return sorted.Count > 0 ? sorted[^1].Speed : 1;
    }
}
