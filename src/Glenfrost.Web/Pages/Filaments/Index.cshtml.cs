using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Pages.Filaments;

internal sealed class IndexModel(WorkContext work, FilamentBook filaments) : WorkPage(work)
{
    public List<Filament> List { get; private set; } = [];

    public async Task OnGetAsync() =>
        List = await filaments.ListAsync();
}
