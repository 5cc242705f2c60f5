using Glenfrost.Core.TestPieces;

namespace Glenfrost.Application;

/// <summary>Remembers as another memory does, and stops the work between two answers once the visitor who asked for it has left.</summary>
/// <param name="inner">What remembers.</param>
/// <param name="left">Told when the visitor leaves.</param>
public sealed class LeavingMemory(PieceMemory inner, CancellationToken left) : PieceMemory
{
    /// <inheritdoc/>
    /// <exception cref="OperationCanceledException">The visitor has left; nothing is remembered of what was half made.</exception>
    public override T Once<T>(object key, int weight, Func<T> make)
    {
        left.ThrowIfCancellationRequested();
        return inner.Once(key, weight, make);
    }
}
