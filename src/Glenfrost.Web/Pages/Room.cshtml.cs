using Glenfrost.Core.Settings;
using Glenfrost.Storage.Records;
using Glenfrost.Web.Services;
using Microsoft.AspNetCore.Mvc;

namespace Glenfrost.Web.Pages;

internal sealed class RoomModel(WorkContext work, RoomBook room) : WorkPage(work)
{
    public List<RoomEntry> List { get; private set; } = [];

    public async Task OnGetAsync() => List = await room.ListAsync();

    public async Task<IActionResult> OnPostAsync()
    {
        ReadForm();
        var c = Form.Double("roomC", RecordFields.RoomC, true);
        var h = Form.Double("humidityPercent", RecordFields.HumidityPercent);
        if (!Form.IsGood)
        {
            await OnGetAsync();
            return Refused();
        }

        Tell($"Room logged: {await room.LogAsync(c!.Value, h)}.");
        var back = Request.Headers.Referer.ToString();
        return Uri.TryCreate(back, UriKind.Absolute, out var uri) && uri.Authority == Request.Host.Value ? Redirect(uri.PathAndQuery) : Redirect("/room");
    }
}
