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

    /// <summary>Files that were ticked.</summary>
    public IReadOnlyList<Guid> Chosen { get; private set; } = [];

    /// <summary>Most files that are written at once.</summary>
    private const int MostAtOnce = 20;

    public async Task<IActionResult> OnPostCoolAsync(Guid[] cool)
    {
        ReadForm();
        Chosen = [.. cool.Distinct()];
        if (Chosen.Count is 0 or > MostAtOnce)
            return await RefusedAsync(
                Chosen.Count == 0 ? "Tick the files first that are to cool down slowly." : $"{Chosen.Count} files: {MostAtOnce} at most are written at once.");
        var done = await room.CoolAsync(Chosen);
        var written = done.Where(d => d.Made is not null).Select(d => d.Made!.Name).ToList();
        var not = done.Where(d => d.Made is null).Select(d => $"{d.Name}: {d.Why}").ToList();
        if (written.Count == 0)
            return await RefusedAsync(not.Count == 0 ? "Those files are not here any more." : $"Nothing is written. {string.Join(" ", not)}");
        Tell($"{(written.Count == 1 ? $"{written[0]} is written" : $"{written.Count} files are written: {Core.Settings.Say.List(written)}")}." +
            (not.Count == 0 ? "" : $" Not {string.Join(" ", not)}"));
        return Redirect("/gcode");
    }

    private async Task<IActionResult> RefusedAsync(string why)
    {
        Form.Notice = why;
        await OnGetAsync();
        return Refused();
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
