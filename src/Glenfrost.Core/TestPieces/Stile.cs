using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.TestPieces;

/// <summary>
/// The measures of a tower of stiles. Each section is a stile: two posts with a lintel (bridge), two reeds (strings) and a
/// pin (detail) standing in the window between them on the lintel below, a half-round wall (surface) on the left post, a flare
/// on the right one, half a funnel that leans out alike on all its sides (overhang), and its number as notches in the edges of the
/// left post. Sizes scale with the nozzle: 1.0 at 0.4 mm.
/// </summary>
/// <param name="NozzleDiameterMm">Nozzle diameter, mm.</param>
/// <param name="SectionHeightMm">Height of one section, mm.</param>
/// <param name="DepthMm">Depth of the piece, mm; the smallest dimension of its footprint.</param>
public sealed record Stile(double NozzleDiameterMm, double SectionHeightMm, double DepthMm)
{
    /// <summary>Its form as it is printed now. The first one had a slab that leaned out of its side and a number cut in its post.</summary>
    public const int Form = 2;

    /// <summary>What a stile of an older form is called by; null for the form of now.</summary>
    /// <param name="form">Form that a plan says, null for the first, which no plan said; or <see cref="Form"/>.</param>
    public static string? OlderForm(int? form) => form is Form ? null : "with a slab";

    /// <summary>Clear distance between the reeds where none is asked for, mm; the same at every nozzle, since strings are.</summary>
    public const double UsualReedGapMm = 8;

    /// <summary>Lean of the flare from the upright where none is asked for, degrees.</summary>
    public const double UsualFlareAngleDeg = 45;

    /// <summary>Widest window, mm: beyond it every filament sags.</summary>
    public const double WidestWindowMm = 60;

    /// <summary>Depth of the piece at the given nozzle, mm, where nothing wider is asked for.</summary>
    public static double StandardDepthMm(double nozzleDiameterMm) => 14 * nozzleDiameterMm / 0.4;

    /// <summary>Clear distance between the reeds, mm.</summary>
    public double ReedGapMm { get; init; } = UsualReedGapMm;

    /// <summary>Lean of the flare from the upright, degrees.</summary>
    public double FlareAngleDeg { get; init; } = UsualFlareAngleDeg;

    /// <summary>Height of the notches together, mm; null for the usual one.</summary>
    public double? AskedNotchesMm { get; init; }

    /// <summary>Width of the window as asked for, mm; null for the usual one.</summary>
    public double? AskedBridgeSpanMm { get; init; }

    /// <summary>Scale against a 0.4 mm nozzle.</summary>
    public double Scale => NozzleDiameterMm / 0.4;

    /// <summary>Width of a line that the smallest features are measured in, mm.</summary>
    public double LineMm => NozzleDiameterMm * 1.1;

    /// <summary>Width of the left post, which bears the number, mm.</summary>
    public double NumberPostMm => 7 * Scale;

    /// <summary>Width of the right post, mm.</summary>
    public double PostWidthMm => 5 * Scale;

    /// <summary>Diameter of a reed, mm.</summary>
    public double ReedMm => Math.Min(2 * Scale, DepthMm / 3);

    /// <summary>Clear distance between a reed and its post, mm.</summary>
    public double ReedToPostMm => (BridgeSpanMm - 2 * ReedMm - ReedGapMm) / 2;

    /// <summary>Free span of the lintel, mm.</summary>
    public double BridgeSpanMm => AskedBridgeSpanMm ?? LeastSpanMm;

    /// <summary>The narrowest window that holds the reeds with room beside them, mm.</summary>
    public double LeastSpanMm => Math.Round(2 * ReedMm + ReedGapMm + 6 * Math.Max(1, Scale), 2);

    /// <summary>Thickness of the lintel, mm; at most a quarter of the section.</summary>
    public double LintelMm => Math.Min(1.6 * Scale, SectionHeightMm / 4);

    /// <summary>Where the flare leaves its post, mm above the section's lower edge.</summary>
    public double FlareFromMm => SectionHeightMm * 0.1;

    /// <summary>Thickness of the flare's wall, upright, mm.</summary>
    public double FlareMm => Math.Min(2.5 * Scale, SectionHeightMm * 0.25);

