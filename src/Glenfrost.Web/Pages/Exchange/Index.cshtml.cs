using Glenfrost.Application.Exchange;
using Glenfrost.Web.Exchange;
using Glenfrost.Web.Services;

namespace Glenfrost.Web.Pages.Exchange;

/// <summary>Where data goes out and comes in.</summary>
internal sealed class IndexModel(WorkContext work, Imports imports) : WorkPage(work)
{
    /// <summary>What was sent before and is not decided on.</summary>
    public List<ImportDraft> Waiting { get; private set; } = [];

    public async Task OnGetAsync()
    {
        Waiting = await imports.WaitingAsync();
        if (TempData["refused"] is string refused)
            Form.Notice = refused;
    }
}
