namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>What another minimum layer time would do.</summary>
/// <param name="MinimumS">s.</param>
/// <param name="ChangeS">Seconds more, or fewer where negative.</param>
/// <param name="Layers">Layers that it would slow.</param>
public sealed record OtherMinimum(double MinimumS, double ChangeS, int Layers);

/// <summary>Layers that were slowed down because they would be done too soon.</summary>
/// <param name="Layers">How many.</param>
/// <param name="FirstLayer">Index of the first; -1 where there is none.</param>
/// <param name="MinimumS">The time that they are slowed to, s; NaN where they have none in common.</param>
/// <param name="Stated">True where the file states that time in a comment.</param>
/// <param name="CostS">Seconds that the slowing costs.</param>
/// <param name="AtLeast">True where the file shows no layer at its own speed, or where ramps take much of the time: it costs that much or more.</param>
/// <param name="SlowestShare">Slowest of them, as a share of the file's own speeds.</param>
/// <param name="Others">Other minimums.</param>
public sealed record SlowDowns(
    int Layers, int FirstLayer, double MinimumS, bool Stated, double CostS, bool AtLeast, double SlowestShare, IReadOnlyList<OtherMinimum> Others)
{
    private const double Slowed = 0.93;

    /// <summary>How near to the least layer time a layer lasts that is slowed to it: slicing programs reckon ramps in their own ways.</summary>
    private const double Near = 0.05;

    /// <summary>Share of the time at own speeds that ramps may take before what is promised is a bound only.</summary>
    private const double MostRamps = 0.4;

    /// <summary>
    /// Compares each layer with the speeds that the same features have at their fastest in the file, and with the time that layers have in common.
    /// </summary>
    /// <returns>Null where no layer is slowed and the file states no least layer time.</returns>
    public static SlowDowns? Of(FileFacts f)
    {
        var layers = Natural(f).ToList();
        if (layers.Count == 0)
            return null;
        var bySpeed = layers.Where(l => l.Share < Slowed).ToList();
        var minimum = f.StatedLayerTimeS ?? Common(bySpeed) ?? EquallyLong(layers, l => l.Seconds) ?? EquallyLong(layers, l => l.AskedSeconds);
        // What is no slower than the fastest and lasts another time than the minimum shows the file's own speeds.
        var free = layers.Any(l => l.Share >= Slowed && (minimum is not { } t || !Lasts(l.Layer, t)));
        // A slow layer that lasts longer than the minimum is slow for another reason: overhangs, small features.
        var slowed =
            minimum is { } m
                ? layers.Where(l => l.Share < Slowed ? l.Layer.AskedSeconds <= (1 + 2 * Near) * m : !free && Lasts(l.Layer, m)).ToList()
                : bySpeed;
        if (slowed.Count < 2)
            return f.StatedLayerTimeS is { } said ? new(0, -1, said, true, 0, false, 1, Other(layers, [said], false)) : null;
        var ramps = slowed.Sum(l => l.RampS) / Math.Max(slowed.Sum(l => l.NaturalS), 1e-9);
        var atLeast = !free || ramps > MostRamps;
        return new(
            slowed.Count, slowed[0].Layer.Index, minimum ?? double.NaN, f.StatedLayerTimeS is not null, -ChangeS(slowed, 0, atLeast), atLeast,
            slowed.Min(l => l.Share), Other(layers, minimum is { } at ? [.. new[] { 0.5, 0.75, 1.25, 1.5 }.Select(k => Math.Round(k * at))] : [], atLeast));
    }

    /// <summary>True where a layer may have been made to last some time: slicing programs count travel and ramps in their own ways, or not at all.</summary>
    private static bool Lasts(LayerFacts l, double seconds) => l.AskedSeconds * (1 - Near) <= seconds && seconds <= l.Seconds * (1 + Near);

    /// <summary>Usual minimums, and some around the one that was found.</summary>
    private static IReadOnlyList<OtherMinimum> Other(List<NaturalLayer> layers, double[] around, bool atLeast) =>
        [
            .. new double[] { 3, 5, 8, 10, 15, 20 }.Concat(around).Where(t => t > 0).Distinct().Order()
                .Select(t => new OtherMinimum(t, ChangeS(layers, t, atLeast), layers.Count(l => l.NaturalS < t))),
        ];

    /// <summary>What another minimum would change, s; fewer where negative.</summary>
    /// <param name="layers">As <see cref="Natural"/> has them.</param>
    /// <param name="minimumS">The other minimum, s.</param>
    /// <param name="atLeast">True for a bound of what is saved: a tenth, by which this reckoning of ramps may be wrong, is taken off.</param>
    public static double ChangeS(IEnumerable<NaturalLayer> layers, double minimumS, bool atLeast)
    {
        var change = layers.Sum(l => Math.Max(l.NaturalS, minimumS) - l.Layer.Seconds);
        return atLeast && change < 0 ? change * (1 - Wrong) : change;
    }

    private const double Wrong = 0.1;

    /// <summary>The time that most slowed layers last; null where they last differently.</summary>
    private static double? Common(List<NaturalLayer> slowed)
    {
        if (slowed.Count < 2)
            return null;
        var times = slowed.Select(l => l.Layer.Seconds).Order().ToList();
        var middle = times[times.Count / 2];
        return times.Count(t => Math.Abs(t - middle) <= 0.1 * middle) >= 0.6 * times.Count ? middle : null;
    }

    /// <summary>
    /// The time that layers of different length last alike, s: the longer its path the faster such a layer runs, which only a least layer time makes. Null
    /// where there are no five such layers.
    /// </summary>
    private static double? EquallyLong(List<NaturalLayer> layers, Func<LayerFacts, double> lasts)
    {
        var sorted = layers.Where(l => l.Layer.AskedSeconds > 0).OrderBy(l => lasts(l.Layer)).ToList();
        var (best, from) = (0, 0);
        double? time = null;
        for (var to = 0; to < sorted.Count; to++)
        {
            while (lasts(sorted[to].Layer) > lasts(sorted[from].Layer) * (1 + Near))
                from++;
            // Only where it can't be made longer: a file of thousands of layers that last alike is looked at once.
            var ends = to == sorted.Count - 1 || lasts(sorted[to + 1].Layer) > lasts(sorted[from].Layer) * (1 + Near);
            if (!ends || to - from + 1 <= Math.Max(best, 4))
                continue;
            var group = sorted.GetRange(from, to - from + 1);
            var (shortest, longest) = (group.Min(l => l.Layer.Length), group.Max(l => l.Layer.Length));
            if (longest < shortest * 1.2 || Correlation(group) < 0.8)
                continue;
            (best, time) = (group.Count, lasts(group[group.Count / 2].Layer));
        }

        return time;
    }

    /// <summary>Of length and mean speed: layers that run at their own speed have none.</summary>
    private static double Correlation(List<NaturalLayer> group)
    {
        var x = group.Select(l => l.Layer.Length).ToList();
        var y = group.Select(l => l.Layer.Length / l.Layer.AskedSeconds).ToList();
        var (mx, my) = (x.Average(), y.Average());
        var (xy, xx, yy) = (x.Zip(y).Sum(p => (p.First - mx) * (p.Second - my)), x.Sum(v => (v - mx) * (v - mx)), y.Sum(v => (v - my) * (v - my)));
        return xx > 0 && yy > 0 && Math.Sqrt(yy / y.Count) > 0.02 * my ? xy / Math.Sqrt(xx * yy) : 0;
    }

    /// <summary>A layer at the file's own speeds.</summary>
    /// <param name="Layer">As it is.</param>
    /// <param name="NaturalS">Its time at these speeds, s.</param>
    /// <param name="Share">How much of these speeds it has.</param>
    /// <param name="RampS">Of <paramref name="NaturalS"/>, what ramps take, s.</param>
    public sealed record NaturalLayer(LayerFacts Layer, double NaturalS, double Share, double RampS);

    /// <summary>For each layer but an object's first: its time at the speeds that its features have at their fastest in the file.</summary>
    public static IReadOnlyList<NaturalLayer> Natural(FileFacts f)
    {
        var model = f.Model.ToList();
        var layers = model.Where((l, i) => i > 0 && model[i - 1].Object == l.Object).ToList();
        var fastest = FastestSpeeds(f, layers);
        return
        [
            .. layers.Select(l =>
            {
                if (l.AskedSeconds <= 0)
                    return new NaturalLayer(l, l.Seconds, 1, 0);
                var left = l.AskedSeconds - l.Features.Sum(x => x.Asked);
                var nameless = l.Features.Count > 0 ? left : Math.Min(left, l.Length / fastest[-1]);
                var natural = l.Features.Sum(x => Math.Min(x.Asked, x.Length / fastest[x.Feature])) + nameless;
                var share = natural / l.AskedSeconds;
                // Ramps grow with the speed that they lead to.
                var ramps = Ramps(l) / share;
                return new(l, Math.Min(l.Seconds, l.Seconds - l.ExtrudeSeconds + natural + ramps), share, ramps);
            }),
        ];
    }

    /// <summary>How much faster a layer's lines must be asked for so that it lasts some time, as a share of what is asked now.</summary>
    /// <param name="l">The layer.</param>
    /// <param name="seconds">How long it should last, travel included, s.</param>
    public static double SpeedFor(LayerFacts l, double seconds)
    {
        var (asked, ramps) = (l.AskedSeconds, Ramps(l));
        var target = seconds - (l.Seconds - l.ExtrudeSeconds);
        if (target <= 1e-3)
            return double.PositiveInfinity;
        // asked ÷ k + ramps · k = target; beyond the root speed only goes into ramps.
        var inside = target * target - 4 * ramps * asked;
        return ramps < 1e-6 ? asked / target : inside < 0 ? Math.Sqrt(asked / ramps) : (target - Math.Sqrt(inside)) / (2 * ramps);
    }

    private static double Ramps(LayerFacts l) => Math.Max(0, l.ExtrudeSeconds - l.AskedSeconds);

    /// <summary>
    /// The fastest that a layer lays each feature; where lines have no names, what they are for changes from layer to layer, and the speed that a fifth of the
    /// length exceeds stands for all.
    /// </summary>
    internal static Dictionary<int, double> FastestSpeeds(FileFacts f, List<LayerFacts> layers)
    {
        var fastest = new Dictionary<int, double>
        {
            [-1] = Upper(layers.Where(l => l.Length > 0 && l.AskedSeconds > 0).Select(l => (l.Length / l.AskedSeconds, l.Length))),
        };
        for (var i = 0; i < f.Features.Count; i++)
        {
            var of = layers.SelectMany(l => l.Features).Where(x => x.Feature == i && x.Asked > 0).ToList();
            // A few crumbs are no layer of a feature.
            var crumb = 0.1 * (of.Count > 0 ? of.Average(x => x.Length) : 0);
            fastest[i] = of.Where(x => x.Length >= crumb).Select(x => x.Length / x.Asked).DefaultIfEmpty(1).Max();
        }

        return fastest;
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
