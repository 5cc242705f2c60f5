using Glenfrost.Core.Filaments;
using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Pages.Printers;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>The first day: a printer, the filament that lies before it, what it is for; then a tower that can be printed.</summary>
internal sealed class StartModel(WorkContext work, PrinterBook printers, FilamentBook filaments, PairingBook pairings) : WorkPage(work)
{
    private List<Toolhead> heads = [];

    /// <summary>Toolheads that are here already; where there are some, one of them is chosen instead of a new printer.</summary>
    public IEnumerable<KeyValuePair<string, string>> Heads =>
        heads.Select(t => KeyValuePair.Create(t.Id.ToString(), t.FullName)).Prepend(KeyValuePair.Create("", "another one, told below"));

    public bool HasHeads => heads.Count > 0;

    public static IEnumerable<KeyValuePair<string, string>> Families { get; } =
        [KeyValuePair.Create("", "say which"), .. Family.All.Select(f => KeyValuePair.Create(f.Name, f.Name)), KeyValuePair.Create("other", "other")];

    public async Task OnGetAsync()
    {
        await LoadAsync();
        // Of several, nobody said which.
        if (heads.Count == 1)
            Form["toolhead"] = heads[0].Id.ToString();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        await LoadAsync();
        var s = Form;
        var head = heads.FirstOrDefault(t => t.Id.ToString() == s["toolhead"]);
        var (printer, toolhead) = head is null ? ReadPrinter(s) : (null, head);
        var f = new Filament { Maker = s.Text("maker", "Maker", 80, true) ?? "", Line = s.Text("line", "Product line", 80, true) ?? "", Family = "other" };
        f.Family = s.Choice("family", "Family", [.. Families.Select(x => x.Key).Where(k => k.Length > 0)]);
        f.SolidDensityGPerCm3 = Family.Find(f.Family)?.DensityGPerCm3;
        var source = new FilamentSource
        {
            Kind = "reel", NozzleMinC = s.Double("nozzleMin", RecordFields.NozzleC), NozzleMaxC = s.Double("nozzleMax", RecordFields.NozzleC),
            BedMinC = s.Double("bedMin", RecordFields.BedC), BedMaxC = s.Double("bedMax", RecordFields.BedC),
        };
        if (source.NozzleMinC > source.NozzleMaxC)
            s.Refuse("nozzleMax", $"The range ends below its start: {Words.N(source.NozzleMinC.Value)} to {Words.N(source.NozzleMaxC.Value)} °C. Swap them.");
        if (source.BedMinC > source.BedMaxC)
            s.Refuse("bedMax", $"The range ends below its start: {Words.N(source.BedMinC.Value)} to {Words.N(source.BedMaxC.Value)} °C. Swap them.");
        if (f.Family == "other" && source.NozzleMinC is null && source.NozzleMaxC is null)
            s.Refuse("nozzleMin", "Of another family nothing is known: type the nozzle temperature from the label.");
        (source.NozzleMinC, source.NozzleMaxC) = (source.NozzleMinC ?? source.NozzleMaxC, source.NozzleMaxC ?? source.NozzleMinC);
        (source.BedMinC, source.BedMaxC) = (source.BedMinC ?? source.BedMaxC, source.BedMaxC ?? source.BedMinC);
        var use = s.Choice("use", "What it is for", [.. Pairings.NewModel.Uses.Select(u => u.Key)]);
        if (s.IsGood && printer is not null && await printers.IsTakenAsync(printer.Name, null))
            s.Refuse("name", $"A printer {printer.Name} is there already. Give each its own name.");
        if (s.IsGood && await filaments.IsTakenAsync(f.Maker, f.Line, null, null))
            s.Refuse("line", $"{f.Maker} {f.Line} is registered already: pair it on its own page, or tell another line.");
        if (!s.IsGood)
            return Refused();
        if (printer is not null)
        {
            if (!await TryAsync(() => printers.AddAsync(printer, toolhead)))
                return Refused(409);
            toolhead.Printer = printer;
        }

        var sources = source.NozzleMinC is null && source.BedMinC is null ? Array.Empty<FilamentSource>() : [source];
        if (!await TryAsync(() => filaments.SaveAsync(f, true, [], sources)))
            return Refused(409);
        f.Sources = [.. sources];
        var pairing = await pairings.PairAsync(f, toolhead, use);
        Tell("They are paired. This is the first print: a tower over the label's temperatures.");
        return Redirect($"/pairings/{pairing.Id}/temperature-tower");
    }

    /// <summary>The printer of six facts; what else it has stands at careful values until somebody says it.</summary>
    private static (Printer Printer, Toolhead Head) ReadPrinter(FormState s)
    {
        var p = new Printer { Name = s.Text("name", "Name", 60, true) ?? "" };
        p.BedXMm = s.Double("bedXMm", RecordFields.BedLengthMm, true) ?? 0;
        p.BedYMm = s.Double("bedYMm", RecordFields.BedLengthMm, true) ?? 0;
        p.HeightMm = s.Double("heightMm", RecordFields.HeightMm, true) ?? 0;
        p.BedMaxC = s.Double("bedReachesC", RecordFields.BedC, true) ?? 0;
        p.Dialect = s.Choice("dialect", "The dialect", [.. EditModel.DialectWords.Select(d => d.Key)]);
        var t = new Toolhead
        {
            NozzleDiameterMm = s.Double("nozzleDiameterMm", RecordFields.NozzleDiameterMm, true) ?? 0,
            Liner = s.Choice("liner", "The hotend", [.. ToolheadModel.Liners.Select(d => d.Key)]),
            Drive = s.Choice("drive", "The extruder", [.. ToolheadModel.Drives.Select(d => d.Key)]),
        };
        return (p, t);
    }

    private async Task LoadAsync() => (_, heads) = await pairings.ChoicesAsync();
}
