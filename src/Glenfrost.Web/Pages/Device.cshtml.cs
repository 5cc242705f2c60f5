using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

/// <summary>Where a tablet or phone types the code once.</summary>
internal sealed class DeviceModel(WorkContext work, Reach reach, DeviceBook devices, DeviceAccess access) : WorkPage(work)
{
    /// <summary>Why it is asked, where there is a reason beyond the first visit.</summary>
    public string? Said { get; private set; }

    public async Task<IActionResult> OnGetAsync(string? to)
    {
        if (!reach.Lan)
            return Redirect("/devices");
        Form["to"] = Local(to);
        // Nobody's name is told to who was not let in yet.
        await SayAsync();
        return Page();
    }

    public async Task<IActionResult> OnPostAsync()
    {
        if (!reach.Lan)
            return Redirect("/devices");
        ReadForm();
        var name = Form.Text("name", "Name", 60, true);
        var who = Form.Text("person", "Who works on it", 60, true);
        if (Form["code"].Trim().Length == 0)
            Form.Refuse("code", "Type the code that the console shows.");
        // The code is used up only with all else in order.
        if (Form.IsGood && reach.Take(Form["code"], HttpContext.Connection.RemoteIpAddress?.ToString() ?? "here") is { } wrong)
            Form.Refuse("code", wrong);
        if (!Form.IsGood)
        {
            await SayAsync();
            return Refused();
        }

        var (device, token) = await access.EnterAsync(name!, DeviceKinds.Pages, who!);
        Response.Cookies.Append(
            DeviceBook.Cookie, token,
            new CookieOptions { HttpOnly = true, SameSite = SameSiteMode.Lax, MaxAge = DeviceBook.IdleTime, IsEssential = true, Path = "/" });
        Tell($"{device.Name} is let in. It is remembered until it is withdrawn, or is away for {DeviceBook.IdleTime.TotalDays:0} days.");
        return LocalRedirect(Local(Form["to"]));
    }

    private async Task SayAsync()
    {
        if (Request.Cookies[DeviceBook.Cookie] is not { } token)
            return;
        Said = await devices.FindAsync(token, DeviceKinds.Pages) is { WithdrawnAt: { } at }
            ? $"This device was withdrawn on {Words.Day(at)} at {Words.Time(at)} UTC. What was saved from it stands. To let it in again, type a new code."
            : "The bench does not know this device any more. Type the code that its console shows.";
    }

    private string Local(string? to) => Back(to) is var back && !back.StartsWith("/device", StringComparison.Ordinal) ? back : "/";
}
