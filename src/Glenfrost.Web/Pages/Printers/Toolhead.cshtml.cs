using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Printers;

internal sealed class ToolheadModel(WorkContext work, PrinterBook printers) : WorkPage(work)
{
    [FromRoute]
    public Guid? Id { get; set; }

    public Printer P { get; private set; } = null!;

    public static IEnumerable<KeyValuePair<string, string>> Drives { get; } =
    [KeyValuePair.Create("direct", "direct"), KeyValuePair.Create("long-tube", "long tube")];

    public static IEnumerable<KeyValuePair<string, string>> Liners { get; } =
    [KeyValuePair.Create("ptfe", "PTFE-lined"), KeyValuePair.Create("metal", "all-metal")];

    public static IEnumerable<KeyValuePair<string, string>> Flows { get; } =
    [KeyValuePair.Create("standard", "standard"), KeyValuePair.Create("high-flow", "high-flow")];

    public async Task<IActionResult> OnGetAsync(Guid? printer)
    {
        var t = await printers.HeadToEditAsync(Id);
        if ((Id is not null && t is null) || !await LoadPrinterAsync(t?.PrinterId ?? printer))
            return NotFound();
        Fill(Form, t ?? new Toolhead());
        return Page();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var t = await printers.HeadToEditAsync(Id);
        if ((Id is not null && t is null) || !await LoadPrinterAsync(t?.PrinterId ?? Form.Id("printer", "a printer")))
            return NotFound();
        var fresh = Read(Form, new Toolhead());
        if (Form.IsGood && await printers.IsHeadTakenAsync(P.Id, fresh.Name, Id))
            Form.Refuse("headName", "This printer has a toolhead of that name. Two toolheads need two names, for example left and right.");
        // A value that a check run proved is changed by the next one, so that it keeps its history.
        if (t is { FirstFeedValue: not null } && (fresh.StepsPerMm != t.StepsPerMm || fresh.RotationDistanceMm != t.RotationDistanceMm))
            Form.Refuse(
                t.StepsPerMm is null ? "rotationDistanceMm" : "stepsPerMm",
                $"{Words.N(t.StepsPerMm ?? t.RotationDistanceMm ?? 0, 3)} was proved by a check run. Measure the feed at the other value: a run within " +
                    $"tolerance changes it here."
            );
        if (!Form.IsGood)
            return Refused();
        Toolhead? before = null;
        if (t is not null)
        {
            var standing = new FormState();
            Fill(standing, t);
            if (IsStale(t, standing.Values))
                return Refused(409);
            before = new() { StepsPerMm = t.StepsPerMm, RotationDistanceMm = t.RotationDistanceMm, FeedCheckedAt = t.FeedCheckedAt };
            Read(Form, t);
        }

        if (!await TryAsync(() => printers.SaveAsync(t ?? fresh, P, before)))
            return Refused(409);
        Tell("The toolhead is saved.");
        return Redirect($"/printers/{P.Id}");
    }

    private async Task<bool> LoadPrinterAsync(Guid? id)
    {
        P = (await printers.FindAsync(id))!;
        return P is not null;
    }

    /// <summary>Reads the toolhead's fields into a record; messages stay on the sheet.</summary>
    public static Toolhead Read(FormState s, Toolhead t)
    {
        t.Name = s.Text("headName", "Name", 40) ?? "";
        t.Drive = s.Choice("drive", "Extruder", [.. Drives.Select(d => d.Key)]);
        t.TubeLengthMm = s.Double("tubeLengthMm", RecordFields.TubeLengthMm);
        t.StepsPerMm = s.Double("stepsPerMm", RecordFields.StepsPerMm);
        t.RotationDistanceMm = s.Double("rotationDistanceMm", RecordFields.RotationDistanceMm);
        if (t.StepsPerMm is not null && t.RotationDistanceMm is not null)
            s.Refuse("rotationDistanceMm", "Either steps per mm or rotation distance: a printer uses one of them.");
        t.FeedCheckedAt = s.Date("feedCheckedAt", "Feed check", DateTime.UtcNow);
        t.Liner = s.Choice("liner", "Hotend", [.. Liners.Select(d => d.Key)]);
        t.HeaterMaxC = s.Double("heaterMaxC", RecordFields.HeaterMaxC, true) ?? 0;
        t.OvershootC = s.Double("overshootC", RecordFields.OvershootC, true) ?? 0;
        t.LinerContinuousC = s.Double("linerContinuousC", RecordFields.LinerC);
        t.LinerHardC = s.Double("linerHardC", RecordFields.LinerC);
        if (t.LinerContinuousC > t.LinerHardC)
            s.Refuse("linerContinuousC", "What the liner bears for long can't be above what it bears at most.");
        t.NozzleDiameterMm = s.Double("nozzleDiameterMm", RecordFields.NozzleDiameterMm, true) ?? 0;
        t.NozzleFlow = s.Choice("nozzleFlow", "Nozzle type", [.. Flows.Select(d => d.Key)]);
        t.NozzleMaterial = s.Text("nozzleMaterial", "Nozzle material", 40, true) ?? "";
        t.NozzleMaxC = s.Double("nozzleMaxC", RecordFields.HeaterMaxC);
        t.PartFan = s.Text("partFan", "Part fan", 80);
        return t;
    }

    /// <summary>Puts a toolhead's fields on the sheet.</summary>
    public static void Fill(FormState s, Toolhead t)
    {
        s["version"] = t.Version.ToString();
        (s["headName"], s["drive"], s["liner"], s["nozzleFlow"], s["nozzleMaterial"]) = (t.Name, t.Drive, t.Liner, t.NozzleFlow, t.NozzleMaterial);
        s.Put("tubeLengthMm", t.TubeLengthMm);
        s.Put("stepsPerMm", t.StepsPerMm);
        s.Put("rotationDistanceMm", t.RotationDistanceMm);
        s.Put("feedCheckedAt", t.FeedCheckedAt);
        s.Put("heaterMaxC", t.HeaterMaxC);
        s.Put("overshootC", t.OvershootC);
        s.Put("linerContinuousC", t.LinerContinuousC);
        s.Put("linerHardC", t.LinerHardC);
        s.Put("nozzleDiameterMm", t.NozzleDiameterMm);
        s.Put("nozzleMaxC", t.NozzleMaxC);
        s.Put("partFan", t.PartFan);
    }
}
