using Glenfrost.Web.Services;

namespace Glenfrost.Web.Pages;

internal sealed class IndexModel(WorkContext work, Today today, FilamentBook filaments) : WorkPage(work)
{
    public TodayList List { get; private set; } = null!;

    public bool IsNew { get; private set; }

    public async Task OnGetAsync()
    {
        List = await today.ListAsync();
        IsNew = List.Rows.Count == 0 && await filaments.IsEmptyAsync();
    }
}
