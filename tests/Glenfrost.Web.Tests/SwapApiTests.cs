using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;

namespace Glenfrost.Web.Tests;

/// <summary>What is to blame, over the API: the worked example of the docs, and bad input told at its field.</summary>
public class SwapApiTests(House house) : IClassFixture<House>
{
    private async Task<(HttpStatusCode Code, JsonElement Said)> Ask(string json)
    {
        using var answer = await house.Visit().Client.PostAsync(
            "/api/v1/trials/swap/evaluate", new StringContent(json, Encoding.UTF8, "application/json"), TestContext.Current.CancellationToken);
        return (answer.StatusCode, await answer.Content.ReadFromJsonAsync<JsonElement>(TestContext.Current.CancellationToken));
    }

    [Theory]
    [InlineData(
        """[{"factors":{"filament":"Heath","printer":"Dunnock 180"},"passed":0,"tried":4},{"factors":{"filament":"Tarn","printer":"Dunnock 180"},"passed":5,"tried":5},{"factors":{"filament":"Heath","printer":"Whimbrel 300"},"passed":0,"tried":4}]""",
        "one", "The filament is to blame: exchanged, it passes. Luck alone does this 1 time in 63. Exchanging printer did not help.")]
    [InlineData(
        """[{"factors":{"filament":"Heath"},"passed":0,"tried":5},{"factors":{"filament":"Tarn"},"passed":1,"tried":1}]""",
        "luck", "Filament looks like the cause, and luck alone does this 1 time in 6: print it once more.")]
    [InlineData(
        """[{"factors":{"filament":"Heath","printer":"A"},"passed":0,"tried":6},{"factors":{"filament":"Tarn","printer":"A"},"passed":6,"tried":6},{"factors":{"filament":"Heath","printer":"B"},"passed":6,"tried":6}]""",
        "together", "It fails only in this combination: exchanging filament or printer cures it. Change the cheapest.")]
    [InlineData(
        """[{"factors":{"filament":"Heath"},"passed":0,"tried":1}]""", "insufficient",
        "Nothing was exchanged yet that tells: print the failing one twice more, to know that it fails.")]
    public async Task Worked_examples(string rows, string verdict, string sentence)
    {
        var (code, said) = await Ask($$"""{"rows":{{rows}}}""");
        Assert.Equal(HttpStatusCode.OK, code);
        Assert.Equal((verdict, sentence), (said.GetProperty("verdict").GetString(), said.GetProperty("sentence").GetString()));
        Assert.Equal(JsonDocument.Parse(rows).RootElement.GetArrayLength() - 1, said.GetProperty("byLuck").GetArrayLength());
        Assert.Equal(said.GetProperty("byLuck").GetArrayLength(), said.GetProperty("byLuckAdjusted").GetArrayLength());
    }

    [Theory]
    [InlineData("""{}""", "rows")]
    [InlineData("""{"rows":[]}""", "rows")]
    [InlineData("""{"rows":[{"factors":{},"passed":0,"tried":1}]}""", "rows[0].factors")]
    [InlineData("""{"rows":[{"factors":{"a":1},"passed":0,"tried":1}]}""", "rows[0].factors.a")]
    [InlineData("""{"rows":[{"factors":{"a":"x"},"passed":2,"tried":1}]}""", "rows[0].passed")]
    [InlineData("""{"rows":[{"factors":{"a":"x"},"passed":0}]}""", "rows[0].tried")]
    [InlineData("""{"rows":[{"factors":{"a":"x"},"passed":-1,"tried":3}]}""", "rows[0].passed")]
    [InlineData("""{"rows":[{"factors":{"a":"x"},"passed":3,"tried":3}]}""", "rows[0].passed")]
    [InlineData("""{"rows":[{"factors":{"a":"x"},"passed":0,"tried":3,"leftOut":4}]}""", "rows[0].leftOut")]
    public async Task Bad_input_is_told_at_its_field(string json, string field)
    {
        var (code, said) = await Ask(json);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, code);
        Assert.True(said.GetProperty("errors").TryGetProperty(field, out _), said.ToString());
    }
}
