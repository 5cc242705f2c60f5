using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Web.Pages;

internal sealed class RoomModel(Bench bench) : BenchPage(bench)
{
    public List<RoomEntry> List { get; private set; } = [];

    public async Task OnGetAsync() => List = await Db.Room.AsNoTracking().OrderByDescending(r => r.At).Take(60).ToListAsync();

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var c = Sheet.Double("roomC", BenchFields.RoomC, true);
        var h = Sheet.Double("humidityPercent", BenchFields.HumidityPercent);
        if (!Sheet.IsGood)
        {
            await OnGetAsync();
            return Refused();
        }

        var person = await Bench.PersonAsync();
        Db.Add(new RoomEntry { At = Bench.Now, TemperatureC = c!.Value, HumidityPercent = h, PersonId = person.Id });
        await Bench.LogAsync("room", $"Room {Words.N(c, 1)} °C{(h is null ? "" : $", {Words.N(h, 0)} %RH")}", "/room");
        await Bench.SaveAsync();
        Tell($"Room logged: {Words.N(c, 1)} °C{(h is null ? "" : $", {Words.N(h, 0)} %RH")}.");
        var back = Request.Headers.Referer.ToString();
        return Uri.TryCreate(back, UriKind.Absolute, out var uri) && uri.Authority == Request.Host.Value ? Redirect(uri.PathAndQuery) : Redirect("/room");
    }
}
