using Glenfrost.Core.Filaments;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Filaments;

internal sealed class EditModel(WorkContext work, FilamentBook filaments, PairingBook pairings) : WorkPage(work)
{
    public const int SourceRows = 4;

    [FromRoute]
    public Guid? Id { get; set; }

    public string Name { get; private set; } = "";

    public IEnumerable<KeyValuePair<string, string>> Families =>
        Family.All.Select(f => KeyValuePair.Create(f.Name, f.Name)).Append(KeyValuePair.Create("other", "other"));

    public static IEnumerable<KeyValuePair<string, string>> Kinds { get; } =
        new[] { "", "reel", "box", "data sheet", "web page", "other" }.Select(k => KeyValuePair.Create(k, k.Length == 0 ? "–" : k)).ToList();

    /// <summary>True where a source beyond the first says something, or is refused.</summary>
    public bool MoreSources =>
        Enumerable.Range(1, SourceRows - 1).Any(i =>
            new[] { "nozzleMin", "nozzleMax", "bedMin", "bedMax", "note" }.Any(n => Form[$"s{i}.{n}"].Length > 0 || Form.Errors.ContainsKey($"s{i}.{n}")));

    /// <summary>Toolheads that a new filament may be paired with at once.</summary>
    public IReadOnlyList<Toolhead> Heads { get; private set; } = [];

    /// <summary>Field of a toolhead's tick.</summary>
    public static string PairField(Toolhead t) => $"pair-{t.Id}";

    /// <param name="after">A filament of the same shelf that was registered just before: its maker, family and toolheads are taken over.</param>
    public async Task<IActionResult> OnGetAsync(Guid? after)
    {
        if (Id is null)
        {
            Form = new() { ["family"] = "PLA", ["diameterMm"] = "1.75", ["currency"] = "EUR", ["s0.kind"] = "reel" };
            Heads = (await pairings.ChoicesAsync()).Heads;
            if (after is { } id && await filaments.ViewAsync(id) is { Filament: { } before } view)
            {
                (Form["maker"], Form["family"]) = (before.Maker, before.Family);
                (Form["diameterMm"], Form["currency"]) = (Words.N(before.DiameterMm), before.Currency ?? "");
                var paired = view.Pairings.Select(p => p.ToolheadId).ToHashSet();
                foreach (var head in Heads.Where(h => paired.Contains(h.Id)))
                    Form[PairField(head)] = "1";
            }

            return Page();
        }

        if (await FindAsync() is not { } f)
            return NotFound();
        Form = ToForm(f);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        Filament? f = null;
        if (Id is not null && (f = await FindAsync()) is null)
            return NotFound();
        if (Id is null)
            Heads = (await pairings.ChoicesAsync()).Heads;
        var s = Form;
        var maker = s.Text("maker", "Maker", 80, true);
        var line = s.Text("line", "Product line", 80, true);
        var family = s.Choice("family", "Family", [.. Families.Select(x => x.Key)]);
        var additive = s.Text("additive", "Additive", 60);
        var diameter = s.Double("diameterMm", RecordFields.FilamentDiameterMm, true);
        var density = s.Double("densityGPerCm3", RecordFields.DensityGPerCm3);
        var price = s.Number("price", RecordFields.Price);
        var currency = s.Text("currency", "Currency", 3);
        if (currency is not null && (currency.Length != 3 || !currency.All(char.IsAsciiLetter)))
            s.Refuse("currency", "A currency has three letters, for example EUR.");
        var net = s.Number("netMassG", RecordFields.NetMassG);
        var dryC = s.Double("dryingC", RecordFields.DryingC);
        var dryH = s.Double("dryingHours", RecordFields.DryingHours);
        var dryNote = s.Text("dryingNote", "Drying advice", 300);
        var notes = s.LongText("notes", "Notes");
        var colours = (s.Text("colours", "Colours", 400) ?? "").Split(',', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries)
            .Distinct(StringComparer.OrdinalIgnoreCase).ToList();
        var sources = ReadSources();
        if (s.IsGood && await filaments.IsTakenAsync(maker!, line!, additive, Id))
            s.Refuse("line", $"{maker} {line} is registered already. Another colour belongs to it as a colour; another product needs another line.");
        if (!s.IsGood)
            return Refused();
        if (f is not null && IsStale(f, ToForm(f).Values))
            return Refused(409);

        var isNew = f is null;
        f ??= new Filament { Maker = maker!, Line = line!, Family = family };
        (f.Maker, f.Line, f.Family, f.Additive, f.DiameterMm) = (maker!, line!, family, additive, diameter!.Value);
        (f.SolidDensityGPerCm3, f.PriceMinor, f.Currency) = (
            density ?? Family.Find(family)?.DensityGPerCm3, price is null ? null : (long)Math.Round(price.Value * 100), currency?.ToUpperInvariant());
        (f.NetMassUg, f.DryingC, f.DryingHours, f.DryingNote, f.Notes) = (net is null ? null : (long)(net.Value * 1_000_000), dryC, dryH, dryNote, notes);
        if (!await TryAsync(() => filaments.SaveAsync(f, isNew, colours, sources)))
            return Refused(409);
        if (!isNew)
        {
            Tell($"{f.Name} is saved.");
            return Redirect($"/filaments/{f.Id}");
        }

        f.Sources = sources;
        var with = new List<string>();
        foreach (var head in Heads.Where(h => s.Ticked(PairField(h))))
        {
            await pairings.PairAsync(f, head, "balanced");
            with.Add(head.FullName);
        }

        Tell(with.Count > 0 ? $"{f.Name} is registered and paired with {string.Join(" and ", with)}. Add its spool." :
            $"{f.Name} is registered. Add its spool, then pair it with a toolhead.");
        return Redirect(s["next"] == "1" ? $"/filaments/new?after={f.Id}" : $"/filaments/{f.Id}");
    }

