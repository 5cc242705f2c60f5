using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>
/// What is to blame: combinations that were printed, side by side, and what they say. All of it stands in the address, so that it can be kept.
/// </summary>
internal sealed class BlameModel(WorkContext work, PairingBook pairings, SameAgain again) : WorkPage(work)
{
    public const int MostRows = 8;

    /// <summary>What can be exchanged, each a column.</summary>
    public static IReadOnlyList<string> Factors { get; } = ["filament", "printer", "nozzle", "slicer", "dryness", "other"];

    private static readonly Quantity Prints = new("Prints", "", 0, 500, "a whole number", true);

    /// <summary>Rows as far as they hold something, the failing one first.</summary>
    public IReadOnlyList<(int At, SwapRow Row)> Rows { get; private set; } = [];

    public SwapVerdict? Verdict { get; private set; }

    public string? Said { get; private set; }

    /// <summary>Where a row of the form stands among those that hold something; -1 for an empty one.</summary>
    public int PlaceOf(int row) => Rows.Select((r, n) => r.At == row ? n : -1).DefaultIfEmpty(-1).Max();

    /// <summary>Rows that the page shows: those that hold something and two to go on with, or all where that was asked.</summary>
    public int Shown => Math.Clamp(
        Form["rows"].Length > 0 ? MostRows
            : 3 + Enumerable.Range(0, MostRows).Where(i => Factors.Append("tried").Append("passed").Any(f => Form[Cell(i, f)].Length > 0))
                .DefaultIfEmpty(0).Max(),
        1, MostRows);

    public static string Cell(int row, string what) => $"{what}{row}";

    private const int MostAsked = 12;

    /// <summary>An example for a bench that asked nothing yet: how far each came, with the door open and shut.</summary>
    public const string Example = "/blame?filament0=Plain&other0=door%20open&passed0=0&tried0=4&layers0=96%2C%20102%2C%20104%2C%20118" +
        "&filament1=Plain&other1=door%20shut&passed1=0&tried1=4&layers1=171%2C%20180%2C%20188%2C%20204";

    /// <summary>Runs of this record that were printed again elsewhere, the newest first.</summary>
    public IReadOnlyList<(TrialRunView Run, int Swaps)> Asked { get; private set; } = [];

    /// <summary>The failing run that it was begun from; null for none.</summary>
    public TrialRunView? From { get; private set; }

    public async Task<IActionResult> OnGetAsync(Guid? pairing, Guid? run)
    {
        Form = FormState.From(Request.Query);
        From = run is { } begun ? await again.OfAsync(begun) : null;
        if (From is not null && !Request.Query.ContainsKey(Cell(0, "tried")))
            await FillAsync(From);
        if (pairing is { } id && Form[Cell(0, "filament")].Length == 0 && await pairings.ViewAsync(id) is { } record)
        {
            Form[Cell(0, "filament")] = Facts.FilamentName(record.Pairing);
            Form[Cell(0, "printer")] = record.Pairing.Toolhead!.FullName;
            Form[Cell(0, "nozzle")] = record.Pairing.NozzleName;
        }

        if (From is null && Form[Cell(0, "tried")].Length == 0)
            Asked = await again.AskedAsync(MostAsked);
        // More rows are asked for before anything is judged.
        if ((!Request.Query.ContainsKey(Cell(0, "tried")) && !IsWhole) || Form["rows"].Length > 0)
            return Page();
        Rows = [.. Enumerable.Range(0, MostRows).Select(i => (i, Read(i))).Where(r => r.Item2 is not null).Select(r => (r.i, r.Item2!))];
        if (Form.IsGood && Rows.FirstOrDefault() is not (0, { } failing))
            Form.Refuse(Cell(0, "tried"), "The failing combination is missing: how many of it were printed, and how many passed.");
        List<SwapRow> rows = [.. Rows.Select(r => r.Row)];
        foreach (var (row, field, message) in Form.IsGood ? SwapWords.Faults(rows) : [])
            Form.Refuse(Cell(Rows[row].At, field), message);
        if (!Form.IsGood)
            return Refused();
        Verdict = SwapTest.Judge(rows);
        Said = SwapWords.Tell(rows, Verdict);
        return Page();
    }

