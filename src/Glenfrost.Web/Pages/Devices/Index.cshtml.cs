using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages.Devices;

/// <summary>What may come in, and from where the bench is reached.</summary>
internal sealed class IndexModel(WorkContext work, Reach reach, DeviceAccess access, PeopleBook everybody) : WorkPage(work)
{
    private Dictionary<Guid, string> people = [];

    public Reach Reach => reach;

    /// <summary>True on the bench's own machine: only there the page shows the code.</summary>
    public bool AtBench => Work.DeviceId is null;

    public List<Device> List { get; private set; } = [];

    /// <summary>A token just made; shown once.</summary>
    public string? Token { get; private set; }

    public string TokenName { get; private set; } = "";

    public string PersonOf(Device d) => people.GetValueOrDefault(d.PersonId ?? Guid.Empty, "–");

    public async Task OnGetAsync()
    {
        Form["person"] = (await Work.PersonAsync()).Name;
        await LoadAsync();
    }

    public async Task<IActionResult> OnPostTokenAsync()
    {
        ReadForm();
        var name = Form.Text("name", "Name", 60, true);
        var who = Form.Text("person", "Whose readings", 60, true);
        if (!Form.IsGood)
        {
            await LoadAsync();
            return Refused();
        }

        (_, Token) = await access.EnterAsync(name!, DeviceKinds.Readings, who!);
        TokenName = name!;
        Form = new();
        Form["person"] = who!;
        await LoadAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostWithdrawAsync()
    {
        ReadForm();
        if (await access.WithdrawAsync(Form.Id("device", "a device")) is not { } d)
            return NotFound();
        var tokens = d.Kind == DeviceKinds.Pages ? await access.TokensSinceAsync(d) : [];
        var since = tokens.Count == 0
            ? ""
            : $" Tokens made since it was let in still stand: {Core.Settings.Say.List(tokens)}. The first versions let a tablet make some; " +
                "withdraw what you don't know.";
        Tell($"{d.Name} is withdrawn; what came from it stays.{since}", "device", d.Id);
        return Redirect("/devices");
    }

    private async Task LoadAsync()
    {
        List = await access.ListAsync();
        people = await everybody.AllAsync();
    }
}
