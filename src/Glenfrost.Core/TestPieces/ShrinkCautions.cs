using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode.Writing;

namespace Glenfrost.Core.TestPieces;

/// <summary>What a tester should know before a piece of a family that shrinks much is printed: surroundings, wind, brim, bed and first layer.</summary>
public static class ShrinkCautions
{
    /// <summary>Brim that holds the corners of a test piece, mm: a working value of the craft.</summary>
    public const double BrimMm = 5;

    /// <summary>The cautions, the surroundings first; none for a family that shrinks little, or one that is not known.</summary>
    /// <param name="s">What the piece is printed with.</param>
    /// <param name="m">The machine, with what stands around it where that is known.</param>
    /// <param name="stands">True for a piece that stands on the bed with height; false for patches of one layer, which do not lift.</param>
    public static IEnumerable<string> Of(PrintSettings s, Machine m, bool stands)
    {
        if (Family.Find(s.FamilyName) is not { Shrinks: Shrinkage.Much } family)
            yield break;
        if (stands && m.Enclosure is "none" or "draught shield")
            yield return $"{family.Name} shrinks much, and {m.Name} " +
                (m.Enclosure == "none" ? "stands open: keep doors and windows shut and other fans off it, or put something around it. "
                    : "has a draught shield alone, which keeps wind off and no warmth in. ") +
                "Lifted corners and parted layers are told from a wrong temperature only where the air is still.";
        if (stands && family.FanPercent.Max is { } most && Math.Max(s.FanPercent, s.BridgeFanPercent) > most)
            yield return $"The fan runs at {Say(Math.Max(s.FanPercent, s.BridgeFanPercent))} %; above {Say(most)} % {family.Name} lifts and its layers part.";
        if (stands && s.BrimWidthMm < BrimMm)
            yield return s.BrimWidthMm > 0 ? $"The brim is {Say(s.BrimWidthMm)} mm; {Say(BrimMm)} mm hold the corners of {family.Name} better."
                : $"There is no brim: {Say(BrimMm)} mm hold the corners of {family.Name}.";
        if (family.BedC.Min is { } least)
        {
            if (s.BedTemperatureC < least)
                yield return $"The bed is at {Say(s.BedTemperatureC)} °C; {family.Name} lets go below {Say(least)} °C" +
                    (m.BedMaxC < least ? $", and this bed reaches {Say(m.BedMaxC)} °C: an adhesive for grip, and a small piece." : ".");
            else if (s.FirstLayerBedTemperatureC < least)
                yield return $"The first layer is laid on a bed at {Say(s.FirstLayerBedTemperatureC)} °C; {family.Name} asks for {Say(least)} °C and more.";
        }
    }

    private static string Say(double value) => value.ToString("0.#", System.Globalization.CultureInfo.InvariantCulture);
}
