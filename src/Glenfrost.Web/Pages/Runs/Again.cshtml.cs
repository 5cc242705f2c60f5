using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Runs;

/// <summary>Print the same again on another pairing, with only that exchanged.</summary>
internal sealed class AgainModel(WorkContext work, SameAgain again) : WorkPage(work)
{
    public TrialRunView V { get; private set; } = null!;

    public IReadOnlyList<AgainOn> On { get; private set; } = [];

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (await again.OfAsync(id) is not { } v)
            return NotFound();
        (V, On) = (v, await again.OnAsync(v));
        return Page();
    }
}
