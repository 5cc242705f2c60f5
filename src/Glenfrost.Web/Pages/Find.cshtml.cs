using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

internal sealed class FindModel(WorkContext work, NameSearch names) : WorkPage(work)
{
    [FromQuery]
    public string? Q { get; set; }

    public List<Hit> Hits { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync()
    {
        Hits = await names.FindAsync(Q, 40);
        return Hits.Count == 1 ? Redirect(Hits[0].Link) : Page();
    }

    public async Task<IActionResult> OnGetListAsync()
    {
        Hits = await names.FindAsync(Q, 8);
        return Partial("_Hits", Hits);
    }
}
