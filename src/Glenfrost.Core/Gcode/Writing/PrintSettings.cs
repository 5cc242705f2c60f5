using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;

namespace Glenfrost.Core.Gcode.Writing;

/// <summary>Which wall is printed first.</summary>
public enum WallOrder
{
    /// <summary>From the inside out: the outer wall leans on what stands.</summary>
    InnerFirst,

    /// <summary>From the outside in: the outer wall is laid free.</summary>
    OuterFirst,
}

/// <summary>One value in force for a piece, and where it comes from.</summary>
/// <param name="Key">Key of the settings dictionary, or a word of this record.</param>
/// <param name="Value">Value in the key's unit.</param>
/// <param name="From">Profile, or why this value.</param>
/// <param name="Word">The value where it is a word; null for a number.</param>
public sealed record InForce(string Key, double Value, string From, string? Word = null);

/// <summary>What a tester chooses for the walls of a piece; kept with its plan.</summary>
/// <param name="Walls">Number of walls, 1 to 6.</param>
/// <param name="OuterFirst">True where the outer wall is printed before the inner ones.</param>
/// <param name="Stadium">True where beads are reckoned with half-round ends.</param>
public sealed record PrintChoices(int Walls = 2, bool OuterFirst = false, bool Stadium = false)
{
    /// <summary>The field for the number of walls.</summary>
    public static Settings.Quantity WallsField { get; } = new("Walls", "", 1, 6, "none leaves the fill bare, more than six leaves none of it", true);
}

/// <summary>Everything besides shape and temperature that a piece is printed with. Lengths in mm, speeds in mm/s, times in s.</summary>
public sealed record PrintSettings
{
    /// <summary>Nozzle, mm.</summary>
    public double NozzleDiameterMm { get; init; } = 0.4;
    /// <summary>Width of a line, mm.</summary>
    public double LineWidthMm { get; init; } = 0.44;
    /// <summary>Filament, mm.</summary>
    public double FilamentDiameterMm { get; init; } = 1.75;
    /// <summary>Factor on what is extruded.</summary>
    public double ExtrusionMultiplier { get; init; } = 1;
    /// <summary>How a line's cross-section is reckoned.</summary>
    public BeadModel Bead { get; init; } = BeadModel.Rectangular;
    /// <summary>Walls of a piece.</summary>
    public int Walls { get; init; } = 2;
    /// <summary>Which wall is laid first.</summary>
    public WallOrder WallOrder { get; init; } = WallOrder.InnerFirst;
    /// <summary>Outer walls, mm/s.</summary>
    public double OuterWallSpeedMmPerS { get; init; } = 40;
    /// <summary>Inner walls, mm/s.</summary>
    public double InnerWallSpeedMmPerS { get; init; } = 50;
    /// <summary>Fill, mm/s.</summary>
    public double FillSpeedMmPerS { get; init; } = 60;
    /// <summary>Bridges, mm/s.</summary>
    public double BridgeSpeedMmPerS { get; init; } = 25;
    /// <summary>First layer, mm/s.</summary>
    public double FirstLayerSpeedMmPerS { get; init; } = 20;
    /// <summary>Travel, mm/s.</summary>
    public double TravelSpeedMmPerS { get; init; } = 120;
    /// <summary>Slowest that a layer is slowed to, mm/s.</summary>
    public double MinPrintSpeedMmPerS { get; init; } = 10;
    /// <summary>Least time of a layer, s.</summary>
    public double MinLayerTimeS { get; init; } = 10;

