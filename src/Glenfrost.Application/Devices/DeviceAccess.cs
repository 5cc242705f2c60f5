using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Devices;

/// <summary>Lets tablets, phones and posting devices in, and shows them out.</summary>
public sealed class DeviceAccess(WorkContext work, DeviceBook devices)
{
    /// <summary>All devices: those that may come in first, the newest first.</summary>
    public Task<List<Device>> ListAsync() =>
        work.Db.Devices.AsNoTracking().OrderBy(d => d.WithdrawnAt != null).ThenByDescending(d => d.CreatedAt).ToListAsync();

    /// <summary>Lets a device in; its token is shown once.</summary>
    /// <param name="name">As it is called.</param>
    /// <param name="kind">pages or readings.</param>
    /// <param name="person">Who uses it; somebody new is entered.</param>
    public async Task<(Device Device, string Token)> EnterAsync(string name, string kind, string person)
    {
        await work.PersonAsync();
        return await work.AloneAsync(async () =>
        {
            var entered = await devices.EnterAsync(name, kind, person);
            await work.LogAsync(
                "device", kind == DeviceKinds.Readings ? $"A token was made for {name}: it may post readings" : $"{name} was let in, used by {person}",
                "/devices");
            await work.Db.SaveChangesAsync();
            return entered;
        });
    }

    /// <summary>Withdraws a device; what came from it stays. Null where there is none that may come in.</summary>
    public async Task<Device?> WithdrawAsync(Guid? id)
    {
        var d = await work.Db.Devices.FirstOrDefaultAsync(x => x.Id == id && x.WithdrawnAt == null);
        if (d is null)
            return null;
        d.WithdrawnAt = work.Now;
        await work.LogAsync("device", $"{d.Name} was withdrawn", "/devices", $"device:{d.Id}");
        await work.SaveAsync();
        return d;
    }

    /// <summary>
    /// Names of instruments whose tokens were made since a tablet was let in and still stand. The first versions let a tablet make some and kept no note of
    /// which: only who withdraws it can tell.
    /// </summary>
    public Task<List<string>> TokensSinceAsync(Device tablet) => work.Db.Devices.AsNoTracking()
        .Where(d => d.Kind == DeviceKinds.Readings && d.WithdrawnAt == null && d.CreatedAt >= tablet.CreatedAt)
        .OrderBy(d => d.CreatedAt).Select(d => d.Name).ToListAsync();
}
