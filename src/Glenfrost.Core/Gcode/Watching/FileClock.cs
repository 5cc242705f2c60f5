using Glenfrost.Core.Equipment;

namespace Glenfrost.Core.Gcode.Watching;

/// <summary>A layer as the file foresees it.</summary>
/// <param name="Layer">From 1.</param>
/// <param name="ZMm">Upper face, mm.</param>
/// <param name="ThicknessMm">mm.</param>
/// <param name="StartS">Seconds from the first line of the first layer.</param>
/// <param name="Seconds">How long it takes.</param>
/// <param name="FlowMm3PerS">Mean while it extrudes, mm³/s.</param>
public sealed record TimedLayer(int Layer, double ZMm, double ThicknessMm, double StartS, double Seconds, double FlowMm3PerS);

/// <summary>Where a print was when somebody noticed something.</summary>
/// <param name="AtS">Seconds of the file.</param>
/// <param name="UncertaintyS">95 % half-width of it.</param>
/// <param name="Layer">Layer, from 1.</param>
/// <param name="FirstLayer">Earliest layer that it may have been.</param>
/// <param name="LastLayer">Latest.</param>
/// <param name="ZMm">Height, mm.</param>
/// <param name="ZUncertaintyMm">95 % half-width, half a layer at least.</param>
/// <param name="FlowMm3PerS">mm³/s.</param>
/// <param name="FlowUncertainty">Half of what the flow changes over those layers, mm³/s.</param>
public sealed record Noticed(
    double AtS, double UncertaintyS, int Layer, int FirstLayer, int LastLayer, double ZMm, double ZUncertaintyMm, double FlowMm3PerS, double FlowUncertainty);

/// <summary>From the time of a print to its place: the file's own clock, paced as its printer is.</summary>
public static class FileClock
{
    /// <summary>How long somebody at the bench takes from a sound to a key, s, and 95 % half-width of it.</summary>
    public const double ReactionS = 0.8;

    /// <summary>See <see cref="ReactionS"/>.</summary>
    public const double ReactionUncertaintyS = 0.6;

    /// <summary>Where the print was.</summary>
    /// <param name="layers">As the file foresees them, in order.</param>
    /// <param name="elapsedS">Real seconds from the first layer to the key.</param>
    /// <param name="pace">How the printer keeps to its files.</param>
    /// <param name="reactionS">Between the event and the key, s.</param>
    /// <param name="reactionUncertaintyS">95 % half-width of that.</param>
    /// <returns>Null before the first layer, and well after the last.</returns>
    public static Noticed? At(
        IReadOnlyList<TimedLayer> layers, double elapsedS, PrinterPace pace, double reactionS = ReactionS, double reactionUncertaintyS = ReactionUncertaintyS)
    {
        if (layers.Count == 0 || elapsedS < 0)
            return null;
        var at = Math.Max(0, (elapsedS - reactionS) / pace.Ratio);
        var u = Math.Sqrt(Math.Pow(reactionUncertaintyS / pace.Ratio, 2) + Math.Pow(at * pace.Spread, 2));
        var end = layers[^1].StartS + layers[^1].Seconds;
        if (at - u > end)
            return null;
        var (now, first, last) = (Find(layers, at), Find(layers, at - u), Find(layers, at + u));
        var flows = layers.Skip(first).Take(last - first + 1).Select(l => l.FlowMm3PerS).ToList();
        var half = Math.Max(layers[now].ThicknessMm / 2, Math.Max(layers[last].ZMm - layers[now].ZMm, layers[now].ZMm - layers[first].ZMm));
        return new(
            at, u, layers[now].Layer, layers[first].Layer, layers[last].Layer, layers[now].ZMm, half, layers[now].FlowMm3PerS, (flows.Max() - flows.Min()) / 2);
    }

    private static int Find(IReadOnlyList<TimedLayer> layers, double at)
    {
        var (low, high) = (0, layers.Count - 1);
        while (low < high)
        {
            var mid = (low + high + 1) / 2;
            if (layers[mid].StartS <= at)
                low = mid;
            else
                high = mid - 1;
        }

        return low;
    }
}
