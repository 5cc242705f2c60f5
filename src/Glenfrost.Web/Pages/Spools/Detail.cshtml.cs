using Glenfrost.Core.Filaments;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Spools;

internal sealed class DetailModel(WorkContext work, SpoolBook spools, DryerBook dryers) : WorkPage(work)
{
    private SpoolView view = null!;

    public Spool S => view.Spool;

    /// <summary>Fields of three places, two directions at each.</summary>
    public static IReadOnlyList<string> DiameterFields { get; } = ["d11", "d12", "d21", "d22", "d31", "d32"];

    /// <summary>Pairings of its filament that a quick check can be printed for.</summary>
    public IReadOnlyList<Pairing> Kept => view.Pairings;

    public string DryText => view.Dryness;

    /// <summary>Whether to dry it before strings or flow limit.</summary>
    public DrynessAdvice Advice => view.Advice;

    public DiameterSummary? Diameter => view.Diameter;

    /// <summary>What speaks against its trim, whatever it is printed on.</summary>
    public TrimDoubt TrimDoubt => S.TrimAt is { } at
        ? SpoolTrim.DoubtOf(at, Work.Now, S.Dryings.Where(d => d.RemovedAt is null).Select(d => (DateTime?)d.StartAt).Max(), null)
        : TrimDoubt.None;

    public double? LeftG =>
        S.ReelMassUg is { } reel && S.Weighings.Where(w => w.RemovedAt is null).MaxBy(w => w.At) is { } w ? Math.Max(0, (w.MassUg - reel) / 1e6) : null;

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        foreach (var d in S.Diameters.Where(d => d.RemovedAt is null))
            Form.Put($"d{d.Place}{d.Direction}", d.Mm);
        return Page();
    }

    public async Task<IActionResult> OnPostDryingAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var c = Form.Double("dryC", RecordFields.DryingC, true);
        var h = Form.Double("dryH", RecordFields.DryingHours, true);
        var at = Form.Ticked("dryNow") ? Work.Now : Form.Date("dryAt", "Drying day", Work.Now) ?? Work.Now.AddHours(-(h ?? 0));
        var note = Form.Text("dryNote", "Note", 200);
        var within = Form.Id("dryIn", "a dryer");
        var dryer = Dryers.FirstOrDefault(d => d.Id == within);
        if (Form.IsGood && within is not null && dryer is null)
            Form.Refuse("dryIn", "Choose a dryer from the list.");
        else if (dryer is not null && c is { } hot && DryerBook.TooHotFor(dryer, hot) is { } wrong)
            Form.Refuse("dryIn", wrong);
        if (!Form.IsGood)
            return Refused();
        return Done(id, await spools.DryAsync(S, at, c!.Value, h!.Value, note, dryer?.Id));
    }

    /// <summary>Dryers that stand.</summary>
    public IReadOnlyList<Dryer> Dryers { get; private set; } = [];

    public IEnumerable<KeyValuePair<string, string>> DryerChoices => Dryers.Select(d => KeyValuePair.Create(d.Id.ToString(), d.Name))
        .Prepend(KeyValuePair.Create("", "not said"));

    /// <summary>In which dryer it was, within a table; empty where nobody said.</summary>
    public string DryerOf(DryingEntry e) => e.DryerId is null ? "" : Dryers.FirstOrDefault(d => d.Id == e.DryerId)?.Name ?? "a dryer that is gone";

    /// <summary>Where it may lie, as choices.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Places { get; } = [.. SpoolPlaces.All.Select(p => KeyValuePair.Create(p.Key, p.Label))];

    public async Task<IActionResult> OnPostLieAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var place = Form.Choice("place", "where it lies", [.. SpoolPlaces.All.Select(p => p.Key)]);
        var at = Form.Date("placeAt", "Since", Work.Now) ?? Work.Now;
        if (!Form.IsGood)
            return Refused();
        return Done(id, await spools.LieAsync(S, place, at));
    }

    /// <summary>Toolheads that it may be loaded on, and the one that it is on.</summary>
    public IReadOnlyList<Toolhead> Heads { get; private set; } = [];

    public Toolhead? On => Heads.FirstOrDefault(h => h.LoadedSpoolId == S.Id);

    public IEnumerable<KeyValuePair<string, string>> HeadChoices => Heads.Select(h => KeyValuePair.Create(h.Id.ToString(), h.FullName))
        .Prepend(KeyValuePair.Create("", "say which"));

    public async Task<IActionResult> OnPostLoadAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var head = Form.Id("head", "a toolhead");
        if (Form.IsGood && Heads.All(h => h.Id != head))
            Form.Refuse("head", "Choose a toolhead from the list.");
        var at = Form.Date("loadedAt", "Since", Work.Now) ?? Work.Now;
        if (!Form.IsGood)
            return Refused();
        return Done(id, await spools.LoadAsync(S, head!.Value, at));
    }

    public async Task<IActionResult> OnPostUnloadAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id) || await spools.UnloadAsync(S) is not { } said)
            return NotFound();
        return Done(id, said);
    }

    public async Task<IActionResult> OnPostTrimAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var percent = Form.Double("trimPercent", SpoolTrim.Quantity, true);
        var why = Form.Text("trimWhy", "Why", 200, true);
        if (!Form.IsGood)
            return Refused();
        return await spools.TrimAsync(S, percent!.Value, why) is { } said ? Done(id, said) : NotFound();
    }

    public async Task<IActionResult> OnPostUntrimAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id) || await spools.TrimAsync(S, null, null) is not { } said)
            return NotFound();
        return Done(id, said);
    }

    public async Task<IActionResult> OnPostWeighAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var g = Form.Number("massG", RecordFields.SpoolMassG, true);
        if (g is { } m && S.ReelMassUg is { } reel && m * 1_000_000 < reel)
            Form.Refuse("massG", $"{Words.N(m)} g is less than the empty reel ({Words.G(reel)}). Weigh filament and reel together.");
        if (!Form.IsGood)
            return Refused();
        var ago = Form.Double("massAgoH", new Quantity("Weighed before", "h", 0, 96, "hours ago; empty for now"));
        if (!Form.IsGood)
            return Refused();
        return Done(id, await spools.WeighAsync(S, g!.Value, Form["massG"].Trim(), ago ?? 0));
    }

    public async Task<IActionResult> OnPostDiameterAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var fresh = new List<DiameterReading>();
        for (var place = 1; place <= 3; place++)
        {
            for (var direction = 1; direction <= 2; direction++)
            {
                if (Form.Double($"d{place}{direction}", RecordFields.FilamentDiameterMm) is { } mm)
                    fresh.Add(new(place, direction, mm));
            }
        }

        if (!Form.IsGood)
            return Refused();
        return Done(id, await spools.MeasureAsync(S, fresh));
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var parts = Form["what"].Split(':');
        if (parts.Length != 2 || !Guid.TryParse(parts[1], out var what))
            return NotFound();
        if (await spools.RemoveAsync(S, parts[0], what) is not { } said)
            return NotFound();
        Tell(said, parts[0], what);
        return Redirect(parts[0] == "spool" ? $"/filaments/{S.FilamentId}" : $"/spools/{id}");
    }

    private IActionResult Done(Guid id, string text)
    {
        Tell(text + ".");
        return Redirect($"/spools/{id}");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        if (await spools.ViewAsync(id) is not { } found)
            return false;
        view = found;
        Dryers = await dryers.ListAsync();
        Heads = S.World == Worlds.Real ? await spools.HeadsAsync() : [];
        return true;
    }
}
