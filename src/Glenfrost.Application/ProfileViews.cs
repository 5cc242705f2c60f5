using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>A profile as it stands: the values of its newest revision with the states that the evidence gives them.</summary>
/// <param name="RevisionId">The newest revision.</param>
/// <param name="Number">Its number.</param>
/// <param name="At">When it was made.</param>
/// <param name="Rows">Every value, those found at other temperatures too.</param>
public sealed record ProfileView(Guid RevisionId, int Number, DateTime At, IReadOnlyList<ProfileSetting> Rows)
{
    /// <summary>One value for each key: the one for the temperature in force, or one that is marked as not known there.</summary>
    public IReadOnlyList<ProfileSetting> Settings { get; } = ConditionedValues.InForce(Rows);

    /// <summary>Values found at temperatures that are not in force, beside one that is.</summary>
    public IReadOnlyList<ProfileSetting> Others => [.. Rows.Where(r => r.AtC is not null && Settings.All(s => s.Key != r.Key || (s.AtC != r.AtC)))];

    /// <summary>Values to plan with.</summary>
    public IReadOnlyDictionary<string, double> ForPlanning => ConditionedValues.ForPlanning(Settings);

    /// <summary>The value of a key in force; null where there is none.</summary>
    public ProfileSetting? this[string key] => Settings.FirstOrDefault(s => s.Key == key);

    /// <summary>The cool-down that it keeps, as steps; why no file can hold it; both null where it keeps none.</summary>
    /// <param name="bedC">Bed while printing, °C.</param>
    /// <param name="airC">Air around the part, °C.</param>
    public (IReadOnlyList<RampStep>? Steps, string? Why) CoolDown(double bedC, double airC) => BedRamp.Read(
        this["coolDown"] is { State: not SettingState.Start } kept ? kept.Word : null, bedC, airC, this["releaseBedTemperatureC"]?.Value);
}

/// <summary>Reads profiles: values from revisions, states from the projection of the evidence.</summary>
public static class ProfileViews
{
    /// <summary>The profile of a pairing; null before its first revision.</summary>
    public static async Task<ProfileView?> ProfileAsync(this GlenfrostDb db, Guid pairing) => (await db.ProfilesAsync([pairing])).GetValueOrDefault(pairing);

    /// <summary>Profiles by pairing.</summary>
    /// <param name="db">The database.</param>
    /// <param name="pairings">Which; null for all.</param>
    /// <param name="keys">Only these keys; null for all.</param>
    public static async Task<Dictionary<Guid, ProfileView>> ProfilesAsync(
        this GlenfrostDb db, IReadOnlyCollection<Guid>? pairings = null, IReadOnlyCollection<string>? keys = null)
    {
        var of = db.Pairings.AsNoTracking();
        var standings = db.Standings.AsNoTracking().Where(s => s.Key != null);
        if (pairings is not null)
        {
            of = of.Where(p => pairings.Contains(p.Id));
            standings = standings.Where(s => pairings.Contains(s.PairingId));
        }

        var settings = db.Settings.AsNoTracking();
        if (keys is not null)
        {
            settings = settings.Where(s => keys.Contains(s.Key));
            standings = standings.Where(s => keys.Contains(s.Key!));
        }

        var revisions = await of.Join(
                db.Revisions,
                p => p.NewestRevisionId,
                r => r.Id,
                (p, r) =>
                    new { p.Id, RevisionId = r.Id, r.Number, r.At })
            .ToListAsync();
        var rows = (await of.Join(settings, p => p.NewestRevisionId, s => s.RevisionId, (p, s) => new { p.Id, s }).ToListAsync()).ToLookup(x => x.Id, x => x.s);
        var states = (await standings.ToListAsync()).ToLookup(s => s.PairingId);
        return revisions.ToDictionary(r => r.Id, r => new ProfileView(r.RevisionId, r.Number, r.At, With(rows[r.Id], states[r.Id])));
    }

    /// <summary>A profile from its newest revision, loaded with its rows, and what is known of the pairing.</summary>
    public static ProfileView Of(ProfileRevision newest, IEnumerable<EvidenceStanding> standings) =>
        new(newest.Id, newest.Number, newest.At, With(newest.Settings, standings.Where(s => s.Key is not null)));

    /// <summary>Rows with the states of their pairing.</summary>
    private static List<ProfileSetting> With(IEnumerable<SettingRow> rows, IEnumerable<EvidenceStanding> standings)
    {
        var states = standings.ToDictionary(s => (s.Key!, s.AtC));
        return [.. rows.Select(r => states.TryGetValue((r.Key, r.AtC), out var s) ? r.ToCore(Of(s.State), s.Why) : r.ToCore(SettingState.Start, null))];
    }

    /// <summary>The state of a setting as profiles show it.</summary>
    public static SettingState Of(EvidenceState state) => state switch
    {
        EvidenceState.Inherited => SettingState.Inherited,
        EvidenceState.Provisional => SettingState.Provisional,
        EvidenceState.Confirmed => SettingState.Confirmed,
        EvidenceState.Doubtful => SettingState.Doubtful,
        _ => SettingState.Start,
    };
}
