using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Printers;

internal sealed class EditModel(WorkContext work, PrinterBook printers) : WorkPage(work)
{
    [FromRoute]
    public Guid? Id { get; set; }

    public static IEnumerable<KeyValuePair<string, string>> Enclosures { get; } =
        new[] { "none", "draught shield", "improvised", "closed", "heated" }.Select(e => KeyValuePair.Create(e, e)).ToList();

    public static IEnumerable<KeyValuePair<string, string>> DialectWords { get; } =
        Core.Gcode.Dialects.Dialect.All.Select(d => KeyValuePair.Create(d.Key, d.Label)).ToList();

    public static IEnumerable<KeyValuePair<string, string>> Origins { get; } =
    [KeyValuePair.Create("corner", "at the front left corner"), KeyValuePair.Create("middle", "in the middle of the bed")];

    public static IEnumerable<KeyValuePair<string, string>> FeedModes { get; } =
    [KeyValuePair.Create("relative", "since the last move (M83)"), KeyValuePair.Create("absolute", "since the last reset (M82)")];

    /// <summary>Fields that are folded by topic, each with the words and the unit that its fold's own line says it by; no words say the value alone.</summary>
    public static IReadOnlyList<(string Name, string Words, string Unit)> HeadFields { get; } =
    [
        ("headName", "", ""), ("heaterMaxC", "heater", "°C"), ("overshootC", "overshoot", "°C"), ("nozzleMaterial", "", ""), ("nozzleFlow", "nozzle", ""),
        ("tubeLengthMm", "tube", "mm"), ("stepsPerMm", "steps per mm", ""), ("rotationDistanceMm", "rotation distance", "mm"), ("feedCheckedAt", "fed", ""),
        ("linerContinuousC", "liner for long", "°C"), ("linerHardC", "liner at most", "°C"), ("nozzleMaxC", "nozzle bears", "°C"), ("partFan", "", ""),
    ];

    /// <summary>See <see cref="HeadFields"/>.</summary>
    public static IReadOnlyList<(string Name, string Words, string Unit)> LimitFields { get; } =
    [
        ("maxSpeed", "", "mm/s"), ("maxAcceleration", "", "mm/s²"), ("coldExtrusionC", "cold below", "°C"), ("screwStepMm", "screw step", "mm"),
        ("clearanceMm", "beside the nozzle", "mm"), ("gantryHeightMm", "below the carrier", "mm"),
    ];

    /// <summary>See <see cref="HeadFields"/>.</summary>
    public static IReadOnlyList<(string Name, string Words, string Unit)> MachineFields { get; } =
    [
        ("maker", "", ""), ("enclosure", "enclosure", ""), ("chamberMaxC", "chamber", "°C"), ("bedSurface", "", ""), ("firmware", "", ""),
    ];

    /// <summary>See <see cref="HeadFields"/>.</summary>
    public static IReadOnlyList<(string Name, string Words, string Unit)> PowerFields { get; } = [("powerW", "", "W"), ("kwhPrice", "a kilowatt hour", "")];

    /// <summary>See <see cref="HeadFields"/>.</summary>
    public static IReadOnlyList<(string Name, string Words, string Unit)> CodeFields { get; } = [("startCode", "", ""), ("endCode", "", ""), ("notes", "", "")];

    /// <summary>True where something is wrong, or is asked about, in a fold.</summary>
    public bool Open(IEnumerable<(string Name, string Words, string Unit)> fields) => fields.Any(f => Form.Errors.ContainsKey(f.Name));

    /// <summary>What a fold holds, in one line.</summary>
    public string Said(IEnumerable<(string Name, string Words, string Unit)> fields) =>
        string.Join(" · ", fields.Where(f => Form[f.Name].Length > 0).Select(f => $"{f.Words} {Form[f.Name]} {f.Unit}".Trim()));

