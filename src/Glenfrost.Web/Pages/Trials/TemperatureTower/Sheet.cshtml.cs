using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials.TemperatureTower;

public sealed class SheetModel(Bench bench, TowerRuns runs) : BenchPage(bench)
{
    public TowerRunView V { get; private set; } = null!;

    public RunFile? GcodeFile => V.Run.Files.MaxBy(f => f.CreatedAt);

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        V = (await runs.LoadAsync(id))!;
        return V is null ? NotFound() : Page();
    }
}
