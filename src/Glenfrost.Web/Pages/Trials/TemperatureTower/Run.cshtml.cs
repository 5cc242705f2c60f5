using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Glenfrost.Web.Simulated;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Trials.TemperatureTower;

public sealed class RunModel(Bench bench, TowerRuns runs, Glenfrost.Web.Services.Profiles profiles, Pieces pieces, Findings findings, PrintHall hall, Paces paces, SimulatedRuns simulated) : BenchPage(bench)
{
    /// <summary>What the simulated bench has to do with this run.</summary>
    public SimulatedView Simulated { get; private set; } = null!;

    private Dictionary<Guid, string> instruments = [];

    /// <summary>The instrument of a cell and its resolution; null where a person read it.</summary>
    public string? ReadWith(int section, string aspect) => V.Cells.TryGetValue((section, aspect), out var r) && r.InstrumentRevisionId is { } id && instruments.TryGetValue(id, out var name) ? $"{name}, resolution {Words.N(r.Resolution, 3)}" : null;

    /// <summary>Says so where stand-ins read it.</summary>
    public string WithInstruments { get; private set; } = "";

    /// <summary>The newest file of this run; null where there is none.</summary>
    public RunFile? GcodeFile => V.Run.Files.Where(f => f.Kind == "gcode").MaxBy(f => f.CreatedAt);

    private List<Spool> spools = [];

    public TowerRunView V { get; private set; } = null!;

    public Decision? Decision { get; private set; }

    public bool OpenRead { get; private set; }

    public string Readers { get; private set; } = "";

    public (int Number, IReadOnlyList<string> Differences)? Differs { get; private set; }

    public string WouldBe { get; private set; } = "";

    public static IEnumerable<KeyValuePair<string, string>> Outcomes { get; } = [KeyValuePair.Create("whole", "stands whole"), KeyValuePair.Create("ended early", "ended early or was knocked over")];

    public IEnumerable<KeyValuePair<string, string>> Spools => spools.Select(s => KeyValuePair.Create(s.Id.ToString(), s.Name)).Prepend(KeyValuePair.Create("", "not noted"));

    public IEnumerable<KeyValuePair<string, string>> SectionChoices => V.Plan.Sections.Reverse().Select(s => KeyValuePair.Create(s.Index.ToString(), $"{Words.N(s.TemperatureC, 1)} °C")).Prepend(KeyValuePair.Create("", "the whole piece"));

    public bool ChangedSince => Decision is { } d && d.ReadingIdsJson != Json.Write(V.ReadingIds);

    public string DecisionLine => Decision switch
    {
        null => V.Verdict.Sentence,
        { Choice: "left" } d => $"left without keeping, {Words.ShortDay(d.At)}",
        { } d => $"kept {Words.N(d.Value)} °C{(d.Choice == "own choice" ? " as own choice" : "")}, {Words.ShortDay(d.At)}{(V.Verdict.RecommendedTemperatureC is { } r && d.Choice == "kept" && r != d.Value ? $"; today's rules say {Words.N(r)}" : "")}",
    };

    public string ConditionsLine
    {
        get
        {
            var c = V.Conditions;
            var parts = new[] { c.SpoolName is null ? null : $"Spool {c.SpoolName}{(c.Dryness is null ? "" : ", " + c.Dryness)}", c.RoomC is null ? null : $"room {Words.N(c.RoomC, 1)} °C{(c.HumidityPercent is null ? "" : $", {Words.N(c.HumidityPercent, 0)} %RH")}", c.Slicer is null ? null : "slicer " + c.Slicer, c.Firmware is null ? null : "firmware " + c.Firmware };
            var text = string.Join(" · ", parts.Where(p => p is not null));
            return text.Length == 0 ? "conditions not noted yet" : text;
        }
    }

    /// <summary>The verdict so far in a line.</summary>
    public static string SoFar(TowerRunView v)
    {
        var left = v.Empty.GroupBy(e => e.Aspect).Select(g => $"{g.Count()} for {g.Key}").ToList();
        return $"{v.Verdict.Sentence}{(left.Count > 0 ? $" Still to score: {string.Join(", ", left)}." : " All is scored.")}";
    }

