using Glenfrost.Core.Profiles;

namespace Glenfrost.Core.Tests.Evidence;

/// <summary>Names of presets from a pattern: what is unknown leaves no gap, and a word that is none is said.</summary>
public class PresetNameTests
{
    private static readonly PresetParts Parts = new("Dunnock 180", "Brackenfell", "Heath", "", "0.4 standard", "looks", 7);

    [Theory]
    [InlineData(PresetName.Usual, "Heath Dunnock 180 0.4 standard r7")]
    [InlineData("{maker} {line}  {colour}  for {use}", "Brackenfell Heath for looks")]
    [InlineData("plain", "plain")]
    public void A_name_is_made_of_what_is_known(string pattern, string name)
    {
        Assert.Null(PresetName.Fault(pattern));
        Assert.Equal(name, PresetName.Of(pattern, Parts));
    }

    [Theory]
    [InlineData("", "empty")]
    [InlineData("  ", "empty")]
    [InlineData("{line", "stands alone")]
    [InlineData("line}", "stands alone")]
    [InlineData("{maker}{ line}", "{ line} is no word of it")]
    [InlineData("{shelf}", "{shelf} is no word of it")]
    public void A_pattern_that_is_none_is_said(string pattern, string says) => Assert.Contains(says, PresetName.Fault(pattern));

    [Fact]
    public void A_pattern_of_all_words_tells_any_two_apart()
    {
        var all = string.Join(' ', PresetName.Words.Select(w => $"{{{w}}}"));
        Assert.Null(PresetName.Fault(all));
        Assert.NotEqual(PresetName.Of(all, Parts), PresetName.Of(all, Parts with { Revision = 8 }));
        Assert.NotEqual(PresetName.Of(all, Parts), PresetName.Of(all, Parts with { Printer = "Whimbrel 300" }));
        Assert.Contains("at most", PresetName.Fault(new string('x', PresetName.Longest + 1)));
    }
}
