using System.Globalization;
using Glenfrost.Core.Settings;
using Glenfrost.Simulation.Printer;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Glenfrost.Application.Simulated;
using Glenfrost.Web.Simulated;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Simulated;

/// <summary>What a run's page asks of the simulated bench.</summary>
internal sealed class PrintModel(WorkContext work, TrialRuns runs, PrintJobs jobs, Paces paces, SimulatedRuns simulated, PracticeWorld practice, Stamps stamps)
    : WorkPage(work)
{
    private static readonly Quantity SpeedField = new(
        "Speed", "×", 1, (decimal)LivePrint.MostSpeed, "the simulated printer runs at 1 to 2000 times its own time");

    public SimulatedView View { get; private set; } = null!;

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { Run.RemovedAt: null } v)
            return NotFound();
        if (v.Run.World != Worlds.Practice)
            return Redirect($"/runs/{id}#print");
        View = await SimulatedView.OfAsync(v, Work, jobs, paces, simulated);
        return Page();
    }

    /// <summary>The strip alone, each second; nothing where the print is over.</summary>
    public async Task<IActionResult> OnGetStripAsync(Guid id)
    {
        if (jobs.PrintOf(id) is not { } live || await runs.LoadAsync(id) is not { } v)
            return StatusCode(StatusCodes.Status204NoContent);
        return Partial("_LivePrint", new SimulatedView { V = v, Now = live.Now() });
    }

    /// <summary>How far the instruments are; nothing where they are through.</summary>
    public IActionResult OnGetReading(Guid id) =>
        jobs.ReadingOf(id) is { } r ? new JsonResult(new { r.Done, r.All }, Json.Options) : StatusCode(StatusCodes.Status204NoContent);

    /// <summary>The same plan on the simulated twin of the printer.</summary>
    public async Task<IActionResult> OnPostTryAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { Run.RemovedAt: null } v)
            return NotFound();
        if (v.Run.World == Worlds.Practice)
            return Redirect($"/runs/{id}#print");
        var (run, error) = await practice.TryAsync(v);
        if (run is null)
        {
            Tell(error!);
            return Redirect($"/runs/{id}#print");
        }

        return Redirect($"/runs/{run.Id}#print");
    }

    public async Task<IActionResult> OnPostPrintAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { Run.RemovedAt: null } v)
            return NotFound();
        ReadForm();
        if (v.Run.Stage != RunStages.Planned)
            return Redirect($"/runs/{id}#print");
        if (v.Run.World != Worlds.Practice)
            return await OnPostTryAsync(id);
        var speed = (double?)Form.Number("speed", SpeedField) ?? 300;
        (string, double)? fault = null;
        var name = Form["fault"].Trim();
        if (name.Length > 0 && !Faults.Names.Contains(name))
            Form.Refuse("fault", $"\"{name}\" is no fault of this bench: {string.Join(", ", Faults.Names)} would be right.");
        else if (name.Length > 0)
        {
            var (least, most) = name == "garbled" ? (2m, 100000m) : (0.2m, (decimal)v.Toolhead.Printer!.HeightMm);
            var height = Form.Number(
                "at",
                new Quantity(
                    name == "garbled" ? "Every how many lines" : "Height of the fault", name == "garbled" ? "" : "mm", least, most,
                    "outside it nothing would happen"),
                true);
            fault = height is { } h ? (name, (double)h) : null;
        }

        var file = Pieces.StandingFile(v.Run, v.Plan);
        if (file is null)
            Form.Refuse("speed", "There is no file to run. Make the G-code first.");
        var said = Form.IsGood ? await jobs.PrintAsync(Work, v, file!, speed, fault) : string.Join(" ", Form.Errors.Values);
        if (said is not null)
        {
            View = await SimulatedView.OfAsync(v, Work, jobs, paces, simulated);
            Form.Notice = said;
            return Refused(Form.IsGood ? StatusCodes.Status409Conflict : StatusCodes.Status422UnprocessableEntity);
        }

        return Redirect($"/runs/{id}#print");
    }

    public IActionResult OnPostPause(Guid id)
    {
        ReadForm();
        jobs.PrintOf(id)?.Pause(Form.Ticked("on"));
        return Redirect($"/runs/{id}#print");
    }

    public IActionResult OnPostStop(Guid id)
    {
        jobs.PrintOf(id)?.Stop();
        return Redirect($"/runs/{id}#print");
    }

    public IActionResult OnPostSpeed(Guid id)
    {
        ReadForm();
        if (Form.Number("speed", SpeedField, true) is { } speed)
            jobs.PrintOf(id)?.SetSpeed((double)speed);
        else
            Tell(string.Join(" ", Form.Errors.Values));
        return Redirect($"/runs/{id}#print");
    }

    public async Task<IActionResult> OnPostTakeOffAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { Run.Stage: RunStages.Planned } v)
            return Redirect($"/runs/{id}#print");
        ReadForm();
        var job = Guid.TryParse(Form["job"], out var g)
            ? await simulated.InterruptedAsync(id, g)
            : null;
        if (job is null || Pieces.StandingFile(v.Run, v.Plan) is not { } file)
            return Redirect($"/runs/{id}#print");
        if (await simulated.TakeOffInterruptedAsync(v, job, file) is { } error)
            Tell(error);
        return Redirect($"/runs/{id}#read");
    }

    public async Task<IActionResult> OnPostReadAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { Run.RemovedAt: null } v)
            return NotFound();
        if (v.Run.Stage != RunStages.Printed || !v.Run.Files.Any(f => f.Kind == SimulatedRuns.PieceKind))
            Tell(v.Run.Stage == RunStages.Planned ? "There is no simulated piece yet: print it first." : "Nothing is open for reading here.");
        else if (jobs.Read(id, (await Work.PersonAsync()).Id) is { } error)
            Tell(error);
        return Redirect($"/runs/{id}#read");
    }

    public async Task<IActionResult> OnPostStampAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { Run.RemovedAt: null } v)
            return NotFound();
        ReadForm();
        var ago =
            double.TryParse(Form["ago"], NumberStyles.Float, CultureInfo.InvariantCulture, out var ms) && ms >= 0
                ? TimeSpan.FromMilliseconds(Math.Min(ms, Stamps.Latest.TotalMilliseconds))
                : TimeSpan.Zero;
        var key = Form["key"] is { Length: > 0 and <= 60 } k ? k : Guid.CreateVersion7().ToString();
        var note = Form["note"].Trim() is { Length: > 0 } n ? n.Length > 200 ? n[..200] : n : null;
        var (stamp, error) = await stamps.StampAsync(v, Form["what"], ago, key, note);
        if (Request.Headers.Accept.ToString().Contains("json", StringComparison.Ordinal))
            return stamp is null
                ? new JsonResult(new { error }, Json.Options) { StatusCode = 422 }
                : new JsonResult(
                    new
                    {
                        stamp.ReadingId, section = stamp.Section + 1, temperatureC = v.Parts[stamp.Section].NozzleC, part = v.Parts[stamp.Section].Label,
                        stamp.What, stamp.Text,
                    },
                    Json.Options);
        Tell(error ?? $"{stamp!.What}: section {stamp.Section + 1}, {stamp.Text}.");
        return Redirect($"/runs/{id}#stamps");
    }

    public async Task<IActionResult> OnPostWithdrawAsync(Guid id)
    {
        ReadForm();
        if (Guid.TryParse(Form["reading"], out var reading))
            await stamps.WithdrawAsync(id, reading);
        return Redirect($"/runs/{id}#stamps");
    }
}
