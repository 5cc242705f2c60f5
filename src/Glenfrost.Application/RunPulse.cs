using System.Collections.Concurrent;
using Glenfrost.Storage;

namespace Glenfrost.Application;

/// <summary>
/// What pages ask again and again, whether anything came to a run since and what stands there now, from memory: valid while nothing at all was written. All
/// writes pass one gate, which counts them; a thousand who ask cost one look at the database for each save.
/// </summary>
public sealed class RunPulse(WriteGate gate)
{
    private const int Most = 500;

    private readonly ConcurrentDictionary<(Guid Run, Type Answer), (long Writes, Task Look)> known = [];

    /// <summary>An answer about a run: whoever comes first makes it, the others wait for that one.</summary>
    /// <typeparam name="T">The kind of answer; one of each is remembered for a run.</typeparam>
    /// <param name="run">The run.</param>
    /// <param name="ask">Looks at the database.</param>
    public async Task<T> OfAsync<T>(Guid run, Func<Task<T>> ask)
    {
        var (writes, key) = (gate.Writes, (run, typeof(T)));
        bool IsGood((long Writes, Task Look) e) => e.Writes == writes && !e.Look.IsFaulted && !e.Look.IsCanceled;
        if (known.TryGetValue(key, out var before) && IsGood(before))
            return await WaitAsync((Task<T>)before.Look, ask);
        if (known.Count >= Most)
            known.Clear();
        var look = new TaskCompletionSource<T>(TaskCreationOptions.RunContinuationsAsynchronously);
        var entry = known.AddOrUpdate(key, _ => (writes, look.Task), (_, e) => IsGood(e) ? e : (writes, look.Task));
        if (entry.Look != look.Task)
            return await WaitAsync((Task<T>)entry.Look, ask);
        try
        {
            var now = await ask();
            look.SetResult(now);
            return now;
        }
        catch (Exception e)
        {
            known.TryRemove(key, out _);
            look.SetException(e);
            _ = look.Task.Exception;
            throw;
        }
    }

    // The first may have left before there was an answer: whoever waited for it looks for himself.
    private static async Task<T> WaitAsync<T>(Task<T> look, Func<Task<T>> ask)
    {
        try
        {
            return await look;
        }
        catch
        {
            return await ask();
        }
    }
}
