using System.Buffers.Binary;
using System.Security.Cryptography;

namespace Glenfrost.Storage;

/// <summary>
/// Ids of rows: UUID version 7 that never go back within this process (RFC 9562 § 6.2, method 1: twelve bits after the milliseconds count on). Rows that are
/// made in one go keep the order in which they were made: which of two toolheads is the first one is no matter of chance.
/// </summary>
public static class Ids
{
    private const int CounterBits = 12;

    private static long last;

    /// <summary>A new id, later than every one before.</summary>
    public static Guid New()
    {
        var now = DateTimeOffset.UtcNow.ToUnixTimeMilliseconds() << CounterBits;
        long before, next;
        do
        {
            before = Interlocked.Read(ref last);
            next = Math.Max(now, before + 1);
        }
        while (Interlocked.CompareExchange(ref last, next, before) != before);

        Span<byte> bytes = stackalloc byte[16];
        RandomNumberGenerator.Fill(bytes);
        BinaryPrimitives.WriteUInt64BigEndian(bytes, (ulong)(next >> CounterBits) << 16 | 0x7000 | (ulong)(next & 0xFFF));
        bytes[8] = (byte)(bytes[8] & 0x3F | 0x80);
        return new(bytes, bigEndian: true);
    }

    /// <summary>The id of what somebody else named: the same name gives the same id, and no other one does (RFC 9562, version 8).</summary>
    public static Guid Of(string name)
    {
        var bytes = SHA256.HashData(System.Text.Encoding.UTF8.GetBytes(name)).AsSpan(0, 16);
        bytes[6] = (byte)(bytes[6] & 0x0F | 0x80);
        bytes[8] = (byte)(bytes[8] & 0x3F | 0x80);
        return new(bytes, bigEndian: true);
    }
}
