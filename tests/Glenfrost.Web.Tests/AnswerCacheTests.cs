namespace Glenfrost.Web.Tests;

/// <summary>What is remembered is bounded as a whole, made once for a key, and forgotten without harm.</summary>
public class AnswerCacheTests
{
    [Fact]
    public void An_answer_is_made_once_for_its_key_and_nothing_else()
    {
        using var answers = new AnswerCache();
        var made = 0;
        Assert.Equal(1, answers.Once("a", 1, () => ++made));
        Assert.Equal(1, answers.Once("a", 1, () => ++made));
        Assert.Equal(2, answers.Once("b", 1, () => ++made));
        // Another kind of answer to the same key is none of this one's.
        Assert.Equal("word", answers.Once("a", 1, () => "word"));
    }

    [Fact]
    public async Task However_much_is_asked_no_more_is_kept_than_there_is_room_for()
    {
        using var answers = new AnswerCache();
        var room = AnswerCache.MostWeight / AnswerCache.Piece;
        for (var i = 0; i < 10 * room; i++)
            Assert.Equal(i, answers.Once($"{i}", AnswerCache.Piece, () => i));
        // Room is made beside the work.
        for (var wait = 0; wait < 100 && answers.Count > room; wait++)
            await Task.Delay(20, TestContext.Current.CancellationToken);
        Assert.InRange(answers.Count, 1, room);
        // One that weighs more than all room is answered and not kept.
        Assert.Equal(7, answers.Once("heavy", AnswerCache.MostWeight + 1, () => 7));
        Assert.False(answers.TryGet<int>("heavy", out _));
    }
}
