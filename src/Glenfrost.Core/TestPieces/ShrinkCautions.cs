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
    public static IEnumerable<PlanWarning> Of(PrintSettings s, Machine m, bool stands)
    {
        if (Family.Find(s.FamilyName) is not { Shrinks: Shrinkage.Much } family)
            yield break;
        if (stands && m.Enclosure is "none" or "draught shield")
            yield return new(m.Enclosure == "none" ? PlanWarningKind.OpenPrinter : PlanWarningKind.DraughtShieldOnly, [], [family.Name, m.Name]);
        if (stands && family.FanPercent.Max is { } most && Math.Max(s.FanPercent, s.BridgeFanPercent) > most)
            yield return new(PlanWarningKind.FanTooFast, [Math.Max(s.FanPercent, s.BridgeFanPercent), most], [family.Name]);
        if (stands && s.BrimWidthMm < BrimMm)
            yield return new(PlanWarningKind.NarrowBrim, [s.BrimWidthMm, BrimMm], [family.Name]);
        if (family.BedC.Min is { } least)
        {
            if (s.BedTemperatureC < least)
                yield return new(
                    PlanWarningKind.CoolBed, m.BedMaxC < least ? [s.BedTemperatureC, least, m.BedMaxC] : [s.BedTemperatureC, least], [family.Name]);
            else if (s.FirstLayerBedTemperatureC < least)
                yield return new(PlanWarningKind.CoolFirstBed, [s.FirstLayerBedTemperatureC, least], [family.Name]);
        }
    }
}
