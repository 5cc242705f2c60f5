using Glenfrost.Core.Evidence;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Glenfrost.Web.Simulated;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>A run: one page, four stages down it. What differs between trials stands in their folders.</summary>
public sealed class RunModel(Bench bench, TrialRuns runs, MachineBook machines, Glenfrost.Application.Profiles profiles, Pieces pieces, Findings findings, PrintHall hall, Paces paces, SimulatedRuns simulated) : BenchPage(bench)
{
    /// <summary>What the simulated bench has to do with this run.</summary>
    public SimulatedView Simulated { get; private set; } = null!;

    private Dictionary<Guid, string> instruments = [];

    /// <summary>The instrument of a cell and its resolution; null where a person read it.</summary>
    public string? ReadWith(int section, string aspect) => V.Cells.TryGetValue((section, aspect), out var r) && r.InstrumentRevisionId is { } id && instruments.TryGetValue(id, out var name) ? $"{name}, resolution {Words.N(r.Resolution, 3)}" : null;

    /// <summary>True for a number that stands apart from the others: marked, and counted all the same.</summary>
    public bool Marked(int section, string aspect) => V.Trial.Apart(V.Plan, V.Verdict, V.Readings).Contains((section, aspect));

    /// <summary>Says so where stand-ins read it.</summary>
    public string WithInstruments { get; private set; } = "";

    /// <summary>The newest file of this run; null where there is none.</summary>
    public RunFile? GcodeFile => V.Run.Files.Where(f => f.Kind == "gcode").MaxBy(f => f.CreatedAt);

    private List<Spool> spools = [];

    public TrialRunView V { get; private set; } = null!;

    public Decision? Decision { get; private set; }

    public bool OpenRead { get; private set; }

    public string Readers { get; private set; } = "";

    public (int Number, IReadOnlyList<string> Differences)? Differs { get; private set; }

    public string WouldBe { get; private set; } = "";

    public IEnumerable<KeyValuePair<string, string>> Outcomes => [KeyValuePair.Create("whole", "stands whole"), KeyValuePair.Create("ended early", "ended early or was knocked over")];

    /// <summary>Values that the toolhead's feed had, newest first.</summary>
    public IReadOnlyList<(DateTime At, string Text, Guid? Run)> FeedHistory { get; private set; } = [];

    /// <summary>What keeping would make doubtful, said before.</summary>
    public IReadOnlyList<(string Where, string What)> WouldDoubt { get; private set; } = [];

    /// <summary>What a new feed would change in the profiles of its toolhead.</summary>
    public IReadOnlyList<CarryRow> Carries { get; private set; } = [];

    public IEnumerable<KeyValuePair<string, string>> Spools => spools.Select(s => KeyValuePair.Create(s.Id.ToString(), V.Pairing is null ? $"{s.Name}, {s.Filament!.Name}" : s.Name)).Prepend(KeyValuePair.Create("", "not noted"));

    public IEnumerable<KeyValuePair<string, string>> SectionChoices => V.Grid.Rows.Select(r => KeyValuePair.Create(r.Section.ToString(), V.Parts[r.Section].Label)).Prepend(KeyValuePair.Create("", "the whole piece"));

    public bool ChangedSince => Decision is { } d && d.ReadingIdsJson != Json.Write(V.ReadingIds);

    public string DecisionLine => Decision switch
    {
        null => V.Verdict.Sentence,
        { Choice: "left" } d => $"left without keeping, {Words.ShortDay(d.At)}",
        { } d => $"kept {Shown(d)}{(d.Choice == "own choice" ? " as own choice" : "")}, {Words.ShortDay(d.At)}{(Main is { } m && d.Choice == "kept" && d.SettingKey == m.Key && m.Value != d.Value ? $"; today's rules say {Words.N(m.Value, 3)}" : "")}",
    };

    /// <summary>The setting that the verdict proposes first; null where it proposes none.</summary>
    public SettingValue? Main => V.Verdict.Settings.Count > 0 ? V.Verdict.Settings[0] : V.Trial.MachineValue(V.Plan, V.Verdict);

    /// <summary>The setting that an own choice is made for: the proposed one, else the trial's main one.</summary>
    public string OwnKey => Main is { } m && V.Trial.Settles.Contains(m.Key) ? m.Key : V.Trial.Settles[0];

    /// <summary>A decision's value in words.</summary>
    public static string Shown(Decision d) => d.SettingKey is null or "nozzleTemperatureC" ? $"{Words.N(d.Value)} °C" : MachineBook.InWords(d.SettingKey, d.Value ?? 0);

