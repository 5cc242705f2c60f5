using System.Text.Json;
using System.Text.Json.Nodes;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;
using Glenfrost.Core.Trials.WallFlow;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>What is stored of a plan: kinds and numbers, no sentences, the same again after reading.</summary>
public class StoredPlanTests
{
    /// <summary>Set to write the golden files anew; a change of one is a change of the stored form, and needs a new version where a field goes.</summary>
    private static readonly bool Renew = Environment.GetEnvironmentVariable("GLENFROST_RENEW_GOLDEN") == "1";

    public static TheoryData<string> Kinds => [.. TrialCatalogue.All.Select(t => t.Kind)];

    /// <summary>A plan with much to warn of: damp, an open printer, a strong fan, a low bed, a hot liner.</summary>
    private static ITrialPlan Made(Trial trial)
    {
        var family = Family.Find(trial.Suits("ABS") ? "ABS" : trial.Suits("TPU") ? "TPU" : "PLA")!;
        var machine = Machines.Whimbrel with
        {
            Enclosure = "none",
            BedMaxC = 80,
            Limits = HotendLimits.Of(HotendLiner.PtfeLined, 260, null, null, null, 3, null),
        };
        var kept = new Dictionary<string, double>
        {
            ["fanPercent"] = 100, ["bedTemperatureC"] = 60, ["nozzleTemperatureC"] = 236, ["minLayerTimeS"] = 20,
        };
        var c = new PlanContext
        {
            Machine = machine, Settings = PrintSettings.From(kept, machine, family), Family = family, AdvisedC = new(200, 220), Kept = kept, StepsPerMm = 400,
            Subject = "any", Dryness = DrynessAdvice.Of(new() { Family = family, OpenHours = 500 }),
        };
        var planned = trial.Plan(trial.Propose(c), c);
        Assert.Empty(planned.Errors);
        return planned.Plan!.WritesFile && trial.Make(planned.Plan, c) is ({ } made, not null, _) ? made : planned.Plan;
    }

    private static IEnumerable<(string Path, string Text)> Strings(JsonNode? node, string path = "") => node switch
    {
        JsonObject o => o.SelectMany(p => Strings(p.Value, $"{path}.{p.Key}")),
        JsonArray a => a.SelectMany(x => Strings(x, path)),
        JsonValue v when v.GetValueKind() == JsonValueKind.String => [(path, v.GetValue<string>())],
        _ => [],
    };

    [Theory]
    [MemberData(nameof(Kinds))]
    public void A_stored_plan_has_no_sentences_and_is_the_same_after_reading(string kind)
    {
        var trial = TrialCatalogue.Get(kind);
        var plan = Made(trial);
        var json = StoredPlan.Write(plan);
        Assert.Equal(2, JsonNode.Parse(json)!["version"]!.GetValue<int>());
        // A button's words, a warning or the part that sets a limit would be sentences; the longest words are names of choices, states and ways.
        Assert.DoesNotContain(Strings(JsonNode.Parse(json)), s => s.Text.Split(' ').Length > 5 || s.Text.EndsWith('.'));
        var again = trial.ReadPlan(json);
        Assert.Equal(json, StoredPlan.Write(again));
        Assert.Equal(plan.Warnings, again.Warnings);
        Assert.Equal(plan.Summary, again.Summary);
        Assert.Equal(plan.Parts, again.Parts);
        Assert.Equal(plan.Checkpoints, again.Checkpoints);

        var file = Path.Combine(ArchitectureTests.Root, "tests/Glenfrost.Core.Tests/golden", $"{kind}-v2.json");
        if (Renew)
            File.WriteAllText(file, JsonNode.Parse(json)!.ToJsonString(new() { WriteIndented = true }) + "\n");
        var golden = trial.ReadPlan(File.ReadAllText(file));
        Assert.Equal(json, StoredPlan.Write(golden));
    }

    [Fact]
    public void What_version_1_said_is_read_as_it_was_said_and_is_version_2_when_it_is_stored_again()
    {
        var plan = (TowerPlan)Made(TrialCatalogue.Get("temperature-tower"));
        var old = JsonNode.Parse(StoredPlan.Write(plan))!.AsObject();
        old["version"] = 1;
        old["warnings"] = new JsonArray("Slender: a knock fells it.", "240 °C is above the advised 230 °C.");
        old["offers"] = new JsonArray(new JsonObject { ["label"] = "two towers", ["changes"] = new JsonObject { ["coolestC"] = 210 }, ["note"] = "stiffer" });
        old["request"]!["limits"]!["maxBecause"] = "PTFE liner";
        var read = (TowerPlan)TrialCatalogue.Get("temperature-tower").ReadPlan(old.ToJsonString());
        Assert.Equal(
            [new(PlanWarningKind.Said, [], ["Slender: a knock fells it."]), new(PlanWarningKind.Said, [], ["240 °C is above the advised 230 °C."])],
            read.Warnings);
        Assert.Equal("two towers", Assert.Single(read.Offers).Label);
        Assert.Equal(plan.Sections, read.Sections);
        var now = JsonNode.Parse(StoredPlan.Write(read))!;
        Assert.Equal(2, now["version"]!.GetValue<int>());
        Assert.Null(now["offers"]);
        Assert.Null(now["request"]!["limits"]!["maxBecause"]);
        Assert.Equal("said", now["warnings"]![0]!["kind"]!.GetValue<string>());
    }

    [Theory]
    [InlineData("""[{"kind": "noSuchThing"}]""")]
    [InlineData("[null]")]
    [InlineData("[{}]")]
    [InlineData("[7]")]
    public void A_warning_that_is_none_is_no_plan(string warnings)
    {
        var json = JsonNode.Parse(StoredPlan.Write(Made(new WallFlowTrial())))!;
        json["warnings"] = JsonNode.Parse(warnings);
        var read = Record.Exception(() => new WallFlowTrial().ReadPlan(json.ToJsonString()) is { } p && p.Warnings.All(w => w is not null) ? p : throw new JsonException());
        Assert.IsType<JsonException>(read);
    }

    [Fact]
    public void Each_trial_warns_of_what_its_plan_has_against_it()
    {
        var kinds = TrialCatalogue.All.SelectMany(t => Made(t).Warnings.Select(w => w.Kind)).Distinct().ToList();
        // One context brings out most that a plan can warn of; the rest have tests of their own.
        foreach (var kind in new[]
        {
            PlanWarningKind.AboveAdvised, PlanWarningKind.DryFirst, PlanWarningKind.DiameterUnknown, PlanWarningKind.OpenPrinter, PlanWarningKind.FanTooFast,
            PlanWarningKind.NarrowBrim, PlanWarningKind.CoolBed, PlanWarningKind.Slowed,
        })
            Assert.Contains(kind, kinds);
    }
}
