using Glenfrost.Storage;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages;

public sealed class PreferencesModel(Bench bench, DataPlace place) : BenchPage(bench)
{
    public static IEnumerable<KeyValuePair<string, string>> Themes { get; } =
        [KeyValuePair.Create("", "as the system"), KeyValuePair.Create("light", "light"), KeyValuePair.Create("dark", "dark")];

    public string Folder => place.Folder;

    public async Task OnGetAsync()
    {
        Sheet["person"] = (await Bench.PersonAsync()).Name;
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
        var id = (await Bench.PersonAsync()).Id;
        var person = await Db.People.FirstAsync(p => p.Id == id);
        if (person.Name != name)
        {
            await Bench.LogAsync("person", $"{person.Name} is called {name} now", "/preferences");
            person.Name = name!;
        }

        await Bench.SaveAsync();
        var options = new CookieOptions { MaxAge = TimeSpan.FromDays(3650), SameSite = SameSiteMode.Lax, HttpOnly = true, IsEssential = true };
        Response.Cookies.Append("theme", theme, options);
        Response.Cookies.Append("keys", Sheet.Ticked("keys") ? "on" : "off", options);
        Tell("Preferences are saved.");
        return Redirect("/preferences");
    }
}
