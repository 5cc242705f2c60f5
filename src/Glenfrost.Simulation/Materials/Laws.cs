namespace Glenfrost.Simulation.Materials;

/// <summary>
/// How a material behaves on a machine, without noise. Melt temperatures °C, flows mm³/s, fan 0–1. The shapes are the bench's own and as simple as they may
/// be; what matters is that they pull against each other as they do on a printer.
/// </summary>
public sealed class Laws(HiddenMaterial m, HiddenMachine k, double roomC = 20)
{
    /// <summary>Sag of a bridge at <see cref="HiddenMaterial.SagC"/>, mm.</summary>
    public const double SagScaleMm = 0.9;

    /// <summary>Curl of an overhang at <see cref="HiddenMaterial.CurlC"/>, mm.</summary>
    public const double CurlScaleMm = 0.5;

    /// <summary>Roughness at either end of <see cref="HiddenMaterial.RunnyC"/>, mm.</summary>
    public const double RoughScaleMm = 0.06;

    /// <summary>The hidden material.</summary>
    public HiddenMaterial Material => m;

    /// <summary>The hidden machine.</summary>
    public HiddenMachine Machine => k;

    /// <summary>Air of the room, °C.</summary>
    public double RoomC => roomC;

    /// <summary>The melt lags the display: by the thermistor's own error and by what flows.</summary>
    public double MeltC(double displayC, double flowMm3PerS) =>
        displayC - k.ThermistorOffsetC - k.LagC * Math.Pow(Math.Max(0, flowMm3PerS), 0.8) * Math.Pow(0.4 / k.NozzleMm, 0.3);

    /// <summary>The display that gives a melt temperature.</summary>
    public double DisplayC(double meltC, double flowMm3PerS) => meltC + (meltC - MeltC(meltC, flowMm3PerS));

    /// <summary>Viscosity against that at the centre (Arrhenius).</summary>
    public double Viscosity(double meltC) => Math.Exp(Math.Clamp(m.ActivationK * (1 / (meltC + 273.15) - 1 / (m.CentreC + 273.15)), -6, 6));

    /// <summary>Flow that is still melted through, mm³/s: rises with temperature and nozzle.</summary>
    public double CapacityMm3PerS(double displayC) =>
        m.CapacityMm3PerS * (k.HighFlow ? 2.1 : 1) * Math.Pow(k.NozzleMm / 0.4, 0.7) * Math.Max(0.15, 1 + 0.013 * (displayC - k.ThermistorOffsetC - m.CentreC));

    /// <summary>Force at the gear, N: a power law in the flow, in a nozzle that may be partly shut.</summary>
    /// <param name="open">1 clear, 0.5 half blocked.</param>
    public double ForceN(double flowMm3PerS, double displayC, double open = 1) =>
        11
        * Viscosity(MeltC(displayC, flowMm3PerS))
        * Math.Pow(Math.Max(0, flowMm3PerS) / 5, 0.55)
        * Math.Pow(0.4 / k.NozzleMm, 1.4)
        / (open * open)
        * (1 + 0.3 * m.Softness);

    /// <summary>Share of what is asked that does not come out, 0–0.95: slip grows with force, and beyond the capacity plastic stays unmelted.</summary>
    /// <param name="grip">1 for a gear that holds, 0.5 for one that slips.</param>
    /// <param name="free">True in free air, which loses less.</param>
    public double Loss(double flowMm3PerS, double displayC, double open = 1, double grip = 1, bool free = false)
    {
        var force = ForceN(flowMm3PerS, displayC, open) / k.ClickN / Math.Max(0.05, grip);
        var slip = 0.012 * force + 0.5 * Soft(force - 1, 0.12) + 0.35 * (1 - grip);
        var over = flowMm3PerS / CapacityMm3PerS(displayC) / open;
        var unmelted = 0.55 * Soft(over - (free ? 1.08 : 1), 0.07);
        return Math.Clamp(slip + unmelted, 0, 0.95);
    }

