using Glenfrost.Storage;

namespace Glenfrost.Application;

/// <summary>Whether the data folder takes what is written: a commit that reaches the disk, and a file beside the database.</summary>
public sealed class DiskProbe(GlenfrostDb db, WriteGate gate, DataPlace place)
{
    /// <summary>Categories of the log in which faults stand that are thrown to who asked, and told there once.</summary>
    public static readonly IReadOnlyList<string> ToldElsewhere =
    [
        "Microsoft.EntityFrameworkCore.Database.Command", "Microsoft.EntityFrameworkCore.Database.Connection", "Microsoft.EntityFrameworkCore.Update",
    ];

    private static int turn;

    /// <summary>Tries it.</summary>
    /// <returns>What the disk is up to; null where it takes both.</returns>
    public async Task<DiskFault?> FaultAsync(CancellationToken stop = default)
    {
        try
        {
            // The header's own number is free for the application; changing it is the smallest commit there is.
            await gate.Through(
                async () =>
                {
                    await DataPlace.WriteProbeAsync(db, 1 + Interlocked.Increment(ref turn) % 1_000_000);
                    return true;
                }, stop);
            Disk.Try(place.Folder);
            return null;
        }
        catch (Exception e) when (Disk.FaultOf(e) is { } fault)
        {
            return fault;
        }
    }
}
