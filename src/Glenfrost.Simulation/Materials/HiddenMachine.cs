namespace Glenfrost.Simulation.Materials;

/// <summary>What nobody at the bench knows of a toolhead.</summary>
public sealed record HiddenMachine
{
    /// <summary>By how much the display reads above the block that it measures, °C.</summary>
    public double ThermistorOffsetC { get; init; }

    /// <summary>Filament that is really fed for each mm asked at the printer's stored steps.</summary>
    public double FeedRatio { get; init; } = 1;

    /// <summary>Drop of the melt behind the block, °C per (mm³/s)^0.8 in a standard 0.4 nozzle.</summary>
    public double LagC { get; init; } = 0.9;

    /// <summary>Force at which the gear clicks, N.</summary>
    public double ClickN { get; init; } = 60;

    /// <summary>The length of retraction that strings least, mm.</summary>
    public double RetractionMm { get; init; } = 0.8;

    /// <summary>Speed of retraction from which it has its whole effect, mm/s.</summary>
    public double RetractSpeedMmPerS { get; init; } = 24;

    /// <summary>True pressure advance, s.</summary>
    public double PressureAdvanceS { get; init; } = 0.04;

    /// <summary>How well the part fan cools, 1 for an average one.</summary>
    public double FanStrength { get; init; } = 1;

    /// <summary>The live offset at which its nozzle lays an average filament best, mm.</summary>
    public double OffsetMm { get; init; }

    /// <summary>How much the bed rises from left to right and from front to back, mm.</summary>
    public double TiltXMm { get; init; }
    /// <summary>Tilt of the bed along Y, mm from front to back.</summary>
    public double TiltYMm { get; init; }

    /// <summary>Speed of lines at which its frame swings so that corners show it plainly, mm/s.</summary>
    public double SwingsMmPerS { get; init; } = 95;

    /// <summary>Nozzle, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>True for a nozzle with a larger melting surface.</summary>
    public bool HighFlow { get; init; }

    /// <summary>0 in the open, 1 in a chamber that holds its warmth.</summary>
    public double Shelter { get; init; }

    /// <summary>Seconds that a bed is hot before a print begins: heating up, a level, a prime line.</summary>
    public const double HotBeforeS = 300;

    /// <summary>
    /// Air around the part, °C: it follows the bed, slowly and never all the way, where something is closed around it; a shield alone keeps no warmth in.
    /// </summary>
    /// <param name="roomC">Room, °C.</param>
    /// <param name="bedC">Bed, °C.</param>
    /// <param name="hotS">How long the bed has been hot, s.</param>
    public double ChamberC(double roomC, double bedC, double hotS) =>
        roomC + 0.6 * Math.Max(0, Shelter - 0.3) * Math.Max(0, bedC - roomC) * (1 - Math.Exp(-Math.Max(0, hotS) / 1500));

    /// <summary>Draws a toolhead.</summary>
    /// <param name="seed">Fixes everything.</param>
    /// <param name="longTubeMm">Length of the tube; null for a direct drive.</param>
    public static HiddenMachine Draw(ulong seed, double nozzleMm = 0.4, bool highFlow = false, double? longTubeMm = null, string enclosure = "none")
    {
        var c = new Chance(seed).Of("machine");
        return new HiddenMachine
        {
            ThermistorOffsetC = c.Of("thermistor").Normal(0, 2.5),
            FeedRatio = c.Of("feed").Normal(1, 0.012),
            LagC = 0.9 * c.Of("lag").Factor(0.2) * (highFlow ? 0.5 : 1),
            ClickN = 60 * c.Of("click").Factor(0.12),
            RetractionMm = (longTubeMm is { } tube ? 1 + 3.6 * tube / 420 : 0.75) * c.Of("retraction").Factor(0.15),
            RetractSpeedMmPerS = 24 * c.Of("retract speed").Factor(0.15),
            PressureAdvanceS = (longTubeMm is { } t ? 0.1 + 0.5 * t / 420 : 0.038) * c.Of("pressure").Factor(0.15),
            FanStrength = c.Of("fan").Factor(0.12),
            SwingsMmPerS = 95 * c.Of("swings").Factor(0.2),
            OffsetMm = c.Of("offset").Normal(-0.05, 0.035),
            TiltXMm = c.Of("tilt x").Normal(0, 0.02),
            TiltYMm = c.Of("tilt y").Normal(0, 0.02),
            NozzleMm = nozzleMm,
            HighFlow = highFlow,
            Shelter = enclosure switch { "heated" => 1, "closed" => 0.75, "improvised" => 0.4, "draught shield" => 0.3, _ => 0 },
        };
    }
}
