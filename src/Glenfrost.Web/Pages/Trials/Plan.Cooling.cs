namespace Glenfrost.Web.Pages.Trials;

/// <content>The spool's own trim, and the pairing's cool-down behind the print: a tick on every file, set where the profile keeps one.</content>
internal sealed partial class PlanModel
{
    /// <summary>The trim of the spool that it is printed from; null where it has none, or this trial asks how much is to be laid.</summary>
    public SpoolTrimmed? Trimmed { get; private set; }

    /// <summary>True where the cool-down is left out of this file.</summary>
    public bool LeftToCool { get; private set; }

    /// <summary>True where the profile keeps one that a file can hold, and this plan's file has it or would; asked too while the plan is refused.</summary>
    public bool HasCoolDown => Context.Settings?.Sources.Any(x => x.Key == "coolDown") == true && (LeftToCool || Plan is null || Made?.CoolsDown == true);

    /// <summary>What it is, in words.</summary>
    public string CoolDownSays => Context.Settings!.Sources.First(x => x.Key == "coolDown").Word!;

    private async Task LoadCoolingAsync()
    {
        // A box that is not ticked sends nothing: that it was asked is sent beside it.
        LeftToCool = HttpMethods.IsPost(Request.Method)
            ? Form["coolAsked"].Length > 0 && Form["cool"].Length == 0
            : Guid.TryParse(Request.Query["run"], out var planned) && (await runs.OfSubjectAsync(Trial, Pairing, Head, planned))?.LeftToCool == true;
        if (LeftToCool)
            Held = (Held ?? HeldSettings.Nothing) with { LeftToCool = true };
    }
}
