using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Spools;

internal sealed class EditModel(WorkContext work, SpoolBook spools) : WorkPage(work)
{
    [FromRoute]
    public Guid? Id { get; set; }

    public Filament F { get; private set; } = null!;

    public IEnumerable<KeyValuePair<string, string>> Colours => F.Variants.Where(v => v.RemovedAt is null)
        .Select(v => KeyValuePair.Create(v.Id.ToString(), v.Colour)).Prepend(KeyValuePair.Create("", "–"));

    public async Task<IActionResult> OnGetAsync(Guid? filament)
    {
        var spool = Id is null ? null : await spools.ToEditAsync(Id);
        if ((Id is not null && spool is null) || !await LoadFilamentAsync(spool?.FilamentId ?? filament))
            return NotFound();
        Form = spool is null ? new FormState() : ToForm(spool);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var spool = Id is null ? null : await spools.ToEditAsync(Id);
        if ((Id is not null && spool is null) || !await LoadFilamentAsync(spool?.FilamentId ?? Form.Id("filament", "a filament")))
            return NotFound();
        var s = Form;
        var name = s.Text("name", "Name", 40, true);
        var variant = s.Id("variant", "a colour");
        if (variant is not null && F.Variants.All(v => v.Id != variant))
            s.Refuse("variant", "Choose a colour from the list.");
        var (lot, stored, slot) = (s.Text("lot", "Lot", 60), s.Text("stored", "Stored in", 80), s.Text("slot", "Slot", 40));
        var opened = s.Date("openedAt", "Opened on", Work.Now);
        var reel = s.Number("reelMassG", RecordFields.ReelMassG);
        var bears = s.Double("reelMaxC", new Quantity("What the reel bears", "°C", 40, 200, "plastic reels soften from about 60 on"));
        if (s.IsGood && await spools.IsTakenAsync(name!, Id))
            s.Refuse("name", $"A spool {name} is there already. Give each reel its own name.");
        if (!s.IsGood)
            return Refused();
        if (spool is not null && IsStale(spool, ToForm(spool).Values))
            return Refused(409);
        var isNew = spool is null;
        spool ??= new Spool { FilamentId = F.Id, Name = name!, ChangedAt = Work.Now };
        (spool.Name, spool.VariantId, spool.Lot, spool.OpenedAt, spool.Stored, spool.Slot) = (name!, variant, lot, opened, stored, slot);
        spool.ReelMaxC = bears;
        spool.ReelMassUg = reel is null ? null : (long)(reel.Value * 1_000_000);
        if (!await TryAsync(() => spools.SaveAsync(spool, F, isNew)))
            return Refused(409);
        Tell($"Spool {name} is {(isNew ? "added" : "saved")}.");
        return Redirect($"/spools/{spool.Id}");
    }

    private async Task<bool> LoadFilamentAsync(Guid? id)
    {
        var f = await spools.FilamentAsync(id);
        F = f!;
        return f is not null;
    }

    private static FormState ToForm(Spool x)
    {
        var s = new FormState { ["version"] = x.Version.ToString(), ["name"] = x.Name, ["variant"] = x.VariantId?.ToString() ?? "" };
        s.Put("lot", x.Lot);
        s.Put("openedAt", x.OpenedAt);
        s.Put("stored", x.Stored);
        s.Put("slot", x.Slot);
        s.Put("reelMassG", x.ReelMassUg / 1_000_000m);
        s.Put("reelMaxC", x.ReelMaxC);
        return s;
    }
}
