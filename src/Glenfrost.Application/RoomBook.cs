using Glenfrost.Storage.Records;
using Microsoft.EntityFrameworkCore;

namespace Glenfrost.Application;

/// <summary>The room's temperature and humidity as they were logged.</summary>
public sealed class RoomBook(WorkContext work)
{
    private const int Most = 60;

    /// <summary>The newest entries first.</summary>
    public Task<List<RoomEntry>> ListAsync() => work.Db.Room.AsNoTracking().OrderByDescending(r => r.At).Take(Most).ToListAsync();

    /// <summary>Logs the room.</summary>
    /// <returns>What was logged, in words.</returns>
    public async Task<string> LogAsync(double temperatureC, double? humidityPercent)
    {
        var person = await work.PersonAsync();
        work.Db.Add(new RoomEntry { At = work.Now, TemperatureC = temperatureC, HumidityPercent = humidityPercent, PersonId = person.Id });
        var text = $"{Words.N(temperatureC, 1)} °C{(humidityPercent is null ? "" : $", {Words.N(humidityPercent, 0)} %RH")}";
        await work.LogAsync("room", $"Room {text}", "/room");
        await work.SaveAsync();
        return text;
    }
}
