namespace Glenfrost.Core.TestPieces;

/// <summary>
/// Where pieces, lines and moves that are functions of their key alone may be remembered, so that a page which asks again after each keystroke computes only
/// what the keystroke changed. The core keeps none of its own: who plans brings one, or none.
/// </summary>
public abstract class PieceMemory
{
    /// <summary>Remembers nothing.</summary>
    public static PieceMemory None { get; } = new Nothing();

    /// <summary>The answer to a key, made where it is not remembered; two callers may make the same one at once.</summary>
    /// <param name="key">All that it depends on; compared by its own equality.</param>
    /// <param name="weight">What it weighs beside other answers, 1 and more: about as many kB.</param>
    /// <param name="make">Makes it.</param>
    public abstract T Once<T>(object key, int weight, Func<T> make);

    private sealed class Nothing : PieceMemory
    {
        public override T Once<T>(object key, int weight, Func<T> make) => make();
    }
}
