using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Storage.Records;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Settings;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Printers;

internal sealed class DetailModel(
    WorkContext work, PrinterBook printers, Profiles profiles, SpoolBook spools, Glenfrost.Application.Simulated.Paces paces) : WorkPage(work)
{
    public Printer P { get; private set; } = null!;

    /// <summary>Spools that are loaded on its toolheads, by id.</summary>
    public IReadOnlyDictionary<Guid, Spool> Loaded { get; private set; } = new Dictionary<Guid, Spool>();

    public IReadOnlyList<(Pairing Pairing, IReadOnlyList<string> Keys)>? Touches { get; private set; }

    public static IEnumerable<KeyValuePair<string, string>> Slots { get; } =
    [
        .. PartSlot.All.Select(s => KeyValuePair.Create(s.Key, s.Label)),
        .. AgeingRules.All.Where(r => r.Reach is "toolhead" or "printer" && PartSlot.Find(r.Change) is null)
            .Select(r => KeyValuePair.Create(r.Change, r.Label)),
    ];

    public IEnumerable<KeyValuePair<string, string>> Heads => P.Toolheads.Where(t => t.RemovedAt is null).OrderBy(t => t.Name)
        .Select(t => KeyValuePair.Create(t.Id.ToString(), t.Name.Length == 0 ? "its toolhead" : t.Name)).Append(KeyValuePair.Create("", "the whole printer"));

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        Form["slot"] = "nozzle";
        Form["toolhead"] = Heads.First().Key;
        return Page();
    }

    public async Task<IActionResult> OnPostPreviewAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var (slot, head) = ReadSlot();
        if (!Form.IsGood)
            return Refused();
        Touches = await profiles.FittingTouchesAsync(id, head, slot);
        return Page();
    }

    public async Task<IActionResult> OnPostFitAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var (slot, head) = ReadSlot();
        var description = Form.Text("description", "What is fitted", 120, true);
        var at = Form.Date("fittedAt", "Fitted on", Work.Now) ?? Work.Now;
        var why = Form.Text("why", "Why", 200);
        var says = ReadSays(slot, head, description);
        if (!Form.IsGood)
            return Refused();
        var person = await Work.PersonAsync();
        var part = new Part { PrinterId = id, ToolheadId = head, Slot = slot, Description = description!, FittedAt = at, Why = why, PersonId = person.Id };
        var n = await profiles.FitAsync(part, P.Name, says);
        Tell(
            $"Fitted. {(n == 0 ? "No kept value leans on it." : $"{Words.Plural(n, "profile")} now {(n == 1 ? "has" : "have")} doubtful settings.")}", "part",
            part.Id);
        return Redirect($"/printers/{id}");
    }

    public async Task<IActionResult> OnPostUnfitAsync(Guid id)
    {
        ReadForm();
        if (await printers.RemovePartAsync(id, Form.Id("part", "a part")) is not { } part)
            return NotFound();
        Tell("The part is removed from the history. Settings that it made doubtful stay so.", "parthistory", part.Id);
        return Redirect($"/printers/{id}");
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        if (await printers.RemoveAsync(id) is not { } p)
            return NotFound();
        Tell($"{p.Name} is removed. Its pairings and runs stay.", "printer", p.Id);
        return Redirect("/printers");
    }

    /// <summary>Whether two versions are known to work together.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Stable { get; } =
        [KeyValuePair.Create("", "not known yet"), KeyValuePair.Create("yes", "stable"), KeyValuePair.Create("no", "not stable")];

    /// <summary>Notes firmware and slicer; what differs from the pair before is a change of the machine.</summary>
    public async Task<IActionResult> OnPostVersionAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id))
            return NotFound();
        var (firmware, slicer, note) = (
            Form.Text("verFirmware", "Firmware", 80, true), Form.Text("verSlicer", "Slicer", 80), Form.Text("verNote", "Note", 200));
        var at = Form.Date("verAt", "From", Work.Now) ?? Work.Now;
        var stable = Form.Choice("verStable", "whether they work together", [.. Stable.Select(s => s.Key)], "");
        if (!Form.IsGood)
            return Refused();
        var doubtful = await printers.AddVersionAsync(id, new(at, firmware!, slicer, stable switch { "yes" => true, "no" => false, _ => null }, note));
        Tell($"Noted.{(doubtful > 0 ? $" {Words.Plural(doubtful, "profile")} now {(
            doubtful == 1 ? "has" : "have")} doubtful settings: see the part history." : "")}");
        return Redirect($"/printers/{id}#versions");
    }

    /// <summary>Takes a pair of versions out of the list.</summary>
    public async Task<IActionResult> OnPostVersionOutAsync(Guid id)
    {
        ReadForm();
        if (!await LoadAsync(id) || !DateTime.TryParse(
            Form["at"], System.Globalization.CultureInfo.InvariantCulture, System.Globalization.DateTimeStyles.RoundtripKind, out var at)
            || PrinterBook.VersionsOf(P).All(v => v.At != at))
            return NotFound();
        await printers.RemoveVersionAsync(id, at);
        Tell("The pair is out of the list; a change that was recorded with it stays in the part history.");
        return Redirect($"/printers/{id}#versions");
    }

    private (string Slot, Guid? Head) ReadSlot()
    {
        var slot = Form.Choice("slot", "Part", [.. Slots.Select(x => x.Key)]);
        var head = Form.Id("toolhead", "a toolhead");
        if (head is not null && P.Toolheads.All(t => t.Id != head))
            Form.Refuse("toolhead", "Choose a toolhead from the list.");
        if (AgeingRules.Find(slot) is { Reach: "toolhead" } && head is null && P.Toolheads.Count(t => t.RemovedAt is null) > 1)
            Form.Refuse("toolhead", "This part belongs to one toolhead. Choose which.");
        // Where there is one toolhead, a part of a toolhead is of that one.
        if (AgeingRules.Find(slot) is { Reach: "toolhead" } && head is null && P.Toolheads.Where(t => t.RemovedAt is null).ToList() is [var only])
            head = only.Id;
        return (slot, AgeingRules.Find(slot) is { Reach: "printer" } ? null : head);
    }

    /// <summary>Choices of a fitted part that has to be told, beginning with none.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Told(IEnumerable<KeyValuePair<string, string>> choices) =>
        choices.Prepend(KeyValuePair.Create("", "say which"));

    /// <summary>What the machine says of itself with the part: what the part's limits and sizes are is asked with it.</summary>
    private MachineFacts? ReadSays(string slot, Guid? head, string? description)
    {
        var old = P.Toolheads.FirstOrDefault(t => t.Id == head);
        string Which(string field, string label, IEnumerable<KeyValuePair<string, string>> choices, string needs)
        {
            if (Form[field].Length == 0)
                Form.Refuse(field, needs);
            return Form[field].Length == 0 ? "" : Form.Choice(field, label, [.. choices.Select(c => c.Key)]);
        }

        switch (slot)
        {
            case "nozzle" when old is not null:
                return new()
                {
                    NozzleDiameterMm = Form.Double("fitNozzleMm", RecordFields.NozzleDiameterMm, true),
                    NozzleFlow = Which("fitNozzleFlow", "Nozzle type", ToolheadModel.Flows, "Say whether it is a standard or a high-flow nozzle."),
                    NozzleMaterial = Form.Text("fitNozzleMaterial", "Nozzle material", 40, true),
                    NozzleMaxC = Form.Double("fitNozzleMaxC", RecordFields.HeaterMaxC),
                };
            case "hotend" when old is not null:
                var says = new MachineFacts
                {
                    Liner = Which("fitLiner", "Hotend", ToolheadModel.Liners, "Say whether a PTFE tube reaches the melt: it sets what is safe."),
                    HeaterMaxC = Form.Double("fitHeaterMaxC", RecordFields.HeaterMaxC, true),
                    LinerContinuousC = Form.Double("fitLinerContinuousC", RecordFields.LinerC), LinerHardC = Form.Double("fitLinerHardC", RecordFields.LinerC),
                };
                if (says.LinerContinuousC > says.LinerHardC)
                    Form.Refuse("fitLinerContinuousC", "What the liner bears for long can't be above what it bears at most.");
                return says;
            case "heater" when old is not null:
                return new() { HeaterMaxC = Form.Double("fitHeaterMaxC", RecordFields.HeaterMaxC, true) };
            case "enclosure":
                return new()
                {
                    Enclosure = Which("fitEnclosure", "Enclosure", EditModel.Enclosures, "Say what stands around the printer now."),
                    ChamberMaxC = Form.Double("fitChamberMaxC", RecordFields.ChamberC) ?? 0,
                };
            default:
                return slot switch
                {
                    "bed" => new() { BedSurface = description },
                    "firmware" => new() { Firmware = description },
                    "fan" when old is not null => new() { PartFan = description },
                    _ => null,
                };
        }
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        P = (await printers.ViewAsync(id))!;
        if (P is not null)
        {
            Pace = await paces.OfAsync(P.Id, P.World);
            Loaded = await spools.ByIdAsync([.. P.Toolheads.Select(t => t.LoadedSpoolId).OfType<Guid>()]);
        }

        return P is not null;
    }

    /// <summary>The rule of the change that is being looked at.</summary>
    public AgeingRule? Rule => AgeingRules.Find(Form["slot"]);

    /// <summary>Toolheads that it has, in the order of their names.</summary>
    public IReadOnlyList<Toolhead> Live => [.. P.Toolheads.Where(t => t.RemovedAt is null).OrderBy(t => t.Name)];

    /// <summary>True while a part that is being fitted was looked at or refused: its fields stay open.</summary>
    public bool Fitting => Touches is not null || Form.Errors.Keys.Any(k => !k.StartsWith("ver", StringComparison.Ordinal));

    /// <summary>
    /// What is done first on the machine: a feed that was never measured or is doubtful, since every flow rests on it, then checks that are bad, doubtful or
    /// missing; null where all are good, or while a part is being fitted.
    /// </summary>
    public (string What, string Why, string Act, string Link)? NextFor()
    {
        if (Fitting)
            return null;
        static string Feed(Toolhead t) => $"/toolheads/{t.Id}/extruder-feed";
        string On(Toolhead t) => Live.Count > 1 ? $" on {t.Name}" : "";
        foreach (var t in Live)
        {
            var (stone, why) = Facts.MachineStone(t, P.Parts);
            if (stone == StoneState.Open)
                return ($"The feed was never measured{On(t)}.", "Every flow that is found on it rests on the feed.", "Measure its feed", Feed(t));
            if (stone == StoneState.Doubtful)
                return ($"The feed is doubtful{On(t)}: {why}.", "What rests on it is doubtful until it is measured again.", "Measure its feed", Feed(t));
        }

        var open = Live.SelectMany(t => Open(t).Select(c => (Head: t, c.Kind, c.State))).ToList();
        var wanting = open.Where(o => o.State != "missing").Select(o => Words.Lower(o.Kind.Label) + On(o.Head)).ToList();
        var rest = open.Count - wanting.Count;
        return open.Count == 0 ? null
            : (wanting.Count > 0 ? $"{string.Join(", ", wanting).AtHead()}: look again." : $"{Words.Plural(rest, "check was", "checks were")} not done yet.",
                $"{(wanting.Count > 0 && rest > 0 ? $"{Words.Plural(rest, "check was", "checks were")} not done yet. " : "")}" +
                    $"A minute each; a loose machine spoils every reading.",
                "Do the checks", $"/printers/{P.Id}/checks");
    }

    /// <summary>What stands open of a toolhead's checks: each that was found wanting with what was seen, the others by name.</summary>
    public string OpenInWords(Toolhead t)
    {
        var open = Open(t).Where(c => c.Kind.Key != "feed").ToList();
        var none = string.Join(", ", open.Where(c => c.State == "missing").Select(c => Words.Lower(c.Kind.Label)));
        return string.Join("; ", open.Where(c => c.State != "missing").Select(c => $"{Words.Lower(c.Kind.Label)}: {c.Text}")
            .Concat(none.Length > 0 ? [$"not done yet: {none}"] : []));
    }

    /// <summary>Checks of a toolhead that are missing, bad or doubtful.</summary>
    public IEnumerable<CheckStanding> Open(Toolhead t) => MachineBook.Standings(t, P.Checks, P.Parts, null, Work.Now).Where(s => s.State != "good");

    /// <summary>How it keeps to its files.</summary>
    public Core.Equipment.PrinterPace Pace { get; private set; } = Core.Equipment.PrinterPace.Unknown;
}