    /// <summary>A proposed value in words, with the others that go with it.</summary>
    public static string Shown(SettingValue x) => x.Key == "nozzleTemperatureC" ? $"{Words.N(x.Value)} °C" : MachineBook.InWords(x.Key, x.Value);

    /// <summary>The proposed values as the form carries them, so that a keep of a changed verdict is refused.</summary>
    public string Proposed => V.Verdict.Settings.Count > 0 ? string.Join(";", V.Verdict.Settings.Select(x => Words.N(x.Value, 4))) : Main is { } m ? Words.N(m.Value, 4) : "";

    /// <summary>Where the files of this trial's own views are.</summary>
    public string Folder => $"/Pages/Trials/{V.Trial.PageFolder}/";

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
    public static string SoFar(TrialRunView v)
    {
        var left = v.Empty.GroupBy(e => e.Aspect).Select(g => $"{g.Count()} for {(v.Grid.Column(g.Key) is { Kind: CellKind.Number } c ? Words.Lower(c.Lead ?? c.Quantity!.Name) : g.Key)}").ToList();
        return $"{v.Verdict.Sentence}{(left.Count > 0 ? $" Still to {(v.Grid.Columns.Any(c => c.Kind == CellKind.Score) ? "score" : "read")}: {string.Join(", ", left)}." : $" All is {(v.Grid.Columns.Any(c => c.Kind == CellKind.Score) ? "scored" : "read")}.")}";
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
        await Bench.LogAsync("run", $"{V.Title} printing: {V.Name}", $"/runs/{id}");
        await Bench.SaveAsync();
        return Redirect($"/runs/{id}#print");
    }

    /// <summary>Why the kept file must not be printed any more; null where it may be.</summary>
    public string? FileRefused => V.Trial.Refused(V.Plan, Facts.LimitsOf(V.Toolhead));

    /// <summary>Makes the file of a run that was planned before files were written, with the file's own times and masses.</summary>
    public async Task<IActionResult> OnPostMakeFileAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (V.Run.Stage != RunStages.Planned || GcodeFile is not null)
            return Redirect($"/runs/{id}#print");
        var (plan, file, errors) = await pieces.MakeAsync(V.Trial, V.Plan, V.Pairing, V.Toolhead);
        if (file is null)
        {
            Sheet.Notice = $"The file can't be made: {string.Join(" ", errors.Select(e => e.Message))} Change the plan, then it is made with it.";
            Prefill();
            return Refused();
        }

