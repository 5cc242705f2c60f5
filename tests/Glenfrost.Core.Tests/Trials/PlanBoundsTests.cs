using System.Text.Json.Nodes;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>A plan that came from elsewhere: every one of ours is taken, and of a changed one either the reason is said or every page can draw it.</summary>
public class PlanBoundsTests
{
    private static readonly string Golden = Path.Combine(AppContext.BaseDirectory, "golden");

    public static TheoryData<string> Kinds => [.. TrialCatalogue.All.Select(t => t.Kind)];

    private static string Json(string kind) => File.ReadAllText(Path.Combine(Golden, $"{kind}-v2.json"));

    /// <summary>All places in a document: the object or list that holds one, and its name or place there.</summary>
    private static IEnumerable<(string Path, Action<JsonNode, JsonNode?> Put, Action<JsonNode>? Remove)> Places(JsonNode? node, string path = "")
    {
        static JsonNode At(JsonNode root, string path) =>
            path.Split('/', StringSplitOptions.RemoveEmptyEntries).Aggregate(root, (n, p) => n is JsonArray a ? a[int.Parse(p)]! : n[p]!);
        if (node is JsonObject o)
        {
            foreach (var (name, value) in o)
            {
                yield return ($"{path}/{name}", (root, x) => At(root, path).AsObject()[name] = x, root => At(root, path).AsObject().Remove(name));
                foreach (var below in Places(value, $"{path}/{name}"))
                    yield return below;
            }
        }
        else if (node is JsonArray a)
        {
            // The first and the last of a list stand for the others.
            foreach (var i in new[] { 0, a.Count - 1 }.Where(i => i >= 0 && i < a.Count).Distinct())
            {
                yield return ($"{path}/{i}", (root, x) => At(root, path).AsArray()[i] = x, null);
                foreach (var below in Places(a[i], $"{path}/{i}"))
                    yield return below;
            }
        }
    }

    /// <summary>What pages ask of a plan, whatever its run holds.</summary>
    private static void Draw(Trial trial, ITrialPlan plan)
    {
        var grid = trial.Grid(plan);
        Assert.All(grid.Rows, r => Assert.InRange(r.Section, 0, plan.Parts.Count - 1));
        Assert.NotNull(plan.Summary);
        Assert.InRange(plan.TotalLayers, 0, PlanBounds.MostLayers);
        _ = plan.PieceLabels.Count + plan.Checkpoints.Count + plan.Warnings.Count + plan.Offers.Count + trial.SheetParts(plan).Count + plan.Estimate.Minutes;
        _ = trial.ValuesOf(plan);
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Every_plan_of_ours_is_taken(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var first = Path.Combine(ArchitectureTests.Root, "tests", "Glenfrost.Web.Tests", "golden", $"{kind}-v1.json");
        foreach (var file in Directory.GetFiles(Golden, $"{kind}-v*.json").Append(first))
        {
            var json = File.ReadAllText(file);
            Assert.Equal((file, null), (file, PlanBounds.Of(trial, json)));
            Draw(trial, trial.ReadPlan(json));
        }
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void Of_a_plan_with_one_thing_changed_the_reason_is_said_or_it_can_be_drawn(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var text = Json(kind);
        var tried = 0;
        foreach (var (path, put, remove) in Places(JsonNode.Parse(text)).ToList())
        {
            var values = new Func<JsonNode?>[]
            {
                () => null, () => 1_000_000_000, () => -1_000_000_000, () => 1e300, () => 0, () => "words", () => new string('x', 5000), () => new JsonArray(),
                () => new JsonObject(), () => new JsonArray([.. Enumerable.Range(0, 2500).Select(i => (JsonNode)i)]),
            };
            foreach (var change in values.Select(v => (Action<JsonNode>)(root => put(root, v()))).Concat(remove is null ? [] : [remove]))
            {
                var root = JsonNode.Parse(text)!;
                change(root);
                var json = root.ToJsonString();
                if (PlanBounds.Of(trial, json) is not null)
                    continue;
                tried++;
                var drawn = Record.Exception(() => Draw(trial, trial.ReadPlan(json)));
                Assert.True(drawn is null, $"{path}: {drawn?.GetType().Name} {drawn?.Message} is taken and can't be drawn");
            }
        }

        Assert.True(tried > 0);
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void A_number_that_is_left_out_is_said_and_never_read_as_nothing(string kind)
    {
        var (trial, text, said) = (TrialCatalogue.Get(kind), Json(kind), 0);
        foreach (var (path, _, remove) in Places(JsonNode.Parse(text)).Where(p => p.Remove is not null).ToList())
        {
            JsonNode? At(string json) => path.Split('/', StringSplitOptions.RemoveEmptyEntries)
                .Aggregate((JsonNode?)JsonNode.Parse(json), (n, p) => n is JsonArray a ? a[int.Parse(p)] : n?[p]);
            if (At(text) is not JsonValue stood || !stood.TryGetValue<double>(out var number))
                continue;
            var root = JsonNode.Parse(text)!;
            remove!(root);
            if (PlanBounds.Of(trial, root.ToJsonString()) is { } reason)
            {
                said += reason.Contains("is missing", StringComparison.Ordinal) ? 1 : 0;
                continue;
            }

            // What may be missing stays missing, or has its usual value.
            var read = At(StoredPlan.Write(trial.ReadPlan(root.ToJsonString())));
            Assert.True(read is null || read.GetValue<double>() == number, $"{kind}{path} is left out and read as {read?.ToJsonString()}");
        }

        Assert.True(said > 0);
    }

    [Theory]
    [InlineData("temperature-tower", "totalLayers")]
    [InlineData("temperature-tower", "layersPerSection")]
    [InlineData("temperature-tower", "baseLayers")]
    public void A_plan_of_a_billion_layers_is_refused_and_none_is_ever_laid(string kind, string member)
    {
        var root = JsonNode.Parse(Json(kind))!;
        root[member] = 1_000_000_000;
        Assert.Contains($"plan.{member} is beyond ±20000", PlanBounds.Of(TrialCatalogue.Get(kind), root.ToJsonString()), StringComparison.Ordinal);
        Assert.Equal(20_000, PieceSize.Layers(20_000));
        foreach (var layers in new[] { 20_001, 1_000_000_000_000, -1 })
            Assert.Contains("is not made", Assert.Throws<InvalidOperationException>(() => PieceSize.Layers(layers)).Message, StringComparison.Ordinal);
    }

    [Fact]
    public void No_mesh_is_divided_more_finely_than_anybody_slices()
    {
        PieceSize.Cells(2000, 10_000);
        Assert.Contains("is not made", Assert.Throws<InvalidOperationException>(() => PieceSize.Cells(2001, 10_000)).Message, StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("")]
    [InlineData("null")]
    [InlineData("[]")]
    [InlineData("{}")]
    [InlineData("\"plan\"")]
    [InlineData("{\"version\":2")]
    public void What_is_no_plan_is_told_for_every_trial(string json) => Assert.All(TrialCatalogue.All, t => Assert.NotNull(PlanBounds.Of(t, json)));
}