    /// <summary>True where the gear clicks.</summary>
    public bool Clicks(double flowMm3PerS, double displayC, double open = 1, double grip = 1) => ForceN(flowMm3PerS, displayC, open) > k.ClickN * grip * 1.05;

    /// <summary>Sag of a bridge, mm; too cold a strand tears instead and sags too.</summary>
    public double SagMm(double meltC, double spanMm, double fan) =>
        SagScaleMm * Math.Pow(spanMm / 20, 1.3) * (Grow(meltC - m.SagC + Cooling(fan), m.SagWidthC) + 0.6 * Grow(m.RoughC - 6 - meltC, m.SurfaceWidthC));

    /// <summary>Curl at the edge of an overhang, mm.</summary>
    /// <param name="unsupported">Share of the line's width that hangs over, 0–1.</param>
    public double CurlMm(double meltC, double unsupported, double fan) =>
        CurlScaleMm
        * Math.Clamp(unsupported / 0.5, 0, 2)
        * (Grow(meltC - m.CurlC + Cooling(fan), m.CurlWidthC) + 0.5 * Grow(m.RoughC - 4 - meltC, m.SurfaceWidthC))
        * (1 + m.ShrinksPercent * 0.2 * (1 - k.Shelter));

    /// <summary>
    /// How far a thin part gives where the next layer comes before it has set, mm: the sooner and the hotter, the more; wind lets it set sooner.
    /// </summary>
    public double SlumpMm(double meltC, double layerSeconds, double fan)
    {
        var setsS = 4 * (1.7 - Math.Clamp(fan * k.FanStrength, 0, 1.2)) * (0.6 + 0.6 * m.Family.FanNeed);
        return 2.2 * Math.Clamp(Grow(meltC - m.CurlC, m.CurlWidthC), 0.6, 2.5) * Math.Exp(-Math.Pow(Math.Max(0, layerSeconds) / setsS, 1.6));
    }

    /// <summary>What drips in a travel, against what makes a string as a rule: falls with retraction to an optimum, rises with temperature and water.</summary>
    public double Ooze(double meltC, double retractedMm)
    {
        var r = retractedMm * (1 - 0.45 * m.Softness) / k.RetractionMm;
        return (0.1 + 0.9 * Math.Exp(-2.4 * r)) * Grow(meltC - m.OozeC, m.OozeWidthC) * (1 + 4 * m.Moisture);
    }

    /// <summary>Chance that one travel over a gap leaves a string, 0–1.</summary>
    public double StringChance(double meltC, double retractedMm, double gapMm, double secondsInTravel) =>
        1 - Math.Exp(-Ooze(meltC, retractedMm) * Math.Sqrt(8 / Math.Max(2, gapMm)) * Math.Clamp(secondsInTravel / 0.08, 0.5, 3));

    /// <summary>
    /// What remains of the ooze after wiping, coasting and hopping, against a wipe of 1 mm, and with how much of its length a slow retraction works.
    /// </summary>
    /// <param name="wipedMm">Moved over the line while it was drawn back.</param>
    /// <param name="coastedMm">End of the line laid by pressure alone.</param>
    /// <param name="hopMm">Lift: it draws hairs.</param>
    /// <param name="retractMmPerS">Speed of retraction; 0 where there was none.</param>
    public (double Left, double Worth) Travelled(double wipedMm, double coastedMm, double hopMm, double retractMmPerS) =>
        (
            (0.55 + 0.45 * Math.Exp(-0.9 * wipedMm))
                / (0.55 + 0.45 * Math.Exp(-0.9))
                * Math.Exp(-0.9 * Math.Min(1.5, coastedMm))
                * (1 + 0.4 * Math.Clamp(hopMm, 0, 2)),
            retractMmPerS <= 0 ? 1 : Math.Clamp(Math.Pow(retractMmPerS / k.RetractSpeedMmPerS, 0.5), 0.5, 1));

