using Glenfrost.Core.Equipment;
using Glenfrost.Core.Trials.ExtruderFeed;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Printers;

/// <summary>Short dated checks of a printer and one of its toolheads.</summary>
internal sealed class ChecksModel(WorkContext work, PrinterBook printers) : WorkPage(work)
{
    public Printer P { get; private set; } = null!;

    public Toolhead Head { get; private set; } = null!;

    public IReadOnlyList<Toolhead> Heads { get; private set; } = [];

    public IReadOnlyList<CheckStanding> Standings { get; private set; } = [];

    /// <summary>Checks of this toolhead and of the printer, newest first.</summary>
    public IReadOnlyList<MachineCheck> History { get; private set; } = [];

    /// <summary>P, I and D as they were last noted or read; null where nobody did.</summary>
    public (double P, double I, double D)? Pid { get; private set; }

    /// <summary>The temperature that most profiles of this toolhead print at, °C.</summary>
    public double TuneAtC { get; private set; } = 210;

    /// <summary>An empty form of a check; the heater's with the temperature that is printed at.</summary>
    public FormState Fresh(CheckKind kind)
    {
        var sheet = new FormState();
        if (kind.Key == "pid")
            sheet.Put("temperatureC", TuneAtC);
        return sheet;
    }

    /// <summary>The values of a check in words.</summary>
    public static string ValuesOf(MachineCheck c)
    {
        var values = Json.Read<Dictionary<string, double>>(c.ValuesJson);
        var fields = CheckKind.Find(c.Kind)?.Fields.Where(f => values.ContainsKey(f.Key)).ToList() ?? [];
        return fields.Count == 0
            ? ""
            : $" · {string.Join(", ", fields.Select(f => $"{(c.Kind == "feed" ? "" : f.Quantity.Name + " ")}{Words.N(values[f.Key], 3)}{(f.Quantity.Unit.Length > 0 ? " " + f.Quantity.Unit : "")}"))}";
    }

    public async Task<IActionResult> OnGetAsync(Guid id, Guid? head) => await LoadAsync(id, head) ? Page() : NotFound();