    /// <summary>Rows from the record: the failing run, and the prints that were made as swaps of it. Whether one passed is the tester's to say.</summary>
    private async Task FillAsync(TrialRunView failing)
    {
        static string Key(Dictionary<string, string> f) => string.Join('|', Factors.Select(k => f.GetValueOrDefault(k)));
        var views = (await again.SwapsAsync(failing.Run.Id)).Where(r => r.Run.Stage != Storage.Records.RunStages.Planned).Prepend(failing).ToList();
        // Another filament comes on another spool: which spool is asked only where one filament was on several.
        var all = views.Select(FactorsOf).ToList();
        var several = all.GroupBy(f => f["filament"]).Where(g => g.Select(f => f.GetValueOrDefault("other")).Distinct().Count() > 1)
            .Select(g => g.Key).ToHashSet();
        foreach (var f in all.Where(f => !several.Contains(f["filament"])))
            f.Remove("other");
        var made = views.Zip(all).ToList();
        var rows = all.GroupBy(Key).Take(MostRows).ToList();
        foreach (var (group, i) in rows.Select((g, i) => (g, i)))
        {
            foreach (var (key, value) in group.First())
                Form[Cell(i, key)] = value;
            // Runs of a part say whether they passed, how many of them, and how far they came; of others it is the tester's to say.
            var said = made.Where(m => Key(m.Second) == group.Key).Select(m => SameAgain.Counted(m.First)).ToList();
            var (passed, tried) = (said.Sum(o => o?.Passed ?? 0), said.Sum(o => o?.Tried ?? 1));
            if (said.All(o => o is not null))
                Form[Cell(i, "passed")] = passed.ToString(System.Globalization.CultureInfo.InvariantCulture);
            var layers = said.SelectMany(o => o?.Layers ?? []).ToList();
            if (layers.Count > 0 && layers.Count == tried - passed)
                Form[Cell(i, "layers")] = string.Join(", ", layers);
            Form[Cell(i, "tried")] = tried.ToString(System.Globalization.CultureInfo.InvariantCulture);
        }

        if (Form[Cell(0, "passed")].Length == 0)
            Form[Cell(0, "passed")] = "0";
        // Where the record says all of it, it is judged without another press.
        IsWhole = rows.Count > 1 && rows.Select((_, i) => Form[Cell(i, "passed")]).All(p => p.Length > 0);
    }

    private bool IsWhole { get; set; }

    private static Dictionary<string, string> FactorsOf(TrialRunView v)
    {
        var row = new Dictionary<string, string>
        {
            ["filament"] = Facts.FilamentName(v.Pairing!), ["printer"] = v.Toolhead.FullName, ["nozzle"] = v.Pairing!.NozzleName,
        };
        foreach (var (column, key) in new[] { ("slicer", FactorRegistry.Slicer), ("dryness", FactorRegistry.Dryness), ("other", FactorRegistry.Spool) })
        {
            if (v.Factors[key] is { Applies: true, Text: { Length: > 0 } text })
                row[column] = column == "other" ? $"spool {text}" : text;
        }

        return row;
    }

    private SwapRow? Read(int i)
    {
        var factors = new Dictionary<string, string>();
        foreach (var f in Factors)
        {
            if (Form.Text(Cell(i, f), f, 80) is { } text)
                factors[f] = text;
        }

        var (passed, tried, left) = (Whole(i, "passed"), Whole(i, "tried"), i == 0 ? Whole(i, "leftOut") : null);
        if (factors.Count == 0 && passed is null && tried is null)
            return null;
        if (factors.Count == 0)
            Form.Refuse(Cell(i, "filament"), "Say what it was printed with, for example the filament.");
        if (tried is null)
            Form.Refuse(Cell(i, "tried"), "How many were printed?");
        if (passed is null)
            Form.Refuse(Cell(i, "passed"), "How many of them passed?");
        return new(factors, passed ?? 0, tried ?? 0, left ?? 0, Layers(i));
    }

    /// <summary>Layers as they were typed, with commas or spaces between them; null for none.</summary>
    private List<int>? Layers(int i)
    {
        var name = Cell(i, "layers");
        var words = Form[name].Split([',', ';', ' '], StringSplitOptions.RemoveEmptyEntries);
        var layers = words.Select(w => int.TryParse(w, out var n) && n is >= 1 and <= 100_000 ? n : 0).ToList();
        if (layers.Contains(0))
            Form.Refuse(name, $"\"{words[layers.IndexOf(0)]}\" is no layer: whole numbers with commas between them, like 118, 96, would be right.");
        else if (layers.Count > SwapRow.MostByLayer)
            Form.Refuse(name, $"{layers.Count} layers: {SwapRow.MostByLayer} at most are told apart.");
        return layers.Count == 0 ? null : layers;
    }

    private int? Whole(int i, string what) => (int?)Form.Number(Cell(i, what), Prints);
}
