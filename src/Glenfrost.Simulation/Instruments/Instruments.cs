using Glenfrost.Simulation.Materials;
using Glenfrost.Simulation.Pieces;

namespace Glenfrost.Simulation.Instruments;

/// <summary>A value as an instrument shows it.</summary>
/// <param name="Value">Number.</param>
/// <param name="Unit">mm, g, N, °C, %RH, or empty for a score.</param>
/// <param name="Resolution">Smallest step of the display.</param>
public sealed record Shown(double Value, string Unit, double Resolution);

/// <summary>A calliper in somebody's hand: 0.01 mm, and the hand presses differently each time.</summary>
public sealed class Calliper(ulong seed, double handSdMm = 0.012)
{
    private readonly double zero = new Chance(seed).Of("calliper zero").Normal(0, 0.004);
    private int taken;

    /// <summary>Measures a true length, mm.</summary>
    public Shown Measure(double trueMm) =>
        new(Math.Round(Math.Max(0, trueMm + zero + new Chance(seed).Of("calliper", taken++).Normal(0, handSdMm)), 2), "mm", 0.01);
}

/// <summary>A ruler and a pen: half a millimetre as a rule, in the mark and in the reading.</summary>
public sealed class Ruler(ulong seed, double resolutionMm = 0.5)
{
    private int taken;

    /// <summary>Measures a true length, mm, to the next step.</summary>
    public Shown Measure(double trueMm)
    {
        var c = new Chance(seed).Of("ruler", taken++);
        return new(Math.Round(Math.Max(0, Math.Round((trueMm + c.Normal(0, 0.2 * resolutionMm)) / resolutionMm) * resolutionMm), 3), "mm", resolutionMm);
    }
}

/// <summary>A scale that drifts until it is set to zero again.</summary>
/// <param name="resolutionG">0.1, 0.01 or 0.001.</param>
public sealed class Scale(ulong seed, double resolutionG = 0.01)
{
    private double drift;
    private double zero;
    private int taken;

    /// <summary>Sets it to zero as it stands.</summary>
    public void Tare() => zero = drift;

    /// <summary>Weighs, g.</summary>
    public Shown Weigh(double trueG)
    {
        var c = new Chance(seed).Of("scale", taken++);
        drift += c.Normal(0, resolutionG * 0.3);
        var shown = trueG + drift - zero + c.Normal(0, resolutionG * 0.3);
        return new(Math.Round(Math.Max(0, Math.Round(shown / resolutionG) * resolutionG), 4), "g", resolutionG);
    }
}

/// <summary>
/// A pull rig: forces scatter by a tenth to a seventh of their size, it settles a little with each pull, and now and then a clamp gives way before the piece.
/// </summary>
/// <param name="seed">Fixes the rig and all that it reads.</param>
/// <param name="driftPercent">By how much it reads less with each pull, %.</param>
/// <param name="failsShare">Share of pulls whose clamp bites through or lets go first.</param>
public sealed class PullRig(ulong seed, double driftPercent = 0, double failsShare = 0)
{
    private readonly double scatter = new Chance(seed).Of("rig").Between(0.10, 0.15);
    private int taken;

    /// <summary>Scatter of one pull, as a share.</summary>
    public double Scatter => scatter;

    /// <summary>Pulls a specimen until a layer parts, N.</summary>
    /// <param name="mPa">True strength.</param>
    /// <param name="areaMm2">Of the waist.</param>
    public Shown Pull(double mPa, double areaMm2) => PullUntil(mPa, areaMm2).Force;

    /// <summary>Pulls a specimen until something gives way.</summary>
    /// <param name="mPa">True strength.</param>
    /// <param name="areaMm2">Of the waist.</param>
    /// <returns>The force, N, and what gave way: layer, clamp or slip.</returns>
    public (Shown Force, string Broke) PullUntil(double mPa, double areaMm2)
    {
        var c = new Chance(seed).Of("pull", taken);
        var n = mPa * areaMm2 * Math.Max(0.2, c.Normal(1, scatter)) * Math.Pow(1 - driftPercent / 100, taken++);
        var fails = c.Of("clamp");
        if (failsShare <= 0 || fails.Of("fails").Uniform() >= failsShare)
            return (new(Math.Round(n), "N", 1), "layer");
        return (new(Math.Round(n * fails.Of("share").Between(0.6, 0.97)), "N", 1), fails.Of("slips").Uniform() < 0.5 ? "slip" : "clamp");
    }
}

/// <summary>The room over the day: coldest before dawn, drier as it warms.</summary>
public sealed class RoomAir(ulong seed, double meanC = 19, double swingC = 3, double meanHumidityPercent = 50)
{
    /// <summary>Air at a moment of the day.</summary>
    /// <param name="day">Any whole number that names the day.</param>
    /// <param name="hour">0–24.</param>
    public (double C, double HumidityPercent) At(long day, double hour)
    {
        var c = new Chance(seed).Of("room", day);
        var warmth = Math.Sin((hour - 9) / 24 * 2 * Math.PI);
        var t = meanC + c.Normal(0, 1.2) + swingC / 2 * warmth;
        return (Math.Round(t, 1), Math.Round(Math.Clamp(meanHumidityPercent + c.Normal(0, 5) - 2 * (t - meanC), 10, 95)));
    }
}

/// <summary>A dryer: reaches its temperature slowly and not quite.</summary>
public sealed class DryerBay(ulong seed, double maxC = 80)
{
    private readonly double below = Math.Abs(new Chance(seed).Of("dryer").Normal(0, 3));

    /// <summary>The air in it, °C.</summary>
    public double InsideC(double setC) => Math.Min(setC, maxC) - below;

    /// <summary>Dries a filament for some hours; the first half hour only warms it.</summary>
    public HiddenMaterial Dry(HiddenMaterial m, double setC, double hours) => m.Dried(Math.Max(0, hours - 0.5), InsideC(setC));
}