    private List<FilamentSource> ReadSources()
    {
        var list = new List<FilamentSource>();
        for (var i = 0; i < SourceRows; i++)
        {
            var p = $"s{i}.";
            var kind = Form.Choice(p + "kind", "Source", [.. Kinds.Select(k => k.Key)], "");
            var n1 = Form.Double(p + "nozzleMin", RecordFields.NozzleC);
            var n2 = Form.Double(p + "nozzleMax", RecordFields.NozzleC);
            var b1 = Form.Double(p + "bedMin", RecordFields.BedC);
            var b2 = Form.Double(p + "bedMax", RecordFields.BedC);
            var note = Form.Text(p + "note", "Note", 200);
            if (n1 > n2)
                Form.Refuse(p + "nozzleMax", $"The range ends below its start: {Words.N(n1)} to {Words.N(n2)} °C. Swap them.");
            if (b1 > b2)
                Form.Refuse(p + "bedMax", $"The range ends below its start: {Words.N(b1)} to {Words.N(b2)} °C. Swap them.");
            if (n1 is null && n2 is null && b1 is null && b2 is null && note is null)
                continue;
            list.Add(
                new FilamentSource
                {
                    Kind = kind.Length == 0 ? "reel" : kind, NozzleMinC = n1 ?? n2, NozzleMaxC = n2 ?? n1, BedMinC = b1 ?? b2, BedMaxC = b2 ?? b1, Note = note,
                });
        }

        return list;
    }

    private async Task<Filament?> FindAsync()
    {
        var f = await filaments.ToEditAsync(Id);
        Name = f?.Name ?? "";
        return f;
    }

    private static FormState ToForm(Filament f)
    {
        var s = new FormState
        {
            ["version"] = f.Version.ToString(),
            ["maker"] = f.Maker,
            ["line"] = f.Line,
            ["family"] = f.Family,
            ["colours"] = string.Join(", ", f.Variants.Where(v => v.RemovedAt is null).Select(v => v.Colour)),
        };
        s.Put("additive", f.Additive);
        s.Put("diameterMm", f.DiameterMm);
        s.Put("densityGPerCm3", f.SolidDensityGPerCm3);
        s.Put("price", f.PriceMinor / 100m);
        s.Put("currency", f.Currency);
        s.Put("netMassG", f.NetMassUg / 1_000_000m);
        s.Put("dryingC", f.DryingC);
        s.Put("dryingHours", f.DryingHours);
        s.Put("dryingNote", f.DryingNote);
        s.Put("notes", f.Notes);
        foreach (var (x, i) in f.Sources.Where(x => x.RemovedAt is null).Take(SourceRows).Select((x, i) => (x, i)))
        {
            s[$"s{i}.kind"] = x.Kind;
            s.Put($"s{i}.nozzleMin", x.NozzleMinC);
            s.Put($"s{i}.nozzleMax", x.NozzleMaxC);
            s.Put($"s{i}.bedMin", x.BedMinC);
            s.Put($"s{i}.bedMax", x.BedMaxC);
            s.Put($"s{i}.note", x.Note);
        }

        return s;
    }
}