    public async Task<IActionResult> OnPostAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id, Form.Id("head", "a toolhead")))
            return NotFound();
        if (CheckKind.Typed.Concat(MachineBook.OwnOf(P).Select(o => o.Kind)).FirstOrDefault(k => k.Key == Form["kind"]) is not { } kind)
            return NotFound();
        var values = new Dictionary<string, double>();
        foreach (var f in kind.Fields)
        {
            if (Form.Double(f.Key, f.Quantity, f.Needed) is { } v)
                values[f.Key] = v;
        }

        if (kind.Key == "pid" && values.TryGetValue("temperatureC", out var c) && c > Facts.LimitsOf(Head).MaxC)
            Form.Refuse(
                "temperatureC", $"{Words.N(c)} °C is above this machine's limit of {Words.N(Facts.LimitsOf(Head).MaxC)} °C ({Facts.LimitsOf(Head).MaxBecause})."
            );
        var note = Form.Text("note", "Note", 200, kind.Key == "versions");
        if (!Form.IsGood)
            return Refused();
        var check = await printers.CheckAsync(P, Head, kind, values, ValuesOf, note, !Form.Ticked("bad"));
        Tell($"{kind.Label}: noted.", "check", check.Id);
        return Redirect($"/printers/{id}/checks?head={Head.Id}#{kind.Key}");
    }

    public async Task<IActionResult> OnPostReportAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id, Form.Id("head", "a toolhead")))
            return NotFound();
        var text = Form["report"];
        if (text.Length > SettingsReport.MostCharacters || SettingsReport.Read(text, Heads.ToList().FindIndex(h => h.Id == Head.Id)).Pid is not { } pid)
        {
            Form.Refuse("report", "No P, I and D were found in it: a line like M301 P21.70 I1.52 D77.60 would be right.");
            return Refused();
        }

        Pid = pid;
        Form["kind"] = "pid";
        Form.Put("temperatureC", TuneAtC);
        Form.Put("p", pid.P);
        Form.Put("i", pid.I);
        Form.Put("d", pid.D);
        Form.Notice =
            $"The report says P {Words.N(pid.P, 3)}, I {Words.N(pid.I, 3)}, D {Words.N(pid.D, 3)}. They stand in the form of the heater: note the check " +
                $"with the temperature that it was tuned at.";
        return Page();
    }

    /// <summary>What a kind is called, own ones too; its word where it was taken out since.</summary>
    public string LabelOf(string kind) => CheckKind.Find(kind)?.Label ?? MachineBook.OwnOf(P).FirstOrDefault(o => o.Key == kind)?.Label
        ?? (kind.StartsWith(OwnCheck.Prefix, StringComparison.Ordinal) ? kind[OwnCheck.Prefix.Length..] : kind);

    /// <summary>Areas that an own check may make doubtful.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Areas { get; } =
    [
        KeyValuePair.Create("", "nothing"),
        .. Core.Ageing.AgeingRules.Areas.Where(a => a.Settings.Count > 0).Select(a => KeyValuePair.Create(a.Key, a.Label)),
    ];

    /// <summary>Areas that the form of an own check holds.</summary>
    public const int AreaRows = 3;

    /// <summary>Adds a check of the tester's own.</summary>
    public async Task<IActionResult> OnPostOwnAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id, Form.Id("head", "a toolhead")))
            return NotFound();
        var label = Form.Text("ownLabel", "What is checked", 40, true);
        var how = Form.Text("ownHow", "How it is done", 200) ?? "";
        var every = (int?)Form.Number("ownEvery", new("Every", "days", 1, OwnCheck.MostDays, "ten years at most", true));
        var doubts = Enumerable.Range(0, AreaRows).Select(i => Form.Choice($"ownArea{i}", "what it makes doubtful", [.. Areas.Select(a => a.Key)], ""))
            .Where(a => a.Length > 0).Distinct().ToList();
        var key = OwnCheck.KeyOf(label ?? "");
        var own = MachineBook.OwnOf(P);
        if (label is not null && key.Length < OwnCheck.Prefix.Length + 1)
            Form.Refuse("ownLabel", "A name with letters or digits would be right, for example: seal of the lid.");
        else if (label is not null && CheckKind.All.Any(k => string.Equals(k.Label, label, StringComparison.OrdinalIgnoreCase)))
            Form.Refuse("ownLabel", $"{label} stands above already. Another name would be right.");
        if (own.Count >= OwnCheck.Most && own.All(o => o.Key != key))
            Form.Refuse("ownLabel", $"A printer has at most {OwnCheck.Most} checks of its own; take one out first.");
        if (!Form.IsGood)
            return Refused();
        await printers.AddOwnAsync(id, new(key, label!, how, every, doubts));
        Tell($"{label}: added. Note it as done, or as wanting, above.");
        return Redirect($"/printers/{id}/checks?head={Head.Id}#{key}");
    }

    /// <summary>Takes an own check out.</summary>
    public async Task<IActionResult> OnPostOwnOutAsync(Guid id)
    {
        ReadForm();
        if (!await printers.RemoveOwnAsync(id, Form["kind"]))
            return NotFound();
        Tell("It is taken out; what was noted of it stays in the history.");
        return Redirect($"/printers/{id}/checks");
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        ReadForm();
        if (await printers.RemoveCheckAsync(id, Form.Id("check", "a check")) is not { } check)
            return NotFound();
        Tell("The check is removed.", "check", check.Id);
        return Redirect($"/printers/{id}/checks");
    }

    private async Task<bool> LoadAsync(Guid id, Guid? head)
    {
        P = (await printers.ViewAsync(id))!;
        if (P is null)
            return false;
        Heads = [.. P.Toolheads.Where(t => t.RemovedAt is null).OrderBy(t => t.Name)];
        if ((Heads.FirstOrDefault(t => t.Id == head) ?? Heads.FirstOrDefault()) is not { } found)
            return false;
        Head = found;
        Head.Printer = P;
        TuneAtC = await printers.UsualTemperatureAsync(Head);
        Standings = MachineBook.Standings(Head, P.Checks, P.Parts, TuneAtC, Work.Now);
        History = [.. P.Checks.Where(c => c.RemovedAt is null && (c.ToolheadId is null || c.ToolheadId == Head.Id)).OrderByDescending(c => c.At)];
        if (History.FirstOrDefault(c => c.Kind == "pid") is { } last
            && Json.Read<Dictionary<string, double>>(last.ValuesJson) is var v
            && v.ContainsKey("p")
            && v.ContainsKey("i")
            && v.ContainsKey("d"))
            Pid = (v["p"], v["i"], v["d"]);
        return true;
    }
}
