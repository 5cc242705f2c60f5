using System.Security.Cryptography;
using System.Text;
using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application.Devices;

/// <summary>Devices and their tokens. A token is shown once; only its hash is kept.</summary>
public sealed class DeviceBook(GlenfrostDb db, WriteGate gate, TimeProvider clock)
{
    /// <summary>Name of the cookie that holds a tablet's token.</summary>
    public const string Cookie = "glenfrost-device";

    /// <summary>How long a tablet or phone may be away before it types a code again.</summary>
    public static readonly TimeSpan IdleTime = TimeSpan.FromDays(30);

    private static readonly TimeSpan SeenEvery = TimeSpan.FromMinutes(5);

    /// <summary>Enters a device and makes its token; somebody not known here yet is entered too. Inside the gate.</summary>
    public async Task<(Device Device, string Token)> EnterAsync(string name, string kind, string personName)
    {
        var person = await db.People.Where(p => !p.Elsewhere).FirstOrDefaultAsync(p => p.Name.ToLower() == personName.ToLower());
        if (person is null)
        {
            person = new Person { Name = personName };
            db.People.Add(person);
        }

        var token = "gf" + (kind == DeviceKinds.Readings ? "r" : "p") + "_" + Convert.ToHexStringLower(RandomNumberGenerator.GetBytes(24));
        var device = new Device { Name = name, Kind = kind, TokenHash = Hash(token), PersonId = person.Id, CreatedAt = clock.GetUtcNow().UtcDateTime };
        db.Devices.Add(device);
        return (device, token);
    }

    /// <summary>Finds the device of a token, withdrawn ones too; null where it is not known.</summary>
    public async Task<Device?> FindAsync(string? token, string kind)
    {
        if (token is not { Length: > 10 and < 200 })
            return null;
        var hash = Hash(token);
        return await db.Devices.AsNoTracking().FirstOrDefaultAsync(d => d.TokenHash == hash && d.Kind == kind);
    }

    /// <summary>True where a device was away too long.</summary>
    public bool IsIdle(Device device) => clock.GetUtcNow().UtcDateTime - (device.LastSeenAt ?? device.CreatedAt) > IdleTime;

    /// <summary>Notes that a device was here; at most every few minutes.</summary>
    public async Task SeenAsync(Device device)
    {
        var now = clock.GetUtcNow().UtcDateTime;
        if (device.LastSeenAt is { } at && now - at < SeenEvery)
            return;
        await gate.Through(() => db.Devices.Where(d => d.Id == device.Id).ExecuteUpdateAsync(s => s.SetProperty(d => d.LastSeenAt, now)));
    }

    private static string Hash(string token) => Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
}