    /// <summary>How uneven a line is whose speed breaks, as a share of what is plainly seen: 0 for a factor that fits.</summary>
    public double Uneven(double kSeconds, double changeMmPerS) =>
        Math.Abs(k.PressureAdvanceS - kSeconds) / (0.16 * k.PressureAdvanceS + 0.003) * Math.Clamp(changeMmPerS / 60, 0.1, 1.5);

    /// <summary>How much longer a piece is that the motor drove into a blocked stub until it slipped, mm.</summary>
    public double CompressionMm(double stubMm) => stubMm * 0.05 * m.Softness;

    /// <summary>Gap at the start of a line after a travel, mm: too much retraction takes air in.</summary>
    public double StartGapMm(double retractedMm) => 1.2 * Soft(retractedMm / k.RetractionMm - 2.1, 0.25);

    /// <summary>Roughness of a wall, mm.</summary>
    public double RoughMm(double meltC, double fan) =>
        RoughScaleMm * (0.05 + Grow(meltC - m.RunnyC + 0.5 * Cooling(fan), m.SurfaceWidthC) + Grow(m.RoughC - meltC, m.SurfaceWidthC) + 1.2 * m.Moisture);

    /// <summary>Waves behind a corner at <see cref="HiddenMachine.SwingsMmPerS"/>, mm.</summary>
    public const double WavesScaleMm = 0.12;

    /// <summary>Waves that the frame leaves behind corners, mm: with the cube of the speed, so that it is nothing up to half of where it is plain.</summary>
    /// <param name="lineMmPerS">Speed of the lines.</param>
    public double WavesMm(double lineMmPerS) => WavesScaleMm * Math.Pow(Math.Max(0, lineMmPerS) / k.SwingsMmPerS, 3);

    /// <summary>How uneven a line is for its width, mm: thinner than the nozzle it breaks up, much wider it bulges, at corners first.</summary>
    /// <param name="widthMm">Width as laid.</param>
    public double UnevenMm(double widthMm) =>
        widthMm <= 0 ? 0 : 1.6 * k.NozzleMm * (Soft(0.92 - widthMm / k.NozzleMm, 0.03) + 0.7 * Soft(widthMm / k.NozzleMm - 1.42, 0.04));

    /// <summary>
    /// Share of a full layer bond, 0–1: rises with temperature to a plateau and falls again when the plastic degrades; wind and cold rooms take from it.
    /// </summary>
    public double Bond(double meltC, double fan, double layerSeconds)
    {
        var rise = 1 / (1 + Math.Exp(-(meltC - m.BondC) / m.BondWidthC));
        var spoiled = 1 / (1 + Math.Exp((meltC - m.CentreC - 5 * m.Family.HalfWidthC / 2) / 8));
        var wind = 1 - m.Family.FanHarm * Math.Clamp(fan * k.FanStrength, 0, 1.2) * 0.6;
        var cold = 1 - 0.006 * Math.Max(0, 22 - roomC) * (1 - k.Shelter) - 0.04 * Math.Log(1 + Math.Max(0, layerSeconds) / 60);
        return Math.Clamp(rise * spoiled * wind * cold * (1 - 0.3 * m.Moisture), 0, 1);
    }

    /// <summary>Volume after foaming against volume fed: peaks with temperature, falls with speed.</summary>
    public double Expansion(double meltC, double flowMm3PerS)
    {
        if (m.Expansion <= 1)
            return 1;
        var d = (meltC - m.FoamC) / (meltC < m.FoamC ? 14 : 24);
        return 1 + (m.Expansion - 1) * Math.Exp(-d * d) / (1 + 0.03 * flowMm3PerS);
    }

    /// <summary>The live offset that lays best, mm: the machine's own and what the filament wants.</summary>
    public double BestOffsetMm => k.OffsetMm - m.PressMm;

