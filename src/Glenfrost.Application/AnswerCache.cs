using Glenfrost.Core.TestPieces;
using Microsoft.Extensions.Caching.Memory;

namespace Glenfrost.Application;

/// <summary>
/// Answers that are functions of their key alone: verdicts, jobs, meshes, simulated pieces, what files say. One for the whole application and bounded as a
/// whole; forgetting any of them costs time and nothing else.
/// </summary>
public sealed class AnswerCache : PieceMemory, IDisposable
{
    /// <summary>What all answers may weigh together; a G-code file's facts weigh by their layers and lines.</summary>
    public const int MostWeight = 100_000;

    /// <summary>Weight of a verdict.</summary>
    public const int Verdict = 20;

    /// <summary>Weight of a piece with its toolpaths, of a mesh, of a simulated piece.</summary>
    public const int Piece = 12_000;

    private readonly MemoryCache cache = new(new MemoryCacheOptions { SizeLimit = MostWeight, CompactionPercentage = 0.2 });

    /// <summary>How many answers are remembered now.</summary>
    public int Count => cache.Count;

    /// <summary>An answer that is remembered.</summary>
    /// <returns>False where it is not.</returns>
    public bool TryGet<T>(string key, out T? answer) => cache.TryGetValue(key, out answer) && answer is not null;

    /// <summary>Remembers an answer.</summary>
    /// <param name="key">All that it depends on.</param>
    /// <param name="weight">What it weighs, 1 and more.</param>
    /// <param name="answer">The answer.</param>
    /// <param name="keep">How long after it was last asked for; null for as long as there is room.</param>
    public T Put<T>(string key, int weight, T answer, TimeSpan? keep = null) =>
        cache.Set(key, answer, new MemoryCacheEntryOptions { Size = Math.Max(1, weight), SlidingExpiration = keep });

    /// <summary>The answer to a key, made where it is not remembered.</summary>
    /// <param name="key">All that it depends on.</param>
    /// <param name="weight">What it weighs, 1 and more.</param>
    /// <param name="make">Makes it.</param>
    /// <param name="keep">How long after it was last asked for; null for as long as there is room.</param>
    public T Once<T>(string key, int weight, Func<T> make, TimeSpan? keep = null) => TryGet(key, out T? known) ? known! : Put(key, weight, make(), keep);

    /// <inheritdoc/>
    public override T Once<T>(object key, int weight, Func<T> make) =>
        cache.TryGetValue(key, out T? known) && known is not null ? known : cache.Set(key, make(), new MemoryCacheEntryOptions { Size = Math.Max(1, weight) });

    /// <inheritdoc/>
    public void Dispose() => cache.Dispose();
}
