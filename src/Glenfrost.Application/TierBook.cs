using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>Tiers of pairings: named variants of a profile over one body of evidence.</summary>
public sealed class TierBook(WorkContext work)
{
    /// <summary>Those of a pairing.</summary>
    public static TierList Of(Pairing p) => p.TiersJson is { } json ? Json.Read<TierList>(json) : new();

    /// <summary>What a tier of a pairing lays over its profile; null where there is none of that name.</summary>
    /// <param name="p">The pairing.</param>
    /// <param name="name">Of the tier; null for none.</param>
    public async Task<(Tier Tier, HeldSettings Held)?> HeldAsync(Pairing p, string? name) =>
        Of(p).Find(name) is { } tier ? (tier, HeldSettings.Of(tier, await work.Db.ProfileAsync(p.Id))) : null;

    /// <summary>What is to be said of a tier, in words.</summary>
    public static IReadOnlyList<string> Remarks(Pairing p, ProfileView profile, Tier tier) =>
        [.. Tiers.Of(profile.Rows, tier, p.NozzleDiameterMm).Select(Said)];

    private static string Said(TierRemark r)
    {
        var label = SettingRegistry.Get(r.Key).Label;
        return r.Kind switch
        {
            TierRemarkKind.NotKnownThere => $"{label} was found at {Words.N(r.Beside, 0)} °C, not at {Words.N(r.Value, 0)}.",
            TierRemarkKind.AboveFlowLimit => $"{label} asks for {Words.N(r.Value, 1)} mm³/s; the flow limit is {Words.N(r.Beside, 1)}.",
            _ => $"{label} {Words.Value(r.Key, r.Value)} lies outside what was found, {Words.Value(r.Key, r.Beside)} " +
                $"± {SettingRegistry.Get(r.Key).HalfText(r.Half)}: a print at it would tell.",
        };
    }

    /// <summary>Gives a tier a value; the tier is made where there is none of that name.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="name">Of the tier.</param>
    /// <param name="value">Checked.</param>
    public Task SetAsync(Guid pairing, string name, TierValue value) =>
        ChangeAsync(
            pairing, t => t.With(name, value),
            $"Tier {name}: {SettingRegistry.Get(value.Key).Label.InSentence()} {Words.Value(value.Key, value.Value)}");

    /// <summary>Takes a value out of a tier, or all of it.</summary>
    /// <param name="pairing">The pairing.</param>
    /// <param name="name">Of the tier.</param>
    /// <param name="key">Of the value; null for all of the tier.</param>
    public Task RemoveAsync(Guid pairing, string name, string? key) => ChangeAsync(
        pairing, t => t.Without(name, key),
        $"Tier {name}: {(key is null ? "removed" : $"{SettingRegistry.Get(key).Label.InSentence()} is the profile's again")}");

    private Task ChangeAsync(Guid pairing, Func<TierList, TierList> to, string said) => work.AloneAsync(async () =>
    {
        var p = await work.Db.Pairings.Full().FirstAsync(x => x.Id == pairing);
        p.TiersJson = Json.Write(to(Of(p)));
        await work.LogAsync("profile", $"{said} · {Facts.NameOf(p)}", $"/pairings/{pairing}/card#tiers", $"tiers:{pairing}");
        return await work.Db.SaveChangesAsync();
    });
}
