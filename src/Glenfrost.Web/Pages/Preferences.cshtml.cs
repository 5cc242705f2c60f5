using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

internal sealed class PreferencesModel(Bench bench, PeopleBook people, DataPlace place) : BenchPage(bench)
{
    public static IEnumerable<KeyValuePair<string, string>> Themes { get; } =
        [KeyValuePair.Create("", "as the system"), KeyValuePair.Create("light", "light"), KeyValuePair.Create("dark", "dark")];

    public string Folder => place.Folder;

    /// <summary>Everybody who works at this bench.</summary>
    public List<string> People { get; private set; } = [];

    public async Task OnGetAsync()
    {
        Sheet["person"] = (await Bench.PersonAsync()).Name;
        People = await people.NamesAsync();
        Sheet["theme"] = Request.Cookies["theme"] ?? "";
        Sheet["keys"] = Request.Cookies["keys"] == "off" ? "" : "1";
    }

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var name = Sheet.Text("person", "Name", 60, true);
        var theme = Sheet.Choice("theme", "Theme", [.. Themes.Select(t => t.Key)], "");
        if (!Sheet.IsGood)
            return Refused();
        var took = await people.IsHereAsync(name!, Sheet.Ticked("other"));
        var options = new CookieOptions { MaxAge = TimeSpan.FromDays(3650), SameSite = SameSiteMode.Lax, HttpOnly = true, IsEssential = true };
        Response.Cookies.Append("theme", theme, options);
        Response.Cookies.Append("keys", Sheet.Ticked("keys") ? "on" : "off", options);
        if (took is { } person)
            Response.Cookies.Append(Caller.PersonCookie, person.ToString(), options);
        Tell("Preferences are saved.");
        return Redirect("/preferences");
    }
}
