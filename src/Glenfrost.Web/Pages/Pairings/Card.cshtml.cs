using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Pairings;

/// <summary>The settings of a pairing on a card, its name by a pattern, and where it was typed.</summary>
internal sealed class CardModel(WorkContext work, PresetBook presets, TierBook tiers, PeopleBook people, Reach reach) : WorkPage(work)
{
    private const string PatternCookie = "glenfrost-pattern";

    public PresetCard C { get; private set; } = null!;

    public QrPath Code { get; private set; } = null!;

    public IReadOnlyDictionary<Guid, string> People { get; private set; } = new Dictionary<Guid, string>();

    /// <summary>Sizes of common label printers and of a card.</summary>
    public IReadOnlyList<KeyValuePair<string, string>> Sizes { get; } =
    [
        new("wide", "label 62 × 29 mm"), new("tall", "label 62 × 100 mm"), new("postcard", "card 105 × 148 mm"),
    ];

    public static string PatternHelp { get; } = $"{string.Join(", ", PresetName.Words.Select(w => $"{{{w}}}"))} stand for what they say.";

    public string Size => Form["size"];

    /// <summary>Settings that a tier may have of its own: numbers.</summary>
    public static IReadOnlyList<KeyValuePair<string, string>> TierKeys { get; } =
        [.. SettingRegistry.All.Where(d => d.Words is null).Select(d => KeyValuePair.Create(d.Key, d.Label))];

    public async Task<IActionResult> OnGetAsync(Guid id, string? size, string? pattern, string? tier)
    {
        Form["tier"] = tier ?? "";
        Form["size"] = Sizes.Any(s => s.Key == size) ? size! : Sizes[0].Key;
        Form["pattern"] = pattern ?? Request.Cookies[PatternCookie] ?? PresetName.Usual;
        if (!await LoadAsync(id))
            return NotFound();
        // The browser keeps the pattern that was last asked for, so that all cards are named alike.
        if (pattern is not null && Form.IsGood)
            Response.Cookies.Append(PatternCookie, pattern, new() { HttpOnly = true, SameSite = SameSiteMode.Strict, MaxAge = TimeSpan.FromDays(400) });
        return Form.IsGood ? Page() : Refused();
    }

    public async Task<IActionResult> OnPostAsync(Guid id)
    {
        ReadForm();
        Form["size"] = Sizes.Any(s => s.Key == Form["size"]) ? Form["size"] : Sizes[0].Key;
        if (!await LoadAsync(id) || C.Profile is null)
            return NotFound();
        if (Form.Text("where", "Where it was typed", 120, true) is not { } where || !Form.IsGood)
            return Refused();
        await presets.NoteAsync(C, where, Form["findingKey"]);
        Tell($"Revision {C.Profile.Number} is noted as typed into {where}.");
        return Redirect($"/pairings/{id}/card?size={Size}");
    }

    /// <summary>Gives a tier a value of its own.</summary>
    public async Task<IActionResult> OnPostTierAsync(Guid id)
    {
        ReadForm();
        Form["size"] = Sizes.Any(s => s.Key == Form["size"]) ? Form["size"] : Sizes[0].Key;
        if (!await LoadAsync(id) || C.Profile is null)
            return NotFound();
        var name = Form.Text("tierName", "Name of the tier", TierList.LongestName, true);
        var key = Form.Choice("tierKey", "a setting", [.. TierKeys.Select(k => k.Key)]);
        var read = SettingRegistry.Find(key) is { Words: null } d ? d.Read(Form["tierValue"]) : (0, null, null);
        if (read.Error is { } wrong)
            Form.Refuse("tierValue", wrong);
        else if (key == "nozzleTemperatureC" && Facts.LimitsOf(C.Pairing.Toolhead!) is { } limits && read.Value > limits.MaxC)
            Form.Refuse("tierValue", $"{Words.N(read.Value)} °C is above this machine's limit of {Words.N(limits.MaxC)} °C ({limits.MaxBecause}).");
        if (name is not null && C.Tiers.Find(name) is null && C.Tiers.Tiers.Count >= TierList.MostTiers)
            Form.Refuse("tierName", $"A pairing has {TierList.MostTiers} tiers at most; take one out first.");
        if (name is not null && C.Tiers.Find(name) is { } full && full.Values.Count >= TierList.MostValues && full.Values.All(v => v.Key != key))
            Form.Refuse("tierKey", $"A tier has {TierList.MostValues} values of its own at most.");
        if (!Form.IsGood || name is null)
            return Refused();
        name = C.Tiers.Find(name)?.Name ?? name.Trim();
        await tiers.SetAsync(id, name, new(key, read.Value));
        Tell($"Tier {name}: {SettingRegistry.Get(key).Label.InSentence()} {Words.Value(key, read.Value)}.", "tiers", id);
        return Redirect($"/pairings/{id}/card?size={Size}&tier={Uri.EscapeDataString(name)}#tiers");
    }

    /// <summary>Takes a value out of a tier, or all of it.</summary>
    public async Task<IActionResult> OnPostUntierAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id) || C.Tiers.Find(Form["tierName"]) is not { } tier)
            return NotFound();
        var key = tier.Values.Any(v => v.Key == Form["tierKey"]) ? Form["tierKey"] : null;
        await tiers.RemoveAsync(id, tier.Name, key);
        Tell(key is null ? $"Tier {tier.Name} is gone." : $"{SettingRegistry.Get(key).Label} of {tier.Name} is the profile's again.", "tiers", id);
        return Redirect($"/pairings/{id}/card#tiers");
    }

    /// <summary>What the label has room for, and what not.</summary>
    public (IReadOnlyList<CardValue> On, IReadOnlyList<CardValue> Off) Split =>
        Size == Sizes[0].Key ? ([.. C.Values.Take(C.RoomOnSmall)], [.. C.Values.Skip(C.RoomOnSmall)]) : (C.Values, []);

    /// <summary>What is to be said of a tier.</summary>
    public IReadOnlyList<string> RemarksOf(Tier tier) => TierBook.Remarks(C.Pairing, C.Profile!, tier);

    private async Task<bool> LoadAsync(Guid id)
    {
        var fault = PresetName.Fault(Form["pattern"]);
        if (fault is not null)
            Form.Refuse("pattern", fault);
        if (await presets.OfAsync(id, fault is null ? Form["pattern"] : PresetName.Usual, Form["tier"]) is not { } card)
            return false;
        (C, Code, People) = (card, QrPath.Of(reach.AddressOf(Request, $"/pairings/{id}")), await people.AllAsync());
        return true;
    }
}
