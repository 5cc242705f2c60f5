namespace Glenfrost.Core.TestPieces;

/// <summary>
/// Remembers the last few answers of a pure function, so that a page which asks again after each keystroke computes only what the keystroke changed.
/// </summary>
/// <param name="most">How many answers are remembered.</param>
internal sealed class Recent<TKey, TValue>(int most)
    where TKey : notnull
{
    private readonly LinkedList<(TKey Key, TValue Value)> answers = new();

    /// <summary>The remembered answer, or a new one; two callers may compute the same one at once.</summary>
    public TValue Of(TKey key, Func<TValue> make)
    {
        lock (answers)
        {
            for (var node = answers.First; node is not null; node = node.Next)
            {
                if (!node.Value.Key.Equals(key))
                    continue;
                answers.Remove(node);
                answers.AddFirst(node);
                return node.Value.Value;
            }
        }

        var value = make();
        lock (answers)
        {
            answers.AddFirst((key, value));
            if (answers.Count > most)
                answers.RemoveLast();
        }

        return value;
    }
}
