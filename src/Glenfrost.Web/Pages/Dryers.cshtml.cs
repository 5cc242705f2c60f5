using Glenfrost.Core.Settings;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

internal sealed class DryersModel(WorkContext work, DryerBook dryers) : WorkPage(work)
{
    public List<Dryer> List { get; private set; } = [];

    /// <summary>The one that is edited; null for a new one.</summary>
    public Guid? Edited => List.FirstOrDefault(d => d.Id.ToString() == Form["id"])?.Id;

    public async Task OnGetAsync(Guid? edit)
    {
        List = await dryers.ListAsync();
        if (List.FirstOrDefault(d => d.Id == edit) is not { } d)
            return;
        (Form["id"], Form["version"], Form["name"], Form["note"]) = (d.Id.ToString(), d.Version.ToString(), d.Name, d.Note ?? "");
        Form.Put("maxC", d.MaxC);
        Form.Put("powerW", d.PowerW);
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        List = await dryers.ListAsync();
        var id = Form.Id("id", "a dryer");
        var name = Form.Text("name", "Name", 60, true);
        var most = Form.Double("maxC", RecordFields.DryerC, true);
        var power = Form.Double("powerW", RecordFields.DryerW);
        var note = Form.Text("note", "Note", 200);
        if (name is not null && await dryers.IsTakenAsync(name, id))
            Form.Refuse("name", $"There is a dryer \"{name}\" already.");
        var dryer = id is null ? new() { Name = name ?? "" } : await dryers.ToEditAsync(id);
        if (dryer is null)
        {
            Form.Notice = "This dryer was removed meanwhile. What you typed still stands here: save it as a new one.";
            Form["id"] = "";
            return Refused(409);
        }

        if (!Form.IsGood)
            return Refused();
        if (id is not null && Form["version"] != dryer.Version.ToString())
            return Stale(dryer);
        (dryer.Name, dryer.MaxC, dryer.PowerW, dryer.Note) = (name!, most!.Value, power, note);
        try
        {
            Tell($"{await dryers.SaveAsync(dryer, id is null)}.");
        }
        catch (ChangedMeanwhileException)
        {
            return Stale(dryer);
        }

        return Redirect("/dryers");
    }

    private IActionResult Stale(Dryer stands)
    {
        Form.Notice = $"This dryer was saved in another tab meanwhile: {stands.Name}, {Words.N(stands.MaxC)} °C. Nothing is lost: compare and save once more.";
        Form["version"] = (List.FirstOrDefault(d => d.Id == stands.Id)?.Version ?? stands.Version).ToString();
        return Refused(409);
    }

    public async Task<IActionResult> OnPostRemoveAsync()
    {
        ReadForm();
        if (Form.Id("id", "a dryer") is not { } id || await dryers.RemoveAsync(id) is not { } said)
            return NotFound();
        Tell(said, "dryer", id);
        return Redirect("/dryers");
    }
}