    public async Task<IActionResult> OnGetAsync()
    {
        if (Id is null)
        {
            Form = ToForm(new Printer { Name = "" });
            ToolheadModel.Fill(Form, new Toolhead());
            Form["version"] = "";
            return Page();
        }

        var p = await printers.FindAsync(Id);
        if (p is null)
            return NotFound();
        Form = ToForm(p);
        return Page();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var s = Form;
        var p = await printers.ToEditAsync(Id);
        if (Id is not null && p is null)
            return NotFound();
        var fresh = new Printer { Name = s.Text("name", "Name", 60, true) ?? "" };
        fresh.Maker = s.Text("maker", "Maker and model", 80);
        fresh.Enclosure = s.Choice("enclosure", "Enclosure", [.. Enclosures.Select(e => e.Key)]);
        fresh.ChamberMaxC = s.Double("chamberMaxC", RecordFields.ChamberC) ?? 0;
        fresh.Firmware = s.Text("firmware", "Firmware", 80);
        fresh.Dialect = s.Choice("dialect", "Dialect", [.. DialectWords.Select(d => d.Key)]);
        fresh.BedXMm = s.Double("bedXMm", RecordFields.BedLengthMm, true) ?? 0;
        fresh.BedYMm = s.Double("bedYMm", RecordFields.BedLengthMm, true) ?? 0;
        fresh.HeightMm = s.Double("heightMm", RecordFields.HeightMm, true) ?? 0;
        fresh.BedSurface = s.Text("bedSurface", "Bed surface", 80);
        fresh.BedMaxC = s.Double("bedMaxC", RecordFields.BedC, true) ?? 0;
        fresh.MaxSpeedMmPerS = s.Double("maxSpeed", RecordFields.SpeedMmPerS, true) ?? 0;
        fresh.MaxAccelerationMmPerS2 = s.Double("maxAcceleration", RecordFields.AccelerationMmPerS2, true) ?? 0;
        fresh.ColdExtrusionC = s.Double("coldExtrusionC", RecordFields.ColdExtrusionC);
        fresh.ScrewStepMm = s.Double("screwStepMm", RecordFields.ScrewStepMm, true) ?? 0;
        fresh.OriginInMiddle = s.Choice("origin", "Where x and y are 0", [.. Origins.Select(o => o.Key)], "corner") == "middle";
        fresh.AbsoluteE = s.Choice("feedMode", "Filament in files", [.. FeedModes.Select(o => o.Key)], "relative") == "absolute";
        fresh.ClearanceMm = s.Double("clearanceMm", RecordFields.ClearanceMm) ?? 40;
        fresh.GantryHeightMm = s.Double("gantryHeightMm", RecordFields.GantryHeightMm) ?? 25;
        fresh.PowerW = s.Double("powerW", RecordFields.PowerW);
        fresh.MinorPerKwh = s.Double("kwhPrice", RecordFields.KwhPrice) is { } kwh ? kwh * 100 : null;
        fresh.StartCode = s.LongText("startCode", "Start code");
        fresh.EndCode = s.LongText("endCode", "End code");
        foreach (var (field, code) in new[] { ("startCode", fresh.StartCode), ("endCode", fresh.EndCode) })
        {
            if (Core.Gcode.Dialects.Placeholders.Check(code) is { } wrong)
                s.Refuse(field, wrong);
        }

        fresh.Notes = s.LongText("notes", "Notes");
        var head = Id is null ? ToolheadModel.Read(s, new Toolhead()) : null;
        if (s.IsGood && await printers.IsTakenAsync(fresh.Name, Id))
            s.Refuse("name", $"A printer {fresh.Name} is there already. Give each its own name.");
        if (!s.IsGood)
            return Refused();
        if (p is not null && IsStale(p, ToForm(p).Values))
            return Refused(409);
        // What ages by an edit is said before it is recorded: the same form sent again records it.
        var changes = p is null ? [] : AgeingEdit.Of(p, fresh);
        var seen = string.Join(";", changes.Select(c => $"{c.Slot}={c.Now}"));
        if (changes.Count > 0 && s["changesSeen"] != seen)
        {
            foreach (var c in changes)
                s.Errors[c.Slot == "bed" ? "bedSurface" : c.Slot] = await printers.ToldAsync(p!.Id, c);
            s["changesSeen"] = seen;
            s.Notice =
                $"{(changes.Count == 1 ? "This is a change" : "These are changes")} that ages what was measured. Nothing is saved yet: save again to " +
                    $"record {(changes.Count == 1 ? "it" : "them")}.";
            return Refused();
        }

        if (!await TryAsync(() => p is null ? printers.AddAsync(fresh, head!) : printers.SaveAsync(p, fresh)))
            return Refused(409);
        p ??= fresh;
        Tell($"{p.Name} is {(Id is null ? "added" : "saved")}.");
        return Redirect($"/printers/{p.Id}");
    }

    internal static FormState ToForm(Printer p)
    {
        var s = new FormState { ["version"] = p.Version.ToString(), ["name"] = p.Name, ["enclosure"] = p.Enclosure, ["dialect"] = p.Dialect };
        s.Put("maker", p.Maker);
        s.Put("chamberMaxC", p.ChamberMaxC);
        s.Put("firmware", p.Firmware);
        s.Put("bedXMm", p.BedXMm);
        s.Put("bedYMm", p.BedYMm);
        s.Put("heightMm", p.HeightMm);
        s.Put("bedSurface", p.BedSurface);
        s.Put("bedMaxC", p.BedMaxC);
        s.Put("maxSpeed", p.MaxSpeedMmPerS);
        s.Put("maxAcceleration", p.MaxAccelerationMmPerS2);
        s.Put("coldExtrusionC", p.ColdExtrusionC);
        s.Put("screwStepMm", p.ScrewStepMm);
        s["origin"] = p.OriginInMiddle ? "middle" : "corner";
        s["feedMode"] = p.AbsoluteE ? "absolute" : "relative";
        s.Put("clearanceMm", p.ClearanceMm);
        s.Put("gantryHeightMm", p.GantryHeightMm);
        s.Put("powerW", p.PowerW);
        s.Put("kwhPrice", p.MinorPerKwh / 100);
        s.Put("startCode", p.StartCode);
        s.Put("endCode", p.EndCode);
        s.Put("notes", p.Notes);
        return s;
    }
}
