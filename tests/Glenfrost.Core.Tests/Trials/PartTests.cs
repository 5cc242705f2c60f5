using Glenfrost.Core.Gcode.Inspection;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.Part;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Somebody's own part: its zones off the file, and passed or not zone by zone.</summary>
public class PartTests
{
    private static PartVerdict Judge(double target, params PartZone[] zones) => PartJudging.Judge(new() { Zones = zones, TargetScore = target });

    [Fact]
    public void One_zone_that_is_short_decides_and_one_that_is_not_read_waits()
    {
        Assert.Equal(PartOutcome.Passed, Judge(3, new("base", 4), new("mast", 3)).Outcome);
        var shorter = Judge(3, new("base", 4), new("mast", 2.5), new("roof", null));
        Assert.Equal(PartOutcome.NotPassed, shorter.Outcome);
        Assert.Equal(1, Assert.Single(shorter.Short));
        Assert.Equal(2, Assert.Single(shorter.Unread));
        Assert.Equal(PartOutcome.Insufficient, Judge(3, new("base", 4), new("roof", null)).Outcome);
    }

    [Fact]
    public void What_failed_is_short_whatever_its_score_and_what_was_lost_says_nothing()
    {
        var failed = Judge(2, new("base", 4), new("spire", 4, SectionState.Judged, 118), new("tip", null, SectionState.Failed, 131));
        Assert.Equal((PartOutcome.NotPassed, 118), (failed.Outcome, failed.FailedAtLayer));
        Assert.Equal([1, 2], failed.Short);
        var lost = Judge(2, new("base", 4), new("tip", null, SectionState.Lost));
        Assert.Equal(PartOutcome.Insufficient, lost.Outcome);
        Assert.Empty(lost.Unread);
        // A lost zone hides no failure beneath it.
        Assert.Equal(PartOutcome.NotPassed, Judge(2, new("base", 1), new("tip", null, SectionState.Lost)).Outcome);
    }

    [Fact]
    public void A_zone_within_one_scores_scatter_of_what_was_asked_is_named()
    {
        var v = PartJudging.Judge(new() { Zones = [new("a", 3.25), new("b", 2.75), new("c", 4)], TargetScore = 3, ScoreNoise = 0.5 });
        Assert.Equal([0, 1], v.Close);
        Assert.Equal(1, Assert.Single(v.Short));
        Assert.Empty(PartJudging.Judge(new() { Zones = [new("a", 3.5)], TargetScore = 3, ScoreNoise = 0.5 }).Close);
    }

    [Fact]
    public void Suspects_come_from_what_was_seen_the_most_frequent_first_each_once()
    {
        var v = Judge(3, new("a", 2, Defects: ["gaps"]), new("b", 1, Defects: ["strings", "gaps"]));
        Assert.Equal(["gaps", "strings"], v.Defects);
        Assert.Equal("wall-flow", v.Suspects[0]);
        Assert.Equal(v.Suspects.Distinct(), v.Suspects);
        Assert.All(PartDefect.All.SelectMany(d => d.Suspects), k => Assert.NotNull(TrialCatalogue.Find(k)));
        var guides = Guides.GuideCatalogue.All.Select(g => g.Key).ToHashSet();
        Assert.All(PartDefect.All.Select(d => d.Guide).OfType<string>(), g => Assert.Contains(g, guides));
    }

    [Theory]
    [InlineData("zones", 0, 3, 0)]
    [InlineData("zones[0].score", 5, 3, 0)]
    [InlineData("targetScore", 3, 5, 0)]
    [InlineData("zones[0].failedAtLayer", 3, 3, -1)]
    public void Bad_readings_are_told_at_their_field(string field, double score, double target, int failed)
    {
        var zones = field == "zones" ? Array.Empty<PartZone>() : [new PartZone("a", score, FailedAtLayer: failed == 0 ? null : failed)];
        Assert.Equal(field, PartJudging.Check(new() { Zones = zones, TargetScore = target })!.Field);
        Assert.Equal(PartOutcome.Insufficient, Judge(target, zones).Outcome);
        Assert.Equal("zones[0].defects", PartJudging.Check(new() { Zones = [new("a", 3, Defects: ["moods"])] })!.Field);
    }

    [Fact]
    public void Zones_stand_on_each_other_and_hold_all_layers_once()
    {
        var trial = new PartTrial();
        var plan = trial.Plan(new PartRequest { HeightMm = 40, LayerHeightMm = 0.2m, Zone1Mm = 8, Zone2Mm = 30.1m }, new()).Plan!;
        var parts = ((ITrialPlan)plan).Parts;
        Assert.Equal(["0 to 8 mm", "8 to 30.1 mm", "30.1 to 40 mm"], parts.Select(p => p.Label));
        Assert.Equal([(1, 40), (41, 150), (151, 200)], parts.Select(p => (p.FirstLayer, p.LastLayer)));
        // The top of the table is the top of the part.
        Assert.Equal([2, 1, 0], trial.Grid(plan).Rows.Select(r => r.Section));
        Assert.Equal("all of it", ((ITrialPlan)trial.Plan(new PartRequest(), new()).Plan!).Parts.Single().Label);
    }

