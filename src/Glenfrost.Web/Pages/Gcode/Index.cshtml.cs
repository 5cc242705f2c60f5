using Glenfrost.Storage.Records;
using Glenfrost.Application.Gcode;
using Glenfrost.Web.Gcode;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Gcode;

/// <summary>Where files are dropped, and those that are there.</summary>
internal sealed class IndexModel(Bench bench, GcodeLimit limit) : BenchPage(bench)
{
    public GcodeLimit Limit => limit;

    public List<GcodeFile> Files { get; private set; } = [];

    public IEnumerable<KeyValuePair<string, string>> Pairings { get; private set; } = [];

    /// <summary>Names of files that others were made from.</summary>
    public Dictionary<Guid, string> Names { get; private set; } = [];

    public async Task OnGetAsync()
    {
        if (TempData["refused"] is string refused)
            Sheet.Notice = refused;
        Files = await Db.GcodeFiles.AsNoTracking().Where(f => f.RemovedAt == null).OrderByDescending(f => f.At).ThenByDescending(f => f.Id).Take(200)
            .ToListAsync();
        var from = Files.Select(f => f.FromId).OfType<Guid>().Distinct().ToList();
        Names = await Db.GcodeFiles.AsNoTracking().Where(f => from.Contains(f.Id)).ToDictionaryAsync(f => f.Id, f => f.Name);
        Pairings = await DetailModel.PairingsAsync(Db);
    }

    public async Task<IActionResult> OnPostRemoveAsync()
    {
        ReadForm();
        var id = Sheet.Id("file", "a file");
        if (await Db.GcodeFiles.FirstOrDefaultAsync(f => f.Id == id && f.RemovedAt == null) is not { } file)
            return NotFound();
        file.RemovedAt = Bench.Now;
        await Bench.LogAsync("gcode", $"{file.Name} was removed from the G-code room", "/gcode", $"gcode:{file.Id}");
        await Bench.SaveAsync();
        Tell($"{file.Name} is removed.", "gcode", file.Id);
        return Redirect("/gcode");
    }
}
