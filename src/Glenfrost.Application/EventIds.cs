using System.Security.Cryptography;

namespace Glenfrost.Application;

/// <summary>
/// Ids (UUIDv7) of events that belong to one moment: of several in the same millisecond a later one sorts after an earlier one, since the fold of events reads
/// them in that order. The 12 bits behind
/// the version count within a millisecond (RFC 9562, section 6.2, method 1).
/// </summary>
public static class EventIds
{
    private static readonly Lock Gate = new();
    private static long lastMs;
    private static int count;

    /// <summary>The next id of a moment.</summary>
    /// <param name="at">UTC.</param>
    public static Guid Next(DateTime at)
    {
        var ms = new DateTimeOffset(DateTime.SpecifyKind(at, DateTimeKind.Utc)).ToUnixTimeMilliseconds();
        int n;
        lock (Gate)
        {
            count = ms == lastMs ? Math.Min(count + 1, 0xFFF) : 0;
            lastMs = ms;
            n = count;
        }

        Span<byte> bytes = stackalloc byte[16];
        RandomNumberGenerator.Fill(bytes[8..]);
        for (var i = 0; i < 6; i++)
            bytes[i] = (byte)(ms >> (40 - 8 * i));
        bytes[6] = (byte)(0x70 | (n >> 8));
        bytes[7] = (byte)n;
        bytes[8] = (byte)((bytes[8] & 0x3F) | 0x80);
        return new Guid(bytes, true);
    }
}