    [Fact]
    public void Zones_go_by_their_names_and_a_layer_is_asked_about_where_it_lies_in_another_one()
    {
        var trial = new PartTrial();
        var asked = new PartRequest { HeightMm = 40, LayerHeightMm = 0.2m, Zone1Mm = 8, Zone2Mm = 30, ZoneNames = "base, , second spire" };
        var plan = trial.Plan(asked, new()).Plan!;
        Assert.Equal(["base", "8 to 30 mm", "second spire"], ((ITrialPlan)plan).Parts.Select(p => p.Label));
        Assert.Equal("Layer 192 is in second spire, layers 151 to 200. Is it base that failed there?", trial.Question(plan, 0, PartTrial.FailedAt, 192));
        Assert.Null(trial.Question(plan, 2, PartTrial.FailedAt, 192));
        Assert.Null(trial.Question(plan, 0, PartTrial.Score, 4));
        Assert.Equal("zoneNames", Assert.Single(trial.Plan(asked with { ZoneNames = "a, b, c, d" }, new()).Errors).Field);
        // Their names and heights say how it is read; how it stands and how large it is say how it was made.
        Assert.Null(trial.FactorOf("zoneNames"));
        var f = trial.FactorsOf(plan with { Request = asked with { Orientation = "on its back", ScalePercent = 50, Shield = "yes" } });
        Assert.Equal(("on its back", 50, "yes"), (f["piece.orientation"].Text, f["piece.scalePercent"].Number, f["piece.shield"].Text));
    }

    [Fact]
    public void A_cut_down_file_says_of_which_run_it_is_and_acquits_no_more_than_its_layers()
    {
        var trial = new PartTrial();
        var whole = trial.Plan(new PartRequest { HeightMm = 40, LayerHeightMm = 0.2m }, new()).Plan!;
        var context = new PlanContext { Earlier = [new(whole, new(new Dictionary<(int, string), CellReading>()), "run 3, 1 Nov") { Number = 3 }] };
        var cut = new PartRequest { HeightMm = 12, OfRun = 3, BeginsAtLayer = 120 };
        var plan = trial.Plan(cut, context).Plan!;
        Assert.Contains("from layer 120 of run 3's part", ((ITrialPlan)plan).Summary);
        Assert.Equal("ofRun", Assert.Single(trial.Plan(cut with { OfRun = 4 }, context).Errors).Field);
        Assert.Equal("beginsAtLayer", Assert.Single(trial.Plan(cut with { BeginsAtLayer = null }, context).Errors).Field);
        Assert.Equal("beginsAtLayer", Assert.Single(trial.Plan(cut with { BeginsAtLayer = 201 }, context).Errors).Field);
        // Where nothing was read here yet, nothing is known to be wrong.
        Assert.NotNull(trial.Plan(cut with { OfRun = 4 }, new()).Plan);
        var read = new RunReadings(new Dictionary<(int, string), CellReading> { [(0, PartTrial.Score)] = new(4, "4") });
        var v = trial.Judge(plan, read, new());
        Assert.Equal((PartOutcome.Passed, 120, 3), (v.Outcome, v.BeginsAtLayer, v.OfRun));
    }

    [Theory]
    [InlineData(8.0, 6.0, "zone2Mm")]
    [InlineData(40.0, null, "zone1Mm")]
    [InlineData(50.0, null, "zone1Mm")]
    [InlineData(null, 20.0, "zone1Mm")]
    [InlineData(0.1, null, "zone1Mm")]
    public void A_zone_that_ends_where_none_can_is_told_at_its_field(double? first, double? second, string field)
    {
        var (plan, errors) = new PartTrial().Plan(new PartRequest { HeightMm = 40, Zone1Mm = (decimal?)first, Zone2Mm = (decimal?)second }, new());
        Assert.Null(plan);
        Assert.Equal(field, Assert.Single(errors).Field);
    }

