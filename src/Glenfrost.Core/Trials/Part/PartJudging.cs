using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Statistics;

namespace Glenfrost.Core.Trials.Part;

/// <summary>A zone as it was read.</summary>
/// <param name="Label">As it is called.</param>
/// <param name="Score">0–4; null where nobody scored it.</param>
/// <param name="State">judged, failed or lost.</param>
/// <param name="FailedAtLayer">Layer at which it failed, from 1; null where it did not, or nobody said.</param>
/// <param name="Defects">What was seen on it.</param>
public sealed record PartZone(
    string Label, double? Score, SectionState State = SectionState.Judged, int? FailedAtLayer = null, IReadOnlyList<string>? Defects = null);

/// <summary>Readings of a part and what is asked of it.</summary>
public sealed record PartReadings
{
    /// <summary>Its zones from the bed up.</summary>
    public required IReadOnlyList<PartZone> Zones { get; init; }

    /// <summary>Score that each zone is to reach, 0–4.</summary>
    public double TargetScore { get; init; } = 3;

    /// <summary>Standard deviation of one score.</summary>
    public double ScoreNoise { get; init; } = Statistics.ScoreNoise.Default;
}

/// <summary>What a part says.</summary>
public enum PartOutcome
{
    /// <summary>Every zone reaches what is asked.</summary>
    Passed,

    /// <summary>A zone failed, or is below what is asked.</summary>
    NotPassed,

    /// <summary>Not every zone is read.</summary>
    Insufficient,
}

/// <summary>The verdict on somebody's own part.</summary>
public sealed record PartVerdict : ZonedVerdict
{
    /// <summary>Layer of the whole part that a cut-down piece begins at; null for a whole part.</summary>
    public int? BeginsAtLayer { get; init; }

    /// <summary>Number of the run whose part it is cut from; null where nobody says.</summary>
    public int? OfRun { get; init; }
}

/// <summary>The verdict on a piece that is looked at zone by zone: passed or not.</summary>
public abstract record ZonedVerdict : TrialVerdict<PartOutcome>
{
    /// <summary>No value is kept from it.</summary>
    public override bool Advised => false;

    /// <summary>What its zones were judged from.</summary>
    [JsonIgnore]
    public PartReadings From { get; init; } = new() { Zones = [] };

    /// <summary>Why the readings can't be judged; null where they can.</summary>
    [JsonIgnore]
    public FieldError? Refusal { get; init; }

    /// <summary>Zones below what is asked, or failed, from the bed up: from 0.</summary>
    public IReadOnlyList<int> Short { get; init; } = [];

    /// <summary>Zones that nobody read yet.</summary>
    public IReadOnlyList<int> Unread { get; init; } = [];

    /// <summary>Lowest layer at which it failed, from 1; null where it did not, or nobody said.</summary>
    public int? FailedAtLayer { get; init; }

    /// <summary>Zones that another look may put on the other side of what is asked: they differ from it by less than one score scatters.</summary>
    public IReadOnlyList<int> Close { get; init; } = [];

    /// <summary>What was seen, each once, the most frequent first.</summary>
    public IReadOnlyList<string> Defects { get; init; } = [];

    /// <summary>Kinds of trials that could tell where it comes from, the usual one first; what this pairing's record says of them is not in it.</summary>
    public IReadOnlyList<string> Suspects { get; init; } = [];
}

/// <summary>Judges somebody's own part zone by zone.</summary>
public static class PartJudging
{
    /// <summary>Most zones.</summary>
    public const int MostZones = 7;

    /// <summary>What is wrong with readings, by field.</summary>
    public static FieldError? Check(PartReadings r) =>
        r.Zones.Count is 0 or > MostZones ? new("zones", $"{r.Zones.Count} zones: 1 to {MostZones} would be right.")
        : r.Zones.Select((z, i) => (z, i)).FirstOrDefault(x => x.z.Score is not (null or (>= 0 and <= 4))) is { z: not null } bad
            ? new($"zones[{bad.i}].score", "A score is 0 (unusable) to 4 (clean).")
        : r.TargetScore is < 0 or > 4 ? new("targetScore", "A target is a score of 0 to 4.")
        : r.Zones.Select((z, i) => (z, i)).FirstOrDefault(x => x.z.FailedAtLayer is < 1) is { z: not null } under
            ? new($"zones[{under.i}].failedAtLayer", "Layers count from 1.")
        : r.Zones.Select((z, i) => (z, i)).FirstOrDefault(x => (x.z.Defects ?? []).Any(d => PartDefect.Find(d) is null)) is { z: not null } unknown
            ? new($"zones[{unknown.i}].defects", $"One of {string.Join(", ", PartDefect.All.Select(d => d.Word))} would be right.")
        : null;

    /// <summary>The verdict. A zone that failed, or a layer at which it did, is short whatever its score; one that was lost says nothing.</summary>
    public static PartVerdict Judge(PartReadings r) => Judge(r, new PartVerdict());

    /// <summary>The same as a verdict of another piece that is looked at zone by zone.</summary>
    /// <param name="r">Its zones.</param>
    /// <param name="empty">A verdict that nothing stands in yet.</param>
    internal static T Judge<T>(PartReadings r, T empty)
        where T : ZonedVerdict
    {
        if (Check(r) is { } refusal)
            return empty with { Outcome = PartOutcome.Insufficient, From = r, Refusal = refusal };
        bool Failed(PartZone z) => z.State == SectionState.Failed || z.FailedAtLayer is not null;
        int[] Of(Func<PartZone, bool> which) => [.. Enumerable.Range(0, r.Zones.Count).Where(i => which(r.Zones[i]))];
        var tooLow = Of(z => Failed(z) || (z.State == SectionState.Judged && z.Score < r.TargetScore - 1e-9));
        var unread = Of(z => z is { State: SectionState.Judged, Score: null, FailedAtLayer: null });
        var lost = Of(z => z.State == SectionState.Lost && !Failed(z));
        string[] seen = [.. r.Zones.SelectMany(z => z.Defects ?? []).GroupBy(d => d).OrderByDescending(g => g.Count()).Select(g => g.Key)];
        return empty with
        {
            From = r,
            // One zone that is short decides, whatever the others say.
            Outcome = tooLow.Length > 0 ? PartOutcome.NotPassed : unread.Length + lost.Length > 0 ? PartOutcome.Insufficient : PartOutcome.Passed,
            Short = tooLow,
            Unread = unread,
            FailedAtLayer = r.Zones.Min(z => z.FailedAtLayer),
            Close = Of(z => !Failed(z) && z.State == SectionState.Judged && z.Score is { } s && Math.Abs(s - r.TargetScore) < r.ScoreNoise),
            Defects = seen,
            Suspects = SuspectsOf(seen),
        };
    }

    /// <summary>Kinds of trials that could tell where some defects come from, each once.</summary>
    internal static IReadOnlyList<string> SuspectsOf(IEnumerable<string> defects) => [.. defects.SelectMany(d => PartDefect.Find(d)!.Suspects).Distinct()];
}
