using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>A value of a settings card.</summary>
/// <param name="Label">What it is called.</param>
/// <param name="Text">With its unit and what it was found at.</param>
/// <param name="IsStart">True for a starting value: nobody measured it.</param>
public sealed record CardValue(string Label, string Text, bool IsStart);

/// <summary>A revision that was typed into a program.</summary>
/// <param name="Noted">When, by whom, and where it stands.</param>
/// <param name="Revision">Which.</param>
/// <param name="Changed">What changed since, by label; null where that revision is not there any more.</param>
public sealed record TypedInto(Finding Noted, int Revision, IReadOnlyList<string>? Changed);

/// <summary>The settings of a pairing as they are typed elsewhere.</summary>
/// <param name="Pairing">Which.</param>
/// <param name="Profile">Its newest profile; null for none.</param>
/// <param name="Name">By the pattern.</param>
/// <param name="SameName">Other pairings that the pattern would call the same.</param>
/// <param name="Values">What a card has room for, in the order in which a form asks it.</param>
/// <param name="Typed">Where it was typed, the newest first.</param>
public sealed record PresetCard(
    Pairing Pairing, ProfileView? Profile, string Name, IReadOnlyList<Pairing> SameName, IReadOnlyList<CardValue> Values, IReadOnlyList<TypedInto> Typed)
{
    /// <summary>The variants of the profile.</summary>
    public TierList Tiers { get; init; } = new();

    /// <summary>The variant that it shows; null for the profile itself.</summary>
    public Tier? Tier { get; init; }

    /// <summary>What a label of 62 × 29 mm has room for: a name of two lines, and a first layer below its print, take a place each.</summary>
    public int RoomOnSmall => Name.Length > 34 ? 6 : 8;

    /// <summary>Other variants that the pattern calls the same, by name; the profile itself is "no tier".</summary>
    public IReadOnlyList<string> SameTiers { get; init; } = [];
}

/// <summary>Settings cards, names of presets, and which preset holds what.</summary>
public sealed class PresetBook(WorkContext work, PairingBook pairings, Findings findings)
{
    /// <summary>Tag of a note that says where a revision was typed.</summary>
    public const string Tag = "typed into";

    /// <summary>Stands in place of a setting where a note is of a revision.</summary>
    public const string RevisionKey = "profileRevision";

    // In the order in which a form asks it; the first layer stands with what it differs from.
    private static readonly (string Key, string? FirstLayer)[] OnCard =
    [
        ("nozzleTemperatureC", "firstLayerNozzleTemperatureC"), ("bedTemperatureC", "firstLayerBedTemperatureC"), ("extrusionMultiplier", null),
        ("retractionLengthMm", null), ("pressureAdvance", null), ("maxVolumetricFlowMm3PerS", null), ("fanPercent", null),
    ];

    /// <summary>The card of a pairing; null where there is none.</summary>
    /// <param name="id">The pairing.</param>
    /// <param name="pattern">Without fault.</param>
    /// <param name="tier">Name of a variant; null for the profile itself, as one that there is not.</param>
    public async Task<PresetCard?> OfAsync(Guid id, string pattern, string? tier = null)
    {
        if (await pairings.FindAsync(id) is not { } p)
            return null;
        // Of the others only the number is asked for: a ten years' bench has many, and their values are none of this card's.
        var numbers = await work.Db.Pairings.Where(x => x.World == p.World).Join(work.Db.Revisions, x => x.NewestRevisionId, r => r.Id, (x, r) => new
        {
            x.Id, r.Number,
        }).ToDictionaryAsync(x => x.Id, x => x.Number);
        string NameOf(Pairing x, string variant) => PresetName.Of(
            pattern, new(
                x.Toolhead!.FullName, x.Filament!.Maker, x.Filament.Line, x.Variant?.Colour ?? "", x.NozzleName, x.Use,
                numbers.GetValueOrDefault(x.Id), variant));
        var tiers = TierBook.Of(p);
        var called = tiers.Find(tier);
        var name = NameOf(p, called?.Name ?? "");
        bool Same(string other) => string.Equals(other, name, StringComparison.OrdinalIgnoreCase);
        var others = await work.Db.Pairings.AsNoTracking().Full().Where(x => x.RemovedAt == null && x.World == p.World && x.Id != id).ToListAsync();
        var profile = await work.Db.ProfileAsync(id);
        return new(
            p, profile, name, [.. others.Where(x => TierBook.Of(x).Tiers.Select(t => t.Name).Prepend("").Any(t => Same(NameOf(x, t))))],
            profile is null ? [] : [.. ValuesOf(profile, called), .. DryingOf(p, profile)], await TypedAsync(id, profile))
        {
            Tiers = tiers, Tier = called,
            SameTiers = [.. tiers.Tiers.Select(t => t.Name).Prepend("").Where(t => t != (called?.Name ?? "") && Same(NameOf(p, t)))
                .Select(t => t.Length == 0 ? "no tier" : t)],
        };
    }

