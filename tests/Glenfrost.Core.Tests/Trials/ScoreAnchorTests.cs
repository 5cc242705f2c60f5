using Glenfrost.Core.Trials;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>What scores look like, and columns that were read the wrong way round.</summary>
public class ScoreAnchorTests
{
    private static readonly ReadingGrid Grid = new(
        [.. Enumerable.Range(0, 6).Select(i => new GridRow(i, $"{i + 1}"))],
        [.. new[] { "bridge", "strings", "bond" }.Select(a => new GridColumn(a, a, CellKind.Score) { Anchors = ScoreAnchors.Strings })]);

    private static IReadOnlyList<string> Inverted(params (string Aspect, double?[] Scores)[] columns)
    {
        var cells = new Dictionary<(int, string), CellReading>();
        foreach (var (aspect, scores) in columns)
        {
            for (var i = 0; i < scores.Length; i++)
            {
                if (scores[i] is { } s)
                    cells[(i, aspect)] = new(s, $"{s}");
            }
        }

        return [.. ScoreAnchors.Inverted(Grid, new(cells)).Select(c => c.Aspect)];
    }

    [Fact]
    public void Strings_0_where_all_else_is_clean_are_asked_about() =>
        Assert.Equal(["strings"], Inverted(("bridge", [3, 4, 4, 4, 3, 3]), ("strings", [0, 0, 1, 0, 0, 1]), ("bond", [4, 4, 3, 4, 3, 4])));

    [Theory]
    [InlineData(new double[] { 4, 3, 3, 2, 1, 0 })]
    [InlineData(new double[] { 0, 0, 2, 3, 3, 4 })]
    [InlineData(new double[] { 1, 2, 1, 2, 1, 2 })]
    public void A_column_that_has_good_and_bad_is_not(double[] strings) =>
        Assert.Empty(Inverted(("bridge", [3, 4, 4, 4, 3, 3]), ("strings", [.. strings.Select(s => (double?)s)]), ("bond", [4, 4, 3, 4, 3, 4])));

    [Fact]
    public void A_piece_that_is_bad_throughout_is_not_and_two_rows_show_no_pattern()
    {
        Assert.Empty(Inverted(("bridge", [1, 0, 1, 2, 1, 1]), ("strings", [0, 0, 1, 0, 0, 1])));
        Assert.Empty(Inverted(("bridge", [4, 4, null, null, null, null]), ("strings", [0, 0, null, null, null, null])));
        Assert.Empty(Inverted(("strings", [0, 0, 1, 0, 0, 1])));
    }

    [Fact]
    public void Every_scored_column_of_every_trial_has_words_under_a_key_of_their_own()
    {
        Assert.Equal(ScoreAnchors.All.Count, ScoreAnchors.All.Select(a => a.Key).Distinct().Count());
        Assert.All(ScoreAnchors.All, a => Assert.Matches("^[a-z]+$", a.Key));
        var used = TrialCatalogue.All.SelectMany(t =>
        {
            var c = new PlanContext { Machine = Pieces.Machines.Dunnock, Settings = Pieces.Machines.Settings(Pieces.Machines.Dunnock), StepsPerMm = 93 };
            return t.Plan(t.Propose(c), c).Plan is { } plan ? t.Grid(plan).Columns.Select(x => x.Anchors).OfType<ScoreAnchors>() : [];
        }).Distinct().ToList();
        Assert.True(used.Count >= 8);
        Assert.All(used, a => Assert.Contains(a, ScoreAnchors.All));
    }
}
