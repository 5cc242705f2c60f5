using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Filaments;

internal sealed class IndexModel(Bench bench) : BenchPage(bench)
{
    public List<Filament> List { get; private set; } = [];

    public async Task OnGetAsync() =>
        List = await Db.Filaments.AsNoTracking().Where(f => f.RemovedAt == null).Include(f => f.Sources).Include(f => f.Variants)
            .Include(f => f.Spools.Where(s => s.World == Worlds.Real)).AsSplitQuery().OrderBy(f => f.Maker).ThenBy(f => f.Line).ToListAsync();
}
