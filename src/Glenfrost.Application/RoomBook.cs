using Glenfrost.Storage;
using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>The room's temperature and humidity as they were logged.</summary>
public sealed class RoomBook(WorkContext work, Caller caller)
{
    /// <summary>Taken where nobody noted the room, °C.</summary>
    public const double UsualC = 22;

    private const int Most = 60;

    /// <summary>The newest entries first.</summary>
    public Task<List<RoomEntry>> ListAsync() => work.Db.Room.AsNoTracking().OrderByDescending(r => r.At).Take(Most).ToListAsync();

    /// <summary>Logs the room as an instrument posts it: once for each key of a device.</summary>
    /// <returns>What was logged, in words; false where that key was logged before.</returns>
    public async Task<(string Text, bool IsNew)> LogOnceAsync(string key, double temperatureC, double? humidityPercent)
    {
        var id = Ids.Of($"room/{caller.DeviceId}/{key}");
        Task<RoomEntry?> Already() => work.Db.Room.AsNoTracking().FirstOrDefaultAsync(r => r.Id == id);
        if (await Already() is { } known)
            return (Said(known.TemperatureC, known.HumidityPercent), false);
        try
        {
            return (await LogAsync(temperatureC, humidityPercent, id), true);
        }
        catch (DbUpdateException)
        {
            // The device asked again before it had its answer, and the other was first.
            if (await Already() is null)
                throw;
            return (Said(temperatureC, humidityPercent), false);
        }
    }

    private static string Said(double temperatureC, double? humidityPercent) =>
        $"{Words.N(temperatureC, 1)} °C{(humidityPercent is null ? "" : $", {Words.N(humidityPercent, 0)} %RH")}";

    /// <summary>Logs the room.</summary>
    /// <returns>What was logged, in words.</returns>
    public async Task<string> LogAsync(double temperatureC, double? humidityPercent, Guid? id = null)
    {
        var person = await work.PersonAsync();
        work.Db.Add(new RoomEntry { Id = id ?? Ids.New(), At = work.Now, TemperatureC = temperatureC, HumidityPercent = humidityPercent, PersonId = person.Id });
        var text = Said(temperatureC, humidityPercent);
        await work.LogAsync("room", $"Room {text}", "/room");
        await work.SaveAsync();
        return text;
    }
}
