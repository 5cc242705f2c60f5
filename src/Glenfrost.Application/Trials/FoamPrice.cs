using Glenfrost.Core.Trials.FoamingFlow;
using Glenfrost.Storage.Records;

namespace Glenfrost.Application.Trials;

/// <summary>What a foamed part costs beside the same part of the same filament without foam, in whole units of the currency.</summary>
/// <param name="PerLitre">A litre of foamed part.</param>
/// <param name="SolidPerLitre">A litre of solid part.</param>
/// <param name="Currency">Of the price.</param>
public sealed record FoamPrice(double PerLitre, double SolidPerLitre, string Currency)
{
    /// <summary>A part to picture the price by, cm³ of plastic.</summary>
    public const double PartCm3 = 30;

    /// <summary>That part foamed.</summary>
    public double PerPart => Math.Round(PerLitre * PartCm3 / 1000, 2);

    /// <summary>That part solid.</summary>
    public double SolidPerPart => Math.Round(SolidPerLitre * PartCm3 / 1000, 2);

    /// <summary>The prices at a verdict's density; null where price, mass or density are not known.</summary>
    /// <param name="f">The filament.</param>
    /// <param name="v">The verdict.</param>
    public static FoamPrice? Of(Filament? f, FoamVerdict v)
    {
        if (f is not { PriceMinor: { } price, NetMassUg: > 0 and var net, SolidDensityGPerCm3: { } solid } || v.PredictedDensityGPerCm3 is not { } density)
            return null;
        // A reel's price over its grams; a litre weighs a thousand times its density.
        var perG = price / 100.0 / (net / 1e6);
        return new(Math.Round(perG * density * 1000, 2), Math.Round(perG * solid * 1000, 2), f.Currency ?? "");
    }
}