    /// <summary>No line is laid faster than this, mm³/s.</summary>
    public double MaxFlowMm3PerS { get; init; } = 8;
    /// <summary>Acceleration, mm/s².</summary>
    public double AccelerationMmPerS2 { get; init; } = 1500;
    /// <summary>Retraction, mm.</summary>
    public double RetractionLengthMm { get; init; } = 0.8;
    /// <summary>Back, mm/s.</summary>
    public double RetractionSpeedMmPerS { get; init; } = 30;
    /// <summary>Forward again, mm/s.</summary>
    public double UnretractSpeedMmPerS { get; init; } = 25;
    /// <summary>More than was drawn back, mm.</summary>
    public double RetractExtraMm { get; init; }
    /// <summary>Way that the nozzle wipes while it draws back, mm.</summary>
    public double WipeMm { get; init; } = 1;
    /// <summary>Lift before a travel, mm.</summary>
    public double ZHopMm { get; init; }
    /// <summary>Part fan, %.</summary>
    public double FanPercent { get; init; } = 100;
    /// <summary>Part fan at bridges, %.</summary>
    public double BridgeFanPercent { get; init; } = 100;
    /// <summary>Layers without fan.</summary>
    public int FanFirstLayers { get; init; } = 2;
    /// <summary>Brim, mm; 0 for none.</summary>
    public double BrimWidthMm { get; init; }
    /// <summary>Loops around the piece.</summary>
    public int SkirtLoops { get; init; } = 2;
    /// <summary>Gap between skirt and piece, mm.</summary>
    public double SkirtGapMm { get; init; } = 4;
    /// <summary>Bed, °C.</summary>
    public double BedTemperatureC { get; init; }
    /// <summary>Bed at the first layer, °C.</summary>
    public double FirstLayerBedTemperatureC { get; init; }
    /// <summary>Chamber, °C; null where it is not set.</summary>
    public double? ChamberTemperatureC { get; init; }
    /// <summary>Pressure advance, s; null where it is not set.</summary>
    public double? PressureAdvance { get; init; }
    /// <summary>Density of the filament, g/cm³.</summary>
    public double DensityGPerCm3 { get; init; } = 1.24;

    /// <summary>Price of a kg of filament in minor units; null where it is not known.</summary>
    public double? PriceMinorPerKg { get; init; }
    /// <summary>Of the price; null without one.</summary>
    public string? Currency { get; init; }

    /// <summary>Family of the filament; null where it is not known.</summary>
    public string? FamilyName { get; init; }

    /// <summary>Where each value comes from.</summary>
    public IReadOnlyList<InForce> Sources { get; init; } = [];

    /// <summary>How the bed cools behind the print; null where it is switched off at once.</summary>
    public IReadOnlyList<RampStep>? CoolDown { get; init; }

    /// <summary>What the profile asks for and no file of ours holds: it is done by hand, and stands on the sheet.</summary>
    public IReadOnlyList<InForce> ByHand { get; init; } = [];

    /// <summary>Keys of what is done by hand at the printer.</summary>
    public static IReadOnlyList<string> HandKeys { get; } = ["adhesive", "draughtShield", "releaseBedTemperatureC", "coolDown"];