    /// <summary>What stands on the card: the usual values, and whatever the variant has of its own.</summary>
    private static IEnumerable<CardValue> ValuesOf(ProfileView profile, Tier? tier)
    {
        var force = tier is null ? profile.Settings : Tiers.Over(profile.Rows, tier);
        ProfileSetting? At(string? key) => key is null ? null : force.FirstOrDefault(s => s.Key == key);
        var own = tier?.Values.Select(v => v.Key).ToList() ?? [];
        // What tells a variant apart comes first: a small label may have no room for all.
        return OnCard.Concat(own.Where(k => OnCard.All(c => c.Key != k && c.FirstLayer != k)).Select(k => (k, (string?)null)))
            .Where(k => At(k.Item1) is not null).OrderByDescending(k => own.Contains(k.Item1)).Select(k => Of(At(k.Item1)!, At(k.Item2)));
    }

    /// <summary>Notes that the newest revision was typed somewhere.</summary>
    /// <param name="card">Of the pairing, with a profile.</param>
    /// <param name="where">In which program, on which machine, under which name.</param>
    /// <param name="key">Of the press, so that a second sending notes nothing.</param>
    public Task NoteAsync(PresetCard card, string where, string key) => findings.AddAsync(
        key, Tag, where, null, card.Pairing.Id, null, null, Facts.NameOf(card.Pairing), $"/pairings/{card.Pairing.Id}/card",
        (RevisionKey, card.Profile!.Number, null));

    private static CardValue Of(ProfileSetting s, ProfileSetting? first)
    {
        var (label, unit) = (SettingRegistry.Get(s.Key).Label, SettingRegistry.Get(s.Key).Quantity.Unit);
        return new(
            label, $"{s.ValueText}{(unit.Length > 0 ? $" {unit}" : "")}{(s.AtC is { } at ? $" at {Words.N(at, 0)} °C" : "")}" +
                (first is not null && Math.Abs(first.Value - s.Value) > 1e-9 ? $", first layer {first.ValueText}" : ""), s.State == SettingState.Start);
    }

    /// <summary>Drying: of the profile, else what the label or the family says.</summary>
    private static IEnumerable<CardValue> DryingOf(Pairing p, ProfileView profile)
    {
        var (family, own) = (Core.Filaments.Family.Find(p.Filament!.Family), profile["dryingTemperatureC"]);
        var (c, h) = (own?.Value ?? p.Filament.DryingC ?? family?.DryingC, profile["dryingHours"]?.Value ?? p.Filament.DryingHours ?? family?.DryingHours);
        if (c is not null && h is not null)
            yield return new("Drying", $"{Words.N(c, 0)} °C for {Words.N(h, 1)} h", own is null || own.State == SettingState.Start);
    }

    private static int NumberOf(Finding f) => (int)(f.SettingValue ?? 0);

    private async Task<IReadOnlyList<TypedInto>> TypedAsync(Guid id, ProfileView? now)
    {
        var noted = await work.Db.Findings.AsNoTracking().Where(f => f.PairingId == id && f.Tag == Tag && f.RemovedAt == null).OrderByDescending(f => f.At)
            .Take(20).ToListAsync();
        var numbers = noted.Select(NumberOf).Distinct().ToList();
        var revisions = await work.Db.Revisions.AsNoTracking().Where(r => r.PairingId == id && numbers.Contains(r.Number)).Include(r => r.Settings)
            .ToListAsync();
        return [.. noted.Select(f => new TypedInto(f, NumberOf(f), Changed(revisions.FirstOrDefault(r => r.Number == NumberOf(f)))))];

        IReadOnlyList<string>? Changed(ProfileRevision? then) => then is null || now is null ? null
            :
            [
                .. now.Settings.Where(s => !then.Settings.Any(t => t.Key == s.Key && Math.Abs(t.Value - s.Value) < 1e-9 && t.Word == s.Word))
                    .Select(s => Words.Lower(SettingRegistry.Get(s.Key).Label)),
            ];
    }
}
