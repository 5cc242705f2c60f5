using Glenfrost.Storage.Records;
using Glenfrost.Application.Gcode;
using Glenfrost.Web.Gcode;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Gcode;

/// <summary>Where files are dropped, and those that are there.</summary>
internal sealed class IndexModel(WorkContext work, GcodeRoom room, PairingBook pairings, GcodeLimit limit) : WorkPage(work)
{
    public GcodeLimit Limit => limit;

    public List<GcodeFile> Files { get; private set; } = [];

    public IEnumerable<KeyValuePair<string, string>> Pairings { get; private set; } = [];

    /// <summary>Names of files that others were made from.</summary>
    public Dictionary<Guid, string> Names { get; private set; } = [];

    public async Task OnGetAsync()
    {
        if (TempData["refused"] is string refused)
            Form.Notice = refused;
        (Files, Names) = await room.ListAsync();
        Pairings = await pairings.NamesAsync();
    }

    public async Task<IActionResult> OnPostRemoveAsync()
    {
        ReadForm();
        if (await room.RemoveAsync(Form.Id("file", "a file")) is not { } file)
            return NotFound();
        Tell($"{file.Name} is removed.", "gcode", file.Id);
        return Redirect("/gcode");
    }
}
