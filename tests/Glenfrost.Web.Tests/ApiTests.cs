using System.Net;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using Glenfrost.Core.Trials;

namespace Glenfrost.Web.Tests;

public class ApiTests(EmptyApp site) : IClassFixture<EmptyApp>
{
    private readonly HttpClient client = site.CreateClient();

    private async Task<(HttpStatusCode Code, JsonElement Body)> Post(string path, string json, string type = "application/json")
    {
        var reply = await client.PostAsync("/api/v1/trials/temperature-tower/" + path, new StringContent(json, Encoding.UTF8, type));
        return (reply.StatusCode, await reply.Content.ReadFromJsonAsync<JsonElement>());
    }

    private const string Plan =
        """{"hottestC":230,"coolestC":190,"stepC":5,"sectionHeightMm":10,"baseHeightMm":1.2,"layerHeightMm":0.2,"firstLayerHeightMm":0.2}""";

    [Fact]
    public async Task A_plan_answers_sections_layers_and_checkpoints()
    {
        var (code, body) = await Post("plan", Plan);
        Assert.Equal(HttpStatusCode.OK, code);
        Assert.Equal(9, body.GetProperty("sections").GetArrayLength());
        Assert.Equal(50, body.GetProperty("layersPerSection").GetInt32());
        var first = body.GetProperty("sections")[0];
        Assert.Equal(
            (0, 230, 1.2m, 11.2m, 7, 56),
            (
                first.GetProperty("index").GetInt32(), first.GetProperty("temperatureC").GetInt32(), first.GetProperty("fromZMm").GetDecimal(),
                first.GetProperty("toZMm").GetDecimal(), first.GetProperty("firstLayer").GetInt32(), first.GetProperty("lastLayer").GetInt32()));
        Assert.Equal(9, body.GetProperty("checkpoints").GetArrayLength());
    }

