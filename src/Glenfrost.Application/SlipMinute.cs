using System.Collections.Concurrent;

namespace Glenfrost.Application;

/// <summary>
/// Which readings were stored in the last minute, by a watch that nobody sets: a clock that goes back opens no minute again. After a start none is open, and a
/// correction asks why.
/// </summary>
public sealed class SlipMinute(TimeProvider clock)
{
    /// <summary>A correction within this time is a slip; later it asks why.</summary>
    public static readonly TimeSpan Lasts = TimeSpan.FromMinutes(1);

    private readonly ConcurrentDictionary<Guid, long> stored = [];

    /// <summary>Notes that a reading was stored now.</summary>
    public void Mark(Guid reading)
    {
        stored[reading] = clock.GetTimestamp();
        foreach (var (id, at) in stored)
        {
            if (clock.GetElapsedTime(at) > Lasts)
                stored.TryRemove(id, out _);
        }
    }

    /// <summary>True while a reading may be corrected without a reason.</summary>
    public bool Holds(Guid reading) => stored.TryGetValue(reading, out var at) && clock.GetElapsedTime(at) <= Lasts;
}
