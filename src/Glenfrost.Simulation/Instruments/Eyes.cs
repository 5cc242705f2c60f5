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

    /// <summary>How good a part is in an aspect, 0–4, before anybody looks: 4 for none of the fault, 1.5 at its usual measure.</summary>
    public static double Quality(PieceLook p, string aspect) => 4 * Math.Exp(-Math.Max(0, aspect switch
    {
        "bridge" => p.SagMm / 1.1,
        "overhang" => p.CurlMm / 0.55,
        "strings" => p.StringsPer10Mm / 22,
        "surface" => p.RoughMm / 0.075,
        "bond" => 2.2 * Math.Max(0, 1 - p.Bond - 0.2),
        _ => throw new ArgumentOutOfRangeException(nameof(aspect), aspect, "not an aspect"),
    }));

    /// <summary>All aspects together, 0–1, all alike in weight: what the hidden best temperature is best in.</summary>
    public static double Overall(PieceLook p) => Math.Exp(Aspects.Average(a => Math.Log(Quality(p, a) / 4)));

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