    [Theory]
    [InlineData("""{"hottestC":230,"coolestC":188,"stepC":5,"sectionHeightMm":10,"baseHeightMm":1.2,"layerHeightMm":0.2,"firstLayerHeightMm":0.2}""", "stepC")]
    [InlineData("""{"hottestC":"hot","coolestC":190,"stepC":5}""", "hottestC")]
    [InlineData("""{"hottestC":1e300,"coolestC":190,"stepC":5}""", "hottestC")]
    [InlineData("""{}""", "hottestC")]
    [InlineData("""[]""", "")]
    [InlineData("""{"hottestC":230,"stepC":5,"totalLayers":461,"baseLayers":6,"sections":9}""", "totalLayers")]
    [InlineData("""{"hottestC":230,"stepC":5,"totalLayers":456,"baseLayers":6,"sections":9,"limits":{"max":220}}""", "hottestC")]
    [InlineData("""{"hottestC":230,"limits":{"min":300,"max":200}}""", "limits")]
    public async Task Bad_plans_are_answered_with_problem_details_by_field(string json, string field)
    {
        var reply = await client.PostAsync("/api/v1/trials/temperature-tower/plan", new StringContent(json, Encoding.UTF8, "application/json"));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, reply.StatusCode);
        Assert.Equal("application/problem+json", reply.Content.Headers.ContentType!.MediaType);
        Assert.True((await reply.Content.ReadFromJsonAsync<JsonElement>()).GetProperty("errors").TryGetProperty(field, out _));
    }

    [Fact]
    public async Task Offers_come_with_the_problem()
    {
        var (_, body) = await Post("plan", Plan.Replace("\"sectionHeightMm\":10", "\"sectionHeightMm\":10.1"));
        Assert.True(body.GetProperty("offers").GetProperty("sectionHeightMm").GetArrayLength() > 0);
    }

    [Theory]
    [InlineData("{", "application/json", 400)]
    [InlineData("", "application/json", 400)]
    [InlineData("{}", "text/plain", 415)]
    public async Task What_is_no_json_is_said(string body, string type, int code) => Assert.Equal(code, (int)(await Post("plan", body, type)).Code);

    [Fact]
    public async Task An_evaluation_answers_the_fixed_fields()
    {
        var (code, body) = await Post("evaluate", """
            {"sections":[
              {"temperatureC":225,"state":"judged","scores":{"bridge":1,"overhang":2,"strings":1,"surface":2}},
              {"temperatureC":220,"state":"judged","scores":{"bridge":2,"overhang":2,"strings":2,"surface":2}},
              {"temperatureC":215,"state":"judged","scores":{"bridge":4,"overhang":4,"strings":4,"surface":4}},
              {"temperatureC":210,"state":"judged","scores":{"bridge":2,"overhang":2,"strings":4,"surface":2}},
              {"temperatureC":205,"state":"failed"},
              {"temperatureC":200,"state":"lost"}],
             "preference":"balanced","scoreNoise":0.5,"limits":{"min":170,"max":240}}
            """);
        Assert.Equal(HttpStatusCode.OK, code);
        Assert.Equal("clear", body.GetProperty("verdict").GetString());
        Assert.Equal(215, body.GetProperty("recommendedTemperatureC").GetDouble());
        Assert.Equal(6, body.GetProperty("desirability").GetArrayLength());
        Assert.Equal(0, body.GetProperty("desirability")[4].GetDouble());
        Assert.Equal(JsonValueKind.Null, body.GetProperty("desirability")[5].ValueKind);
        Assert.Equal(215, body.GetProperty("band").GetProperty("fromC").GetDouble());
        Assert.Equal("nozzleTemperatureC", body.GetProperty("settings")[0].GetProperty("key").GetString());
        foreach (var name in new[] { "reasons", "warnings", "next", "winProbability" })
            Assert.True(body.TryGetProperty(name, out _), name);
    }

    [Fact]
    public async Task Repeats_inside_a_section_answer_in_one_place()
    {
        var (code, body) = await Post(
            "evaluate",
            """{"sections":[{"temperatureC":220,"state":"judged","repeats":[{"scores":{"bridge":3,"surface":3}},{"scores":{"bridge":4,"surface":3}}]},{"temperatureC":215,"state":"judged","scores":{"bridge":2,"surface":2}}]}"""
        );
        Assert.Equal(HttpStatusCode.OK, code);
        Assert.Equal(2, body.GetProperty("desirability").GetArrayLength());
    }

    [Theory]
    [InlineData("""{"sections":[{"temperatureC":220,"state":"melted"}]}""", "sections[0].state")]
    [InlineData("""{"sections":[{"temperatureC":220,"scores":{"bridge":5}}]}""", "sections[0].scores.bridge")]
    [InlineData("""{"sections":[{"temperatureC":220,"scores":{"bridge":3}},{"temperatureC":215,"scores":{"gloss":3}}]}""", "sections[1].scores.gloss")]
    [InlineData("""{"sections":[{"scores":{"bridge":3}}]}""", "sections[0].temperatureC")]
    [InlineData("""{"sections":[]}""", "sections")]
    [InlineData("""{"sections":"all"}""", "sections")]
    [InlineData("""{"sections":[{"temperatureC":220,"scores":{"bridge":3}}],"preference":"pretty"}""", "preference")]
    [InlineData("""{"sections":[{"temperatureC":220,"scores":{"bridge":3}}],"weights":{"bridge":-1}}""", "weights.bridge")]
    [InlineData("""{"sections":[{"temperatureC":220,"scores":{"bridge":3}}],"scoreNoise":9}""", "scoreNoise")]
    public async Task Bad_evaluations_are_answered_by_field(string json, string field)
    {
        var (code, body) = await Post("evaluate", json);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, code);
        Assert.True(body.GetProperty("errors").TryGetProperty(field, out _), body.ToString());
    }

    [Fact]
    public async Task A_body_over_the_limit_is_no_server_error() =>
        Assert.True(
            (int)
                (
                    await client.PostAsync(
                        "/api/v1/trials/temperature-tower/plan",
                        new StringContent("{\"x\":\"" + new string('x', 3_000_000) + "\"}", Encoding.UTF8, "application/json"))).StatusCode < 500);

    [Fact]
    public async Task Every_kind_in_the_catalogue_stands_in_the_description()
    {
        var paths = (await client.GetFromJsonAsync<JsonElement>("/openapi/v1.json")).GetProperty("paths");
        foreach (var kind in TrialCatalogue.All)
        {
            Assert.True(paths.TryGetProperty($"/api/v1/trials/{kind.Kind}/plan", out var plan));
            Assert.True(paths.TryGetProperty($"/api/v1/trials/{kind.Kind}/evaluate", out _));
            Assert.True(plan.GetProperty("post").GetProperty("responses").TryGetProperty("422", out _));
            Assert.True(Directory.Exists(Path.Combine(TestApp.Root, "src/Glenfrost.Web/Pages/Trials", kind.PageFolder)));
            Assert.True(Directory.Exists(Path.Combine(TestApp.Root, "src/Glenfrost.Core/Trials", kind.PageFolder.Split('/')[0])));
        }
    }
}
