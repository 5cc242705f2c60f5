using System.Collections.Concurrent;

namespace Glenfrost.Core.Gcode.Rewriting;

/// <summary>Writes blocks on a thread of its own, in their order, while the next ones are made. Four blocks at most wait.</summary>
internal sealed class WriteBehind : IDisposable
{
    private readonly BlockingCollection<(byte[] Block, int Length)> full = [];
    private readonly BlockingCollection<byte[]> free = [];
    private readonly Thread thread;
    private Exception? failed;

    /// <param name="to">Where they go.</param>
    /// <param name="size">Bytes of a block.</param>
    public WriteBehind(Stream to, int size)
    {
        for (var i = 0; i < 4; i++)
            free.Add(new byte[size]);
        thread = new(() => Run(to)) { IsBackground = true };
        thread.Start();
    }

    /// <summary>An empty block.</summary>
    public byte[] Take()
    {
        Check();
        return free.Take();
    }

    /// <summary>Hands a block over.</summary>
    public void Give(byte[] block, int length) => full.Add((block, length));

    /// <summary>Waits until all is written.</summary>
    /// <exception cref="IOException">It could not be written.</exception>
    public void End()
    {
        full.CompleteAdding();
        thread.Join();
        Check();
    }

    public void Dispose()
    {
        full.CompleteAdding();
        thread.Join();
        full.Dispose();
        free.Dispose();
    }

    private void Check()
    {
        if (failed is not null)
            throw new IOException(failed.Message, failed);
    }

    private void Run(Stream to)
    {
        foreach (var (block, length) in full.GetConsumingEnumerable())
        {
            try
            {
                // After a failure blocks only come back, so that the maker is not left waiting.
                if (failed is null)
                    to.Write(block, 0, length);
            }
            catch (Exception e) when (e is IOException or UnauthorizedAccessException or NotSupportedException or ObjectDisposedException)
            {
                failed = e;
            }

            free.Add(block);
        }
    }
}
