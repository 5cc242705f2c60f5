namespace Glenfrost.Core.TestPieces.Shapes;

/// <summary>
/// Whole numbers as notches that a thumb counts, in five rows from the bottom up. The right edge of a post bears the ones and the left edge the tens; a long
/// notch, the lowest of its edge, stands for five of them.
/// </summary>
public static class Tally
{
    /// <summary>Rows at each edge: a long notch and four short ones.</summary>
    public const int Rows = 5;

    /// <summary>The largest number: a long notch and four short ones at either edge.</summary>
    public const int Most = 99;

    /// <summary>How far a short notch reaches in, of the post's width.</summary>
    private const double Short = 0.2;

    /// <summary>How far a long one does; between two of them the post stays whole.</summary>
    private const double Long = 0.4;

    /// <summary>Notches of one row as shares of the post's width, from its left edge; row 0 at the bottom.</summary>
    /// <param name="number">The number, 1 to <see cref="Most"/>.</param>
    /// <param name="row">The row, 0 to <see cref="Rows"/> − 1.</param>
    /// <exception cref="ArgumentOutOfRangeException">There is no room for the number.</exception>
    public static IReadOnlyList<(double From, double To)> Row(int number, int row)
    {
        ArgumentOutOfRangeException.ThrowIfNegativeOrZero(number);
        ArgumentOutOfRangeException.ThrowIfGreaterThan(number, Most);
        var notches = new List<(double, double)>();
        if (Reach(number / 10, row) is > 0 and var tens)
            notches.Add((0, tens));
        if (Reach(number % 10, row) is > 0 and var ones)
            notches.Add((1 - ones, 1));
        return notches;
    }

    private static double Reach(int digit, int row)
    {
        var five = digit / 5;
        return row < five ? Long : row < five + digit % 5 ? Short : 0;
    }
}
