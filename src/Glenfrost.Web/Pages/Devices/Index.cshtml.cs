using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages.Devices;

/// <summary>What may come in, and from where the bench is reached.</summary>
internal sealed class IndexModel(Bench bench, Reach reach, DeviceBook devices) : BenchPage(bench)
{
    private Dictionary<Guid, string> people = [];

    public Reach Reach => reach;

    /// <summary>True on the bench's own machine: only there the page shows the code.</summary>
    public bool AtBench => Bench.DeviceId is null;

    public List<Device> List { get; private set; } = [];

    /// <summary>A token just made; shown once.</summary>
    public string? Token { get; private set; }

    public string TokenName { get; private set; } = "";

    public string PersonOf(Device d) => people.GetValueOrDefault(d.PersonId ?? Guid.Empty, "–");

    public async Task OnGetAsync()
    {
        Sheet["person"] = (await Bench.PersonAsync()).Name;
        await LoadAsync();
    }

    public async Task<IActionResult> OnPostTokenAsync()
    {
        ReadForm();
        var name = Sheet.Text("name", "Name", 60, true);
        var who = Sheet.Text("person", "Whose readings", 60, true);
        if (!Sheet.IsGood)
        {
            await LoadAsync();
            return Refused();
        }

        await Bench.PersonAsync();
        (_, Token) = await Bench.AloneAsync(async () =>
        {
            var entered = await devices.EnterAsync(name!, DeviceKinds.Readings, who!);
            await Bench.LogAsync("device", $"A token was made for {name}: it may post readings", "/devices");
            await Db.SaveChangesAsync();
            return entered;
        });
        TokenName = name!;
        Sheet = new();
        Sheet["person"] = who!;
        await LoadAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostWithdrawAsync()
    {
        ReadForm();
        var id = Sheet.Id("device", "a device");
        var d = await Db.Devices.FirstOrDefaultAsync(x => x.Id == id && x.WithdrawnAt == null);
        if (d is null)
            return NotFound();
        d.WithdrawnAt = Bench.Now;
        await Bench.LogAsync("device", $"{d.Name} was withdrawn", "/devices", $"device:{d.Id}");
        await Bench.SaveAsync();
        Tell($"{d.Name} is withdrawn; what came from it stays.", "device", d.Id);
        return Redirect("/devices");
    }

    private async Task LoadAsync()
    {
        List = await Db.Devices.AsNoTracking().OrderBy(d => d.WithdrawnAt != null).ThenByDescending(d => d.CreatedAt).ToListAsync();
        people = await Db.People.AsNoTracking().ToDictionaryAsync(p => p.Id, p => p.Name);
    }
}