    public async Task<IActionResult> OnGetAsync(Guid id, string? open)
    {
        if (!await LoadAsync(id))
            return NotFound();
        OpenRead = open == "read";
        Prefill();
        return Page();
    }

    public async Task<IActionResult> OnPostStartAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        V.Run.PrintStartedAt ??= Bench.Now;
        if (V.Run.ForeseenMinutes is { } foreseen && Simulated.Pace.Prints > 0)
            V.Run.ReestimatedMinutes ??= (int)Math.Ceiling(Simulated.Pace.Of(foreseen));
        Bench.Touch(V.Run);
        await Bench.LogAsync("run", $"Temperature tower {V.Run.Number} printing: {Facts.NameOf(V.Pairing)}", $"/runs/{id}");
        await Bench.SaveAsync();
        return Redirect($"/runs/{id}#print");
    }

    /// <summary>Why the kept file must not be printed any more; null where it may be.</summary>
    public string? FileRefused => TowerPiece.Refused(V.Plan, Facts.LimitsOf(V.Pairing.Toolhead!));

    /// <summary>Makes the file of a run that was planned before files were written, with the file's own times and masses.</summary>
    public async Task<IActionResult> OnPostMakeFileAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (V.Run.Stage != RunStages.Planned || GcodeFile is not null)
            return Redirect($"/runs/{id}#print");
        var (plan, job, errors) = await pieces.TowerAsync(V.Pairing, V.Plan);
        if (job is null)
        {
            Sheet.Notice = $"The file can't be made: {string.Join(" ", errors.Select(e => e.Message))} Change the plan, then it is made with it.";
            Prefill();
            return Refused();
        }

        Db.RunFiles.Add(Pieces.Row(V.Run, pieces.Store(job), TowerRuns.FileName(V.Pairing, plan, V.Run.Number), Bench.Now, (await Bench.PersonAsync()).Id));
        V.Run.PlanJson = Json.Write(plan);
        V.Run.ForeseenMinutes = plan.Estimate.Minutes;
        V.Run.MassUg = plan.Estimate.MassG is { } g ? (long)(g * 1e6) : null;
        Bench.Touch(V.Run);
        await Bench.LogAsync("run", $"G-code of temperature tower {V.Run.Number} made: {Facts.NameOf(V.Pairing)}", $"/runs/{id}");
        await Bench.SaveAsync();
        Tell("The file is ready.");
        return Redirect($"/runs/{id}#print");
    }

    public async Task<IActionResult> OnPostPrintedAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        var run = V.Run;
        ReadForm();
        if (run.Stage != RunStages.Planned)
        {
            Tell("It was said already that this tower is printed; here are its readings.");
            return Redirect($"/runs/{id}#read");
        }

        var outcome = Sheet.Choice("outcome", "How it ended", ["whole", "ended early"]);
        int? layer;
        if (V.Plan.Request.Separate)
        {
            var whole = (int?)Sheet.Number("endedAtLayer", BenchFields.WholePieces, outcome == "ended early");
            if (whole >= V.Plan.Sections.Count && outcome == "ended early")
                Sheet.Refuse("endedAtLayer", $"The plan has {V.Plan.Sections.Count} pieces; where it ended early, fewer stand whole.");
            layer = whole is { } n && Sheet.IsGood && outcome == "ended early" ? Math.Max(1, n * (V.Plan.TotalLayers / V.Plan.Sections.Count)) : null;
            if (outcome == "whole")
                Sheet["endedAtLayer"] = "";
        }
        else
        {
            layer = (int?)Sheet.Number("endedAtLayer", BenchFields.Layer, outcome == "ended early");
        }

        if (layer >= V.Plan.TotalLayers && outcome == "ended early")
            Sheet.Refuse("endedAtLayer", $"The plan has {V.Plan.TotalLayers} layers; an early end lies below that.");
        if (layer is not null && outcome == "whole")
            Sheet.Refuse("endedAtLayer", "A whole tower ended nowhere early. Empty this, or choose that it ended early.");
        var minutes = (int?)Sheet.Number("minutes", BenchFields.PrintMinutes);
        var mass = Sheet.Number("massG", BenchFields.PieceMassG);
        if (!Sheet.IsGood)
            return RefusedHere();
        if (IsStale(run, new Dictionary<string, string>()))
            return RefusedHere(409);
        (run.Outcome, run.EndedAtLayer, run.ActualMinutes, run.DisplayFollowed) = (outcome, layer, minutes, Sheet.Ticked("followed"));
        if (mass is not null)
            run.MassUg = (long)(mass.Value * 1_000_000);
        run.Stage = RunStages.Printed;
        run.PrintedAt = Bench.Now;
        run.ConditionsJson ??= Json.Write(await runs.PrefillConditionsAsync(V.Pairing));
        Bench.Touch(run);
        await Bench.LogAsync("run", $"Temperature tower {run.Number} printed: {Facts.NameOf(V.Pairing)}{(layer is null ? "" : $", ended at layer {layer}")}", $"/runs/{id}");
        if (!await TrySaveAsync())
            return RefusedHere(409);
        return Redirect($"/runs/{id}#read");
    }

    public async Task<IActionResult> OnPostConditionsAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var spoolId = Sheet.Id("spool", "a spool");
        var spool = spools.FirstOrDefault(s => s.Id == spoolId);
        if (spoolId is not null && spool is null)
            Sheet.Refuse("spool", "Choose a spool of this filament.");
        var c = V.Conditions with
        {
            SpoolId = spoolId,
            SpoolName = spool?.Name,
            Dryness = Sheet.Text("dryness", "Dryness", 120),
            RoomC = Sheet.Double("roomC", BenchFields.RoomC),
            HumidityPercent = Sheet.Double("humidityPercent", BenchFields.HumidityPercent),
            ChamberC = Sheet.Double("chamberC", BenchFields.ChamberC),
            Slicer = Sheet.Text("slicer", "Slicer", 80),
            Firmware = Sheet.Text("firmware", "Firmware", 80),
            Plate = Sheet.Text("plate", "Place", 120),
        };
        if (!Sheet.IsGood)
            return RefusedHere(openRead: true);
        if (IsStale(V.Run, ConditionTexts(V.Conditions)))
            return RefusedHere(409, true);
        V.Run.ConditionsJson = Json.Write(c);
        Bench.Touch(V.Run);
        await Bench.LogAsync("run", $"Conditions of temperature tower {V.Run.Number} noted: {Facts.NameOf(V.Pairing)}", $"/runs/{id}");
        if (!await TrySaveAsync())
            return RefusedHere(409, true);
        Tell("Conditions are saved.");
        return Redirect($"/runs/{id}?open=read#read");
    }

    /// <summary>One reading from the page's script; the form's ticket comes in a header.</summary>
    public async Task<IActionResult> OnPostReadingAsync(Guid id)
    {
        ReadForm();
        if (!int.TryParse(Sheet["section"], out var section))
            return new JsonResult(new ReadingOutcome("refused", null, "", "The entry names no section."), Json.Options) { StatusCode = 422 };
        Guid? supersedes = Guid.TryParse(Sheet["supersedes"], out var g) ? g : null;
        var outcome = await runs.StoreAsync(id, new(Sheet["key"], section, Sheet["aspect"], Sheet["text"], supersedes, Sheet["why"]));
        var status = outcome.Status switch { "saved" or "same" => 200, "refused" => 422, _ => 409 };
        string? line = null;
        IEnumerable<string>? states = null;
        var done = false;
        if (status == 200 && await runs.LoadAsync(id) is { } v)
        {
            line = SoFar(v);
            states = v.States.Select(s => s.ToString().ToLowerInvariant());
            done = v.Empty.Count == 0;
        }

        return new JsonResult(new { outcome.Status, outcome.Id, outcome.Text, outcome.Message, outcome.Questioned, Line = line, States = states, Done = done }, Json.Options) { StatusCode = status };
    }

    /// <summary>
    /// What stands in the cells now, for a page that another device may have overtaken. Readings are never deleted, so their number tells whether
    /// anything came since.
    /// </summary>
    public async Task<IActionResult> OnGetSinceAsync(Guid id, int seen, string? stage)
    {
        var now = await Db.Runs.AsNoTracking().Where(r => r.Id == id).Select(r => new { r.Stage, Count = r.Readings.Count }).FirstOrDefaultAsync();
        if (now is null)
            return NotFound();
        if (now.Count == seen && now.Stage == stage)
            return StatusCode(StatusCodes.Status204NoContent);
        var v = (await runs.LoadAsync(id))!;
        var people = await Db.People.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.Name);
        var read = await InstrumentNamesAsync([.. v.Cells.Values.Select(r => r.InstrumentRevisionId).OfType<Guid>().Distinct()]);
        return new JsonResult(new
        {
            Seen = v.Run.Readings.Count,
            v.Run.Stage,
            Cells = v.Cells.Select(c => new { c.Key.Section, c.Key.Aspect, Text = c.Value.Entered, c.Value.Id, Who = c.Value.InstrumentRevisionId is { } by && read.TryGetValue(by, out var instrument) ? instrument : people.GetValueOrDefault(c.Value.PersonId ?? Guid.Empty), At = Words.Time(c.Value.At) }),
            Line = SoFar(v),
            States = v.States.Select(s => s.ToString().ToLowerInvariant()),
            Done = v.Empty.Count == 0,
        }, Json.Options);
    }

    /// <summary>The whole table at once, without script: only cells that differ are stored, each checked on its own.</summary>
    public async Task<IActionResult> OnPostReadingsAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var saved = 0;
        foreach (var (name, text) in Sheet.Values.Where(f => f.Key.StartsWith("c.", StringComparison.Ordinal)).ToList())
        {
            var parts = name.Split('.');
            if (parts.Length != 3 || !int.TryParse(parts[1], out var section) || section < 0 || section >= V.Plan.Sections.Count)
                continue;
            var typed = text.Trim().ToLowerInvariant();
            if (typed == V.Text(section, parts[2]) || (parts[2] == "state" && typed == V.States[section].ToString().ToLowerInvariant()))
                continue;
            var aspect = parts[2];
            if (typed == "f" && Aspects.All.Contains(aspect))
                (aspect, typed) = ("state", "failed");
            Guid? was = Guid.TryParse(aspect == parts[2] ? Sheet[$"was.{section}.{aspect}"] : Sheet[$"was.{section}.state"], out var g) ? g : null;
            var outcome = await runs.StoreAsync(id, new(Guid.CreateVersion7().ToString(), section, aspect, typed, was, Sheet["why"]));
            if (outcome.Status is "saved" or "same")
            {
                saved++;
                Sheet.Values.Remove(name);
            }
            else
            {
                Sheet.Refuse(name, outcome.Message ?? "Not saved.");
            }
        }

        if (!Sheet.IsGood)
        {
            await LoadAsync(id);
            Sheet.Notice = $"{Words.Plural(saved, "reading")} saved, {Sheet.Errors.Count} not: {string.Join(" ", Sheet.Errors.Values.Distinct().Take(3))} What you typed is still in the cells.";
            return RefusedHere(openRead: true);
        }

        Tell(saved == 0 ? "Nothing had changed." : $"{Words.Plural(saved, "reading")} saved.");
        return Redirect($"/runs/{id}?open=read#read");
    }

    public async Task<IActionResult> OnPostFindingAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var tag = Sheet.Text("tag", "Finding", 60, true);
        var text = Sheet.Text("findingText", "Note", 300);
        int? section = int.TryParse(Sheet["section"], out var i) && i >= 0 && i < V.Plan.Sections.Count ? i : null;
        return await NoteAsync(id, tag, text, section);
    }

    public async Task<IActionResult> OnPostTriedAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var what = Sheet.Text("tried", "What was tried", 300, true);
        var outcome = Sheet.Choice("outcome2", "How it went", FindingWords.OutcomeWords);
        return await NoteAsync(id, FindingWords.Tried(outcome), what, null);
    }

    private async Task<IActionResult> NoteAsync(Guid id, string? tag, string? text, int? section)
    {
        if (!Sheet.IsGood)
            return RefusedHere(openRead: true);
        var where = $"temperature tower {V.Run.Number}{(section is { } x ? $", {Words.N(V.Plan.Sections[x].TemperatureC)} °C" : "")}";
        await findings.AddAsync(Sheet["findingKey"], tag!, text, id, V.Pairing.Id, section, null, where, $"/runs/{id}?open=read#findings");
        return Redirect($"/runs/{id}?open=read#findings");
    }

    public async Task<IActionResult> OnPostRemoveFindingAsync(Guid id)
    {
        ReadForm();
        if (Sheet.Id("finding", "a finding") is not { } findingId || await findings.RemoveAsync(findingId, f => f.RunId == id) is not { } f)
            return NotFound();
        Tell($"The finding \"{f.Tag}\" is removed.", "finding", f.Id);
        return Redirect($"/runs/{id}?open=read#findings");
    }

    public async Task<IActionResult> OnPostFinishAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (V.Run.Stage == RunStages.Printed)
        {
            V.Run.Stage = RunStages.Read;
            V.Run.ReadAt = Bench.Now;
            Bench.Touch(V.Run);
            await Bench.LogAsync("run", $"Temperature tower {V.Run.Number} read: {Facts.NameOf(V.Pairing)}. {V.Verdict.Sentence}", $"/runs/{id}");
            if (!await TrySaveAsync())
                return RefusedHere(409);
        }

        return Redirect($"/runs/{id}#judge");
    }

    public Task<IActionResult> OnPostKeepAsync(Guid id) => KeepAsync(id, false);

    public Task<IActionResult> OnPostOwnAsync(Guid id) => KeepAsync(id, true);

    public async Task<IActionResult> OnPostLeaveAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (V.Run.Stage != RunStages.Read)
            return Redirect($"/runs/{id}#judge");
        var d = await runs.LeaveAsync(V, null);
        Tell("The profile is left as it is.", "keep", d.Id);
        return Redirect($"/runs/{id}#judge");
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        V.Run.RemovedAt = Bench.Now;
        Bench.Touch(V.Run);
        await Bench.LogAsync("run", $"Temperature tower {V.Run.Number} removed: {Facts.NameOf(V.Pairing)}", null, $"run:{id}");
        await Bench.SaveAsync();
        Tell("The run is removed. What it put in the profile stays.", "run", id);
        return Redirect($"/pairings/{V.Pairing.Id}");
    }

    private async Task<IActionResult> KeepAsync(Guid id, bool own)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (V.Run.Stage != RunStages.Read)
        {
            Tell("This run is decided already; undo that first.");
            return Redirect($"/runs/{id}#judge");
        }

        double value;
        string? why = null;
        if (own)
        {
            var typed = Sheet.Double("ownC", BenchFields.NozzleC, true);
            why = Sheet.Text("ownWhy", "Why", 300, true);
            var limits = Facts.LimitsOf(V.Pairing.Toolhead!);
            if (typed > limits.MaxC)
                Sheet.Refuse("ownC", $"{Words.N(typed)} °C is above this machine's limit of {Words.N(limits.MaxC)} °C ({limits.MaxBecause}). Limits win over choices.");
            if (typed < limits.MinC)
                Sheet.Refuse("ownC", $"{Words.N(typed)} °C is below the cold-extrusion limit of {Words.N(limits.MinC)} °C.");
            if (!Sheet.IsGood)
                return RefusedHere();
            value = typed!.Value;
        }
        else
        {
            if (V.Verdict.RecommendedTemperatureC is not { } recommended || (V.Verdict.Verdict == "edge" && !V.Verdict.EdgeAtLimit))
            {
                Sheet.Notice = "The verdict proposes nothing to keep now. Choose a value with its reason, or print again.";
                return RefusedHere();
            }

            if (Sheet["shown"] != Words.N(recommended))
            {
                Sheet.Notice = $"The readings changed in another tab: the verdict says {Words.N(recommended)} °C now, not {Sheet["shown"]}. Look at it again before you keep it.";
                return RefusedHere(409);
            }

            value = recommended;
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        try
        {
            var decision = await runs.KeepAsync(V, value, own ? null : V.Verdict.UncertaintyC, own, why);
            Tell($"{Words.N(value)} °C is in the profile.", "keep", decision.Id);
        }
        catch (DbUpdateConcurrencyException)
        {
            Tell("Another tab decided on this run in the same moment; here is what stands.");
        }

        return Redirect($"/runs/{id}#judge");
    }

    private IActionResult RefusedHere(int status = 422, bool openRead = false)
    {
        OpenRead = openRead;
        var typed = new Dictionary<string, string>(Sheet.Values);
        Prefill();
        foreach (var (k, v) in typed)
            Sheet[k] = v;
        return Refused(status);
    }

    private void Prefill()
    {
        var run = V.Run;
        Sheet["version"] = run.Version.ToString();
        Sheet["outcome"] = "whole";
        Sheet["followed"] = "1";
        foreach (var (k, v) in ConditionTexts(V.Conditions))
            Sheet[k] = v;
    }

    private static Dictionary<string, string> ConditionTexts(RunConditions c) => new()
    {
        ["spool"] = c.SpoolId?.ToString() ?? "",
        ["dryness"] = c.Dryness ?? "",
        ["roomC"] = c.RoomC is null ? "" : Words.N(c.RoomC),
        ["humidityPercent"] = c.HumidityPercent is null ? "" : Words.N(c.HumidityPercent),
        ["chamberC"] = c.ChamberC is null ? "" : Words.N(c.ChamberC),
        ["slicer"] = c.Slicer ?? "",
        ["firmware"] = c.Firmware ?? "",
        ["plate"] = c.Plate ?? "",
    };

    private Task<Dictionary<Guid, string>> InstrumentNamesAsync(List<Guid> revisions) => Db.InstrumentRevisions.AsNoTracking().Where(r => revisions.Contains(r.Id))
        .Join(Db.Instruments, r => r.InstrumentId, i => i.Id, (r, i) => new { r.Id, i.Name }).ToDictionaryAsync(x => x.Id, x => x.Name.ToLowerInvariant());

    private async Task<bool> LoadAsync(Guid id)
    {
        var v = await runs.LoadAsync(id);
        if (v is null)
            return false;
        V = v;
        Decision = v.Run.Decisions.Where(d => d.UndoneAt is null).MaxBy(d => d.At);
        spools = await Db.Spools.AsNoTracking().Where(s => s.FilamentId == v.Pairing.FilamentId && s.RemovedAt == null && s.World == v.Run.World).OrderBy(s => s.Name).ToListAsync();
        var readers = v.Cells.Values.Select(r => r.PersonId).Distinct().ToList();
        Simulated = await SimulatedView.OfAsync(v, Bench, hall, paces, simulated);
        var revisions = v.Cells.Values.Select(r => r.InstrumentRevisionId).OfType<Guid>().Distinct().ToList();
        if (revisions.Count > 0)
        {
            instruments = await InstrumentNamesAsync(revisions);
            WithInstruments = instruments.Count > 0 ? $" with {string.Join(", ", instruments.Values.Distinct().Order())}" : "";
        }

        Readers = string.Join(" and ", await Db.People.Where(p => readers.Contains(p.Id)).Select(p => p.Name).ToListAsync());
        if (v.Run.Stage is RunStages.Read or RunStages.Decided or RunStages.Left)
        {
            Differs = await runs.DiffersAsync(v);
            if (v.Verdict.RecommendedTemperatureC is { } value)
            {
                var before = (await profiles.LatestAsync(v.Pairing.Id))?.Settings.FirstOrDefault(x => x.Key == "nozzleTemperatureC")?.ToCore();
                var (state, why) = Core.Profiles.ProfileRules.StateOfKept(before, value, v.Verdict.UncertaintyC, v.Run.Id, false);
                WouldBe = $"{state.ToString().ToLowerInvariant()}: {why}.";
            }
        }

        return true;
    }
}
