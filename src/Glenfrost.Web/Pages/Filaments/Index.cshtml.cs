using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Pages.Filaments;

internal sealed class IndexModel(Bench bench, FilamentBook filaments) : BenchPage(bench)
{
    public List<Filament> List { get; private set; } = [];

    public async Task OnGetAsync() =>
        List = await filaments.ListAsync();
}
