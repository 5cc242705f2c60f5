using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.Part;

namespace Glenfrost.Core.Trials.Verification;

/// <summary>
/// Judges a verification piece: each zone against what is asked, and of a clip the play on its rod, whether it is as wide at the bed, flat, and snaps. What is
/// measured wrong is a defect as one that was ticked.
/// </summary>
public static class VerificationJudging
{
    /// <summary>How far the inner jaws of a calliper in a printed bore may be off, mm: ridges of layers, and a hand.</summary>
    public const double JawsMm = 0.05;

    /// <summary>Bore narrower at the bed by more than this, mm: layers pressed wide.</summary>
    public const double NarrowMm = 0.2;

    /// <summary>Areas that a piece shows where it passes, and no more.</summary>
    /// <param name="piece">vane or clip.</param>
    public static IReadOnlyList<string> ShownBy(string piece) =>
        piece == VerificationTrial.Clip ? ["flow", "first-layer"] : ["temperature", "strings", "pressure", "cooling", "bridges", "layer-time"];

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(VerificationReadings r)
    {
        var errors = new List<FieldError>();
        if (PartJudging.Check(Zoned(r)) is { } zones)
            errors.Add(zones);
        if (r.Fit is not { } fit)
            return errors;
        void Within(string field, double? v, double least, double most, string why)
        {
            if (v is { } x && !(x >= least && x <= most))
                errors.Add(new(field, $"{Say.N(x, 3)} is outside {Say.N(least, 3)} to {Say.N(most, 3)}: {why}."));
        }

        Within("fit.rodMm", fit.RodMm, 0.5, 100, "a rod in mm");
        Within("fit.boreMm", fit.BoreMm, 0.5, 100, "a bore in mm");
        Within("fit.boreAtBedMm", fit.BoreAtBedMm, 0.5, 100, "a bore in mm");
        Within("fit.gapMm", fit.GapMm, 0, 20, "a gap in mm, 0 for none");
        Within("fit.snap", fit.Snap, 0, 4, "0 is unusable, 4 is clean");
        Within("fit.drawnBoreMm", fit.DrawnBoreMm, 0.5, 100, "a bore in mm");
        Within("fit.clearanceMm", fit.ClearanceMm, 0, 2, "how much wider the bore is drawn than the rod");
        Within("fit.toleranceMm", fit.ToleranceMm, 0.02, 1, "finer can't be measured, coarser passes anything");
        Within("fit.mostGapMm", fit.MostGapMm, 0.05, 5, "finer can't be seen, coarser passes anything");
        return errors;
    }

    private static PartReadings Zoned(VerificationReadings r) => new() { Zones = r.Zones, TargetScore = r.TargetScore, ScoreNoise = r.ScoreNoise };

    /// <summary>The verdict.</summary>
    public static VerificationVerdict Judge(VerificationReadings r)
    {
        var v = PartJudging.Judge(Zoned(r), new VerificationVerdict { Piece = r.Piece, Fit = r.Fit });
        if (Check(r) is [var refusal, ..])
            return v with { Outcome = PartOutcome.Insufficient, Refusal = refusal };
        if (r.Fit is { } fit)
            v = WithFit(v, fit, r.TargetScore);
        if (v.Outcome != PartOutcome.Passed)
            return v;
        return v with
        {
            // A clip that nobody measured at the bed says nothing of the first layer.
            Shows = [.. ShownBy(r.Piece).Where(a => a != "first-layer" || r.Fit is { BoreAtBedMm: not null, GapMm: not null })],
            Next = r.Piece == VerificationTrial.Vane
                ? new("functional-part", "", VerificationTrial.Word, new Dictionary<string, decimal>())
                {
                    Words = new Dictionary<string, string> { ["mode"] = VerificationTrial.Clip },
                }
                : null,
        };
    }

    private static VerificationVerdict WithFit(VerificationVerdict v, ClipFit fit, double target)
    {
        double? play = fit is { BoreMm: { } bore, RodMm: { } rod } ? Math.Round(bore - rod, 4) : null;
        double? drawn = fit.BoreMm is { } b ? Math.Round(b - fit.DrawnBoreMm, 4) : null;
        var off = play - fit.ClearanceMm;
        var faults = new List<ClipFault>();
        if (off is { } o && Math.Abs(o) > fit.ToleranceMm + 1e-9)
            faults.Add(o < 0 ? ClipFault.Tight : ClipFault.Loose);
        if (fit is { BoreMm: { } above, BoreAtBedMm: { } under } && above - under > NarrowMm + 1e-9)
            faults.Add(ClipFault.NarrowAtBed);
        if (fit.GapMm > fit.MostGapMm + 1e-9)
            faults.Add(ClipFault.Lifted);
        if (fit.Snap < target - 1e-9)
            faults.Add(ClipFault.Snap);
        var rodIsOff = faults.Exists(f => f is ClipFault.Tight or ClipFault.Loose) && drawn is { } d && Math.Abs(d) <= fit.ToleranceMm + 1e-9;
        List<ClipMissing> missing = [];
        if (fit.RodMm is null)
            missing.Add(ClipMissing.Rod);
        if (fit.BoreMm is null)
            missing.Add(ClipMissing.Bore);
        if (fit.Snap is null)
            missing.Add(ClipMissing.Snap);
        // A rod that is another one than was planned for is no fault of the print.
        string[] measured =
        [
            .. faults.Select(f => f switch
            {
                ClipFault.Tight or ClipFault.Loose => rodIsOff ? null : "poor fit",
                ClipFault.NarrowAtBed => "elephant foot",
                ClipFault.Lifted => "lifted corner",
                _ => null,
            }).OfType<string>(),
        ];
        string[] defects = [.. v.Defects.Concat(measured).Distinct()];
        return v with
        {
            PlayMm = play,
            BoreOffMm = drawn,
            Faults = faults,
            Missing = missing,
            RodIsOff = rodIsOff,
            FitClose = off is { } x && Math.Abs(Math.Abs(x) - fit.ToleranceMm) < JawsMm,
            Defects = defects,
            Suspects = PartJudging.SuspectsOf(defects),
            Outcome = faults.Count > 0 ? PartOutcome.NotPassed
                : missing.Count > 0 && v.Outcome == PartOutcome.Passed ? PartOutcome.Insufficient
                : v.Outcome,
        };
    }
}
