using System.Security.Cryptography;

namespace Glenfrost.Application;

/// <summary>
/// Ids (UUIDv7) of events that belong to one moment: of several in the same millisecond a later one sorts after an earlier one, since the fold of events reads
/// them in that order. The 42 bits behind the version count up and never start again within a process (RFC 9562, section 6.2, method 1), also where two clocks
/// that stand at different moments take turns.
/// </summary>
public static class EventIds
{
    private static long last;

    /// <summary>The next id of a moment.</summary>
    /// <param name="at">UTC.</param>
    public static Guid Next(DateTime at)
    {
        var ms = new DateTimeOffset(DateTime.SpecifyKind(at, DateTimeKind.Utc)).ToUnixTimeMilliseconds();
        var n = Interlocked.Increment(ref last);
        Span<byte> bytes = stackalloc byte[16];
        RandomNumberGenerator.Fill(bytes[12..]);
        for (var i = 0; i < 6; i++)
            bytes[i] = (byte)(ms >> (40 - 8 * i));
        bytes[6] = (byte)(0x70 | ((n >> 38) & 0x0F));
        bytes[7] = (byte)(n >> 30);
        bytes[8] = (byte)(0x80 | ((n >> 24) & 0x3F));
        for (var i = 9; i < 12; i++)
            bytes[i] = (byte)(n >> (8 * (11 - i)));
        return new Guid(bytes, true);
    }
}
