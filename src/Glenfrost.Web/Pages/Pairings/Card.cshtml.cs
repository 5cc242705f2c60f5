using Glenfrost.Core.Profiles;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Pairings;

/// <summary>The settings of a pairing on a card, its name by a pattern, and where it was typed.</summary>
internal sealed class CardModel(WorkContext work, PresetBook presets, PeopleBook people, Reach reach) : WorkPage(work)
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

    public async Task<IActionResult> OnGetAsync(Guid id, string? size, string? pattern)
    {
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

    private async Task<bool> LoadAsync(Guid id)
    {
        var fault = PresetName.Fault(Form["pattern"]);
        if (fault is not null)
            Form.Refuse("pattern", fault);
        if (await presets.OfAsync(id, fault is null ? Form["pattern"] : PresetName.Usual) is not { } card)
            return false;
        (C, Code, People) = (card, QrPath.Of(reach.AddressOf(Request, $"/pairings/{id}")), await people.AllAsync());
        return true;
    }
}
