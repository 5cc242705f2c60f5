namespace Glenfrost.Core.TestPieces;

/// <summary>
/// The proportions of a tower of stiles. Each section is a stile: two posts with a lintel, a leaning slab, two reeds,
/// a half-round wall and a pin. Sizes scale with the nozzle: 1.0 at 0.4 mm.
/// </summary>
/// <param name="NozzleDiameterMm">Nozzle diameter, mm.</param>
/// <param name="SectionHeightMm">Height of one section, mm.</param>
/// <param name="DepthMm">Depth of the piece, mm; the smallest dimension of its footprint.</param>
public sealed record Stile(double NozzleDiameterMm, double SectionHeightMm, double DepthMm)
{
    /// <summary>Depth of the piece at the given nozzle, mm, where nothing wider is asked for.</summary>
    public static double StandardDepthMm(double nozzleDiameterMm) => 14 * nozzleDiameterMm / 0.4;

    /// <summary>Scale against a 0.4 mm nozzle.</summary>
    public double Scale => NozzleDiameterMm / 0.4;

    /// <summary>Width of a post, mm.</summary>
    public double PostWidthMm => 5 * Scale;

    /// <summary>Free span of the lintel, mm.</summary>
    public double BridgeSpanMm => 18 * Scale;

    /// <summary>Thickness of the lintel, mm; at most a fifth of the section.</summary>
    public double LintelMm => Math.Min(1.6 * Scale, SectionHeightMm / 5);

    /// <summary>How far the slab leans out, mm; 45 degrees, at most half the section.</summary>
    public double SlabReachMm => Math.Min(7 * Scale, SectionHeightMm * 0.6);

    /// <summary>Diameter of a reed, mm.</summary>
    public double ReedMm => 2 * Scale;

    /// <summary>Clear distance between the reeds, mm.</summary>
    public double ReedGapMm => 8 * Scale;

    /// <summary>Radius of the half-round wall, mm.</summary>
    public double HalfRoundMm => 5 * Scale;

    /// <summary>Width of the whole piece, mm.</summary>
    public double WidthMm => 2 * PostWidthMm + BridgeSpanMm + SlabReachMm + 3 * Scale + 2 * ReedMm + ReedGapMm + 3 * Scale + HalfRoundMm;

    /// <summary>Rough plastic volume of one section, mm³: solid posts, slab and lintel, thin reeds.</summary>
    public double SectionVolumeMm3
    {
        get
        {
            var posts = 2 * PostWidthMm * DepthMm * (SectionHeightMm - LintelMm);
            var lintel = (2 * PostWidthMm + BridgeSpanMm) * DepthMm * LintelMm;
            var slab = 0.5 * SlabReachMm * DepthMm * 2.5 * Scale;
            var reeds = 2 * Math.PI * ReedMm * ReedMm / 4 * SectionHeightMm;
            var round = 0.5 * Math.PI * HalfRoundMm * HalfRoundMm * SectionHeightMm;
            return posts + lintel + slab + reeds + round;
        }
    }

    /// <summary>Rough plastic volume of the base plate, mm³.</summary>
    public double BaseVolumeMm3(double baseHeightMm) => WidthMm * DepthMm * baseHeightMm;
}
