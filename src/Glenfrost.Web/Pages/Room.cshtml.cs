using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

internal sealed class RoomModel(Bench bench, RoomBook room) : BenchPage(bench)
{
    public List<RoomEntry> List { get; private set; } = [];

    public async Task OnGetAsync() => List = await room.ListAsync();

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

        Tell($"Room logged: {await room.LogAsync(c!.Value, h)}.");
        var back = Request.Headers.Referer.ToString();
        return Uri.TryCreate(back, UriKind.Absolute, out var uri) && uri.Authority == Request.Host.Value ? Redirect(uri.PathAndQuery) : Redirect("/room");
    }
}
