using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.RetractionSweep;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.RetractionSweep;

/// <summary>Reads reeds on the simulated bench: strings in each gap, scored or counted, and gaps after travel.</summary>
public sealed class ReedBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => RetractionTrial.Word;

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        var p = (RetractionPlan)plan;
        var eyes = new Eyes(eyesSeed);
        var wide = Limit(p);
        foreach (var (aspect, count, least, most) in new[]
            {
                (RetractionTrial.Narrow, RetractionTrial.NarrowCount, 2.0, wide), (RetractionTrial.Wide, RetractionTrial.WideCount, wide, 90.0),
            }.Take(p.Request.Mode == RetractionTrial.Own ? 1 : 2))
        {
            foreach (var part in plan.Parts.Where(x => states[x.Index] == SectionState.Judged))
            {
                var (on, index) = On(piece, p, part);
                var (strings, expected, travels) = on.StringsIn(part.FromZMm!.Value, part.ToZMm!.Value, least, most, index);
                if (travels == 0)
                    continue;
                if (p.Request.ReadBy == "counts")
                    yield return new(part.Index, count, "eyes", new(strings, "", 1));
                else
                    yield return new(
                        part.Index, aspect, "eyes",
                        eyes.Score(Eyes.StringsQuality(expected / travels), aspect, unchecked((int)(piece.Seed & 0xFFFF)) * 64 + part.Index));
            }
        }

        foreach (var part in plan.Parts.Where(x => states[x.Index] == SectionState.Judged))
        {
            var (on, index) = On(piece, p, part);
            if (on.GapsIn(part.FromZMm!.Value, part.ToZMm!.Value, index))
                yield return new(part.Index, RetractionTrial.Gaps, "eyes", new(0, "", 1), "gaps");
        }
    }

    /// <summary>Gaps up to this width are the narrow one: the travel is measured between the reeds' middles or edges.</summary>
    private static double Limit(RetractionPlan p) => p.Request.Mode == RetractionTrial.Own ? 90
        : (double)(p.Request.NarrowGapMm + p.Request.WideGapMm) / 2 + (double)p.Request.PostMm;

    /// <summary>The piece, and which object of it a part is; the second half of a dried pair is the same file with a dry spool.</summary>
    private static (SimulatedPiece Piece, int Object) On(SimulatedPiece piece, RetractionPlan p, PlanPart part)
    {
        var dried = p.Request.Mode == RetractionTrial.Dried && part.Index >= p.Values.Count / 2;
        return (
            dried ? piece.WhenDry() : piece, p.Request.Mode is RetractionTrial.Tower or RetractionTrial.Own ? 0
            : p.Request.Mode == RetractionTrial.Dried ? part.Index % (p.Values.Count / 2)
            : part.Index);
    }

    /// <inheritdoc/>
    public override byte[]? Photo(SimulatedPiece piece, ITrialPlan plan, int section)
    {
        var (p, part) = ((RetractionPlan)plan, plan.Parts[section]);
        var (on, index) = On(piece, p, part);
        var (strings, _, travels) = on.StringsIn(part.FromZMm!.Value, part.ToZMm!.Value, 2, Limit(p), index);
        return travels == 0
            ? null
            : Simulation.Pictures.ReedPicture.Png(new((double)p.Request.NarrowGapMm, (double)p.Request.PostMm, strings), piece.Seed * 31 + (ulong)section)
                .Bytes;
    }
}