    /// <summary>How far above its best the nozzle is at a place of the bed, mm; below 0 it presses.</summary>
    /// <param name="offsetMm">Live offset.</param>
    /// <param name="x">Place from left to right, −1 to 1.</param>
    /// <param name="y">Place from front to back, −1 to 1.</param>
    public double AboveBestMm(double offsetMm, double x, double y) => offsetMm - BestOffsetMm - k.TiltXMm * x - k.TiltYMm * y;

    /// <summary>True where foam tears: too little is fed for the nozzle's width.</summary>
    /// <param name="fedShare">Fed against a full line, 0–1.</param>
    public bool Tears(double fedShare) => m.Expansion > 1 && fedShare < m.BlobShare;

    /// <summary>Lift of a corner, mm.</summary>
    public double WarpMm(double lengthMm, double bedC) =>
        Math.Max(0, m.ShrinksPercent * lengthMm / 100 * (1 - 0.8 * k.Shelter) * (1 + 0.02 * (22 - roomC)) - 0.004 * Math.Max(0, bedC - 40)) * 0.8;

    /// <summary>Thickness at which a section pulls as much as is usual, mm.</summary>
    public const double UsualThickMm = 3;

    /// <summary>
    /// Lift of a corner at a moment, mm. What shrinks pulls from the first layers on; bed and brim hold part of it until the part is taken off, and what was
    /// held springs up then, the more the warmer it is taken off. A box keeps the air warm, so that less is pulled at all.
    /// </summary>
    /// <param name="moment">during, cooled, released or next-day.</param>
    /// <param name="lengthMm">Longest side.</param>
    /// <param name="bedC">Bed while it printed.</param>
    /// <param name="brimMm">Width of its brim.</param>
    /// <param name="removedC">Bed as it was taken off.</param>
    /// <param name="thickMm">Thickness of its section: more plastic pulls more, and stiffens less than it pulls.</param>
    public double WarpMm(string moment, double lengthMm, double bedC, double brimMm, double removedC, double thickMm = UsualThickMm)
    {
        var section = Math.Clamp(Math.Pow(Math.Max(0.1, thickMm) / UsualThickMm, 0.35), 0.5, 1.8);
        var pull = 0.8 * m.ShrinksPercent * lengthMm / 100 * section * (1 - 0.8 * k.Shelter) * (1 + 0.02 * (22 - roomC));
        var held = Math.Clamp(0.3 + 0.006 * (bedC - 60) + 0.045 * brimMm, 0, 0.9);
        var lifted = Math.Max(0, pull * (1 - held));
        var sprung = Math.Max(0, pull * held) * Math.Clamp(0.25 + 0.012 * (removedC - roomC), 0.1, 1);
        return moment switch
        {
            "during" => 0.55 * lifted,
            "cooled" => lifted,
            "released" => lifted + sprung,
            _ => 1.06 * (lifted + sprung),
        };
    }

    /// <summary>Bed temperature at which a part lets go by itself, °C: what shrinks most lets go soonest.</summary>
    public double ReleaseC => 34 + 26 * Math.Min(1.2, m.ShrinksPercent) + m.PressMm * 60;

    /// <summary>Bulge (above 0) or thinning of a line where the speed changes, as a share of its width, for a pressure advance K.</summary>
    public double PressureBulge(double kSeconds, double speedChangeMmPerS) =>
        (k.PressureAdvanceS - kSeconds) / 0.04 * Math.Clamp(speedChangeMmPerS / 100, 0, 2) * 0.12;

    /// <summary>How many °C of sag and curl the air takes or leaves, against the wind that the family wants.</summary>
    private double Cooling(double fan) => 11 * (m.Family.FanNeed - Math.Clamp(fan * k.FanStrength, 0, 1.2));

    private static double Grow(double aboveC, double widthC) => Math.Exp(Math.Clamp(aboveC / widthC, -8, 3));

    /// <summary>0 well below, x well above, soft between.</summary>
    private static double Soft(double x, double width) => width * Math.Log(1 + Math.Exp(Math.Clamp(x / width, -30, 30)));
}
