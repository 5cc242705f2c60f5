namespace Glenfrost.Storage;

/// <summary>The one gate that all writes pass: SQLite has one writer, and waiting here is cheaper than there.</summary>
public sealed class WriteGate
{
    private readonly SemaphoreSlim gate = new(1, 1);

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
            gate.Release();
        }
    }
}
