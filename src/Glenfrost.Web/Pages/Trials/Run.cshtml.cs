using Glenfrost.Core.Factors;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Profiles;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Glenfrost.Application.Photos;
using Glenfrost.Application.Simulated;
using Glenfrost.Application.Trials;
using Glenfrost.Web.Simulated;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>A run: one page, four stages down it. What differs between trials stands in their folders.</summary>
internal sealed partial class RunModel(
    WorkContext work, TrialRuns runs, PlanRuns plans, PrintReports reports, ReadingStore store, Decisions decisions, MachineBook machines,
    Glenfrost.Application.Profiles profiles, Findings findings, PrintJobs jobs, Paces paces, SimulatedRuns simulated,
    PeopleBook everybody, Instruments readWith, SpoolBook spoolBook, RunBook book, AnchorBook anchors,
    PartSuspects partSuspects, TallyBook tally, PartDensities densities) : WorkPage(work)
{
    /// <summary>What the simulated bench has to do with this run.</summary>
    public SimulatedView Simulated { get; private set; } = null!;

    /// <summary>The newest file of this run; null where there is none.</summary>
    public RunFile? GcodeFile => Pieces.StandingFile(V.Run, V.Plan);

    private List<Spool> spools = [];

    public TrialRunView V { get; private set; } = null!;

    /// <summary>Own photos that stand for scores of what is read here, by key of the aspect's words.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<OwnAnchor>> Own { get; private set; } = new Dictionary<string, IReadOnlyList<OwnAnchor>>();

    /// <summary>Where it stands: what was decided, what keeping would do.</summary>
    public RunStanding Now { get; private set; } = null!;

    /// <summary>What may be behind what was seen on a part; empty for other trials.</summary>
    public IReadOnlyList<PartSuspect> Suspects { get; private set; } = [];

    public bool OpenRead { get; private set; }

    /// <summary>What the run before on this printer had.</summary>
    public IReadOnlyList<ConditionOffer> Offers { get; private set; } = [];

    /// <summary>The conditions as a form.</summary>
    /// <summary>The spool that is loaded on the toolhead of a run that is to be printed; null for none, or where nobody said.</summary>
    public Spool? Loaded { get; private set; }

    public ConditionsForm Conditions => ConditionsForm.Of(Form, V, Now.Asked, Offers, spools);

    /// <summary>Where the files of this trial's own views are.</summary>
    public string Folder => $"/Pages/Trials/{V.Trial.PageFolder}/";

    public async Task<IActionResult> OnGetAsync(Guid id, string? open)
    {
        if (!await LoadAsync(id))
            return NotFound();
        OpenRead = open == "read";
        Prefill();
        return Page();
    }

    /// <summary>Does a write; where another tab was quicker, that is told and the page shows what stands.</summary>
    /// <param name="what">What the other tab did to the run.</param>
    /// <param name="write">The write, and what is told once it is done.</param>
    private async Task OrTellAsync(string what, Func<Task> write)
    {
        if (await TryAsync(write))
            return;
        Form.Notice = null;
        Tell($"Another tab {what} this run in the same moment; here is what stands.");
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

    /// <summary>Removes a run whose page can't be drawn.</summary>
    public async Task<IActionResult> OnPostRemoveUnreadAsync(Guid id)
    {
        if (!await runs.RemoveUnreadAsync(id))
            return NotFound();
        Tell("The run is removed. What it put in the profile stays.", "run", id);
        return Redirect("/");
    }

    private IActionResult RefusedHere(int status = 422, bool openRead = false)
    {
        OpenRead = openRead;
        var typed = new Dictionary<string, string>(Form.Values);
        Prefill();
        foreach (var (k, v) in typed)
            Form[k] = v;
        return Refused(status);
    }

    private void Prefill()
    {
        var run = V.Run;
        Form["version"] = run.Version.ToString();
        Form["outcome"] = "whole";
        ConditionsForm.Fill(Form, V, Now.Asked);
    }

    private async Task<bool> LoadAsync(Guid id)
    {
        var v = await runs.LoadAsync(id);
        if (v is null)
            return false;
        V = v;
        Now = await book.OfAsync(v);
        spools = await spoolBook.OfRunAsync(v);
        if (v.Run.Stage is RunStages.Planned or RunStages.Printed or RunStages.Read || Request.Query["open"] == "read" || HttpMethods.IsPost(Request.Method))
            Offers = await reports.OffersAsync(v);
        if (v.Run.Stage is RunStages.Printed || Request.Query["open"] == "read")
            Own = await anchors.OfAsync(v.Grid);
        if (v.Verdict is ZonedVerdict && v.Run.Stage is not (RunStages.Planned or RunStages.Printed))
            Suspects = await partSuspects.OfAsync(v);
        if (v.Run is { World: Worlds.Real, Stage: RunStages.Planned })
            Loaded = await spoolBook.LoadedAsync(v.Toolhead);
        Simulated = await SimulatedView.OfAsync(v, Work, jobs, paces, simulated);
        return true;
    }
}
