using System.Globalization;
using Glenfrost.Application.Trials;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Forms;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>
/// The plan of a run: fields of its trial, checked at each keystroke, with the drawing of what is to be printed. What differs between trials stands in their
/// folders.
/// </summary>
internal sealed partial class PlanModel(WorkContext work, PlanRuns runs, Pieces pieces, Glenfrost.Application.Simulated.Paces paces, SameAgain again,
    OwnFiles ownFiles, TierBook tiers)
    : WorkPage(work), IPlanForm
{
    private readonly Pieces files = pieces;

    public Trial Trial { get; private set; } = null!;

    /// <summary>The pairing; null where the trial is of a toolhead.</summary>
    public Pairing? Pairing { get; private set; }

    /// <summary>The pairing, for trials that have one.</summary>
    public Pairing P => Pairing!;

    public Toolhead Head { get; private set; } = null!;

    /// <summary>Machine, settings in force, what is kept and measured.</summary>
    public PlanContext Context { get; private set; } = new();

    /// <summary>Lines of a file that are shown.</summary>
    public const int MostLines = 40;

    /// <summary>The spool in use with what its dryness asks for; null where the trial doesn't ask, or no spool is registered.</summary>
    public (Spool Spool, Core.Filaments.DrynessAdvice Advice)? Dry { get; private set; }

    /// <summary>How this printer keeps to its files; null while nothing is known.</summary>
    public PrinterPace? Pace { get; private set; }

    /// <summary>Machine checks that this trial leans on and that are missing, bad or doubtful.</summary>
    public IReadOnlyList<CheckStanding> Wanting { get; private set; } = [];

    /// <summary>Way of doing the trial: one of its modes.</summary>
    public string Mode { get; private set; } = "";

    public Guid? RunId { get; private set; }

    /// <summary>The file of somebody's own that is printed; null for none.</summary>
    public OwnFileOfRun? Own { get; private set; }

    /// <summary>The run that is printed again here, with all but what is exchanged held; null for none.</summary>
    public TrialRunView? Like { get; private set; }

    /// <summary>What is held as it was there.</summary>
    public HeldSettings? Held { get; private set; }

    public ITrialPlan? Plan { get; private set; }

    public TrialFile? Made { get; private set; }

    public PieceJob? Job => Made?.Job;

    /// <summary>The layer that is shown; null while there is no job.</summary>
    public LayerView? Shown { get; private set; }

    /// <summary>First layer and the usual one, mm, where the elevation shows all layers: a touched height is a layer. Null where pieces stand beside each
    /// other.</summary>
    public string? Heights => Job is { Layers.Count: > 1 } job && Plan?.LayersPerPiece is null
        ? FormattableString.Invariant($"{job.Layers[0].TopMm:0.####} {job.Layers[1].TopMm - job.Layers[0].TopMm:0.####}") : null;

    public string Home => Pairing is null ? $"/printers/{Head.PrinterId}" : $"/pairings/{Pairing.Id}";

    public string Subject => Pairing is null ? Head.FullName : Facts.SubjectOf(Pairing);

    public HotendLimits Limits => Context.Machine!.Limits;

    public string Address => TrialRuns.PlanAddress(Trial, Pairing?.Id, Head.Id);

    public IEnumerable<string> Fields => Trial.Asked(Mode);

    /// <summary>The fields that are drawn, by the head that they stand under.</summary>
    public IEnumerable<(string Head, IEnumerable<PlanField> Fields)> Groups =>
        Fields.Where(f => Trial.IsShown(f, Context)).Select(f => Trial.Fields[f]).GroupBy(f => f.Group).Select(g => (g.Key, g.AsEnumerable()));

    /// <summary>Groups of fields that stand open; what comes after them is folded, with its values in the fold's own line.</summary>
    public const int OpenGroups = 2;

    /// <summary>What some fields hold, in one line.</summary>
    public string Said(IEnumerable<PlanField> fields) =>
        string.Join(
            " · ", fields.Where(f => Form[f.Name].Length > 0).Select(f =>
                f.IsTick ? Words.Lower(f.Label)
                : f.IsText ? Form[f.Name]
                : f.Words is null ? $"{Words.Lower(f.Label)} {Form[f.Name]} {Trial.UnitOf(f.Name, n => Form[n])}".TrimEnd()
                : f.Choices.Where(c => c.Key == Form[f.Name]).Select(c => c.Value).FirstOrDefault() ?? ""));

    /// <summary>Fields that are carried along without being drawn.</summary>
    public IEnumerable<string> Carried => Fields.Where(f => !Trial.IsShown(f, Context));

    /// <summary>Choices of a word field, with their words.</summary>
    public static IEnumerable<KeyValuePair<string, string>> Choices(params string[] words) => words.Chunk(2).Select(w => KeyValuePair.Create(w[0], w[1]));

    /// <summary>True where one of some folded fields is refused or holds something unusual.</summary>
    public bool Open(params string[] folded)
    {
        var usual = Trial.InMode(Mode, this.usual, Context);
        return folded.Any(f =>
            Form.Errors.ContainsKey(f)
            || (
                Form[f].Length > 0
                && Form[f] != usual.Word(f)
                && usual.Number(f)?.ToString(CultureInfo.InvariantCulture) != Form[f]
                && !(Trial.Fields[f].Words?[0] == Form[f])));
    }

    private PlanValues usual = [];

    /// <summary>Where a range of nozzle temperatures was proposed from.</summary>
    public string RangeWhy
    {
        get
        {
            var (span, label) = Facts.NozzleRange(P.Filament!);
            return span is null
                ? "No source says a range: start where you print now."
                : $"Proposed from {(label ? "the union of the sources" : $"the family {P.Filament!.Family}")}, {Words.N(span.Min)} to {Words.N(span.Max)} " +
                    $"°C, within the machine's limits. Advice may be left behind; limits may not.";
        }
    }

    public async Task<IActionResult> OnGetAsync(Guid id, string kind, string? mode, Guid? run, Guid? after)
    {
        if (!await LoadAsync(id, kind))
            return NotFound();
        var values = usual;
        if (run is not null)
        {
            var stored = await runs.OfSubjectAsync(Trial, Pairing, Head, run);
            if (stored is not { RemovedAt: null })
                return NotFound();
            if (stored.Stage != RunStages.Planned)
                return Redirect($"{Address}?after={run}");
            RunId = run;
            values = Trial.ValuesOf(Trial.ReadPlan(stored.PlanJson));
            Form["version"] = stored.Version.ToString(CultureInfo.InvariantCulture);
        }
        else if (Like is not null)
        {
            values = Trial.ValuesOf(Like.Plan);
        }
        else if (after is not null && await runs.OfSubjectAsync(Trial, Pairing, Head, after) is { } before)
        {
            values = Trial.ValuesAfter(Trial.ReadPlan(before.PlanJson));
            Form["after"] = after.Value.ToString();
        }

        // An empty mode is a mode: only where the link says nothing is the values' own meant.
        mode ??= Request.Query.ContainsKey("mode") ? "" : null;
        (Mode, values) = PlanStart.Of(Trial, Context, values, mode, name => Request.Query[name].ToString());
        LeaveOwn();
        values = FromDropped(values);
        Put(values);
        Open();
        // A field that only the tester knows is asked for, not complained about.
        if (Fields.Any(f => Trial.IsNeeded(f, Mode) && Form[f].Length == 0))
            Form.Errors.Clear();
        return Page();
    }

    public async Task<IActionResult> OnPostPreviewAsync(Guid id, string kind)
    {
        if (!await ReadAsync(id, kind))
            return NotFound();
        if (Request.Query["refit"] == "1")
        {
            var chosen = new PlanValues { ["mode"] = Mode };
            foreach (var name in Trial.Refits)
                chosen[name] = Form[name];
            var fitted = Trial.Refit(chosen, Context);
            foreach (var name in Trial.Fields.Keys.Where(f => fitted.Number(f) is not null))
                Form.Put(name, fitted.Number(name));
        }

        Compute();
        return Page();
    }

    /// <summary>Takes values from a report that was pasted from the printer.</summary>
    public async Task<IActionResult> OnPostReportAsync(Guid id, string kind)
    {
        if (!await ReadAsync(id, kind))
            return NotFound();
        var text = Form["report"];
        if (text.Length > Core.Trials.ExtruderFeed.SettingsReport.MostCharacters)
        {
            Form.Refuse(
                "report",
                $"{text.Length} characters are no settings report: the lines of one, at most {Core.Trials.ExtruderFeed.SettingsReport.MostCharacters}, " +
                    $"would be right."
            );
            return Refused();
        }

        var (values, said) = Trial.ReadReport(text, Context);
        if (values is null)
        {
            Form.Refuse("report", said);
            return Refused();
        }

        // A printer counts one of them: the other field is emptied.
        foreach (var name in new[] { "stepsPerMm", "rotationDistanceMm" }.Where(Trial.Fields.ContainsKey))
            Form.Put(name, values.Number(name));
        Form.Notice = said;
        Compute();
        return Page();
    }

    public async Task<IActionResult> OnPostOfferAsync(Guid id, string kind)
    {
        if (!await ReadAsync(id, kind))
            return NotFound();
        foreach (var change in Form["offer"].Split(';', StringSplitOptions.RemoveEmptyEntries))
        {
            var (name, value) = change.Split('=') is [var n, var v] ? (n, v) : ("", "");
            if (decimal.TryParse(value, CultureInfo.InvariantCulture, out var d) && Trial.Fields.TryGetValue(name, out var field) && field.Words is null)
                Form.Put(name, d);
        }

        Compute();
        return Page();
    }

    public async Task<IActionResult> OnPostAsync(Guid id, string kind)
    {
        if (!await ReadAsync(id, kind))
            return NotFound();
        Compute();
        if (Trial.PrintsOwnFile(Mode) && Own is null && Form["file"].Length > 0)
            return Gone();

        if (Plan is null)
            return Refused();
        try
        {
            return await SaveAsync(Plan);
        }
        catch (FileRefusedException e)
        {
            foreach (var error in e.Errors)
                Form.Refuse(error.Field, error.Message);
            Made = null;
            return Refused();
        }
        catch (ChangedMeanwhileException) when (Own is not null)
        {
            return Gone();
        }
    }

    /// <summary>The own file is not there any more: said once, and the same form sent again plans without one.</summary>
    private IActionResult Gone()
    {
        Form["file"] = "";
        Form.Notice = "The file that this is planned from is not there any more. Put it in the G-code room again, or save once more to plan without it.";
        return Refused();
    }

    private async Task<IActionResult> SaveAsync(ITrialPlan plan)
    {
        if (RunId is null)
        {
            var (stepped, isGood) = await SteppedAsync(plan);
            if (!isGood)
                return Refused();
            var run = Like is null
                ? await runs.CreateAsync(Trial, Pairing, Head, plan, Made, Form.Id("after", "a run"), own: stepped ?? Own?.File, tier: Tier?.Name,
                    leftToCool: LeftToCool)
                : await runs.CreateAsync(Trial, Pairing, Head, plan, Made, Like.Run.Id, SameAgain.Link, leftToCool: LeftToCool);
            Tell(
                Made is null && Own is null && stepped is null
                    ? $"{Trial.Name} {run.Number} is planned. Print its bench sheet and take it to the printer."
                    : $"{Trial.Name} {run.Number} is planned and its file is ready.");
            return Redirect($"/runs/{run.Id}#print");
        }

        var stored = await runs.OfSubjectAsync(Trial, Pairing, Head, RunId);
        if (stored is not { RemovedAt: null })
            return NotFound();
        if (stored.Stage != RunStages.Planned)
        {
            Form.Notice = $"This {Trial.Noun} was printed meanwhile; its plan stands. Take this one as a new run.";
            Form["after"] = RunId.ToString()!;
            RunId = null;
            return Refused(409);
        }

        if (IsStale(stored, new Dictionary<string, string>()))
            return Refused(409);
        var (anew, isWritten) = await SteppedAsync(plan);
        if (!isWritten)
            return Refused();
        try
        {
            await runs.ReplanAsync(stored, Trial, Pairing, Head, plan, Made, anew, Tier?.Name, LeftToCool);
        }
        catch (ChangedMeanwhileException)
        {
            await TellOfRaceAsync();
            return Refused(409);
        }

        Tell("The plan is saved.");
        return Redirect($"/runs/{stored.Id}#print");
    }

    private async Task<bool> ReadAsync(Guid id, string kind)
    {
        ReadForm();
        RunId = Guid.TryParse(Form["run"], out var run) ? run : null;
        if (!await LoadAsync(id, kind))
            return false;
        Mode = Trial.Modes.Contains(Form["mode"]) ? Form["mode"] : Trial.Modes[0];
        LeaveOwn();
        return true;
    }

    private async Task<bool> LoadAsync(Guid id, string kind)
    {
        if (TrialCatalogue.Find(kind) is not { } trial)
            return false;
        Trial = trial;
        if (Request.Path.StartsWithSegments("/toolheads") != (trial.Subject == TrialSubject.Toolhead))
            return false;
        (Pairing, var head) = await runs.SubjectAsync(trial, id);
        if (head is null)
            return false;
        Head = head;
        var like = Guid.TryParse(Form["like"].Length > 0 ? Form["like"] : Request.Query["like"].ToString(), out var other) ? other : (Guid?)null;
        // A swap that is planned anew holds what it held.
        if (like is null && Guid.TryParse(Form["run"].Length > 0 ? Form["run"] : Request.Query["run"].ToString(), out var own)
            && await runs.OfSubjectAsync(trial, Pairing, head, own) is { LinkKind: SameAgain.Link, LinkedRunId: { } of }
            && await again.OfAsync(of, kind) is not null)
            like = of;
        if (like is not null && Pairing is not null)
        {
            Like = await again.OfAsync(like.Value, kind);
            if (Like is null || Like.Run.World != Pairing.World)
                return false;
            Held = HeldSettings.Of(Like);
            Form["like"] = like.Value.ToString();
        }

        if (Held is null && Pairing is not null)
            await LoadTierAsync();
        if (Pairing is not null)
            await LoadCoolingAsync();
        Context = await files.ContextAsync(trial, Pairing, Head, Held);
        Trimmed = Pairing is not null && !trial.AsksFlow ? await files.TrimOfAsync(Pairing) : null;
        if (trial.Modes.Any(trial.PrintsOwnFile) && Pairing is not null)
        {
            Guid? Named(string name) => Guid.TryParse(Form[name].Length > 0 ? Form[name] : Request.Query[name].ToString(), out var asked) ? asked : null;
            Own = await ownFiles.FindAsync(Pairing.Id, Named("file"), Named("run") ?? Named("after"));
            Form["file"] = Named("file")?.ToString() ?? "";
            Context = Context with { OwnFile = Own?.Facts };
        }

        await LoadDroppedAsync();
        usual = Trial.Propose(Context);
        if (trial.AsksDryness && Pairing is not null)
            Dry = await files.SpoolInUseAsync(Pairing);
        Wanting = await runs.WantingAsync(trial, Head, Context);
        if (await paces.OfAsync(Head.PrinterId, Head.Printer!.World) is { Prints: > 0 } pace)
            Pace = pace;
        return true;
    }

    private void Put(PlanValues values)
    {
        foreach (var (name, field) in Trial.Fields)
        {
            if (field.Quantity is not null)
                Form.Put(name, values.Number(name));
            else if (field.Words is { } words)
                Form[name] = values.Word(name) is { Length: > 0 } word ? word : words[0];
            else if (field.IsText)
                Form[name] = values.Word(name);
            else
                Form[name] = values.Flag(name) ? "1" : "";
        }
    }

    private void Compute()
    {
        var values = new PlanValues { ["mode"] = Mode };
        foreach (var name in Fields)
        {
            var field = Trial.Fields[name];
            if (field.Quantity is { } q)
            {
                if (Form.Number(name, q, Trial.IsNeeded(name, Mode)) is { } number)
                    values[name] = number;
            }
            else if (field.Words is { } words)
            {
                values[name] = Form.Choice(name, name, words, words[0]);
            }
            else if (field.IsText)
            {
                if (Form.Text(name, field.Label, field.Longest) is { } text)
                    values[name] = text;
            }
            else
            {
                values[name] = Form.Ticked(name);
            }
        }

        if (!Form.IsGood)
            return;
        var (plan, errors) = Trial.Plan(values, Context);
        if (plan is { } fitting && TakesDrop && Dropped is not null)
            (plan, errors) = OwnFiles.Fit((IStepsOwnFile)Trial, fitting, Dropped);
        Plan = plan;
        if (plan is not null)
        {
            (var made, Made, errors) = files.Make(Trial, plan, Context);
            Plan = errors.Count > 0 ? null : made;
            if (Job is { } job)
                Shown = new(
                    job,
                    (
                        int.TryParse(Form["layer"], out var asked)
                            ? Math.Clamp(asked, 1, job.Layers.Count)
                            : Math.Clamp(Trial.FirstLook(plan), 1, job.Layers.Count)) - 1);
        }

        foreach (var e in errors)
            Form.Refuse(e.Field, e.Message, e.Offers);
        // What has no field here stands in the profile or on the printer: said at the head of the form.
        if (errors.FirstOrDefault(e => !Fields.Contains(e.Field) && e.Field is not ("startCode" or "endCode" or "bedTemperatureC")) is { } elsewhere)
            Form.Notice = elsewhere.Message;
    }
}