    /// <summary>How far the flare leans out, mm; its rim stays below the section's upper edge and within the post's depth.</summary>
    public double FlareReachMm => Math.Min(
        Math.Min(7 * Scale, DepthMm * 0.48), (SectionHeightMm * 0.95 - FlareFromMm - FlareMm) * Math.Tan(FlareAngleDeg * Math.PI / 180));

    /// <summary>Radius of the half-round wall, mm.</summary>
    public double HalfRoundMm => Math.Min(5 * Scale, DepthMm * 0.42);

    /// <summary>Height of reeds, mm above the section's lower edge.</summary>
    public double ReedHeightMm => (SectionHeightMm - LintelMm) * 0.7;

    /// <summary>Height of the pin, mm above the section's lower edge.</summary>
    public double PinHeightMm => (SectionHeightMm - LintelMm) * 0.5;

    /// <summary>Radius of the pin at its foot, mm.</summary>
    public double PinFootMm => Math.Min(1.5 * Scale, DepthMm * 0.15);

    /// <summary>Height of the notches together, mm.</summary>
    public double NotchesMm => AskedNotchesMm ?? Math.Min(5 * Scale, (SectionHeightMm - LintelMm) * 0.85);

    /// <summary>Depth of a notch in its post, mm: two lines.</summary>
    public double NotchDepthMm => Math.Min(2 * LineMm, DepthMm * 0.15);

    /// <summary>X of the left post's outer face, mm from the piece's left end.</summary>
    public double LeftPostX => HalfRoundMm;

    /// <summary>X of the window's left edge, mm.</summary>
    public double WindowX => LeftPostX + NumberPostMm;

    /// <summary>X of the right post's inner face, mm.</summary>
    public double RightPostX => WindowX + BridgeSpanMm;

    /// <summary>X of the right post's outer face, mm.</summary>
    public double FlareX => RightPostX + PostWidthMm;

    /// <summary>Width of the whole piece, mm.</summary>
    public double WidthMm => FlareX + FlareReachMm;

    /// <summary>X of the left and the right reed's centre, mm.</summary>
    public (double Left, double Right) ReedX => (WindowX + ReedToPostMm + ReedMm / 2, RightPostX - ReedToPostMm - ReedMm / 2);

    /// <summary>Y of the reeds' centres, mm from the front.</summary>
    public double ReedY => DepthMm * 0.3;

    /// <summary>X and y of the pin's centre, mm.</summary>
    public (double X, double Y) Pin => ((WindowX + RightPostX) / 2, DepthMm * 0.75);

    /// <summary>Radius of the pin at a height above the section's lower edge, mm; 0 above its tip.</summary>
    public double PinRadius(double z) => z >= PinHeightMm ? 0 : PinFootMm + (Math.Min(PinFootMm, NozzleDiameterMm * 0.9) - PinFootMm) * z / PinHeightMm;

    /// <summary>Inner and outer radius of the flare at a height above the section's lower edge, mm from
    /// the middle of the right post's outer face; null where there is none.</summary>
    public (double From, double To)? FlareAt(double z)
    {
        var lean = Math.Tan(FlareAngleDeg * Math.PI / 180);
        var to = Math.Min(FlareReachMm, (z - FlareFromMm) * lean);
        var from = Math.Max(0, (z - FlareFromMm - FlareMm) * lean);
        return to <= 0 || from >= to ? null : (from, to);
    }

    /// <summary>Layers of one row of notches; below two there is no rib between them, and none are cut.</summary>
    private int RowLayers(double layerHeightMm) => (int)Math.Floor(NotchesMm / Tally.Rows / layerHeightMm + 1e-9);

    /// <summary>
    /// A section's number as notches in the front of the left post, whole layers tall: each from x to x, mm from the piece's left end,
    /// and from z to z, mm above the section's lower edge. Empty where a row would be lower than two layers, and for a number
    /// that has no room.
    /// </summary>
    /// <param name="number">The section's number, from 1.</param>
    /// <param name="layerHeightMm">Layer height, mm.</param>
    public IReadOnlyList<(double FromX, double ToX, double FromZ, double ToZ)> Notches(int number, double layerHeightMm)
    {
        var row = RowLayers(layerHeightMm);
        if (row < 2 || number > Tally.Most)
            return [];
        var cut = Math.Min(row - 1, Math.Max(1, (int)Math.Round(row * 0.6))) * layerHeightMm;
        var below = Math.Floor((SectionHeightMm - LintelMm - Tally.Rows * row * layerHeightMm) / 2 / layerHeightMm) * layerHeightMm;
        return
        [
            .. Enumerable.Range(0, Tally.Rows).SelectMany(r => Tally.Row(number, r).Select(c =>
                (LeftPostX + c.From * NumberPostMm, LeftPostX + c.To * NumberPostMm, below + r * row * layerHeightMm, below + r * row * layerHeightMm + cut))),
        ];
    }

