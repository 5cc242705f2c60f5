using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Core.Trials.Verification;
using Glenfrost.Simulation.Instruments;
using Glenfrost.Simulation.Pieces;
using Glenfrost.Application.Simulated;

namespace Glenfrost.Application.Trials.Verification;

/// <summary>Reads a verification piece on the simulated bench: each zone by eye for what it is there to show, a clip by calliper, feeler and hand.</summary>
public sealed class VerificationBench : SimulatedTrial
{
    /// <inheritdoc/>
    public override string Kind => VerificationTrial.Word;

    private static PieceLook Look(SimulatedPiece piece, ITrialPlan plan, int section) =>
        plan.Parts[section] is { FromZMm: { } from, ToZMm: { } to } ? piece.Look(from, to) : new();

    /// <inheritdoc/>
    public override PieceLook? Picture(SimulatedPiece piece, ITrialPlan plan, int section) => Look(piece, plan, section);

    /// <summary>What a zone is looked at for, with the word that is ticked where it falls short.</summary>
    private static (string Aspect, string Defect)[] Shows(string zone) => zone switch
    {
        VaneSize.Foot => [("surface", "blobs")],
        VaneSize.House => [("strings", "strings"), ("surface", "blobs")],
        VaneSize.Deck => [("bridge", "sagging bridge")],
        VaneSize.Spire => [("surface", "blobs"), ("strings", "strings")],
        _ => [("overhang", "curled overhang")],
    };

    /// <inheritdoc/>
    public override IEnumerable<SimulatedReading> Readings(SimulatedPiece piece, ITrialPlan plan, IReadOnlyList<SectionState> states, ulong eyesSeed)
    {
        yield return new(0, CellAspects.Mass, "scale", new Scale(piece.Seed, 0.1).Weigh(piece.MassG));
        var (v, eyes) = ((VerificationPlan)plan, new Eyes(eyesSeed));
        if (v.IsClip)
        {
            foreach (var reading in OfClip(piece, v, eyes))
                yield return reading;
            yield break;
        }

        var zones = v.VaneSize.Parts;
        foreach (var part in plan.Parts.Where(p => states[p.Index] != SectionState.Lost))
        {
            var (look, place) = (Look(piece, plan, part.Index), unchecked((int)(piece.Seed & 0xFFFF)) * 64 + part.Index);
            if (look.Failed)
            {
                yield return new(part.Index, CellAspects.State, "eyes", new(0, "", 1), "failed");
                continue;
            }

            var seen = Shows(zones[part.Index].Word)
                .Select(x => (x.Defect, Score: x.Aspect == "strings" ? Strings(piece, part, eyes, place) : eyes.Score(look, x.Aspect, place)))
                .Where(x => x.Score is not null).ToList();
            if (seen.Count == 0)
                continue;
            // A zone is as good as what is worst on it.
            var worst = seen.MinBy(x => x.Score!.Value);
            yield return new(part.Index, PartTrial.Score, "eyes", worst.Score!);
            if (worst.Score!.Value < (double)v.Request.TargetScore)
                yield return new(part.Index, $"{PartTrial.Defect}1", "eyes", new(0, "", 1), worst.Defect);
        }
    }

    /// <summary>Strings by how many of its travels leave one: a house with more walls is crossed more often.</summary>
    private static Shown? Strings(SimulatedPiece piece, PlanPart part, Eyes eyes, int place)
    {
        var (_, expected, travels) = piece.StringsIn(part.FromZMm ?? 0, part.ToZMm ?? 0, 1, 40);
        return travels == 0 ? null : eyes.Score(Eyes.StringsQuality(expected / travels), "strings", place);
    }

    private static IEnumerable<SimulatedReading> OfClip(SimulatedPiece piece, VerificationPlan plan, Eyes eyes)
    {
        var (size, calliper) = (plan.ClipSize, new Calliper(piece.Seed));
        var (above, bed) = (piece.Look(1, size.HeightMm), piece.Look(0, Math.Min(1, size.HeightMm)));
        if (above.Layers == 0)
            yield break;
        yield return new(0, VerificationTrial.Rod, "calliper", calliper.Measure(size.RodMm));
        // Lines that are wider than they should be close a bore by half of it at each side; layers that were pressed wide close it further.
        double Bore(PieceLook look, double pressed) => size.BoreMm - (look.LineMm - plan.LineWidthMm) - pressed;
        yield return new(0, VerificationTrial.Bore, "calliper", calliper.Measure(Bore(above, 0)));
        yield return new(0, VerificationTrial.BoreAtBed, "calliper", calliper.Measure(Bore(bed, 0.06)));
        yield return new(0, VerificationTrial.Gap, "feeler", new(Math.Round(Math.Max(0, piece.Look(0, size.HeightMm).WarpMm) / 0.05) * 0.05, "mm", 0.05));
        var place = unchecked((int)(piece.Seed & 0xFFFF)) * 64;
        var play = Bore(above, 0) - size.RodMm;
        var snaps = 4 * Math.Exp(-Math.Pow(Math.Abs(play - size.ClearanceMm) / 0.35, 2)) * Math.Min(1, above.Bond / 0.5);
        yield return new(0, VerificationTrial.Snap, "eyes", eyes.Score(snaps, "snap", place));
        if (eyes.Score(above, "surface", place) is { } surface)
            yield return new(0, PartTrial.Score, "eyes", surface);
    }
}