    /// <summary>
    /// Settings from a profile, with cautious values where it says nothing: walls and fill slow enough for any hotend,
    /// at most 8 mm³/s at a 0.4 mm nozzle (3 for soft filament) until a flow limit is kept, retraction by the drive. Nothing goes above the machine's limits.
    /// </summary>
    /// <param name="profile">Settings kept, by key.</param>
    /// <param name="m">The machine.</param>
    /// <param name="family">Family of the filament; null where it is unknown.</param>
    public static PrintSettings From(IReadOnlyDictionary<string, double> profile, Machine m, Family? family)
    {
        var sources = new List<InForce>();
        double Take(string key, double otherwise, string why, double most = double.MaxValue)
        {
            var kept = profile.TryGetValue(key, out var v);
            var value = Math.Min(kept ? v : otherwise, most);
            sources.Add(new(key, value, kept ? v > most ? "profile, brought down to the machine's limit" : "profile" : why));
            return value;
        }

        var d = m.NozzleDiameterMm;
        var soft = family?.Name == "TPU";
        var slow = soft ? 0.6 : 1;
        var top = m.MaxSpeedMmPerS;
        var fan = family?.FanPercent.Middle ?? 50;
        var keptFan = profile.TryGetValue("fanPercent", out var f0) ? f0 : (double?)null;
        // Without fan means bridges too, unless a bridge's own was kept.
        var (bridgeFan, bridgeWhy) = keptFan is 0 ? (0, "as the fan: none") : (Math.Max(keptFan ?? fan, family?.FanPercent.Max ?? fan), "family's most");
        var chamber = profile.TryGetValue("chamberTemperatureC", out var warm) ? warm : (double?)null;
        if (chamber is { } wanted)
            sources.Add(new(
                "chamberTemperatureC", m.ChamberMaxC > 0 ? Math.Min(wanted, m.ChamberMaxC) : wanted,
                m.ChamberMaxC <= 0 ? $"profile; {m.Name} has no chamber heater: aimed at, not set"
                    : wanted > m.ChamberMaxC ? "profile, brought down to the machine's limit" : "profile"));
        var bed = Take("bedTemperatureC", family?.BedC.Middle ?? 0, "family", m.BedMaxC);
        return new PrintSettings
        {
            NozzleDiameterMm = d,
            LineWidthMm = Take("lineWidthMm", Math.Round(d * 1.1, 2), "nozzle and a tenth"),
            FilamentDiameterMm = Take("filamentDiameterMm", 1.75, "usual"),
            ExtrusionMultiplier = Take("extrusionMultiplier", 1, "none kept"),
            OuterWallSpeedMmPerS = Take("outerWallSpeedMmPerS", 40 * slow, "cautious", top),
            InnerWallSpeedMmPerS = Take("innerWallSpeedMmPerS", 50 * slow, "cautious", top),
            FillSpeedMmPerS = Take("fillSpeedMmPerS", 60 * slow, "cautious", top),
            BridgeSpeedMmPerS = Take("bridgeSpeedMmPerS", 25 * slow, "cautious", top),
            FirstLayerSpeedMmPerS = Take("firstLayerSpeedMmPerS", 20, "cautious", top),
            TravelSpeedMmPerS = Take("travelSpeedMmPerS", 120, "cautious", top),
            MinPrintSpeedMmPerS = Take("minPrintSpeedMmPerS", 10, "cautious", top),
            MinLayerTimeS = Take("minLayerTimeS", 10, "cautious"),
            MaxFlowMm3PerS = Take("maxVolumetricFlowMm3PerS", Math.Round((soft ? 3 : 8) * d / 0.4, 1), "no flow limit kept: cautious"),
            AccelerationMmPerS2 = Math.Min(1500, m.MaxAccelerationMmPerS2),
            RetractionLengthMm = Take("retractionLengthMm", m.LongTube ? 4 : 0.8, m.LongTube ? "long tube, starting value" : "direct drive, starting value"),
            RetractionSpeedMmPerS = Take("retractionSpeedMmPerS", soft ? 20 : 30, "cautious"),
            UnretractSpeedMmPerS = Take("unretractSpeedMmPerS", soft ? 15 : 25, "cautious"),
            RetractExtraMm = Take("retractExtraMm", 0, "none kept"),
            WipeMm = Take("wipeMm", 1, "usual"),
            ZHopMm = Take("zHopMm", 0, "none kept"),
            FanPercent = Take("fanPercent", fan, "family"),
            BridgeFanPercent = Take("bridgeFanPercent", bridgeFan, bridgeWhy),
            FanFirstLayers = (int)Take("fanFirstLayers", 2, "usual"),
            BrimWidthMm = Take("brimWidthMm", 0, "none kept"),
            BedTemperatureC = bed,
            FirstLayerBedTemperatureC = Take("firstLayerBedTemperatureC", bed, "as the bed", m.BedMaxC),
            ChamberTemperatureC = m.ChamberMaxC > 0 && chamber is { } aimed ? Math.Min(aimed, m.ChamberMaxC) : null,
            PressureAdvance = profile.TryGetValue("pressureAdvance", out var k) ? k : null,
            DensityGPerCm3 = family?.DensityGPerCm3 ?? 1.24,
            FamilyName = family?.Name,
            Sources = sources,
        };
    }

    /// <summary>With what a tester chose.</summary>
    public PrintSettings With(PrintChoices? c) => c is null ? this : this with
    {
        Walls = c.Walls,
        WallOrder = c.OuterFirst ? WallOrder.OuterFirst : WallOrder.InnerFirst,
        Bead = c.Stadium ? BeadModel.Stadium : BeadModel.Rectangular,
    };

    /// <summary>Distance between neighbouring lines, mm.</summary>
    public double SpacingMm(double height) => Writing.Bead.Spacing(Bead, LineWidthMm, height);

    /// <summary>Filament fed for a length of line, mm.</summary>
    public double FeedMm(double lengthMm, double spacing, double height) => lengthMm * spacing * height * ExtrusionMultiplier / FilamentAreaMm2;

    /// <summary>Cross-section of the filament, mm².</summary>
    public double FilamentAreaMm2 => Math.PI * FilamentDiameterMm * FilamentDiameterMm / 4;

    /// <summary>Speed of a role in a layer, mm/s, before small layers are slowed; the flow limit is kept.</summary>
    public double Speed(PathRole role, bool firstLayer, double spacing, double height)
    {
        var speed = role switch
        {
            _ when firstLayer => FirstLayerSpeedMmPerS,
            PathRole.OuterWall or PathRole.ThinLine or PathRole.Top => OuterWallSpeedMmPerS,
            PathRole.InnerWall => InnerWallSpeedMmPerS,
            PathRole.Bridge => BridgeSpeedMmPerS,
            _ => FillSpeedMmPerS,
        };
        return Math.Min(speed, MaxFlowMm3PerS / (spacing * height));
    }
}
