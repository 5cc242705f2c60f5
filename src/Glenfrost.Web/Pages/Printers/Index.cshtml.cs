using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Pages.Printers;

internal sealed class IndexModel(WorkContext work, PrinterBook printers) : WorkPage(work)
{
    public List<Printer> List { get; private set; } = [];

    public async Task OnGetAsync() =>
        List = await printers.ListAsync();
}
