namespace Glenfrost.Core.Equipment;

/// <summary>A value of a machine as it was set, or the withdrawal of a cause. Events are only added.</summary>
/// <param name="Id">Time-ordered id.</param>
/// <param name="At">When, UTC.</param>
/// <param name="CauseId">What brought it.</param>
/// <param name="Key">stepsPerMm or rotationDistanceMm; null for a withdrawal.</param>
/// <param name="Number">The value; null where it is not known.</param>
/// <param name="ProvenAt">When a run, or somebody, last found it right; null where nobody did.</param>
public sealed record MachineValueEvent(Guid Id, DateTime At, Guid CauseId, string? Key, double? Number, DateTime? ProvenAt)
{
    /// <summary>True where it takes its cause back.</summary>
    public bool Withdraws { get; init; }
}

/// <summary>
/// What a machine's value is: the newest that was not taken back. Undoing an older one keeps a newer one, and steps give way to the rotation distance that
/// stood before them.
/// </summary>
public static class MachineValueFold
{
    /// <summary>The event that stands; null where none does.</summary>
    public static MachineValueEvent? Standing(IEnumerable<MachineValueEvent> events)
    {
        var all = events.ToList();
        var taken = all.Where(e => e.Withdraws).Select(e => e.CauseId).ToHashSet();
        return all.Where(e => !e.Withdraws && !taken.Contains(e.CauseId)).OrderBy(e => e.At).ThenBy(e => e.Id).LastOrDefault();
    }
}
