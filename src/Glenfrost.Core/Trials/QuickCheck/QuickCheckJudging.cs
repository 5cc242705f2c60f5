using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.QuickCheck;

/// <summary>
/// A new spool's piece beside the kept run's: it passes unless wall or strings are shown worse, and the verdict says what would slip through.
/// The wall differs where its change leaves zero out by the 95 % interval and is more than matters. Strings are worse where their drop is more than 19 of 20
/// equal pieces would show: 1.645 σ, σ² = noise² (1/n + 1/m). What slips through one time in three lies 0.431 σ beyond either line.
/// </summary>
public static class QuickCheckJudging
{
    /// <summary>Fewer walls tell too little.</summary>
    public const int LeastWalls = 4;

    /// <summary>
    /// Scatter of the mean wall from piece to piece off one spool, %: what readings of one piece can't show. Cautious; runs of a pairing that are equal in all
    /// that matters may show less.
    /// </summary>
    public const double PieceToPiecePercent = 0.5;

    private const double TwoSided = 1.96, OneSided = 1.645, OneInThree = 0.431;

    /// <summary>What is wrong with readings, by field.</summary>
    public static IReadOnlyList<FieldError> Check(QuickCheckReadings r)
    {
        var errors = new List<FieldError>();
        void Within(string field, double? v, double least, double most, string why)
        {
            if (v is { } x && !(x >= least && x <= most))
                errors.Add(new(field, $"{Say.N(x, 3)} is outside {Say.N(least, 3)} to {Say.N(most, 3)}: {why}."));
        }

        const string Wall = "a wall of one line in mm, for example 0.45", Score = "0 is unusable, 4 is clean";
        foreach (var (v, i) in r.WallMm.Select((v, i) => (v, i)))
            Within($"wallMm[{i}]", v, 0.05, 20, Wall);
        foreach (var (v, i) in r.Strings.Select((v, i) => (v, i)))
            Within($"strings[{i}]", v, 0, 4, Score);
        Within("keptWallMm", r.KeptWallMm, 0.05, 20, Wall);
        Within("keptWallHalfMm", r.KeptWallHalfMm, 0, 5, "how well the kept wall is known");
        Within("keptStrings", r.KeptStrings, 0, 4, Score);
        Within("keptScores", r.KeptScores, 1, 100, "how many scores the kept mean is of");
        Within("tolerancePercent", r.TolerancePercent, 0.5, 20, "finer can't be measured, coarser passes anything");
        Within("resolutionMm", r.ResolutionMm, 0.0001, 1, "the smallest step of the calliper");
        Within("scoreNoise", r.ScoreNoise, 0.1, 2, "nobody scores steadier, or so unsteadily");
        return errors;
    }

    /// <summary>Judges readings; what <see cref="Check"/> refuses is not judged.</summary>
    public static QuickCheckVerdict Judge(QuickCheckReadings r)
    {
        if (Check(r) is [var refusal, ..])
            return new() { Outcome = QuickCheckOutcome.MeasureMore, From = r, Refusal = refusal, Advised = false };
        var wall = r.WallMm.Count > 0 ? Measured.Of(r.WallMm, r.ResolutionMm) : null;
        double? score = r.Strings.Count > 0 ? r.Strings.Average() : null;
        var v = new QuickCheckVerdict
        {
            Outcome = QuickCheckOutcome.MeasureMore,
            From = r,
            WallMm = wall is null ? null : Math.Round(wall.Mean, 4),
            WallHalfMm = wall is not null && double.IsFinite(wall.HalfWidth) ? Math.Round(wall.HalfWidth, 4) : null,
            StringsScore = score is { } s ? Math.Round(s, 3) : null,
            Advised = false,
        };
        if (wall is null || wall.Count < LeastWalls || score is not { } strings)
            return v with { Next = new("measure-more", "") };
        if (r.KeptWallMm is { } kept)
            v = WithWall(v, r, wall, kept);
        if (r.KeptStrings is { } before)
            v = WithStrings(v, r, before - strings);
        List<string> doubts = [.. v.WallDiffers ? ["flow"] : (string[])[], .. v.StringsWorse ? ["strings"] : (string[])[]];
        return v with
        {
            Doubts = doubts,
            Advised = true,
            Outcome = doubts.Count > 0 ? QuickCheckOutcome.Differs
                : r.KeptWallMm is null || r.KeptStrings is null ? QuickCheckOutcome.Baseline
                : QuickCheckOutcome.Passed,
            // Flow comes before strings: a wall that is too thick strings too.
            Next = doubts is [var first, ..] ? new("settle", "", first == "flow" ? "wall-flow" : "retraction-sweep", new Dictionary<string, decimal>()) : null,
        };
    }

    private static QuickCheckVerdict WithWall(QuickCheckVerdict v, QuickCheckReadings r, Measured wall, double kept)
    {
        var pieces = TwoSided * PieceToPiecePercent / 100 * kept;
        var half = 100 / kept * Math.Sqrt(wall.HalfWidth * wall.HalfWidth + Math.Pow(r.KeptWallHalfMm ?? 0, 2) + pieces * pieces);
        var change = 100 * (wall.Mean / kept - 1);
        var line = Math.Max(half, r.TolerancePercent);
        return v with
        {
            WallChangePercent = Math.Round(change, 2),
            WallChangeHalfPercent = Math.Round(half, 2),
            WallDiffers = Math.Abs(change) > line,
            SlipsWallPercent = Math.Round(line + OneInThree / TwoSided * half, 1),
        };
    }

    private static QuickCheckVerdict WithStrings(QuickCheckVerdict v, QuickCheckReadings r, double drop)
    {
        var sd = r.ScoreNoise * Math.Sqrt(1.0 / r.Strings.Count + 1.0 / r.KeptScores);
        return v with
        {
            StringsDrop = Math.Round(drop, 3),
            StringsDropNeeded = Math.Round(OneSided * sd, 3),
            StringsWorse = drop > OneSided * sd,
            SlipsStrings = Math.Round((OneSided + OneInThree) * sd, 1),
        };
    }
}
