namespace Glenfrost.Core.Profiles;

/// <summary>One revision as far as undo needs it.</summary>
/// <param name="Number">Counts from 1.</param>
/// <param name="CauseId">What caused it; null where somebody typed.</param>
/// <param name="IsUndo">True for one that took another back.</param>
/// <param name="Settings">Values as they stood in it.</param>
public sealed record RevisionStep(int Number, Guid? CauseId, bool IsUndo, IReadOnlyList<ProfileSetting> Settings);

/// <summary>Takes a cause out of the middle of a profile's history: what came after stands.</summary>
public static class ProfileHistory
{
    /// <summary>
    /// The values that stand when the changes of some causes had not been made: each other revision's own changes are made again, in their order.
    /// </summary>
    /// <param name="revisions">All revisions of a pairing, any order; revisions that took something back are passed over, since what they took back is
    /// too.</param>
    /// <param name="undone">Causes that do not count.</param>
    public static IReadOnlyList<ProfileSetting> Without(IEnumerable<RevisionStep> revisions, IReadOnlySet<Guid> undone)
    {
        var list = revisions.OrderBy(r => r.Number).ToList();
        var standing = new Dictionary<(string, double?), ProfileSetting>();
        IReadOnlyList<ProfileSetting> before = [];
        foreach (var r in list)
        {
            if (!r.IsUndo && (r.CauseId is not { } cause || !undone.Contains(cause)))
            {
                var (was, now) = (Values(before), Values(r.Settings));
                foreach (var key in was.Keys.Where(k => !now.ContainsKey(k)))
                    standing.Remove(key);
                foreach (var (key, s) in now.Where(s => !was.TryGetValue(s.Key, out var w) || !SameValue(w, s.Value)))
                    standing[key] = s;
            }

            before = r.Settings;
        }

        return [.. standing.Values];
    }

    /// <summary>True where two rows say the same value from the same place, whatever their state.</summary>
    public static bool SameValue(ProfileSetting a, ProfileSetting b) =>
        a.Key == b.Key
        && a.Value == b.Value
        && a.Word == b.Word
        && a.Uncertainty == b.Uncertainty
        && a.Origin == b.Origin
        && a.OriginText == b.OriginText
        && a.RunId == b.RunId
        && a.AtC == b.AtC;

    private static Dictionary<(string, double?), ProfileSetting> Values(IEnumerable<ProfileSetting> settings) =>
        settings.GroupBy(s => (s.Key, s.AtC)).ToDictionary(g => g.Key, g => g.Last());
}
