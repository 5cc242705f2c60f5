using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Glenfrost.Application.Devices;
using Glenfrost.Web.Devices;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages;

internal sealed class PreferencesModel(Bench bench, DataPlace place) : BenchPage(bench)
{
    public static IEnumerable<KeyValuePair<string, string>> Themes { get; } =
        [KeyValuePair.Create("", "as the system"), KeyValuePair.Create("light", "light"), KeyValuePair.Create("dark", "dark")];

    public string Folder => place.Folder;

    /// <summary>Everybody who works at this bench.</summary>
    public List<string> People { get; private set; } = [];

    public async Task OnGetAsync()
    {
        Sheet["person"] = (await Bench.PersonAsync()).Name;
        People = await Db.People.AsNoTracking().Where(p => !p.Elsewhere).OrderBy(p => p.Name).Select(p => p.Name).ToListAsync();
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
        await PersonAsync(name!, Sheet.Ticked("other"));
        var options = new CookieOptions { MaxAge = TimeSpan.FromDays(3650), SameSite = SameSiteMode.Lax, HttpOnly = true, IsEssential = true };
        Response.Cookies.Append("theme", theme, options);
        Response.Cookies.Append("keys", Sheet.Ticked("keys") ? "on" : "off", options);
        Tell("Preferences are saved.");
        return Redirect("/preferences");
    }

    /// <summary>Another name is a new name of who is here, unless it is somebody else's, or is said to be somebody else.</summary>
    private async Task PersonAsync(string name, bool other)
    {
        var now = await Bench.PersonAsync();
        if (string.Equals(now.Name, name, StringComparison.Ordinal))
            return;
        var person = await Db.People.Where(p => !p.Elsewhere && p.Id != now.Id).FirstOrDefaultAsync(p => p.Name.ToLower() == name.ToLower());
        if (person is null && !other)
        {
            await Bench.LogAsync("person", $"{now.Name} is called {name} now", "/preferences");
            (await Db.People.FirstAsync(p => p.Id == now.Id)).Name = name;
            await Bench.SaveAsync();
            return;
        }

        if (person is null)
        {
            person = new Person { Name = name };
            Db.People.Add(person);
        }

        await Bench.LogAsync("person", $"{person.Name} works here now, in place of {now.Name}", "/preferences");
        if (Bench.DeviceId is { } device)
            (await Db.Devices.FirstAsync(d => d.Id == device)).PersonId = person.Id;
        await Bench.SaveAsync();
        if (Bench.DeviceId is null)
            Response.Cookies.Append(
                Caller.PersonCookie, person.Id.ToString(),
                new CookieOptions { MaxAge = TimeSpan.FromDays(3650), SameSite = SameSiteMode.Lax, HttpOnly = true, IsEssential = true });
    }
}
