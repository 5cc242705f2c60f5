using System.Net.Http.Json;
using System.Text.Json;
using Glenfrost.Application.Trials;
using Glenfrost.Core.Trials;

namespace Glenfrost.Web.Tests;

/// <summary>What the typed contract promises of every trial, and the words of their verdicts.</summary>
public class ContractTests(EmptyApp site) : IClassFixture<EmptyApp>
{
    private static Type Contract(Trial trial)
    {
        for (var t = trial.GetType(); t is not null; t = t.BaseType)
        {
            if (t.IsGenericType && t.GetGenericTypeDefinition() == typeof(Trial<,,>))
                return t;
        }

        throw new InvalidOperationException($"{trial.Kind} does not stand on the typed contract.");
    }

    public static TheoryData<string> Typed => [.. TrialCatalogue.All.Select(t => t.Kind)];

    [Theory]
    [MemberData(nameof(Typed))]
    public void Every_field_is_declared_once_with_all_that_pages_need(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var request = Contract(trial).GetGenericArguments()[0];
        // Each property of the request has its field and no field is without one: what the page asks, the API takes.
        Assert.Equal(
            request.GetProperties().Where(p => p.Name != "Mode" && p.Name != "EqualityContract").Select(p => JsonNamingPolicy.CamelCase.ConvertName(p.Name)).Order(),
            trial.Fields.Keys.Order());
        foreach (var (name, field) in trial.Fields)
        {
            Assert.Equal(name, field.Name);
            Assert.NotEmpty(field.Label);
            Assert.NotEmpty(field.Group);
            Assert.Equal(field.Words?.Count ?? 0, field.WordLabels.Count);
            Assert.False(field.IsTick && field.Needed);
        }

        // Fields of one group stand side by side, so that each group is drawn once.
        var groups = trial.Fields.Values.Select(f => f.Group).ToList();
        Assert.Equal(groups.Distinct().Count(), 1 + groups.Zip(groups.Skip(1)).Count(x => x.First != x.Second));
        // What it proposes passes at its own doors.
        foreach (var (name, value) in trial.Propose(new()).Where(v => v.Value is decimal && trial.Fields.ContainsKey(v.Key)))
            Assert.Null(trial.Fields[name].Quantity!.Check((decimal)value).Error);
    }

    [Theory]
    [MemberData(nameof(Typed))]
    public void Its_rules_say_codes_and_its_words_say_sentences(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var verdict = trial.Evaluate(new(JsonDocument.Parse(trial.Example).RootElement))!;
        Assert.NotEmpty(verdict.Verdict);
        Assert.Matches("^[a-z]+(-[a-z]+)*$", verdict.Verdict);
        Assert.Empty(verdict.Sentence);
        Assert.Empty(verdict.Reasons);
        Assert.Empty(verdict.Warnings);
        Assert.Empty(verdict.Arithmetic);
        Assert.Equal("", verdict.Next?.Text ?? "");
        Assert.True(VerdictWords.Has(verdict.GetType()), $"{verdict.GetType().Name} has no words");
        var told = VerdictWords.Tell(verdict);
        Assert.NotEmpty(told.Sentence);
        Assert.NotEmpty(told.Arithmetic);
        Assert.Equal(verdict.Next is null, told.Next is null);
        if (told.Next is { } next)
            Assert.NotEmpty(next.Text);
        // What has its words keeps them: a verdict is never told twice.
        Assert.Same(told, VerdictWords.Tell(told));
    }

    [Theory]
    [InlineData("wall-flow")]
    public async Task The_words_of_a_verdict_are_those_that_it_had_before_they_were_moved(string kind)
    {
        var cases = JsonDocument.Parse(await File.ReadAllTextAsync(Path.Combine(TestApp.Root, "tests", "Glenfrost.Web.Tests", "golden", $"{kind}-words.json")));
        var client = site.CreateClient();
        var outcomes = new HashSet<string>();
        foreach (var c in cases.RootElement.EnumerateArray())
        {
            var reply = await client.PostAsJsonAsync($"/api/v1/trials/{kind}/evaluate", c.GetProperty("in"));
            var said = await reply.Content.ReadFromJsonAsync<JsonElement>();
            foreach (var name in new[] { "verdict", "sentence", "reasons", "warnings", "arithmetic" })
                Assert.True(
                    JsonElement.DeepEquals(c.GetProperty(name), said.GetProperty(name)), $"{name} was {c.GetProperty(name)} and is {said.GetProperty(name)}");
            Assert.Equal(
                c.GetProperty("next").ToString(), said.GetProperty("next") is { ValueKind: JsonValueKind.Object } next ? next.GetProperty("text").ToString() : "");
            outcomes.Add(said.GetProperty("verdict").GetString()!);
        }

        Assert.True(outcomes.Count >= 4, $"only {string.Join(", ", outcomes)} are among the cases");
    }

    [Theory]
    [InlineData("""{"wallMm": [], "strings": []}""", "measure-more", "Nothing is read yet.")]
    [InlineData("""{"wallMm": [0.44, 0.45], "strings": [3]}""", "measure-more", "Not to be told yet: 2 walls of the least four are missing.")]
    [InlineData("""{"wallMm": [0.44, 0.45, 0.44], "strings": [3]}""", "measure-more", "Not to be told yet: 1 wall of the least four is missing.")]
    [InlineData("""{"wallMm": [0.44, 0.45, 0.44, 0.45], "strings": []}""", "measure-more", "Not to be told yet: a look at the strings is missing.")]
    [InlineData("""{"wallMm": [0.44, 0.45, 0.44, 0.45], "strings": [3]}""", "baseline", "Nothing to set it beside. Wall 0.445 mm, strings 3")]
    [InlineData("""{"wallMm": [0.44, 0.45, 0.44, 0.45], "strings": [3], "keptWallMm": 0.445, "keptStrings": 3}""", "passed", "Passed. Wall 0.445 mm (0 ±")]
    [InlineData("""{"wallMm": [0.48, 0.48, 0.48, 0.48], "strings": [1], "keptWallMm": 0.445, "keptStrings": 3}""", "differs",
        "Differs. The wall is 7.9 % thicker and the strings are 2 scores worse: flow and retraction and strings are doubtful")]
    public async Task A_quick_check_says_what_came_out_and_what_is_missing(string sent, string verdict, string begins)
    {
        var reply = await site.CreateClient().PostAsync(
            "/api/v1/trials/quick-check/evaluate", new StringContent(sent, System.Text.Encoding.UTF8, "application/json"), TestContext.Current.CancellationToken);
        var said = await reply.Content.ReadFromJsonAsync<JsonElement>();
        Assert.Equal(verdict, said.GetProperty("verdict").GetString());
        Assert.StartsWith(begins, said.GetProperty("sentence").GetString());
    }
}
