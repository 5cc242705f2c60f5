namespace Glenfrost.Core.Settings;

/// <summary>How near two words are, for "did you mean".</summary>
internal static class NearWords
{
    /// <summary>Letters to put in, take out or change until one word is the other (Levenshtein 1966).</summary>
    internal static int Edits(string a, string b)
    {
        var row = Enumerable.Range(0, b.Length + 1).ToArray();
        for (var i = 1; i <= a.Length; i++)
        {
            var diagonal = row[0];
            row[0] = i;
            for (var j = 1; j <= b.Length; j++)
                (diagonal, row[j]) = (row[j], Math.Min(Math.Min(row[j] + 1, row[j - 1] + 1), diagonal + (a[i - 1] == b[j - 1] ? 0 : 1)));
        }

        return row[b.Length];
    }
}
