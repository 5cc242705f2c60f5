using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Simulation.Instruments;

/// <summary>
/// Somebody's eyes and thumbs: they turn what a part is like into whole scores from 0 (unusable) to 4 (clean), with scatter and with a habit of their own.
/// </summary>
/// <param name="seed">Fixes habit and scatter.</param>
/// <param name="scatter">Standard deviation of one look, in scores.</param>
/// <param name="habit">Standard deviation of how much stricter or milder somebody is in one aspect, in scores.</param>
public sealed class Eyes(ulong seed, double scatter = 0.4, double habit = 0.25)
{
    /// <summary>The aspects in the order in which they are looked at.</summary>
    public static IReadOnlyList<string> Aspects { get; } = ["bridge", "overhang", "strings", "surface", "bond"];

    /// <summary>Measure of a fault at which an aspect is worth 4/e.</summary>
    private const double SagMm = 1.1, CurlMm = 0.55, StringsPer10Mm = 22, RoughMm = 0.075, SlumpMm = 0.35, WavesMm = 0.12, UnevenMm = 0.1;

    /// <summary>Bond that nobody can tell from a full one, and how much is made of what lacks.</summary>
    private const double FullBond = 0.8, BondWeight = 2.2;

    /// <summary>How good a part is in an aspect, 0–4, before anybody looks: 4 for none of the fault, 1.5 at its usual measure.</summary>
    public static double Quality(PieceLook p, string aspect) => 4 * Math.Exp(-Math.Max(0, aspect switch
    {
        "bridge" => p.SagMm / SagMm,
        "overhang" => p.CurlMm / CurlMm,
        "strings" => p.StringsPer10Mm / StringsPer10Mm,
        "surface" => p.RoughMm / RoughMm,
        "corners" => p.SlumpMm / SlumpMm + p.WavesMm / WavesMm + 0.7 * p.UnevenMm / UnevenMm,
        "tip" => p.SlumpMm / SlumpMm + 0.5 * p.UnevenMm / UnevenMm,
        "walls" => 0.7 * p.SlumpMm / SlumpMm + 0.2 * p.RoughMm / RoughMm + 0.8 * p.WavesMm / WavesMm + p.UnevenMm / UnevenMm,
        "bond" => BondWeight * Math.Max(0, FullBond - p.Bond),
        _ => throw new ArgumentOutOfRangeException(nameof(aspect), aspect, "not an aspect"),
    }));

    /// <summary>What a part may be like that got these scores: the other way round, for pictures of pieces that are long gone.</summary>
    /// <param name="scores">Aspect to score; what is missing is clean.</param>
    public static PieceLook LookOf(IReadOnlyDictionary<string, double> scores)
    {
        double Fault(string aspect) => -Math.Log(Math.Clamp(scores.TryGetValue(aspect, out var s) ? s : 4, 0.25, 4) / 4);
        var strings = Fault("strings") * StringsPer10Mm;
        return new PieceLook
        {
            Layers = 50,
            SagMm = Fault("bridge") * SagMm,
            CurlMm = Fault("overhang") * CurlMm,
            StringsPer10Mm = strings,
            Strings = (int)Math.Round(strings),
            StringMm = 0.06 + 0.03 * Fault("strings"),
            RoughMm = Fault("surface") * RoughMm,
            Bond = FullBond - Fault("bond") / BondWeight,
        };
    }

    /// <summary>All aspects together, 0–1, all alike in weight: what the hidden best temperature is best in.</summary>
    public static double Overall(PieceLook p) => Math.Exp(Aspects.Average(a => Math.Log(Quality(p, a) / 4)));

    /// <summary>How good a solid surface is, 0–4: by eye gaps show first, by thumb ridges do.</summary>
    /// <param name="fill">1 is just full.</param>
    /// <param name="byThumb">True for the thumb.</param>
    public static double SurfaceQuality(double fill, bool byThumb) =>
        4 * Math.Exp(-Math.Pow(Math.Max(0, 1 - fill) / (byThumb ? 0.06 : 0.035), 1.3) - Math.Pow(Math.Max(0, fill - 1) / (byThumb ? 0.035 : 0.06), 1.3));

    /// <summary>How good a first layer is, 0–4: gaps and grip suffer above the best, ridges below it.</summary>
    /// <param name="aboveBestMm">How far the nozzle is above its best; below 0 it presses.</param>
    /// <param name="aspect">gaps, ridges, grip, or all for a corner's one score.</param>
    public static double FirstLayerQuality(double aboveBestMm, string aspect) => aspect switch
    {
        "gaps" => 4 * Math.Exp(-Math.Pow(Math.Max(0, aboveBestMm) / 0.045, 1.5)),
        "ridges" => 4 * Math.Exp(-Math.Pow(Math.Max(0, -aboveBestMm) / 0.045, 1.5)),
        "grip" => 4 * Math.Exp(-Math.Pow(Math.Max(0, aboveBestMm) / 0.07, 1.5)),
        _ => 4 * Math.Exp(-Math.Pow(Math.Abs(aboveBestMm) / 0.05, 1.5)),
    };

    /// <summary>How clean a gap is, 0–4, by how many of its travels leave a string.</summary>
    /// <param name="share">Strings for each travel.</param>
    public static double StringsQuality(double share) => 4 * Math.Exp(-Math.Max(0, share) / 0.35);

    /// <summary>Somebody's score of a known quality: with the habit of the person and the scatter of the look.</summary>
    /// <param name="quality">0–4.</param>
    /// <param name="aspect">What is looked at.</param>
    /// <param name="part">Which part.</param>
    public Shown Score(double quality, string aspect, int part)
    {
        var seen =
            quality + new Chance(seed).Of("habit of " + aspect).Normal(0, habit) + new Chance(seed).Of("look at " + aspect, part * 1000L).Normal(0, scatter);
        return new(Math.Clamp(Math.Round(seen), 0, 4) + 0.0, "", 1);
    }

    /// <summary>Scores a part; null where the aspect can't be seen on it.</summary>
    /// <param name="p">What it is like.</param>
    /// <param name="aspect">One of <see cref="Aspects"/>.</param>
    /// <param name="part">Which part: the same part is seen the same way again only with the same look.</param>
    /// <param name="look">How often it was looked at before.</param>
    public Shown? Score(PieceLook p, string aspect, int part, int look = 0)
    {
        if (p.Layers == 0)
            return null;
        var leaning = new Chance(seed).Of("habit of " + aspect).Normal(0, habit);
        var seen = Quality(p, aspect) + leaning + new Chance(seed).Of("look at " + aspect, part * 1000L + look).Normal(0, scatter);
        return new(Math.Clamp(Math.Round(seen), 0, 4) + 0.0, "", 1);
    }
}
