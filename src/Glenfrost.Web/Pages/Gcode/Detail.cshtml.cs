using Glenfrost.Core.Equipment;
using System.Globalization;
using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Gcode.Fixes;
using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Gcode.Rewriting;
using Glenfrost.Core.Gcode.Stepping;
using Glenfrost.Core.Settings;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Gcode;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Gcode;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Gcode;

/// <summary>One file: what it is, what is odd, the view, stepping and mending it.</summary>
internal sealed class DetailModel(WorkContext work, PairingBook pairings, GcodeRoom room, Erasure erasure) : WorkPage(work)
{
    /// <summary>From the least to the greatest value, with the unit; "not set" where there is none.</summary>
    internal static string Range(double min, double max, string unit) =>
        double.IsNaN(max) ? "not set"
        : $"{(Math.Abs(max - min) < 0.05 || double.IsNaN(min) ? Words.N(max, 0) : $"{Words.N(min, 0)} to {Words.N(max, 0)}")} {unit}".TrimEnd();

    public InspectedFile V { get; private set; } = null!;

    public FileFacts F => V.Facts;

    public GcodeFile? Origin { get; private set; }

    /// <summary>Files that were made from this one.</summary>
    public List<GcodeFile> Made { get; private set; } = [];

    public (StepPlan Plan, StepProof Proof)? Proof { get; private set; }

    public LineDiff? Diff { get; private set; }

    public IEnumerable<KeyValuePair<string, string>> Pairings { get; private set; } = [];

    /// <summary>Sections as the form stands; null where it has errors or was not touched.</summary>
    public StepPlan? Plan { get; private set; }

    public Repeats? Repeats { get; private set; }

    public SlowDowns? Slow { get; private set; }

    public CoolingOfFile? Cooling { get; private set; }

    /// <summary>The trim of the spool that it is printed from; null where it has none.</summary>
    public SpoolTrimmed? Trimmed { get; private set; }

    /// <summary>The cool-down that stands in the file, or the one that the form would write; null where neither can be drawn.</summary>
    public CoolDownCurve? Curve { get; private set; }

    /// <summary>Only the sections are shown: what is wrong stands there, not at the fields.</summary>
    public bool Fragment { get; private set; }

    /// <summary>The fix whose form was refused.</summary>
    public string? Refusing { get; private set; }

    /// <summary>What a layer can be asked, and the words after "where does it".</summary>
    public static IReadOnlyList<(string Key, string Words)> Questions { get; } =
        [("flow", "flow most?"), ("speed", "go fast?"), ("nozzle", "get hot?"), ("fan", "get air?"), ("width", "lie wide?"), ("order", "begin and end?")];

    /// <summary>The part of the page that stands open: what was refused, what was asked, what is odd; else what the file is.</summary>
    public string OpenPart =>
        Refusing == "temperature" ? "odd" : Refusing is not null ? "mend"
        : Form.Errors.Keys.Any(e => e != "limit") || Form["from"].Length > 0 && Request.Method == "POST" ? "step"
        : Request.Query.ContainsKey("limit") ? "flow"
        : V.Odd.Any(o => o.Weight != Weight.Note) ? "odd" : "what";

    public static IEnumerable<KeyValuePair<string, string>> Factors =>
        Steppable.All.Select(s => new KeyValuePair<string, string>(s.Key, $"{s.Label}, {s.Unit}"));

    public static IEnumerable<KeyValuePair<string, string>> Dialects =>
        Dialect.All.Select(d => new KeyValuePair<string, string>(d.Key, d.Label)).Prepend(new("", "not known"));

    /// <summary>Pairings by name, for a choice.</summary>
    private static readonly Quantity LimitField = new("Flow limit", "mm³/s", 0.1m, 500, "below it nothing prints, above it no hotend melts");

    /// <summary>What a flow limit does to this file; null where none is known.</summary>
    public FlowEffect? Effect { get; private set; }

    /// <summary>Why the file was not handed out when it was asked for; empty where it was, or nobody asked.</summary>
    public IReadOnlyList<string> Beyond { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (await LoadAsync(id) is { } missing)
            return missing;
        // The whole file is read for it: only where somebody wanted to have it.
        if (Request.Query.ContainsKey("held"))
            Beyond = await room.BeyondAsync(V.File);
        await SuggestAsync();
        await PreviewAsync();
        Form.Errors.Clear();
        if (Request.Query["limit"].ToString() is { Length: > 0 } typed)
        {
            Form["limit"] = typed;
            var parsed = LimitField.Parse(typed);
            if (parsed is { Error: null, Value: { } limit })
                Effect = F.Empty ? null : FlowEffect.Of(F, (double)limit);
            else
                (Effect, Form.Errors["limit"]) = (null, parsed.Error ?? "A number would be right.");
        }

        return Page();
    }

    /// <summary>The sections of the form as it stands, as a fragment.</summary>
    public async Task<IActionResult> OnPostSectionsAsync(Guid id)
    {
        if (await LoadAsync(id) is { } missing)
            return missing;
        ReadForm();
        Fragment = true;
        await PreviewAsync();
        return Partial("_Sections", this);
    }

