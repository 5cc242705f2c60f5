namespace Glenfrost.Application;

/// <summary>
/// A clock whose every reading is later than the one before. Machines' clocks are set back, by seconds when they meet their time server; what is taken back
/// must stand after what it takes back all the same.
/// </summary>
/// <param name="under">The machine's clock.</param>
public sealed class SteadyClock(TimeProvider under) : TimeProvider
{
    /// <summary>A clock that is set back by more than this was wrong before, and is believed.</summary>
    public static readonly TimeSpan Believed = TimeSpan.FromHours(1);

    private long last;

    /// <inheritdoc/>
    public override DateTimeOffset GetUtcNow()
    {
        var now = under.GetUtcNow().UtcTicks;
        long before, next;
        do
        {
            before = Interlocked.Read(ref last);
            next = now > before || before - now > Believed.Ticks ? now : before + 1;
        }
        while (Interlocked.CompareExchange(ref last, next, before) != before);

        return new(next, TimeSpan.Zero);
    }
}
