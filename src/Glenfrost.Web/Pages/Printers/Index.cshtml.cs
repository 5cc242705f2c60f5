using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Printers;

internal sealed class IndexModel(Bench bench) : BenchPage(bench)
{
    public List<Printer> List { get; private set; } = [];

    public async Task OnGetAsync() =>
        List = await Db.Printers.AsNoTracking().Where(p => p.RemovedAt == null).Include(p => p.Toolheads).OrderBy(p => p.World == Worlds.Practice)
            .ThenBy(p => p.Name).ToListAsync();
}