    public async Task<IActionResult> OnPostStepAsync(Guid id)
    {
        if (await LoadAsync(id) is { } missing)
            return missing;
        ReadForm();
        if (Asked() is not { } request)
        {
            await SuggestAsync(true);
            return Refused();
        }

        var (made, errors) = await room.StepAsync(V, request);
        if (made is not null)
        {
            Tell($"{made.Name} is written and read back. {V.File.Name} stays as it is.");
            return Redirect($"/gcode/{made.Id}");
        }

        Refuse(errors);
        await SuggestAsync(true);
        return Refused();
    }

    public async Task<IActionResult> OnPostOfferAsync(Guid id)
    {
        if (await LoadAsync(id) is { } missing)
            return missing;
        ReadForm();
        foreach (var change in Form["offer"].Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            var parts = change.Split('=', 2);
            if (parts.Length != 2)
                continue;
            if (parts[0] is "sectionMm")
                (Form["section"], Form["in"]) = (parts[1], "mm");
            else if (parts[0] is "from" or "to" or "by" or "toC")
                Form[parts[0]] = parts[1];
        }

        Form.Values.Remove("offer");
        await SuggestAsync(true);
        await PreviewAsync();
        Form.Errors.Clear();
        return Page();
    }

    public async Task<IActionResult> OnPostFixAsync(Guid id)
    {
        if (await LoadAsync(id) is { } missing)
            return missing;
        ReadForm();
        // The spool's own trim, where its button was pressed and none was typed.
        if (Form["spoolTrim"].Length > 0 && Form["flowPercent"].Length == 0 && await room.TrimOfAsync(V) is { } spool)
            Form.Put("flowPercent", spool.Percent);
        var request = new FixRequest
        {
            Key = Form["fix"],
            Line = int.TryParse(Form["line"], out var line) ? line : null,
            TemperatureC = Form.Number("temperatureC", Celsius),
            MinimumS = Form.Number("minimumS", Seconds),
            ToC = Form.Number("toC", Celsius),
            StepC = Form.Number("stepC", Celsius),
            HoldMinutes = Form.Number("holdMinutes", Minutes),
            Ramp = Form["fix"] == "cool-down" && Form["ramp"] == "pairing" ? (await room.CoolingAsync(V)).Ramp ?? [] : null,
            Dialect = Form["printer"].Length > 0 ? Form["printer"] : null,
            Trim = Form["fix"] != "trim" ? null : new(
                Form.Number("flowPercent", Share), Form.Number("fanShare", Share), Form.Number("nozzleBy", Degrees), Form.Number("bedBy", Degrees),
                Form["firstLayerStays"].Length > 0),
        };
        if (Form.IsGood)
        {
            var (made, errors) = await room.FixAsync(V, request);
            if (made is not null)
            {
                Tell($"{made.Name} is written. {V.File.Name} stays as it is.");
                return Redirect($"/gcode/{made.Id}");
            }

            Refuse([.. errors.Select(e => e.Field == "dialect" ? e with { Field = "printer" } : e)]);
        }

        Refusing = request.Key;
        await SuggestAsync(true);
        await PreviewAsync(false);
        return Refused();
    }

    public async Task<IActionResult> OnPostPairingAsync(Guid id)
    {
        if (await room.FindAsync(id) is not { RemovedAt: null } file)
            return NotFound();
        ReadForm();
        var pairing = Form.Id("pairing", "a pairing");
        if (pairing is not null && !await pairings.IsRealAsync(pairing.Value))
            return NotFound();
        await room.BelongsToAsync(file, pairing);
        return Redirect($"/gcode/{id}");
    }

    /// <summary>Takes the file off the disk; no undo.</summary>
    public async Task<IActionResult> OnPostEraseAsync(Guid id)
    {
        if (await erasure.FileAsync(id) is not { } done)
            return NotFound();
        Tell(done);
        return Redirect("/gcode");
    }

    private static readonly Quantity Celsius = new("Temperature", "°C", 0, 500, "no part of a printer gets hotter");
    private static readonly Quantity Seconds = new("Minimum layer time", "s", 0, 300, "a layer hardly waits longer");
    private static readonly Quantity Share = new("Share", "%", 0, 300, "100 is the file's own");
    private static readonly Quantity Degrees = new("Change", "°C", -40, 40, "more is another profile");
    private static readonly Quantity Minutes = new("Hold", "min", 0, 1440, "a day is long enough");
    private static readonly Quantity Height = new("Height", "mm", 0, 5000, "no printer is higher");

