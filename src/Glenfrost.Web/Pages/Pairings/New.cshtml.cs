using Glenfrost.Core.Profiles;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Pairings;

internal sealed class NewModel(WorkContext work, PairingBook pairings, Glenfrost.Application.Profiles profiles) : WorkPage(work)
{
    private List<Filament> filaments = [];
    private List<Toolhead> heads = [];

    public IEnumerable<KeyValuePair<string, string>> Filaments => filaments.Select(f => KeyValuePair.Create(f.Id.ToString(), $"{f.Name}, {f.Family}"));

    public IEnumerable<KeyValuePair<string, string>> Heads =>
        heads.Select(t => KeyValuePair.Create(t.Id.ToString(), $"{t.FullName}, {Words.N(t.NozzleDiameterMm)} {t.NozzleFlow}"));

    public IEnumerable<KeyValuePair<string, string>> Colours =>
        filaments.SelectMany(f => f.Variants.Where(v => v.RemovedAt is null).Select(v => KeyValuePair.Create(v.Id.ToString(), $"{f.Line}: {v.Colour}")))
            .Prepend(KeyValuePair.Create("", "no, the whole line"));

    public static IEnumerable<KeyValuePair<string, string>> Uses { get; } =
        new[] { "balanced", "looks", "fine detail", "strength", "speed", "low mass" }.Select(u => KeyValuePair.Create(u, u)).ToList();

    public List<(string Value, string Text, string Why)> Starts { get; } = [];

    public async Task OnGetAsync(Guid? filament, Guid? toolhead)
    {
        await LoadAsync();
        Form["filament"] = (filament ?? filaments.FirstOrDefault()?.Id)?.ToString() ?? "";
        Form["toolhead"] = (toolhead ?? heads.FirstOrDefault()?.Id)?.ToString() ?? "";
        Form["use"] = "balanced";
        await OfferStartsAsync();
    }

    public async Task<IActionResult> OnPostLookAsync()
    {
        ReadForm();
        await LoadAsync();
        Form["start"] = "";
        await OfferStartsAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        await LoadAsync();
        await OfferStartsAsync();
        if (Draft() is not { } p)
            return Refused();
        if (await pairings.SameAsync(p) is { } there)
        {
            Tell("This pairing is there already; here it is.");
            return Redirect($"/pairings/{there.Id}");
        }

        var start = Form["start"];
        IReadOnlyList<ProfileSetting> settings;
        string why;
        if (start == "family")
        {
            (settings, why) = (await pairings.FamilyStartAsync(p), "Started from label and family");
        }
        else if (Guid.TryParse(start, out var from)
            && await pairings.FindAsync(from) is { } source
            && await profiles.LatestAsync(from) is { } profile)
        {
            p.CopiedFromId = from;
            settings = Glenfrost.Application.Profiles.Copied(await pairings.FamilyStartAsync(p), profile, p, source);
            why = $"Started from {Facts.NameOf(source)}";
        }
        else
        {
            Form.Refuse("start", "Choose where the profile starts.");
            return Refused();
        }

        var name = Facts.NameOf(p);
        await pairings.AddAsync(p, settings, why);
        Tell($"{name} is paired. {why}.");
        return Redirect($"/pairings/{p.Id}");
    }

    private Pairing? Draft()
    {
        var f = filaments.FirstOrDefault(x => x.Id == Form.Id("filament", "a filament", true));
        var t = heads.FirstOrDefault(x => x.Id == Form.Id("toolhead", "a toolhead", true));
        var use = Form.Choice("use", "What it is for", [.. Uses.Select(u => u.Key)]);
        var variantId = Form.Id("variant", "a colour");
        if (f is null)
            Form.Refuse("filament", "Choose a filament from the list.");
        if (t is null)
            Form.Refuse("toolhead", "Choose a toolhead from the list.");
        var variant = f?.Variants.FirstOrDefault(v => v.Id == variantId && v.RemovedAt is null);
        if (variantId is not null && variant is null)
            Form.Refuse("variant", "This colour belongs to another filament. Choose one of its own, or the whole line.");
        return Form.IsGood
            ? new Pairing
            {
                FilamentId = f!.Id, Filament = f, ToolheadId = t!.Id, Toolhead = t, VariantId = variant?.Id, Variant = variant,
                NozzleDiameterMm = t.NozzleDiameterMm, NozzleFlow = t.NozzleFlow, Use = use,
            }
            : null;
    }

    private async Task OfferStartsAsync()
    {
        var f = filaments.FirstOrDefault(x => x.Id.ToString() == Form["filament"]);
        var t = heads.FirstOrDefault(x => x.Id.ToString() == Form["toolhead"]);
        if (f is null || t is null)
            return;
        var draft = new Pairing
        {
            FilamentId = f.Id, Filament = f, ToolheadId = t.Id, Toolhead = t, NozzleDiameterMm = t.NozzleDiameterMm, NozzleFlow = t.NozzleFlow,
        };
        var (others, latest) = await pairings.OfFamilyAsync(f.Family);
        var ranked = Likeness.Rank(
            Facts.TraitsOf(draft, true),
            others.Select(o =>
                Facts.TraitsOf(o, latest.GetValueOrDefault(o.Id)?.Settings.Any(s => s.State is SettingState.Provisional or SettingState.Confirmed) == true)));
        foreach (var (pairing, _, why) in ranked.Take(3))
        {
            var temperature = latest[pairing.Id]["nozzleTemperatureC"];
            var source = others.First(o => o.Id == pairing.Id);
            var path =
                source.Toolhead!.Drive == t.Drive
                && source.Toolhead.Liner == t.Liner
                && source.NozzleDiameterMm == t.NozzleDiameterMm
                && source.NozzleFlow == t.NozzleFlow;
            Starts.Add(
                (
                    pairing.Id.ToString(), $"Copy of {pairing.Name}{(temperature is null ? "" : $", {Words.N(temperature.Value)} °C")}",
                    $"{(Starts.Count == 0 ? "The most alike: " : "")}{why}. Copied values are no evidence: they stand as inherited until something is " +
                        $"printed here.{(path ? "" : " Retraction, pressure advance and flow limit do not travel to another drive, nozzle or hotend.")}"
                ));
        }

        var (span, fromLabel) = Facts.NozzleRange(f);
        Starts.Add(
            (
                "family", fromLabel ? "Label, and the family where it says nothing" : "The family's cautious values", span is null
                    ? "No range is known: type the values on the profile."
                    : $"Nozzle {Words.N(span.Middle)} °C, the middle of {Words.N(span.Min)} to {Words.N(span.Max)}."));
        // Within a product a copy is most likely right; across products the label is.
        if (Starts.All(x => x.Value != Form["start"]))
            Form["start"] = Starts.FirstOrDefault(x => others.Any(o => o.Id.ToString() == x.Value && o.FilamentId == f.Id)).Value ?? "family";
    }

    private async Task LoadAsync() => (filaments, heads) = await pairings.ChoicesAsync();
}
