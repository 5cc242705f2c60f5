using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Glenfrost.Application.Simulated;
using Glenfrost.Web.Simulated;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>A run: one page, four stages down it. What differs between trials stands in their folders.</summary>
internal sealed class RunModel(
    Bench bench, TrialRuns runs, PlanRuns plans, PrintReports reports, ReadingStore store, Decisions decisions, MachineBook machines,
    Glenfrost.Application.Profiles profiles, Findings findings, PrintHall hall, Paces paces, SimulatedRuns simulated,
    PeopleBook everybody, Instruments readWith, SpoolBook spoolBook, SideBySide beside) : BenchPage(bench)
{
    /// <summary>What the simulated bench has to do with this run.</summary>
    public SimulatedView Simulated { get; private set; } = null!;

    private Dictionary<Guid, string> instruments = [];

    /// <summary>The instrument of a cell and its resolution; null where a person read it.</summary>
    public string? ReadWith(int section, string aspect) =>
        V.Cells.TryGetValue((section, aspect), out var r) && r.InstrumentRevisionId is { } id && instruments.TryGetValue(id, out var name)
            ? $"{name}, resolution {Words.N(r.Resolution, 3)}"
            : null;

    /// <summary>True for a number that stands apart from the others: marked, and counted all the same.</summary>
    public bool Marked(int section, string aspect) => V.Trial.Apart(V.Plan, V.Verdict, V.Readings).Contains((section, aspect));

    /// <summary>Says so where stand-ins read it.</summary>
    public string WithInstruments { get; private set; } = "";

    /// <summary>The newest file of this run; null where there is none.</summary>
    public RunFile? GcodeFile => Pieces.StandingFile(V.Run, V.Plan);

    private List<Spool> spools = [];

    public TrialRunView V { get; private set; } = null!;

    public Decision? Decision { get; private set; }

    public bool OpenRead { get; private set; }

    public string Readers { get; private set; } = "";

    /// <summary>What differs from the run before, and what may be concluded; null for the first one.</summary>
    public (Run Before, IReadOnlyList<FactorDifference> Differs, Attribution Says)? Differs { get; private set; }

    /// <summary>Conditions that are asked for this run.</summary>
    public IReadOnlyList<string> Asked { get; private set; } = [];

    /// <summary>What the run before on this printer had.</summary>
    public IReadOnlyList<ConditionOffer> Offers { get; private set; } = [];

    /// <summary>The conditions as a form.</summary>
    public ConditionsForm Conditions => ConditionsForm.Of(Sheet, V, Asked, Offers, spools);

    /// <summary>Settings that may have been turned while it printed.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Turnable { get; } =
    [
        KeyValuePair.Create("", "nothing"), .. new[]
        {
            "extrusionMultiplier", "nozzleTemperatureC", "bedTemperatureC", "fanPercent", "nozzleOffsetMm", "outerWallSpeedMmPerS", "retractionLengthMm",
            "pressureAdvance",
        }
            .Select(k => SettingRegistry.Get(k))
            .Select(d => KeyValuePair.Create(d.Key, d.Quantity.Unit.Length > 0 ? $"{d.Label}, {d.Quantity.Unit}" : d.Label)),
    ];

    public string WouldBe { get; private set; } = "";

    public IEnumerable<KeyValuePair<string, string>> Outcomes =>
        [KeyValuePair.Create("whole", "stands whole"), KeyValuePair.Create("ended early", "ended early or was knocked over")];

    /// <summary>Values that the toolhead's feed had, newest first.</summary>
    public IReadOnlyList<(DateTime At, string Text, Guid? Run)> FeedHistory { get; private set; } = [];

    /// <summary>What keeping would make doubtful, said before.</summary>
    public IReadOnlyList<(string Where, string What)> WouldDoubt { get; private set; } = [];

    /// <summary>What a new feed would change in the profiles of its toolhead.</summary>
    public IReadOnlyList<CarryRow> Carries { get; private set; } = [];

    public IEnumerable<KeyValuePair<string, string>> SectionChoices =>
        V.Grid.Rows.Select(r => KeyValuePair.Create(r.Section.ToString(), V.Parts[r.Section].Label)).Prepend(KeyValuePair.Create("", "the whole piece"));

    public bool ChangedSince => Decision is { } d && d.ReadingIdsJson != Json.Write(V.ReadingIds);

    /// <summary>The verdict as it was shown when it was decided, where it still rests on the readings that stand and today's rules say otherwise.</summary>
    public Glenfrost.Application.Trials.DecidedVerdict? AsDecided =>
        Decision is { } d && !ChangedSince
        && Glenfrost.Application.Trials.DecidedVerdict.Of(d) is { } then && then.Sentence != V.Verdict.Sentence ? then : null;

    public string DecisionLine =>
        Decision switch
        {
            null => V.Verdict.Sentence,
            { Choice: "left" } d => $"left without keeping, {Words.ShortDay(d.At)}",
            { Choice: DecisionChoices.Passed or DecisionChoices.Failed } d =>
                $"{(d.Choice == DecisionChoices.Passed ? "passed" : "shown worse")}, {Words.ShortDay(d.At)}",
            { } d =>
                $"kept {Shown(d)}{(d.Choice == "own choice" ? " as own choice" : "")}, {Words.ShortDay(d.At)}" +
                    (Main is { } m && d.Choice == "kept" && d.SettingKey == m.Key && m.Value != d.Value ? $"; today's rules say {Words.N(m.Value, 3)}" : ""),
        };

    /// <summary>What the verdict says of an area without a setting; null where it says nothing of one.</summary>
    public AreaFinding? Finding => V.Trial.Finding(V.Verdict);

    /// <summary>What keeping that makes of the evidence, said before.</summary>
    public string FindingWouldBe => Finding switch
    {
        null => "",
        { Passed: true } f => $"{Core.Ageing.AgeingRules.Area(f.Area).Label}: passed{(f.OfSpool && V.Factors[FactorRegistry.Spool]?.Text is { } name ?
            $". What was kept holds for spool {name}, and its runs are taken together with earlier ones." : ".")}",
        { } f => $"Doubtful with it: {string.Join(" and ", f.Doubts.Select(a => Core.Ageing.AgeingRules.Area(a).Label))}.",
    };

    /// <summary>The setting that the verdict proposes first; null where it proposes none.</summary>
    public SettingValue? Main => V.Verdict.Settings.Count > 0 ? V.Verdict.Settings[0] : V.Trial.MachineValue(V.Plan, V.Verdict);

    /// <summary>The setting that an own choice is made for: the proposed one, else the trial's main one.</summary>
    public string OwnKey => Main is { } m && V.Trial.Settles.Contains(m.Key) ? m.Key : V.Trial.Settles[0];

    /// <summary>What is proposed to be kept with the proposed nozzle temperature.</summary>
    public IReadOnlyList<Companion> Beside { get; private set; } = [];

    /// <summary>What is said where the first layer would stay colder than the proposed nozzle temperature; null where it would not.</summary>
    public string? ColderFirstLayer { get; private set; }

    /// <summary>What other trials say of the same setting, with this one; null where none does.</summary>
    public WaysOf? Ways { get; private set; }

    /// <summary>A decision's value in words.</summary>
    public static string Shown(Decision d) =>
        d.SettingKey is null or "nozzleTemperatureC" ? $"{Words.N(d.Value)} °C" : MachineBook.InWords(d.SettingKey, d.Value ?? 0);

    /// <summary>A proposed value in words, with the others that go with it.</summary>
    public static string Shown(SettingValue x) => x.Key == "nozzleTemperatureC" ? $"{Words.N(x.Value)} °C" : MachineBook.InWords(x.Key, x.Value, x.Uncertainty);

    /// <summary>The uncertainty of a proposed value with the digits of that value, beginning with ±; empty for none.</summary>
    public static string Half(SettingValue x) => SettingRegistry.Find(x.Key) is { } d ? d.HalfText(x.Uncertainty) is { Length: > 0 } half ? $" ± {half}" : ""
        : x.Uncertainty > 0 ? $" ± {Words.N(x.Uncertainty, 3)}" : "";

    /// <summary>The proposed values as the form carries them, so that a keep of a changed verdict is refused.</summary>
    public string Proposed =>
        V.Verdict.Settings.Count > 0 ? string.Join(";", V.Verdict.Settings.Select(x => Words.N(x.Value, 4)))
        : Main is { } m ? Words.N(m.Value, 4)
        : "";

    /// <summary>Where the files of this trial's own views are.</summary>
    public string Folder => $"/Pages/Trials/{V.Trial.PageFolder}/";

    /// <summary>Spool, room and what else was noted, in a line; what is unknown and asked for is said.</summary>
    public string ConditionsLine
    {
        get
        {
            var known = Asked.Where(k => V.Factors[k] is { Applies: true } x && (x.Number is not null || x.Text is { Length: > 0 }))
                .Select(k => (Key: k, Text: $"{FactorRegistry.Find(k)!.Label} {FactorWords.Value(FactorRegistry.Find(k)!, V.Factors[k])}")).ToList();
            var shown = known.Where(x => x.Key is not (FactorRegistry.Surface or FactorRegistry.Enclosure or FactorRegistry.Place)).Select(x => x.Text)
                .ToList();
            var missing = Asked
                .Where(k => V.Factors[k] is null && k is not (FactorRegistry.RoomEndC or FactorRegistry.ChamberEndC or FactorRegistry.HumidityPercent))
                .Select(k => FactorRegistry.Find(k)!.Label).ToList();
            return $"{(shown.Count == 0 ? "conditions not noted yet" : string.Join(" · ", shown))}" +
                $"{(missing.Count > 0 && shown.Count > 0 ? $" · not noted: {string.Join(", ", missing)}" : "")}";
        }
    }

    /// <summary>The verdict so far in a line.</summary>
    public static string SoFar(TrialRunView v)
    {
        var left = v.Empty.GroupBy(e => e.Aspect)
            .Select(g => $"{g.Count()} for {(v.Grid.Column(g.Key) is { Kind: CellKind.Number } c ? Words.Lower(c.Lead ?? c.Quantity!.Name) : g.Key)}").ToList();
        // Where numbers are read beside scores, all of it is read.
        var scored = v.Grid.Columns.Where(c => c.Kind != CellKind.Word && c.Wanted).All(c => c.Kind == CellKind.Score);
        return $"{v.Verdict.Sentence} " +
            (left.Count > 0 ? $"Still to {(scored ? "score" : "read")}: {string.Join(", ", left)}." : $"All is {(scored ? "scored" : "read")}.");
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
        try
        {
            await reports.StartAsync(
                V, V.Run.ForeseenMinutes is { } foreseen && Simulated.Pace.Prints > 0 ? (int)Math.Ceiling(Simulated.Pace.Of(foreseen)) : null);
        }
        catch (ChangedMeanwhileException)
        {
            Tell("Another tab changed this run in the same moment; here is what stands.");
        }

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
        try
        {
            if (await plans.MakeFileAsync(V) is { Count: > 0 } errors)
            {
                Sheet.Notice = $"The file can't be made: {string.Join(" ", errors.Select(e => e.Message))} Change the plan, then it is made with it.";
                Prefill();
                return Refused();
            }

            Tell("The file is ready.");
        }
        catch (ChangedMeanwhileException)
        {
            Tell("Another tab changed this run in the same moment; here is what stands.");
        }

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
        var turned = ReadTurned();
        var minutes = (int?)Sheet.Number("minutes", BenchFields.PrintMinutes);
        var mass = Sheet.Number("massG", BenchFields.PieceMassG);
        if (!Sheet.IsGood)
            return RefusedHere();
        if (IsStale(run, new Dictionary<string, string>()))
            return RefusedHere(409);
        // Only what was pressed: the run before's conditions are said to hold here by the button that says so.
        var typed = Sheet["as"] == "last" ? Offers.ToDictionary(o => o.Factor.Key, o => o.Value with { Source = FactorSource.Typed, Proven = false }) : [];
        try
        {
            await reports.ReportAsync(V, new(outcome, layer, minutes, (double?)mass, Sheet.Ticked("followed") ? true : null), typed, turned);
        }
        catch (ChangedMeanwhileException)
        {
            Sheet.Notice = SameMoment;
            return RefusedHere(409);
        }

        return Redirect($"/runs/{id}#read");
    }

    /// <summary>What was turned at the printer while it printed; null for nothing, or where a field is refused.</summary>
    private LiveTurn? ReadTurned()
    {
        if (Sheet["turned"].Length == 0)
        {
            if (Sheet["turnedTo"].Trim().Length > 0)
                Sheet.Refuse("turned", "Choose what was turned to that value.");
            return null;
        }

        var key = Sheet.Choice("turned", "what was turned", [.. Turnable.Select(t => t.Key)]);
        if (SettingRegistry.Find(key) is not { } d)
            return null;
        var value = Sheet.Double("turnedTo", d.Quantity, true);
        var layer = (int?)Sheet.Number("turnedLayer", BenchFields.Layer);
        if (layer > V.Plan.TotalLayers && V.Plan.TotalLayers > 0)
            Sheet.Refuse("turnedLayer", $"The plan has {V.Plan.TotalLayers} layers.");
        return value is { } v ? new(key, FactorValue.Of(v, FactorSource.Live), layer) : null;
    }

    private const string SameMoment =
        "Somebody saved this in another tab in the same moment. What you typed is still here: open the page again to see theirs, or save again.";

    public async Task<IActionResult> OnPostConditionsAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        var typed = ConditionsForm.Read(Sheet, V, Asked, spools);
        foreach (var offer in Offers.Where(o => Sheet["take"] == o.Factor.Key || (Sheet["take"] == "all" && Sheet[o.Factor.Key].Trim().Length == 0)))
        {
            Sheet.Errors.Remove(offer.Factor.Key);
            typed[offer.Factor.Key] = offer.Value with { Source = FactorSource.Typed, Proven = false };
        }

        if (!Sheet.IsGood)
            return RefusedHere(openRead: true);
        var standing = new Forms.Sheet();
        ConditionsForm.Fill(standing, V, Asked);
        if (IsStale(V.Run, standing.Values))
            return RefusedHere(409, true);
        try
        {
            Tell(await reports.ConditionsAsync(V, typed) == 0 ? "Nothing had changed." : "Conditions are saved.");
        }
        catch (ChangedMeanwhileException)
        {
            Sheet.Notice = SameMoment;
            return RefusedHere(409, true);
        }

        return Redirect($"/runs/{id}?open=read#conditions");
    }

    /// <summary>Probably the same, from memory: what keeps this run and an earlier one apart only because nobody knows it.</summary>
    public async Task<IActionResult> OnPostRememberAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (Sheet.Id("other", "a run") is not { } other || await reports.RememberAsync(V, other) == 0)
            return NotFound();
        Tell("Noted as from memory; the verdict says so.");
        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>One reading from the page's script; the form's ticket comes in a header.</summary>
    public async Task<IActionResult> OnPostReadingAsync(Guid id)
    {
        ReadForm();
        if (!int.TryParse(Sheet["section"], out var section))
            return new JsonResult(new ReadingOutcome("refused", null, "", "The entry names no section."), Json.Options) { StatusCode = 422 };
        Guid? supersedes = Guid.TryParse(Sheet["supersedes"], out var g) ? g : null;
        var outcome = await store.StoreAsync(id, new(Sheet["key"], section, Sheet["aspect"], Sheet["text"], supersedes, Sheet["why"]));
        return new JsonResult(outcome, Json.Options) { StatusCode = outcome.Status switch { "saved" or "same" => 200, "refused" => 422, _ => 409 } };
    }

    /// <summary>The verdict so far, states and notes of rows: asked for apart, once nothing waits to be stored.</summary>
    public async Task<IActionResult> OnGetSoFarAsync(Guid id) =>
        await runs.LoadAsync(id) is not { } v
            ? NotFound()
            : new JsonResult(
                new
                {
                    Line = SoFar(v), States = v.States.Select(s => s.ToString().ToLowerInvariant()), Notes = v.Trial.RowNotes(v.Plan, v.Readings),
                    Done = v.Empty.Count == 0,
                },
                Json.Options);

    /// <summary>
    /// What stands in the cells now, for a page that another device may have overtaken. Readings are never deleted, so their number tells whether
    /// anything came since.
    /// </summary>
    public async Task<IActionResult> OnGetSinceAsync(Guid id, int seen, string? stage)
    {
        if (await runs.SinceAsync(id) is not var (now, count))
            return NotFound();
        if (count == seen && now == stage)
            return StatusCode(StatusCodes.Status204NoContent);
        var v = (await runs.LoadAsync(id))!;
        var people = await everybody.AllAsync();
        var read = await readWith.NamesAsync([.. v.Cells.Values.Select(r => r.InstrumentRevisionId).OfType<Guid>().Distinct()]);
        return new JsonResult(
            new
            {
                Seen = v.Run.Readings.Count, v.Run.Stage,
                Cells = v.Cells.Select(c => new
                {
                    c.Key.Section, c.Key.Aspect, Text = c.Value.Entered, c.Value.Id,
                    Who = c.Value.InstrumentRevisionId is { } by && read.TryGetValue(by, out var instrument)
                        ? instrument
                        : people.GetValueOrDefault(c.Value.PersonId ?? Guid.Empty),
                    At = Words.Time(c.Value.At),
                }),
                Line = SoFar(v), States = v.States.Select(s => s.ToString().ToLowerInvariant()), Notes = v.Trial.RowNotes(v.Plan, v.Readings),
                Done = v.Empty.Count == 0,
            },
            Json.Options);
    }

    /// <summary>What was tried on this pairing, where something was tried on this run.</summary>
    public IReadOnlyList<Finding> Tries { get; private set; } = [];

    /// <summary>A column that was scored the wrong way round: 0 becomes 4. Every cell keeps what stood before.</summary>
    public async Task<IActionResult> OnPostTurnAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (ScoreAnchors.Inverted(V.Grid, V.Readings).FirstOrDefault(c => c.Aspect == Sheet["aspect"]) is not { } column)
            return Redirect($"/runs/{id}?open=read");
        var turned = 0;
        foreach (var row in V.Grid.Rows)
        {
            if (V.Readings.Value(row.Section, column.Aspect) is not { } score)
                continue;
            var entry = new CellEntry(
                Guid.CreateVersion7().ToString(), row.Section, column.Aspect, Words.N(4 - score), V.ReadingId(row.Section, column.Aspect),
                "the column was read the other way round");
            turned += (await store.StoreAsync(id, entry)).Status is "saved" or "same" ? 1 : 0;
        }

        Tell($"{column.Label} is turned round in {Words.Plural(turned, "cell")}; what stood there is kept in the history of each.");
        return Redirect($"/runs/{id}?open=read");
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
            if (typed == V.Text(section, named)
                || (named == CellAspects.State && typed == V.States[section].ToString().ToLowerInvariant()))
                continue;
            var aspect = named;
            if (typed == "f" && V.Grid.Column(aspect)?.Kind == CellKind.Score && V.Grid.Column(CellAspects.State) is not null)
                (aspect, typed) = ("state", "failed");
            Guid? was = Guid.TryParse(aspect == named ? Sheet[$"was.{section}.{aspect}"] : Sheet[$"was.{section}.state"], out var g) ? g : null;
            var outcome = await store.StoreAsync(id, new(Guid.CreateVersion7().ToString(), section, aspect, typed, was, Sheet["why"]));
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
            Sheet.Notice =
                $"{Words.Plural(saved, "reading")} saved, {Sheet.Errors.Count} not: {string.Join(" ", Sheet.Errors.Values.Distinct().Take(3))} What you " +
                    $"typed is still in the cells.";
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
            // A page with script says how many readings it has seen stored: fewer here would be a verdict without them.
            ReadForm();
            if (int.TryParse(Sheet["unsent"], out var unsent) && unsent > 0)
            {
                Sheet.Notice =
                    $"{Words.Plural(unsent, "reading")} {(unsent == 1 ? "is" : "are")} not stored yet; nothing was judged. Leave the page open until " +
                        $"{(unsent == 1 ? "it is" : "they are")}, then finish.";
                return RefusedHere(409, true);
            }

            try
            {
                await decisions.FinishAsync(V);
            }
            catch (ChangedMeanwhileException)
            {
                Tell("Another tab changed this run in the same moment; here is what stands.");
            }
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
        try
        {
            var d = await decisions.LeaveAsync(V, null);
            Tell("The profile is left as it is.", "keep", d.Id);
        }
        catch (ChangedMeanwhileException)
        {
            Tell("Another tab decided on this run in the same moment; here is what stands.");
        }

        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>Values of other temperatures that are not kept from this run yet.</summary>
    public IEnumerable<FoundElsewhere> Elsewhere => V.Pairing is null || KeptElsewhere is not null ? [] : V.Trial.Elsewhere(V.Verdict);

    /// <summary>The decision by which a value of another temperature is kept from this run; null where none is.</summary>
    public Decision? KeptElsewhere => V.Run.Decisions.Where(d => d.UndoneAt is null && d.Choice == DecisionChoices.Elsewhere).MaxBy(d => d.At);

    /// <summary>Keeps a value for the other temperature at which the run shows it.</summary>
    public async Task<IActionResult> OnPostKeepElsewhereAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (V.Run.Stage is not (RunStages.Read or RunStages.Decided) || V.Pairing is null)
            return Redirect($"/runs/{id}#judge");
        if (Elsewhere.FirstOrDefault(x => $"{Words.N(x.AtC)};{Words.N(x.Value.Value, 4)}" == Sheet["shown"]) is not { } found)
        {
            Sheet.Notice = "The readings changed, or it is kept already: look at the verdict again before you keep it.";
            return RefusedHere(409);
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        try
        {
            var decision = await decisions.KeepElsewhereAsync(V, found);
            Tell($"{Shown(found.Value)} at {Words.N(found.AtC)} °C is in the profile.", "keep", decision.Id);
        }
        catch (ChangedMeanwhileException)
        {
            Tell("Another tab decided on this run in the same moment; here is what stands.");
        }

        return Redirect($"/runs/{id}#judge");
    }

    /// <summary>Keeps what the run says of an area without a setting.</summary>
    public async Task<IActionResult> OnPostSayAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        ReadForm();
        if (V.Run.Stage != RunStages.Read)
        {
            Tell("This run is decided already; undo that first.");
            return Redirect($"/runs/{id}#judge");
        }

        if (Finding is not { } finding || Sheet["shown"] != V.Verdict.Verdict)
        {
            Sheet.Notice = "The readings changed in another tab: look at the verdict again before you keep it.";
            return RefusedHere(409);
        }

        if (Decisions.MissingFor(V, finding) is { } missing)
        {
            Sheet.Refuse("spool", missing);
            Sheet.Notice = missing;
            return RefusedHere(openRead: true);
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        try
        {
            var decision = await decisions.SayAsync(V, finding);
            Tell(finding.Passed ? "Kept: it passed." : FindingWouldBe, "keep", decision.Id);
        }
        catch (ChangedMeanwhileException)
        {
            Tell("Another tab decided on this run in the same moment; here is what stands.");
        }

        return Redirect($"/runs/{id}#judge");
    }

    public async Task<IActionResult> OnPostRemoveAsync(Guid id)
    {
        if (!await LoadAsync(id))
            return NotFound();
        if (!await TryAsync(() => runs.RemoveAsync(V)))
        {
            Tell("Another tab changed this run in the same moment; it is not removed. Look at it, then try again.");
            return Redirect($"/runs/{id}");
        }

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
        if (V.Trial.Settles.Count == 0)
            return NotFound();
        IReadOnlyList<SettingValue> values;
        string? why = null;
        if (own)
        {
            var key = OwnKey;
            var field = key == "nozzleTemperatureC" ? "ownC" : "ownValue";
            var definition = SettingRegistry.Get(key);
            var typed = Sheet.Double(field, key == "nozzleTemperatureC" ? BenchFields.NozzleC : definition.Quantity, true);
            why = Sheet.Text("ownWhy", "Why", 300, true);
            if (typed is { } chosen && ProfileLimits.Wrong(key, chosen, V.Pairing, null) is { } beyond)
                Sheet.Refuse(field, beyond);
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
                Sheet.Notice =
                    $"The readings changed in another tab: the verdict says {Shown(values[0])} now, not {Sheet["shown"].Split(';')[0]}. Look at it again " +
                        $"before you keep it.";
                return RefusedHere(409);
            }
        }

        if (IsStale(V.Run, new Dictionary<string, string>()))
            return RefusedHere(409);
        var profile = await profiles.LatestAsync(V.Pairing.Id);
        var beside = values[0].Key != BesideNozzle.Nozzle ? []
            : Decisions.BesideOf(V, profile, values[0].Value).Where(b => Sheet.Ticked($"beside.{b.Key}")).ToList();
        try
        {
            var decision = await decisions.KeepAsync(V, values, own, why, beside);
            var first = beside.FirstOrDefault(b => b.Key == BesideNozzle.FirstLayer)?.Value ?? profile?[BesideNozzle.FirstLayer]?.Value;
            var colder = values[0].Key == BesideNozzle.Nozzle ? Words.ColderFirstLayer(values[0].Value, first) : null;
            Tell($"{Shown(values[0])} is in the profile.{(colder is null ? "" : $" {colder}")}", "keep", decision.Id);
        }
        catch (ChangedMeanwhileException)
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
        Tell(
            $"{Shown(value)} stands on {V.Toolhead.FullName} now." +
                (doubtful > 0 ? $" {Words.Plural(doubtful, "profile")} doubtful: carry their values over below." : ""),
            "keep", decision.Id);
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
        ConditionsForm.Fill(Sheet, V, Asked);
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        var v = await runs.LoadAsync(id);
        if (v is null)
            return false;
        V = v;
        Decision = v.Run.Decisions.Where(d => d.UndoneAt is null && d.Choice != DecisionChoices.Elsewhere).MaxBy(d => d.At);
        spools = await spoolBook.OfRunAsync(v);
        Asked = PrintReports.Asked(v);
        if (v.Pairing is { } p && v.Run.Findings.Any(f => FindingWords.OutcomeOf(f.Tag) is not null))
            Tries = await findings.TriesAsync(p.Id);
        if (v.Run.Stage is RunStages.Planned or RunStages.Printed or RunStages.Read || Request.Query["open"] == "read" || HttpMethods.IsPost(Request.Method))
            Offers = await reports.OffersAsync(v);
        var readers = v.Cells.Values.Select(r => r.PersonId).Distinct().ToList();
        Simulated = await SimulatedView.OfAsync(v, Bench, hall, paces, simulated);
        var revisions = v.Cells.Values.Select(r => r.InstrumentRevisionId).OfType<Guid>().Distinct().ToList();
        if (revisions.Count > 0)
        {
            instruments = await readWith.NamesAsync(revisions);
            WithInstruments = instruments.Count > 0 ? $" with {string.Join(", ", instruments.Values.Distinct().Order())}" : "";
        }

        Readers = string.Join(" and ", await everybody.NamesOfAsync(readers));
        if (v.Run.Stage is RunStages.Read or RunStages.Decided or RunStages.Left)
        {
            Differs = await runs.DiffersAsync(v);
            if (v.Pairing is { } own && v.Trial.Settles.Intersect(SideBySide.Keys).Any())
                Ways = (await beside.OfAsync(own.Id, await profiles.LatestAsync(own.Id), v)).FirstOrDefault(w => w.Key == v.Trial.Settles[0]);
            if (v.Pairing is not null && Decision is null && v.Verdict.Settings.Count > 0)
            {
                var (kept, doubtful) = await decisions.WouldBeAsync(v, v.Verdict.Settings);
                if (Main is { Key: BesideNozzle.Nozzle } nozzle)
                {
                    var profile = await profiles.LatestAsync(v.Pairing.Id);
                    Beside = Decisions.BesideOf(v, profile, nozzle.Value);
                    ColderFirstLayer = Words.ColderFirstLayer(nozzle.Value, profile?[BesideNozzle.FirstLayer]?.Value);
                }

                WouldBe = $"{kept[0].State.ToString().ToLowerInvariant()}: {kept[0].Why}.";
                WouldDoubt =
                [
                    .. doubtful.GroupBy(x => x.Why ?? "").Select(g => (g.Key, Glenfrost.Application.Profiles.Labels(g.Select(x => x.Key!)))),
                    .. (await decisions.OthersAsync(v, await profiles.LatestAsync(v.Pairing.Id), v.Verdict.Settings)).Select(o =>
                        (o.Why, $"{Glenfrost.Application.Profiles.Labels(o.Keys)} of {Facts.NameOf(o.Pairing)}")),
                ];
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
