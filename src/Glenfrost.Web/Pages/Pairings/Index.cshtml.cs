using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Pairings;

internal sealed class IndexModel(WorkContext work, PairingTable table) : WorkPage(work)
{
    /// <summary>The table.</summary>
    public PairingTableView Table { get; private set; } = null!;

    [FromQuery(Name = "only")]
    public string? Only { get; set; }

    public bool OnlyDoubtful => Only == "doubtful";

    /// <summary>real, or practice for the simulated twins.</summary>
    [FromQuery(Name = "world")]
    public string? Asked { get; set; }

    public string World => Asked == Worlds.Practice ? Worlds.Practice : Worlds.Real;

    public async Task OnGetAsync() => Table = await table.ViewAsync(World, OnlyDoubtful);
}
