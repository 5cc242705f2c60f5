using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Drawing;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Trials;

/// <summary>A tag to lay beside the piece: its code opens the run on a phone or tablet.</summary>
internal sealed class CodeModel(WorkContext work, TrialRuns runs, Reach reach) : WorkPage(work)
{
    public TrialRunView V { get; private set; } = null!;

    public QrPath Code { get; private set; } = null!;

    /// <summary>What the code opens.</summary>
    public string Address { get; private set; } = "";

    public async Task<IActionResult> OnGetAsync(Guid id)
    {
        if (await runs.LoadAsync(id) is not { } v)
            return NotFound();
        V = v;
        Address = reach.AddressOf(Request, $"/runs/{id}");
        Code = QrPath.Of(Address);
        return Page();
    }
}