    /// <summary>The form as a request; null where a field is refused.</summary>
    private StepRequest? Asked()
    {
        var what = Steppable.Find(Form["what"]);
        var q = new Quantity("Value", what?.Unit ?? "", -10_000, 10_000, "nothing is stepped beyond");
        var layers = Form["in"] == "layers";
        var request = new StepRequest
        {
            What = Form["what"],
            From = Form.Number("from", q),
            To = Form.Number("to", q),
            By = Form.Number("by", q),
            Dialect = Form["dialect"].Length > 0 ? Form["dialect"] : null,
            Again = Form.Ticked("again"),
            BaseToo = Form.Ticked("baseToo"),
        };
        var (start, section) = (Form.Number("base", Height), Form.Number("section", Height));
        foreach (var (name, v) in layers ? [("base", start), ("section", section)] : Array.Empty<(string, decimal?)>())
        {
            if (v is { } n && n != decimal.Truncate(n))
                Form.Refuse(name, $"{n} layers: a whole number would be right, or choose mm.");
        }

        if (!Form.IsGood)
            return null;
        return layers ? request with { BaseLayers = (int?)start, SectionLayers = (int?)section } : request with { BaseMm = start, SectionMm = section };
    }

    private async Task PreviewAsync(bool say = true)
    {
        if (F.Empty || Asked() is not { } request)
            return;
        var (plan, errors) = await room.PlanAsync(V, request);
        Plan = plan;
        if (plan is null && say)
            Refuse(errors);
    }

    /// <summary>What slows layers and what that costs, in a sentence.</summary>
    public static string SlowWords(SlowDowns s) =>
        s.Layers == 0
            ? $"The file states a least layer time of {Words.N(s.MinimumS, 1)} s; every layer lasts longer by itself."
            : $"{Words.Plural(s.Layers, "layer is", "layers are")} slowed"
                + (double.IsNaN(s.MinimumS) ? ""
                    : s.Stated ? $" to the {Words.N(s.MinimumS, 1)} s that the file states"
                    : $" to about {Words.N(s.MinimumS, 1)} s")
                + (s.CostS < 0.5 ? "; no layer shows how fast they would be without."
                    : $"; that costs {(s.AtLeast ? "at least " : "")}{Words.Clock(s.CostS)}.");

    private void Refuse(IReadOnlyList<FieldError> errors)
    {
        foreach (var e in errors)
        {
            var field = e.Field switch { "baseMm" or "baseLayers" => "base", "sectionMm" or "sectionLayers" => "section", var other => other };
            if (field.Length == 0)
                Form.Notice = e.Message;
            Form.Refuse(field, e.Message, e.Offers);
        }
    }

    /// <summary>What the form begins with: heights read off the file, temperatures of the pairing's filament.</summary>
    /// <param name="keep">Fields that were typed stay.</param>
    private async Task SuggestAsync(bool keep = false)
    {
        var typed = keep ? Form : null;
        Form = new();
        Cooling = await room.CoolingAsync(V);
        var begin = FormStart.Of(V, Repeats, Slow, Cooling);
        if (begin.Step is { } step)
        {
            Form.Put("what", step.What);
            Form.Put("from", step.From);
            Form.Put("to", step.To);
            Form.Put("by", step.By);
            Form.Put("base", step.BaseMm);
            Form.Put("section", step.SectionMm);
        }

        if (begin.FlowLimit is { } kept)
        {
            Form.Put("limit", kept);
            Effect = FlowEffect.Of(F, kept);
        }

        Form["in"] = "mm";
        Form["dialect"] = V.Machine?.Dialect ?? "";
        Form.Put("toC", begin.ToC);
        Form.Put("stepC", FormStart.StepC);
        Form.Put("holdMinutes", FormStart.HoldMinutes);
        Form.Put("minimumS", begin.MinimumS);
        Trimmed = await room.TrimOfAsync(V);
        decimal? Typed(string name) => decimal.TryParse((typed ?? Form)[name], CultureInfo.InvariantCulture, out var d) ? d : null;
        Curve = CoolDownCurve.Of(F, Cooling)
            ?? (F.Empty || begin.Ramp(Typed("toC"), Typed("stepC"), Typed("holdMinutes")) is not { } ramp ? null : CoolDownCurve.Of(ramp, Cooling));
        if (typed is null)
            return;
        foreach (var (name, value) in typed.Values)
            Form[name] = value;
        foreach (var (name, message) in typed.Errors)
            Form.Refuse(name, message, typed.Offers.GetValueOrDefault(name));
        Form.Notice = typed.Notice;
    }

    private async Task<IActionResult?> LoadAsync(Guid id)
    {
        if (await room.FindAsync(id) is not { RemovedAt: null } file)
            return NotFound();
        try
        {
            V = await room.InspectAsync(file);
        }
        catch (FileNotFoundException e)
        {
            TempData["refused"] = e.Message;
            return Redirect("/gcode");
        }

        Origin = file.FromId is { } from ? await room.FindAsync(from) : null;
        Made = await room.MadeFromAsync(id);
        Pairings = await pairings.NamesAsync();
        if (F.Empty)
            return null;
        Repeats = Core.Gcode.Inspection.Repeats.Of(F);
        Slow = SlowDowns.Of(F);
        if (file.FromId is not null)
            (Proof, Diff) = (await room.ProofAsync(file), await room.DiffAsync(file));
        return null;
    }
}