    /// <summary>Rough plastic volume of one section, mm³.</summary>
    public double SectionVolumeMm3 =>
        (NumberPostMm + PostWidthMm) * DepthMm * SectionHeightMm + BridgeSpanMm * DepthMm * LintelMm + 0.5 * Math.PI * FlareReachMm * FlareReachMm * FlareMm
        + 2 * Math.PI * ReedMm * ReedMm / 4 * ReedHeightMm + 0.5 * Math.PI * HalfRoundMm * HalfRoundMm * SectionHeightMm;

    /// <summary>Rough plastic volume of the base plate, mm³.</summary>
    public double BaseVolumeMm3(double baseHeightMm) => WidthMm * DepthMm * baseHeightMm;

    /// <summary>What of the asked measures can't be printed, at its field, with what would fit.</summary>
    /// <param name="layerHeightMm">Layer height, mm.</param>
    public IReadOnlyList<FieldError> Check(double layerHeightMm)
    {
        var errors = new List<FieldError>();
        static decimal D(double v, int digits = 1) => Math.Round((decimal)v, digits);
        var leastGap = D(Math.Ceiling(4 * LineMm * 2) / 2);
        if (ReedGapMm < (double)leastGap)
            errors.Add(
                new(
                    "reedGapMm",
                    $"Reeds {Say.N(D(ReedGapMm, 2))} mm apart run into one: a line of this nozzle is {Say.N(D(LineMm, 2))} mm wide, and strings " +
                    $"need room. At " +
                        $"least {Say.N(leastGap)} mm would be right.",
                    [new($"{Say.N(leastGap)} mm between the reeds", new Dictionary<string, decimal> { ["reedGapMm"] = leastGap })]));
        var leastSpan = D(Math.Ceiling((2 * ReedMm + Math.Max(ReedGapMm, (double)leastGap) + 4 * LineMm * 2) * 2) / 2);
        if (AskedBridgeSpanMm < (double)leastSpan)
            errors.Add(
                new(
                    "bridgeSpanMm",
                    $"Posts {Say.N(D(BridgeSpanMm, 2))} mm apart leave no room for two reeds of {Say.N(D(ReedMm, 2))} mm with " +
                    $"{Say.N(D(ReedGapMm, 2))} mm between " +
                        $"them. At least {Say.N(leastSpan)} mm would be right.",
                    leastSpan <= (decimal)WidestWindowMm
                        ? [new($"{Say.N(leastSpan)} mm between the posts", new Dictionary<string, decimal> { ["bridgeSpanMm"] = leastSpan })]
                        : []));
        else if (BridgeSpanMm > WidestWindowMm)
            errors.Add(
                new(
                    AskedBridgeSpanMm is null ? "reedGapMm" : "bridgeSpanMm",
                    $"A bridge of {Say.N(D(BridgeSpanMm, 2))} mm sags with every filament and tells nothing: at most {WidestWindowMm:0} mm would be " +
                    $"right.", []));
        var most = D(Math.Floor((SectionHeightMm - LintelMm) * 0.85 * 10) / 10);
        var least = D(Math.Ceiling(2 * Tally.Rows * layerHeightMm * 10) / 10);
        if (AskedNotchesMm is not null && (RowLayers(layerHeightMm) < 2 || (decimal)NotchesMm > most))
            errors.Add(
                new(
                    "textHeightMm", least <= most
                        ? $"Notches {Say.N(D(NotchesMm, 2))} mm tall can't be told in this section: they have five rows of at least two layers and " +
                            $"stay below the lintel. Between {Say.N(least)} and {Say.N(most)} mm would be right."
                        : $"This section is too low for five rows of notches. {Say.N(D(SectionHeightMm * 2))} mm a section would be right.",
                    least <= most
                        ?
                        [
                            new(
                                $"notches {Say.N(Math.Clamp(D(NotchesMm), least, most))} mm tall",
                                new Dictionary<string, decimal> { ["textHeightMm"] = Math.Clamp(D(NotchesMm), least, most) }),
                        ]
                        : []));
        return errors;
    }
}
