using Glenfrost.Core.Settings;
namespace Glenfrost.Core.Trials;

/// <summary>Where a print ended, as its plan allows.</summary>
public static class PrintEnd
{
    /// <summary>The last layer that was printed whole.</summary>
    /// <param name="plan">The plan.</param>
    /// <param name="noun">What was printed, in a word.</param>
    /// <param name="early">True where it ended before the end of its file.</param>
    /// <param name="typed">What was typed: the layer, or where pieces are printed one after another how many stand whole; null for nothing.</param>
    /// <returns>
    /// The layer from 1; null where it stands whole, where nothing is printed in layers, and where what was typed is wrong. Then what would be right.
    /// </returns>
    public static (int? Layer, string? Wrong) Of(ITrialPlan plan, string noun, bool early, int? typed)
    {
        if (plan.TotalLayers == 0 || typed is not { } n)
            return (null, null);
        if (!early)
            return (null, $"A whole {noun} ended nowhere early. Empty this, or choose that it ended early.");
        if (plan.LayersPerPiece is { } per)
            return n >= plan.TotalLayers / per
                ? (null, $"The plan has {plan.TotalLayers / per} pieces; where it ended early, fewer stand whole.")
                : (Math.Max(1, n * per), null);
        return n >= plan.TotalLayers ? (null, $"The plan has {Say.Plural(plan.TotalLayers, "layer")}; an early end lies below that.") : (n, null);
    }
}
