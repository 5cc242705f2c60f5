namespace Glenfrost.Storage;

/// <summary>The one gate that all writes pass: SQLite has one writer, and waiting here is cheaper than there.</summary>
public sealed class WriteGate
{
    private readonly SemaphoreSlim gate = new(1, 1);

    private long writes;

    /// <summary>How many writes passed it: what was read before a change of this number may be old.</summary>
    public long Writes => Interlocked.Read(ref writes);

    /// <summary>Runs a write alone. No image, file or G-code work belongs in it.</summary>
    public async Task<T> Through<T>(Func<Task<T>> write, CancellationToken stop = default)
    {
        await gate.WaitAsync(stop);
        try
        {
            return await write();
        }
        finally
        {
            Interlocked.Increment(ref writes);
            gate.Release();
        }
    }
}
