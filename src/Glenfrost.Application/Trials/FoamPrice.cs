using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FoamingFlow;

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

    /// <summary>The prices at a verdict's density; null where price or density are not known.</summary>
    /// <param name="price">What the filament costs.</param>
    /// <param name="v">The verdict.</param>
    public static FoamPrice? Of(FilamentPrice? price, FoamVerdict v) =>
        // A litre weighs as many kilograms as its density.
        price is null || v.PredictedDensityGPerCm3 is not { } density ? null
        : new(Math.Round(price.PerKg * density, 2), Math.Round(price.PerKg * v.From.SolidDensityGPerCm3, 2), price.Currency);
}
