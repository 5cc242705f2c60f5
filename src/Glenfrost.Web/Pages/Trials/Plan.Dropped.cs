using Glenfrost.Application.Gcode;
using Glenfrost.Core.Trials;
using Glenfrost.Storage.Records;

namespace Glenfrost.Web.Pages.Trials;

/// <content>A sliced file of somebody's own that is dropped in the plan and stepped for the run.</content>
internal sealed partial class PlanModel
{
    /// <summary>Somebody's own sliced file that is stepped for the run; null for none.</summary>
    public InspectedFile? Dropped { get; private set; }

    /// <summary>True where a sliced file can be dropped: its sections become the plan's.</summary>
    public bool TakesDrop => Pairing is not null && Trial is IStepsOwnFile steps && Mode == steps.OwnMode;

    /// <summary>True where a part's own file is still wanting.</summary>
    public bool TakesPart => Pairing is not null && Trial.PrintsOwnFile(Mode) && Like is null && (Own is null || !Trial.TakesOwnFile);

    private async Task LoadDroppedAsync()
    {
        if (Trial is not IStepsOwnFile || Pairing is null)
            return;
        var chosen = Guid.TryParse(Form["file"].Length > 0 ? Form["file"] : Request.Query["file"].ToString(), out var file) ? file : (Guid?)null;
        // A plan that is opened again goes on from the file that it was stepped from.
        if (chosen is null && HttpMethods.IsGet(Request.Method) && Guid.TryParse(Request.Query["run"], out var planned))
            chosen = await ownFiles.SteppedFromAsync(planned);
        Dropped = await ownFiles.ToStepAsync(Pairing.Id, chosen);
        Form["file"] = Dropped?.File.Id.ToString() ?? "";
    }

    /// <summary>What the file says is not asked again; a plan that was made from it keeps what it says.</summary>
    private PlanValues FromDropped(PlanValues values)
    {
        if (TempData["refused"] is string wrong)
            Form.Notice = wrong;
        else if (TakesDrop && Dropped is null && Request.Query.ContainsKey("file"))
            Form.Notice = "The file that this was to be planned from is not there any more, or lays nothing. Drop it again.";
        return TakesDrop && Dropped is not null && RunId is null ? ((IStepsOwnFile)Trial).FromFile(values, Dropped.Facts) : values;
    }

    /// <summary>The dropped file, stepped as the plan says and read back; refusals stand at their fields.</summary>
    private async Task<(RunFile? File, bool IsGood)> SteppedAsync(ITrialPlan plan)
    {
        if (!TakesDrop || Dropped is null || Trial is not IStepsOwnFile steps)
            return (null, true);
        var (stepped, errors) = await ownFiles.StepAsync(Dropped, steps.StepsOf(plan));
        foreach (var e in errors)
            Form.Refuse(steps.FieldOf(e.Field), e.Message);
        return (stepped, stepped is not null);
    }

    /// <summary>A file of somebody's own is nothing to a mode that prints a piece of ours.</summary>
    private void LeaveOwn()
    {
        if (Own is not null && !Trial.PrintsOwnFile(Mode))
            (Own, Context) = (null, Context with { OwnFile = null });
    }
}
