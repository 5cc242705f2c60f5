namespace Glenfrost.Core.TestPieces.Shapes;

/// <summary>Whole numbers as strokes on a grid of three columns by five rows a digit, to be cut into a wall.</summary>
public static class Digits
{
    /// <summary>Rows of a digit, from the top down; a bit for each column, the left one highest.</summary>
    private static readonly int[][] Rows =
    [
        [7, 5, 5, 5, 7], [2, 6, 2, 2, 7], [7, 1, 7, 4, 7], [7, 1, 3, 1, 7], [5, 5, 7, 1, 1],
        [7, 4, 7, 1, 7], [7, 4, 7, 5, 7], [7, 1, 2, 2, 2], [7, 5, 7, 5, 7], [7, 5, 7, 1, 7],
    ];

    /// <summary>Columns that a number needs, with one free between digits.</summary>
    public static int Columns(int number) => Text(number).Length * 4 - 1;

    /// <summary>Cut columns of one row as spans from (included) to (excluded), row 0 at the bottom.</summary>
    public static IReadOnlyList<(int From, int To)> Row(int number, int row)
    {
        var cut = new bool[Columns(number)];
        var text = Text(number);
        for (var d = 0; d < text.Length; d++)
        {
            for (var c = 0; c < 3; c++)
                cut[d * 4 + c] = (Rows[text[d] - '0'][4 - row] >> (2 - c) & 1) == 1;
        }

        var spans = new List<(int, int)>();
        for (var c = 0; c < cut.Length; c++)
        {
            if (!cut[c])
                continue;
            var from = c;
            while (c < cut.Length && cut[c])
                c++;
            spans.Add((from, c));
        }

        return spans;
    }

    private static string Text(int number) => number.ToString(System.Globalization.CultureInfo.InvariantCulture);
}
