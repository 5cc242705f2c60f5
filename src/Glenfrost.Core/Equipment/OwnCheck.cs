using Glenfrost.Core.Ageing;

namespace Glenfrost.Core.Equipment;

/// <summary>A check that a tester added to a printer: seal, grease, belt …</summary>
/// <param name="Key">Stored word; begins with <see cref="Prefix"/>.</param>
/// <param name="Label">Words on the page.</param>
/// <param name="How">How it is done, and what is in order.</param>
/// <param name="EveryDays">After so many days it is old; null for never.</param>
/// <param name="Doubts">Keys of areas that it makes doubtful when it is found wanting.</param>
public sealed record OwnCheck(string Key, string Label, string How, int? EveryDays, IReadOnlyList<string> Doubts)
{
    /// <summary>Begins the keys of own checks.</summary>
    public const string Prefix = "own-";

    /// <summary>Most of one printer.</summary>
    public const int Most = 12;

    /// <summary>Longest time between two, days.</summary>
    public const int MostDays = 3650;

    /// <summary>The same among the kinds of checks: of the whole printer, without values.</summary>
    public CheckKind Kind => new(Key, Label, false, How, []) { EveryDays = EveryDays, Doubts = Doubts };

    /// <summary>The key of a label: its small letters and digits; the same label is the same check.</summary>
    public static string KeyOf(string label) => Prefix + string.Concat(label.ToLowerInvariant().Where(c => c
        is >= 'a' and <= 'z' or >= '0' and <= '9').Take(24));

    /// <summary>Settings that become doubtful when it is found wanting.</summary>
    public IReadOnlyList<string> Settings => [.. Doubts.SelectMany(a => AgeingRules.Area(a).Settings).Distinct()];

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public string? Fault() =>
        Key is not { Length: > 4 and < 40 } || !Key.StartsWith(Prefix, StringComparison.Ordinal) ? "has no key"
        : Label is not { Length: > 0 and <= 40 } ? "has no name of at most 40 letters"
        : How is not { Length: <= 200 } ? "is described by more than 200 letters"
        : EveryDays is < 1 or > MostDays ? $"is due every 1 to {MostDays} days"
        : Doubts is null || Doubts.FirstOrDefault(d => AgeingRules.Areas.All(a => a.Key != d)) is not null ? "makes doubtful what is no area"
        : null;
}

/// <summary>A firmware and a slicer that were used together from a day on.</summary>
/// <param name="At">From when, UTC.</param>
/// <param name="Firmware">With its version.</param>
/// <param name="Slicer">With its version; null where nothing was sliced but by Glenfrost.</param>
/// <param name="Stable">True where they are known to work together, false where they are not; null where nobody can say yet.</param>
/// <param name="Note">In words; null for none.</param>
public sealed record VersionPair(DateTime At, string Firmware, string? Slicer, bool? Stable, string? Note)
{
    /// <summary>Most of one printer.</summary>
    public const int Most = 60;

    /// <summary>The pair that was in use at a moment; null before the first one.</summary>
    /// <param name="pairs">Of one printer.</param>
    /// <param name="at">UTC.</param>
    public static VersionPair? InUse(IEnumerable<VersionPair> pairs, DateTime at) => pairs.Where(p => p.At <= at).MaxBy(p => p.At);

    /// <summary>What is wrong with it; null where nothing is.</summary>
    public string? Fault() =>
        Firmware is not { Length: > 0 and <= 80 } ? "names no firmware" : Slicer is { Length: > 80 } || Note is { Length: > 200 } ? "is too long" : null;
}

/// <summary>The reference piece of a printer: printed when in doubt, and every so often.</summary>
/// <param name="PairingId">What it is printed with, always the same.</param>
/// <param name="EveryDays">How often; null for only when in doubt.</param>
public sealed record PulseOf(Guid PairingId, int? EveryDays);
