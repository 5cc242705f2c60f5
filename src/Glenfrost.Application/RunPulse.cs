using System.Collections.Concurrent;
using Glenfrost.Storage;

namespace Glenfrost.Application;

/// <summary>
/// What pages ask again and again, whether anything came to a run since, from memory: valid while nothing at all was written. All writes pass one gate, which
/// counts them; a thousand who ask cost one look at the database for each save.
/// </summary>
public sealed class RunPulse(WriteGate gate)
{
    private const int Most = 500;

    private readonly ConcurrentDictionary<Guid, (long Writes, Task<(string Stage, int Readings)?> Now)> of = [];

    /// <summary>Stage and number of readings of a run; null for no run.</summary>
    /// <param name="run">The run.</param>
    /// <param name="ask">Looks at the database.</param>
    public async Task<(string Stage, int Readings)?> OfAsync(Guid run, Func<Task<(string Stage, int Readings)?>> ask)
    {
        var writes = gate.Writes;
        bool IsGood((long Writes, Task<(string, int)?> Now) e) => e.Writes == writes && !e.Now.IsFaulted && !e.Now.IsCanceled;
        if (of.TryGetValue(run, out var known) && IsGood(known))
            return await known.Now;
        if (of.Count >= Most)
            of.Clear();
        // Whoever comes first looks; the others wait for that look.
        var look = new TaskCompletionSource<(string Stage, int Readings)?>(TaskCreationOptions.RunContinuationsAsynchronously);
        var entry = of.AddOrUpdate(run, _ => (writes, look.Task), (_, e) => IsGood(e) ? e : (writes, look.Task));
        if (entry.Now != look.Task)
            return await entry.Now;
        try
        {
            var now = await ask();
            look.SetResult(now);
            return now;
        }
        catch (Exception e)
        {
            of.TryRemove(run, out _);
            look.SetException(e);
            _ = look.Task.Exception;
            throw;
        }
    }
}