    [Fact]
    public void A_plan_begins_with_what_the_file_says_and_with_less_where_there_is_none()
    {
        var own = new OwnFile("hut-lamp.gcode", 62.4, 0.24, 260, 222, 95, 31.2, [12, 48]);
        var trial = new PartTrial();
        var context = new PlanContext { OwnFile = own, Use = "looks" };
        var values = trial.Propose(context);
        Assert.Equal((62.4m, 0.24m, 222m, 12m, 48m, 3.5m), (values.Number("heightMm"), values.Number("layerHeightMm"), values.Number("nozzleTemperatureC"),
            values.Number("zone1Mm"), values.Number("zone2Mm"), values.Number("targetScore")));
        Assert.Null(values.Number("zone3Mm"));
        var plan = trial.Plan(values, context).Plan!;
        Assert.Equal((95, 31.2, true, false), (plan.Estimate.Minutes, plan.Estimate.MassG, plan.HasOwnFile, plan.WritesFile));
        Assert.False(trial.Plan(trial.Propose(new()), new()).Plan!.HasOwnFile);
        // How it is read makes no other piece of it.
        Assert.Null(trial.FactorOf("zone1Mm"));
        Assert.Null(trial.FactorOf("targetScore"));
        Assert.NotNull(trial.FactorOf("heightMm"));
    }

    [Fact]
    public void Heights_at_which_a_part_changes_are_found_off_its_layers()
    {
        // A base of 30 layers, a post of 100, a roof of 20 of 0.2 mm; the plastic of each layer alternates by 5 % as infill does.
        var layers = Enumerable.Range(1, 150).Select(i => (i * 0.2, (i <= 30 ? 900.0 : i <= 130 ? 120 : 600) * (i % 2 == 0 ? 1.05 : 1))).ToList();
        Assert.Equal([6, 26], FileZones.Of(layers));
        // Upside down the same changes stand as far from the other end.
        var total = 150 * 0.2;
        var turned = layers.Select(l => l.Item2).Reverse().Select((v, i) => ((i + 1) * 0.2, v)).ToList();
        Assert.Equal([.. FileZones.Of(layers).Select(z => Math.Round(total - z, 3)).Order()], FileZones.Of(turned));
    }

    [Fact]
    public void Of_a_low_part_a_zone_may_be_lower()
    {
        // A disc of 26 layers of solid fill below a rim of 10, 7.2 mm in all: the rim is less than 2 mm high.
        Assert.Equal([5.2], FileZones.Of([.. Enumerable.Range(1, 36).Select(i => (i * 0.2, i <= 26 ? 500.0 : 150))]));
    }

    [Fact]
    public void What_slopes_or_is_short_has_no_zones_and_never_more_than_six_are_named()
    {
        Assert.Empty(FileZones.Of([.. Enumerable.Range(1, 200).Select(i => (i * 0.2, 1000.0 - 4 * i))]));
        Assert.Empty(FileZones.Of([.. Enumerable.Range(1, 8).Select(i => (i * 0.2, i < 4 ? 900.0 : 100))]));
        Assert.Empty(FileZones.Of([]));
        var random = new Random(11);
        for (var k = 0; k < 100; k++)
        {
            var layers = Enumerable.Range(1, 50 + random.Next(300)).Select(i => (i * 0.2, random.NextDouble() * 1000)).ToList();
            var tops = FileZones.Of(layers);
            Assert.True(tops.Count <= FileZones.Most);
            Assert.Equal(tops.Order(), tops);
            Assert.All(tops.Zip(tops.Skip(1)), p => Assert.True(p.Second - p.First >= Math.Min(2, 0.15 * layers[^1].Item1) - 0.002));
            Assert.All(tops, t => Assert.Contains(layers, l => Math.Abs(l.Item1 - t) < 0.001));
        }
    }

    [Fact]
    public void An_outline_keeps_every_edge_and_stays_small()
    {
        // A foot of 12 layers 40 mm wide, a mast of 8 mm in its middle, a head that reaches out to the right: by hand, three bands.
        var layers = Enumerable.Range(1, 60).Select(i => (i * 0.2, i <= 12 ? 100.0 : 116, i <= 12 ? 140.0 : i <= 50 ? 124 : 131)).ToList();
        Assert.Equal([new(2.4, 0, 40), new(10, 16, 24), new(12, 16, 31)], OwnFile.OutlineOf(layers));
        Assert.Empty(OwnFile.OutlineOf([]));
        // A cone and noise are put together until a drawing can hold them, and no layer lies far from its band.
        var random = new Random(5);
        for (var k = 0; k < 40; k++)
        {
            var cone = Enumerable.Range(1, 200 + random.Next(2000)).Select(i => (i * 0.1, i * 0.02 + random.NextDouble(), 90 - i * 0.02)).ToList();
            var bands = OwnFile.OutlineOf(cone);
            Assert.InRange(bands.Count, 1, OwnFile.MostBands);
            Assert.Equal(cone[^1].Item1, bands[^1].TopMm, 3);
            Assert.Equal(bands.Select(b => b.TopMm).Order(), bands.Select(b => b.TopMm));
            Assert.True(bands.Min(b => b.FromMm) >= 0);
            var left = cone.Min(c => c.Item2);
            Assert.All(cone, c => Assert.InRange(
                Math.Abs(bands.First(b => b.TopMm >= c.Item1 - 1e-3).FromMm - (c.Item2 - left)), 0, 4));
        }
    }
}
