using Glenfrost.Core.Filaments;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Spools;

internal sealed class DetailModel(Bench bench) : BenchPage(bench)
{
    public Spool S { get; private set; } = null!;

    public double? Humidity { get; private set; }

    public double? HoursLeft { get; private set; }

    /// <summary>Pairings of its filament that a quick check can be printed for.</summary>
    public IReadOnlyList<Pairing> Kept { get; private set; } = [];

    public string DryText { get; private set; } = "";

    /// <summary>Whether to dry it before strings or flow limit.</summary>
    public DrynessAdvice Advice { get; private set; } = null!;

    public DiameterSummary? Diameter { get; private set; }

    public double? LeftG =>
        S.ReelMassUg is { } reel && S.Weighings.Where(w => w.RemovedAt is null).MaxBy(w => w.At) is { } w ? Math.Max(0, (w.MassUg - reel) / 1e6) : null;

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        foreach (var d in S.Diameters.Where(d => d.RemovedAt is null))
            Sheet.Put($"d{d.Place}{d.Direction}", d.Mm);
        return Page();
    }

    public async Task<IActionResult> OnPostDryingAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var c = Sheet.Double("dryC", BenchFields.DryingC, true);
        var h = Sheet.Double("dryH", BenchFields.DryingHours, true);
        var at = Sheet.Ticked("dryNow") ? Bench.Now : Sheet.Date("dryAt", "Drying day", Bench.Now) ?? Bench.Now.AddHours(-(h ?? 0));
        var note = Sheet.Text("dryNote", "Note", 200);
        if (!Sheet.IsGood)
            return Refused();
        var person = await Bench.PersonAsync();
        Db.Add(new DryingEntry { SpoolId = id, StartAt = at, TemperatureC = c!.Value, Hours = h!.Value, Note = note, PersonId = person.Id });
        return await DoneAsync(id, $"Spool {S.Name} dried at {Words.N(c)} °C for {Words.N(h)} h");
    }

    public async Task<IActionResult> OnPostWeighAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var g = Sheet.Number("massG", BenchFields.SpoolMassG, true);
        if (g is { } m && S.ReelMassUg is { } reel && m * 1_000_000 < reel)
            Sheet.Refuse("massG", $"{Words.N(m)} g is less than the empty reel ({Words.G(reel)}). Weigh filament and reel together.");
        if (!Sheet.IsGood)
            return Refused();
        var ago = Sheet.Double("massAgoH", new Quantity("Weighed before", "h", 0, 96, "hours ago; empty for now"));
        if (!Sheet.IsGood)
            return Refused();
        var person = await Bench.PersonAsync();
        Db.Add(
            new SpoolWeighing
            {
                SpoolId = id, At = Bench.Now.AddHours(-(ago ?? 0)), MassUg = (long)(g!.Value * 1_000_000), Entered = Sheet["massG"].Trim(),
                PersonId = person.Id,
            });
        return await DoneAsync(id, $"Spool {S.Name} weighed: {Words.N(g)} g");
    }

    public async Task<IActionResult> OnPostDiameterAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var person = await Bench.PersonAsync();
        var fresh = new List<SpoolDiameter>();
        for (var place = 1; place <= 3; place++)
        {
            for (var direction = 1; direction <= 2; direction++)
            {
                if (Sheet.Double($"d{place}{direction}", BenchFields.FilamentDiameterMm) is { } mm)
                    fresh.Add(new SpoolDiameter { SpoolId = id, At = Bench.Now, Place = place, Direction = direction, Mm = mm, PersonId = person.Id });
            }
        }

        if (!Sheet.IsGood)
            return Refused();
        foreach (var old in await Db.SpoolDiameters.Where(d => d.SpoolId == id && d.RemovedAt == null).ToListAsync())
        {
            var same = fresh.FirstOrDefault(n => n.Place == old.Place && n.Direction == old.Direction && n.Mm == old.Mm);
            if (same is null)
                old.RemovedAt = Bench.Now;
            else
                fresh.Remove(same);
        }

        Db.AddRange(fresh);
        return await DoneAsync(id, $"Spool {S.Name}: diameters measured");
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var parts = Sheet["what"].Split(':');
        if (parts.Length != 2 || !Guid.TryParse(parts[1], out var what))
            return NotFound();
        var now = Bench.Now;
        var said = parts[0] switch
        {
            "drying" when await Db.Dryings.FirstOrDefaultAsync(d => d.Id == what && d.SpoolId == id) is { } d => (
                d.RemovedAt = now, "The drying entry is removed.").Item2,
            "weighing" when await Db.SpoolWeighings.FirstOrDefaultAsync(w => w.Id == what && w.SpoolId == id) is { } w => (
                w.RemovedAt = now, "The weighing is removed.").Item2,
            "spool" when await Db.Spools.FirstOrDefaultAsync(s => s.Id == id) is { } s => (s.RemovedAt = now, $"Spool {s.Name} is removed.").Item2,
            _ => null,
        };
        if (said is null)
            return NotFound();
        await Bench.LogAsync("spool", $"Spool {S.Name}: {said}", parts[0] == "spool" ? null : $"/spools/{id}", $"{parts[0]}:{what}");
        await Bench.SaveAsync();
        Tell(said, parts[0], what);
        return Redirect(parts[0] == "spool" ? $"/filaments/{S.FilamentId}" : $"/spools/{id}");
    }

    private async Task<IActionResult> DoneAsync(Guid id, string text)
    {
        await Bench.LogAsync("spool", text, $"/spools/{id}");
        await Bench.SaveAsync();
        Tell(text + ".");
        return Redirect($"/spools/{id}");
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        var s = await Db.Spools.AsNoTracking().Include(x => x.Filament).Include(x => x.Variant).Include(x => x.Diameters).Include(x => x.Weighings)
            .Include(x => x.Dryings).AsSplitQuery()
            .FirstOrDefaultAsync(x => x.Id == id && x.RemovedAt == null);
        if (s is null)
            return false;
        S = s;
        Kept = await Db.Pairings.AsNoTracking().Include(p => p.Toolhead!.Printer)
            .Where(p => p.FilamentId == s.FilamentId && p.RemovedAt == null && p.World == s.World).OrderBy(p => p.CreatedAt).ToListAsync();
        Humidity = (await Bench.RoomAsync())?.HumidityPercent;
        (_, HoursLeft, DryText) = Facts.Dryness(s, s.Filament!.Family, Humidity ?? Core.Filaments.DrynessFacts.UsualHumidityPercent, Bench.Now);
        DryText = char.ToUpperInvariant(DryText[0]) + DryText[1..];
        var dryers = await Db.Dryers.AsNoTracking().Where(d => d.RemovedAt == null).Select(d => d.MaxC).ToListAsync();
        Advice = Facts.Advise(s, Humidity, dryers.Count > 0 ? dryers.Max() : null, Bench.Now);
        Diameter = DiameterSummary.Of([.. s.Diameters.Where(d => d.RemovedAt is null).Select(d => new DiameterReading(d.Place, d.Direction, d.Mm))]);
        return true;
    }
}
