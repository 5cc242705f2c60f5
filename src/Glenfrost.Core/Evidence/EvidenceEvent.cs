using Glenfrost.Core.Ageing;

namespace Glenfrost.Core.Evidence;

/// <summary>What happened to what is known of one area of a pairing.</summary>
public enum EvidenceKind
{
    /// <summary>A value was copied from another pairing: never evidence.</summary>
    Inherited,

    /// <summary>A verdict was kept.</summary>
    Kept,

    /// <summary>A verdict was kept that its own trial does not take for proven yet.</summary>
    KeptUnproven,

    /// <summary>Somebody chose a value of their own, or typed one.</summary>
    OwnChoice,

    /// <summary>A value found before a change was carried over by calculation.</summary>
    Carried,

    /// <summary>A verification piece that shows it passed.</summary>
    Confirmed,

    /// <summary>Something changed that it leans on.</summary>
    Doubted,

    /// <summary>An area without a setting (bond, warp, verification, top surface, quick check) was found good.</summary>
    Passed,

    /// <summary>It was found bad.</summary>
    Failed,

    /// <summary>It is left out, with a reason where one was given.</summary>
    Skipped,

    /// <summary>It is no longer left out.</summary>
    Resumed,

    /// <summary>It cannot be on this machine with this filament.</summary>
    NotApplicable,

    /// <summary>The state that an earlier version had stored.</summary>
    Stood,

    /// <summary>A cause was taken back: none of its events counts any more.</summary>
    Withdrawn,
}

/// <summary>How far one area of a pairing is known.</summary>
public enum EvidenceState
{
    /// <summary>Nobody has tried it here.</summary>
    Open,

    /// <summary>Copied, not tried here: never evidence.</summary>
    Inherited,

    /// <summary>One run, or own choice.</summary>
    Provisional,

    /// <summary>Repeated by evidence that excludes something, or passed a piece that shows it.</summary>
    Confirmed,

    /// <summary>Something changed since.</summary>
    Doubtful,

    /// <summary>Left out on purpose.</summary>
    Skipped,

    /// <summary>It cannot be here.</summary>
    NotApplicable,
}

/// <summary>One event. Events are only added; undo adds one that withdraws a cause.</summary>
/// <param name="Id">Time-ordered id.</param>
/// <param name="Area">Key of an area, see <see cref="EvidenceAreas"/>.</param>
/// <param name="Key">Setting of the dictionary that it is of; null for an area without one, and for a withdrawal.</param>
/// <param name="Kind">What happened.</param>
/// <param name="At">When, UTC.</param>
/// <param name="CauseId">Decision, part, change or whatever brought it; what is taken back is taken back by its cause.</param>
public sealed record EvidenceEvent(Guid Id, string Area, string? Key, EvidenceKind Kind, DateTime At, Guid CauseId)
{
    /// <summary>The run that it came from.</summary>
    public Guid? RunId { get; init; }

    /// <summary>The spool that it holds for; null for all of the product.</summary>
    public Guid? SpoolId { get; init; }

    /// <summary>The value, in the key's unit; null where there is none.</summary>
    public double? Number { get; init; }

    /// <summary>95 % half-width of the value; null where none is known.</summary>
    public double? Uncertainty { get; init; }

    /// <summary>Nozzle temperature that the value was found at, °C; null for one without such a condition.</summary>
    public double? AtC { get; init; }

    /// <summary>Why, in words: what it rests on, what changed.</summary>
    public string? Text { get; init; }

    /// <summary>The state that an earlier version had stored; only with <see cref="EvidenceKind.Stood"/>.</summary>
    public EvidenceState? State { get; init; }
}

/// <summary>What is known of one area, or of one setting of it at one condition.</summary>
/// <param name="Area">Key of the area.</param>
/// <param name="Key">Setting; null for an area without one.</param>
/// <param name="AtC">Nozzle temperature that the value was found at, °C; null for one without condition.</param>
/// <param name="State">How far it is known.</param>
/// <param name="Why">What it rests on, or why it is doubtful, in words; null where there is nothing to say.</param>
/// <param name="RunId">The run that the state rests on.</param>
/// <param name="At">When it came to that.</param>
public sealed record EvidenceItem(string Area, string? Key, double? AtC, EvidenceState State, string? Why, Guid? RunId, DateTime At);

/// <summary>The areas of evidence of a pairing.</summary>
public static class EvidenceAreas
{
    /// <summary>Area of settings that no trial settles by itself.</summary>
    public const string Other = "other";

    /// <summary>Areas without a setting of their own: bond, warp, top surface, verification, quick check.</summary>
    public static IReadOnlyList<AgeingArea> WithoutSetting { get; } =
    [.. new[] { "bond", "warp", "top-surface", "verification", "quick-check" }.Select(AgeingRules.Area)];

    // A bed temperature is first of all a setting; that warp leans on it makes it no evidence of warp.
    private static readonly Dictionary<string, string> ByKey = AgeingRules.Areas.Where(a => a.Key is not ("offset" or "warp" or "bridges"))
        .SelectMany(a => a.Settings.Select(s => (s, a.Key))).DistinctBy(x => x.s).ToDictionary(x => x.s, x => x.Key);

    /// <summary>The area of a setting.</summary>
    public static string Of(string key) => ByKey.GetValueOrDefault(key, Other);
}
