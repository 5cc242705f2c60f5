using System.Net.Http.Json;
using System.Text.Json;
using Glenfrost.Application;
using Glenfrost.Application.Trials;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Web.Tests;

/// <summary>The words of what a plan warns of, and of a spool's dryness.</summary>
public class PlanWarningWordsTests(EmptyApp site) : IClassFixture<EmptyApp>
{
    public static TheoryData<PlanWarningKind> Kinds => [.. Enum.GetValues<PlanWarningKind>()];

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Every_warning_has_a_sentence(PlanWarningKind kind)
    {
        var said = PlanWarningWords.Say(new(kind, [1, 2, 3, 4, 5, 6, 7], ["PA", "flow"]));
        if (kind != PlanWarningKind.Said)
            Assert.Matches(@"^[A-Z0-9].{15,}\.$", said);
        Assert.DoesNotContain("  ", said);
        Assert.DoesNotContain("..", said);
    }

    [Fact]
    public void A_warning_says_its_numbers_with_their_units()
    {
        Assert.Equal(
            "The profile counts with 1.75 mm, this spool measures 1.72: −3.4 % plastic. Put the measured diameter in the profile first.",
            PlanWarningWords.Say(new(PlanWarningKind.OtherDiameter, 1.75, 1.72)));
        Assert.Equal(
            "12 of 20 layers are slowed, to 14 to 22 mm/s, by the least layer time of 10 s (profile): so little plastic a layer would not set. A larger piece " +
            "or a shorter least time prints nearer the speeds in force.",
            PlanWarningWords.Say(new(PlanWarningKind.Slowed, [12, 20, 14, 22, 10], ["profile"])));
        Assert.StartsWith("20 of 20 layers are slowed, to 14 mm/s, by the least layer time of 10 s: so", PlanWarningWords.Say(new(PlanWarningKind.Slowed, 20, 20, 14, 14, 10)));
        Assert.StartsWith("There is no brim: 5 mm hold the corners of ABS.", PlanWarningWords.Say(new(PlanWarningKind.NarrowBrim, [0, 5], ["ABS"])));
        Assert.StartsWith("The brim is 2 mm; 5 mm hold", PlanWarningWords.Say(new(PlanWarningKind.NarrowBrim, [2, 5], ["ABS"])));
        Assert.StartsWith("Some sections above 220 °C", PlanWarningWords.Say(new(PlanWarningKind.SectionsAboveContinuous, 220)));
        Assert.StartsWith("About 12 min above 220 °C", PlanWarningWords.Say(new(PlanWarningKind.SectionsAboveContinuous, 220, 12)));
        Assert.EndsWith(" It helps.", PlanWarningWords.Say(new(PlanWarningKind.Said, [], ["As version 1 said. It helps."])));
    }

    [Theory]
    [InlineData(10, 50.0, "Dry enough: open for 10 of the 72 h that it bears.")]
    [InlineData(60, 50.0, "Near its limit: open for 60 of 72 h. 6 h at 65 °C before strings or flow limit costs little.")]
    [InlineData(80, 50.0, "Damp: open for 80 h, 8 h more than it bears. Dry it for 6 h at 65 °C first.")]
    [InlineData(80, null, "Damp: open for 80 h, 8 h more than it bears at the usual 50 %RH, which nobody logged. Dry it for 6 h at 65 °C first.")]
    [InlineData(null, 50.0, "Nobody knows how long it stood open: 6 h at 65 °C makes it sure.")]
    public void Dryness_is_said_with_its_hours_and_whether_the_humidity_was_logged(int? open, double? humidity, string sentence)
    {
        var advice = DrynessAdvice.Of(new() { Family = Family.Find("PETG"), OpenHours = open, HumidityPercent = humidity });
        Assert.Equal(sentence, DrynessWords.Sentence(advice));
        // A plan stores state and numbers, and says the same from them.
        Assert.Equal($"Dry first: {sentence} Damp filament gives a false flow limit.", PlanWarningWords.Say(new(PlanWarningKind.DryFirst, advice.Numbers, [advice.State, "flow"])));
    }

    [Fact]
    public void What_lengthens_drying_is_the_reel_or_the_dryer()
    {
        DrynessFacts Facts(double? reel, double? dryer) =>
            new() { Family = Family.Find("PA"), OpenHours = 20, HumidityPercent = 50, ReelMaxC = reel, DryerMaxC = dryer };
        Assert.Contains("80 °C would be right, but the reel bears 60 °C: 4 times as long at 60 °C.", DrynessWords.Reasons(DrynessAdvice.Of(Facts(60, 80))));
        Assert.Contains("80 °C would be right, but the dryer reaches 70 °C: 2 times as long at 70 °C.", DrynessWords.Reasons(DrynessAdvice.Of(Facts(null, 70))));
        Assert.DoesNotContain(DrynessWords.Reasons(DrynessAdvice.Of(Facts(null, 80))), r => r.Contains("would be right", StringComparison.Ordinal));
        Assert.Equal(
            ["While it dried it still lost 0.4 g an hour: below 0.1 it is dry."],
            DrynessWords.Reasons(DrynessAdvice.Of(
                new() { Family = Family.Find("PETG"), OpenHours = 0, LastDrying = (-6, 0), Weighings = [new(-1, 742.0), new(0, 741.6)] })));
    }

    [Fact]
    public async Task The_api_answers_warnings_in_words_as_before()
    {
        var client = site.CreateClient();
        var cancel = TestContext.Current.CancellationToken;
        var reply = await client.PostAsJsonAsync(
            "/api/v1/trials/temperature-tower/plan",
            new { hottestC = 230, coolestC = 190, stepC = 2, sectionHeightMm = 10, baseHeightMm = 1.2, layerHeightMm = 0.2, firstLayerHeightMm = 0.2, advised = new { min = 195, max = 220 } }, cancel);
        var answer = await reply.Content.ReadFromJsonAsync<JsonElement>(cancel);
        Assert.True(reply.IsSuccessStatusCode, answer.ToString());
        var warnings = answer.GetProperty("warnings").EnumerateArray().Select(w => w.GetString()!).ToList();
        Assert.Contains("230 °C is above the advised 220 °C. Advice, not a limit: allowed and marked.", warnings);
        Assert.Contains(warnings, w => w.StartsWith("Slender: ", StringComparison.Ordinal));
        Assert.NotEmpty(answer.GetProperty("offers").EnumerateArray());
        var described = await client.GetStringAsync("/openapi/v1.json", cancel);
        Assert.DoesNotContain("PlanWarningKind", described, StringComparison.Ordinal);
        // Every plan is described as it is answered: its warnings are texts.
        var schemas = JsonDocument.Parse(described).RootElement.GetProperty("components").GetProperty("schemas");
        var plans = schemas.EnumerateObject().Where(s => s.Name.EndsWith("Plan", StringComparison.Ordinal) || s.Name == "TowerPlanAnswer")
            .Where(s => s.Value.TryGetProperty("properties", out var fields) && fields.TryGetProperty("warnings", out _)).ToList();
        Assert.NotEmpty(plans);
        Assert.All(plans, p =>
        {
            var item = p.Value.GetProperty("properties").GetProperty("warnings").GetProperty("items");
            if (item.TryGetProperty("$ref", out var named))
                item = schemas.GetProperty(named.GetString()!.Split('/')[^1]);
            Assert.Equal("string", item.GetProperty("type").GetString());
        });
    }
}