        Db.RunFiles.Add(Pieces.Row(V.Run, pieces.Store(file), TrialRuns.FileName(V.Trial, V.Pairing, V.Toolhead, plan, V.Run.Number), Bench.Now, (await Bench.PersonAsync()).Id));
        V.Run.PlanJson = Json.WriteAsIs(plan);
        V.Run.ForeseenMinutes = plan.Estimate.Minutes;
        V.Run.MassUg = plan.Estimate.MassG is { } g ? (long)(g * 1e6) : null;
        Bench.Touch(V.Run);
        await Bench.LogAsync("run", $"G-code of {V.Called} made: {V.Name}", $"/runs/{id}");
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
            Tell($"It was said already that this {V.Trial.Noun} is printed; here are its readings.");
            return Redirect($"/runs/{id}#read");
        }

        var outcome = V.Plan.TotalLayers == 0 ? "whole" : Sheet.Choice("outcome", "How it ended", ["whole", "ended early"]);
        int? layer;
        if (V.Plan.TotalLayers == 0)
        {
            layer = null;
        }
        else if (V.Plan.LayersPerPiece is { } per)
        {
            var whole = (int?)Sheet.Number("endedAtLayer", BenchFields.WholePieces, outcome == "ended early");
            var all = V.Plan.TotalLayers / per;
            if (whole >= all && outcome == "ended early")
                Sheet.Refuse("endedAtLayer", $"The plan has {all} pieces; where it ended early, fewer stand whole.");
            layer = whole is { } n && Sheet.IsGood && outcome == "ended early" ? Math.Max(1, n * per) : null;
            if (outcome == "whole")
                Sheet["endedAtLayer"] = "";
        }
        else
        {
            layer = (int?)Sheet.Number("endedAtLayer", BenchFields.Layer, outcome == "ended early");
        }

        if (V.Plan.TotalLayers > 0 && layer >= V.Plan.TotalLayers && outcome == "ended early")
            Sheet.Refuse("endedAtLayer", $"The plan has {V.Plan.TotalLayers} layers; an early end lies below that.");
        if (layer is not null && outcome == "whole")
            Sheet.Refuse("endedAtLayer", $"A whole {V.Trial.Noun} ended nowhere early. Empty this, or choose that it ended early.");
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
        run.ConditionsJson ??= Json.Write(await runs.PrefillConditionsAsync(V.Pairing, V.Toolhead));
        Bench.Touch(run);
        await Bench.LogAsync("run", $"{V.Title} {(V.Plan.TotalLayers == 0 ? "under way" : "printed")}: {V.Name}{(layer is null ? "" : $", ended at layer {layer}")}", $"/runs/{id}");
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
        await Bench.LogAsync("run", $"Conditions of {V.Called} noted: {V.Name}", $"/runs/{id}");
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
        IReadOnlyDictionary<int, string>? notes = null;
        if (status == 200 && await runs.LoadAsync(id) is { } v)
        {
            line = SoFar(v);
            states = v.States.Select(s => s.ToString().ToLowerInvariant());
            done = v.Empty.Count == 0;
            notes = v.Trial.RowNotes(v.Plan, v.Readings);
        }

        return new JsonResult(new { outcome.Status, outcome.Id, outcome.Text, outcome.Message, outcome.Questioned, Line = line, States = states, Notes = notes, Done = done }, Json.Options) { StatusCode = status };
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
            Notes = v.Trial.RowNotes(v.Plan, v.Readings),
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
            if (parts.Length < 3 || !int.TryParse(parts[1], out var section) || section < 0 || section >= V.Parts.Count)
                continue;
            var named = string.Join('.', parts.Skip(2));
            var typed = text.Trim().ToLowerInvariant();
            if (typed == V.Text(section, named) || (named == CellAspects.State && typed == V.States[section].ToString().ToLowerInvariant()) || (typed == V.Grid.Column(named)?.Words.FirstOrDefault() && V.Text(section, named).Length == 0))
                continue;
            var aspect = named;
            if (typed == "f" && V.Grid.Column(aspect)?.Kind == CellKind.Score && V.Grid.Column(CellAspects.State) is not null)
                (aspect, typed) = ("state", "failed");
            Guid? was = Guid.TryParse(aspect == named ? Sheet[$"was.{section}.{aspect}"] : Sheet[$"was.{section}.state"], out var g) ? g : null;
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
        int? section = int.TryParse(Sheet["section"], out var i) && i >= 0 && i < V.Parts.Count ? i : null;
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
        var where = $"{V.Called}{(section is { } x ? $", {V.Parts[x].Label}" : "")}";
        await findings.AddAsync(Sheet["findingKey"], tag!, text, id, V.Pairing?.Id, section, null, where, $"/runs/{id}?open=read#findings");
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
            await Bench.LogAsync("run", $"{V.Title} read: {V.Name}. {V.Verdict.Sentence}", $"/runs/{id}");
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
        await Bench.LogAsync("run", $"{V.Title} removed: {V.Name}", null, $"run:{id}");
        await Bench.SaveAsync();
        Tell("The run is removed. What it put in the profile stays.", "run", id);
        return Redirect(V.Home);
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

        if (V.Pairing is null)
            return await KeepOnMachineAsync(id);
        IReadOnlyList<SettingValue> values;
        string? why = null;
        if (own)
        {
            var key = OwnKey;
            var field = key == "nozzleTemperatureC" ? "ownC" : "ownValue";
            var definition = SettingRegistry.Get(key);
            var typed = Sheet.Double(field, key == "nozzleTemperatureC" ? BenchFields.NozzleC : definition.Quantity, true);
            why = Sheet.Text("ownWhy", "Why", 300, true);
            var limits = Facts.LimitsOf(V.Toolhead);
            if (key == "nozzleTemperatureC" && typed > limits.MaxC)
                Sheet.Refuse(field, $"{Words.N(typed)} °C is above this machine's limit of {Words.N(limits.MaxC)} °C ({limits.MaxBecause}). Limits win over choices.");
            if (key == "nozzleTemperatureC" && typed < limits.MinC)
                Sheet.Refuse(field, $"{Words.N(typed)} °C is below the cold-extrusion limit of {Words.N(limits.MinC)} °C.");
            if (!Sheet.IsGood)
                return RefusedHere();
            values = [new(key, typed!.Value, 0)];
        }
        else
        {
            values = V.Verdict.Settings;
            if (values.Count == 0 || !V.Verdict.Advised)
            {
                Sheet.Notice = "The verdict proposes nothing to keep now. Choose a value with its reason, or print again.";
                return RefusedHere();
            }

            if (Sheet["shown"] != Proposed)
            {
                Sheet.Notice = $"The readings changed in another tab: the verdict says {Shown(values[0])} now, not {Sheet["shown"].Split(';')[0]}. Look at it again before you keep it.";
                return RefusedHere(409);
            }
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        try
        {
            var decision = await runs.KeepAsync(V, values, own, why);
            Tell($"{Shown(values[0])} is in the profile.", "keep", decision.Id);
        }
        catch (DbUpdateConcurrencyException)
        {
            Tell("Another tab decided on this run in the same moment; here is what stands.");
        }

        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>The printer's own value, where the verdict says that it holds.</summary>
    private async Task<IActionResult> KeepOnMachineAsync(Guid id)
    {
        if (V.Trial.MachineValue(V.Plan, V.Verdict) is not { } value)
        {
            Sheet.Notice = "The printer's value changes only when a run at it is within tolerance. Print the check run first.";
            return RefusedHere();
        }

        if (Sheet["shown"] != Proposed)
        {
            Sheet.Notice = $"The readings changed in another tab: the verdict says {Shown(value)} now. Look at it again before you keep it.";
            return RefusedHere(409);
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        var (decision, doubtful) = await machines.KeepFeedAsync(V, value);
        Tell($"{Shown(value)} stands on {V.Toolhead.FullName} now.{(doubtful > 0 ? $" {Words.Plural(doubtful, "profile")} doubtful: carry their values over below." : "")}", "keep", decision.Id);
        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>Values found before a new feed, carried over as provisional ones.</summary>
    public async Task<IActionResult> OnPostCarryAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (Decision is null || V.Pairing is not null)
            return Redirect($"/runs/{id}#judge");
        var chosen = Carries.Where(c => Sheet.Ticked($"carry.{c.PairingId}")).ToList();
        if (chosen.Count == 0)
        {
            Sheet.Notice = "Tick the profiles whose values are carried over.";
            return RefusedHere();
        }

        var cause = await machines.CarryAsync(V, chosen);
        Tell($"{Words.Plural(chosen.Count, "profile")} carried over, as provisional: one check run each confirms it.", "carry", cause);
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
        spools = await Db.Spools.AsNoTracking().Include(s => s.Filament).Where(s => (v.Pairing == null || s.FilamentId == v.Pairing.FilamentId) && s.RemovedAt == null && s.World == v.Run.World).OrderBy(s => s.Name).ToListAsync();
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
            if (v.Pairing is { } pairing && v.Verdict.Settings.Count > 0)
            {
                var now = (await profiles.LatestAsync(pairing.Id))?.Settings.Select(x => x.ToCore()).ToList() ?? [];
                var main = v.Verdict.Settings[0];
                var (state, why) = TrialRuns.StateOf(v, now.FirstOrDefault(x => x.Key == main.Key), main, false);
                WouldBe = $"{state.ToString().ToLowerInvariant()}: {why}.";
                if (Decision is null)
                    WouldDoubt = [.. TrialRuns.Kept(v, now, v.Verdict.Settings, false, Bench.Now).Where(x => x.State == SettingState.Doubtful && now.Any(y => y.Key == x.Key && y.State != SettingState.Doubtful)).GroupBy(x => x.StateWhy ?? "").Select(g => (g.Key, string.Join(", ", g.Select(x => SettingRegistry.Get(x.Key).Label.ToLowerInvariant()))))];
            }
            if (v.Pairing is not null && Decision is null && v.Verdict.Settings.Count > 0)
            {
                var stands = (await profiles.LatestAsync(v.Pairing.Id))?.Settings.Select(x => x.ToCore()).ToList() ?? [];
                WouldDoubt = [.. WouldDoubt, .. (await runs.OthersAsync(v, stands, v.Verdict.Settings)).Select(o => (o.Why, $"{string.Join(", ", o.Keys.Select(k => SettingRegistry.Get(k).Label.ToLowerInvariant()))} of {Facts.NameOf(o.Pairing)}"))];
            }
            else if (v.Pairing is null)
            {
                Carries = await machines.CarriesAsync(v, Decision);
                FeedHistory = await machines.HistoryAsync(v.Toolhead.Id);
                if (Decision is null && v.Trial.MachineValue(v.Plan, v.Verdict) is { } value)
                    WouldDoubt = await machines.WouldDoubtAsync(v, value);
            }
        }

        return true;
    }
}
