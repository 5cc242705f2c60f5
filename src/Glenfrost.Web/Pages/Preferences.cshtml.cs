using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Rights;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

internal sealed class PreferencesModel(WorkContext work, PeopleBook people, DataPlace place, BenchPin pin) : WorkPage(work)
{
    public static IEnumerable<KeyValuePair<string, string>> Themes { get; } =
        [KeyValuePair.Create("", "as the system"), KeyValuePair.Create("light", "light"), KeyValuePair.Create("dark", "dark")];

    public string Folder => place.Folder;

    /// <summary>Everybody who works at this bench.</summary>
    public List<string> People { get; private set; } = [];

    /// <summary>True on the bench's own machine.</summary>
    public bool AtBench => Work.DeviceId is null;

    /// <summary>True where the bench's browser types a PIN.</summary>
    public bool HasPin => pin.IsSet;

    public async Task OnGetAsync()
    {
        await ShowAsync();
    }

    /// <summary>Sets the bench's PIN, or takes it away.</summary>
    public async Task<IActionResult> OnPostPinAsync()
    {
        ReadForm();
        var (typed, again) = (Form["pin"], Form["pinAgain"]);
        if (typed.Length is > 0 and < BenchPin.Least or > BenchPin.Most)
            Form.Refuse("pin", $"{BenchPin.Least} to {BenchPin.Most} characters would be right; empty takes it away.");
        else if (typed != again)
            Form.Refuse("pinAgain", "This is not what stands above it.");
        if (!Form.IsGood)
        {
            var errors = Form.Errors.ToDictionary();
            await ShowAsync();
            foreach (var (field, error) in errors)
                Form.Refuse(field, error);
            Form.Notice = "The PIN is not set. It is never sent back to the page: type it anew.";
            return Refused();
        }

        pin.Set(typed);
        if (typed.Length > 0)
            pin.Remember(Response);
        Tell(typed.Length > 0 ? "The PIN is set. This browser knows it; others of this machine are asked." : "No PIN is asked any more.");
        return Redirect("/preferences");
    }

    private async Task ShowAsync()
    {
        Form["person"] = (await Work.PersonAsync()).Name;
        People = await people.NamesAsync();
        Form["theme"] = Request.Cookies["theme"] ?? "";
        Form["keys"] = Request.Cookies["keys"] == "off" ? "" : "1";
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var name = Form.Text("person", "Name", 60, true);
        var theme = Form.Choice("theme", "Theme", [.. Themes.Select(t => t.Key)], "");
        if (!Form.IsGood)
            return Refused();
        if (!AtBench && !string.Equals(name, (await Work.PersonAsync()).Name, StringComparison.Ordinal))
        {
            Form.Refuse("person", "Who works on this device was said when it was let in. Withdraw it at the bench and let it in anew for somebody else.");
            People = await people.NamesAsync();
            return Refused();
        }

        var took = await people.IsHereAsync(name!, Form.Ticked("other"));
        var options = new CookieOptions { MaxAge = TimeSpan.FromDays(3650), SameSite = SameSiteMode.Lax, HttpOnly = true, IsEssential = true };
        Response.Cookies.Append("theme", theme, options);
        Response.Cookies.Append("keys", Form.Ticked("keys") ? "on" : "off", options);
        if (took is { } person)
            Response.Cookies.Append(Caller.PersonCookie, person.ToString(), options);
        Tell("Preferences are saved.");
        return Redirect("/preferences");
    }
}
