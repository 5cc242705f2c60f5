using Glenfrost.Core.Gcode.Dialects;
using Glenfrost.Core.Ageing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Guides;
using Glenfrost.Core.Routes;
using Glenfrost.Core.Settings;
using Glenfrost.Core.Trials;

namespace Glenfrost.Core.Tests.Ageing;

public class RuleTests
{
    [Fact]
    public void Every_rule_speaks_of_known_areas_settings_and_checks_and_says_why()
    {
        Assert.All(AgeingRules.All, r =>
        {
            Assert.NotEmpty(r.Reason);
            Assert.NotEmpty(r.Areas);
            Assert.All(r.Areas, a => Assert.NotNull(AgeingRules.Area(a)));
            Assert.Contains(r.Reach, new[] { "toolhead", "printer", "pairing", "filament", "spool" });
        });
        Assert.All(AgeingRules.Areas.SelectMany(a => a.Settings), k => Assert.NotNull(SettingRegistry.Find(k)));
        Assert.All(AgeingRules.Areas.Select(a => a.Check).OfType<string>(), k => Assert.NotNull(CheckKind.Find(k)));
        Assert.Equal(AgeingRules.All.Count, AgeingRules.All.Select(r => r.Change).Distinct().Count());
    }

    [Theory]
    [InlineData("nozzle-size", "extrusionMultiplier,nozzleTemperatureC,retractionLengthMm,pressureAdvance,maxVolumetricFlowMm3PerS,nozzleOffsetMm", "")]
    [InlineData("nozzle-off", "nozzleOffsetMm", "extrusionMultiplier")]
    [InlineData("nozzle-worn", "maxVolumetricFlowMm3PerS,extrusionMultiplier,retractionLengthMm", "nozzleTemperatureC")]
    [InlineData("extruder", "extrusionMultiplier,retractionLengthMm,pressureAdvance,maxVolumetricFlowMm3PerS", "nozzleTemperatureC")]
    [InlineData("tube", "retractionLengthMm,pressureAdvance,maxVolumetricFlowMm3PerS", "extrusionMultiplier")]
    [InlineData("firmware", "pressureAdvance,nozzleOffsetMm", "nozzleTemperatureC")]
    [InlineData("slicer", "extrusionMultiplier,retractionLengthMm,wipeMm,minLayerTimeS", "nozzleTemperatureC")]
    [InlineData("colour", "nozzleTemperatureC", "extrusionMultiplier")]
    [InlineData("damp", "retractionLengthMm,maxVolumetricFlowMm3PerS", "extrusionMultiplier")]
    public void What_a_change_makes_doubtful(string change, string doubtful, string stays)
    {
        var keys = AgeingRules.AfterFitting(change);
        Assert.All(doubtful.Split(',', StringSplitOptions.RemoveEmptyEntries), k => Assert.Contains(k, keys));
        Assert.All(stays.Split(',', StringSplitOptions.RemoveEmptyEntries), k => Assert.DoesNotContain(k, keys));
    }

    [Fact]
    public void Feed_and_heater_age_by_their_own_parts()
    {
        Assert.All(new[] { "extruder", "tube", "firmware" }, c => Assert.True(AgeingRules.MakesDoubtful(c, "feed")));
        Assert.False(AgeingRules.MakesDoubtful("nozzle", "feed"));
        Assert.All(new[] { "nozzle", "heater", "thermistor", "hotend", "fan", "firmware" }, c => Assert.True(AgeingRules.MakesDoubtful(c, "pid")));
    }

    [Theory]
    [InlineData("extrusionMultiplier", 0.978, 1.02, 1, true)]
    [InlineData("extrusionMultiplier", 0.978, 0.99, 0, false)]
    [InlineData("fanPercent", 100, 60, 1, false)]
    [InlineData("outerWallSpeedMmPerS", 40, 60, 1, false)]
    [InlineData("lineWidthMm", 0.44, 0.48, 1, false)]
    [InlineData("nozzleTemperatureC", 214, 220, 1, false)]
    [InlineData("brimWidthMm", 4, 8, 0, false)]
    public void The_profiles_own_changes_age_its_other_values(string key, double from, double to, int touches, bool onOthers)
    {
        var list = AgeingRules.AfterKept(key, from, to);
        Assert.Equal(touches, list.Count);
        Assert.All(list, t => Assert.Equal(onOthers, t.OnOthers));
        Assert.All(list, t => Assert.Contains("moved from", t.Why));
        Assert.All(list.Where(t => !t.OnOthers), t => Assert.DoesNotContain(key, t.Keys));
        Assert.Empty(AgeingRules.AfterKept(key, null, to));
    }

    [Fact]
    public void Guides_have_no_dead_ends_and_ask_for_known_runs_only()
    {
        Assert.Equal(
            [
                "blobs-and-seams", "elephant-foot", "first-layer", "foam-that-chokes", "rough-top", "sagging-bridges", "slip-or-skip", "splitting-layers",
                "strings", "two-toolheads", "under-extrusion", "warping-corners",
            ], GuideCatalogue.All.Select(g => g.Key));
        string[] runs = [.. TrialCatalogue.All.Select(t => t.Kind)];
        string[] changes = [.. AgeingRules.All.Select(r => r.Change)];
        Assert.All(GuideCatalogue.All, g => Assert.Empty(g.Faults(runs, changes)));
        Assert.All(GuideCatalogue.All.SelectMany(g => g.Steps).Select(s => s.Aspect).OfType<string>(), a =>
            Assert.True(a == "dry" || CheckKind.Find(a) is not null || runs.Contains(a), a));
        // Driver current is the last thing that the guide comes to, and it warns.
        var slip = GuideCatalogue.Find("slip-or-skip")!;
        Assert.Contains("Mains off", slip.Step("current")!.Caution);
        Assert.Equal("path", Assert.Single(slip.Steps, s => s.Answers.Any(a => a.To == "current")).Key);
    }

    [Fact]
    public void Guides_look_in_the_order_of_work_so_that_they_contradict_no_verdict()
    {
        // What is checked by hand, then drying, then the stations as a route passes them.
        List<string> order = ["nozzle", "grip", "level", "pid", "mechanics", "dry", .. RouteMap.Stations.SelectMany(s => s.Trials)];
        int At(string aspect) => aspect == "feed" ? order.IndexOf("extruder-feed") : order.IndexOf(aspect);
        foreach (var guide in GuideCatalogue.All)
        {
            void Go(string key, int before)
            {
                var step = guide.Step(key)!;
                var at = step.Aspect is { } aspect ? At(aspect) : before;
                Assert.True(step.Aspect is null || At(step.Aspect) >= 0, $"{guide.Key}/{key}: {step.Aspect}");
                // Checks by hand cost nothing and may come at any place; trials and drying do not.
                if (step.Aspect is not null && at > order.IndexOf("mechanics"))
                {
                    Assert.True(at >= before || Same(at, before), $"{guide.Key}/{key}: {step.Aspect} after {order[Math.Max(0, before)]}");
                    before = Math.Max(at, before);
                }

                foreach (var a in step.Answers.Where(a => a.To is not null))
                    Go(a.To!, before);
            }

            // Ways of one station stand for each other.
            bool Same(int a, int b) => RouteMap.Stations.Any(s => s.Trials.Contains(order[a]) && s.Trials.Contains(order[b]));
            Go(guide.Start, -1);
        }

        Assert.All(GuideCatalogue.All.SelectMany(g => g.Steps).SelectMany(s => s.Answers).Where(a => a.To is null), a =>
            Assert.True(a.Run is not null || a.Check is not null || a.Change is not null || a.Clean, a.Text));
    }

    [Fact]
    public void A_spoiled_guide_is_found_out()
    {
        GuideStep Step(string key, params GuideAnswer[] answers) => new(key, "look", "why", answers);
        var spoiled = new Guide("g", "G", [], "a", [
            Step("a", new("x", To: "b"), new("y", To: "gone"), new("z")),
            Step("b", new("x", To: "a"), new("y", Do: "measure", Run: "dance", Change: "mood")),
            Step("lonely", new GuideAnswer("x", Do: "stop"))]);
        var faults = string.Join("\n", spoiled.Faults(["wall-flow"], ["nozzle"]));
        Assert.All(new[] { "gone", "must lead on", "circle", "dance", "mood", "nothing leads to \"lonely\"", "fewer than two" }, f =>
            Assert.Contains(f, faults));
    }

    [Fact]
    public void What_a_guide_may_still_ask_is_each_step_that_answers_lead_to_once_and_nearest_first()
    {
        foreach (var guide in GuideCatalogue.All)
        {
            foreach (var step in guide.Steps)
            {
                var after = guide.After(step);
                Assert.Equal(after.Distinct(), after);
                Assert.DoesNotContain(step, after);
                Assert.All(after.Append(step).SelectMany(s => s.Answers).Where(a => a.To is not null), a => Assert.Contains(guide.Step(a.To), after));
            }

            Assert.Equal(guide.Steps.Count - 1, guide.After(guide.Step(guide.Start)!).Count);
            // A cause that an answer ends with is told what is done about it.
            Assert.All(guide.Steps.SelectMany(s => s.Causes.Select(c => (s, c))), x => Assert.Equal(
                x.s.Answers.Any(a => a.Do is not null && a.RulesIn?.Contains(x.c) == true), x.s.Remedy(x.c) is not null));
        }

        Assert.Equal(["dry", "level"], GuideCatalogue.Find("strings")!.After(GuideCatalogue.Find("strings")!.Step("nozzle")!).Take(2).Select(s => s.Key));
    }

    [Fact]
    public void A_way_through_a_guide_collects_what_it_rules_in_and_out()
    {
        var (path, now, end) = GuideCatalogue.Find("slip-or-skip")!.Follow([0, 0]);
        Assert.Equal(2, path.Count);
        Assert.Null(now);
        Assert.Equal("extruder-feed", end!.Run);
        Assert.Equal("hold", GuideCatalogue.Find("slip-or-skip")!.Follow([99]).Now!.Key);
    }

    [Fact]
    public void Checks_are_missing_good_wanting_old_or_doubtful_with_the_reason()
    {
        var now = new DateTime(2026, 11, 20, 0, 0, 0, DateTimeKind.Utc);
        CheckMade Made(string kind, int days, bool good = true, double? t = null) =>
            new(kind, now.AddDays(-days), good, t is { } c ? new Dictionary<string, double> { ["temperatureC"] = c } : []);
        string State(string kind, double? c, params CheckMade[] made) =>
            MachineReadiness.Of(made, [("fan", "part fan or duct", now.AddDays(-10))], c, now).First(s => s.Kind.Key == kind).State;
        Assert.Equal("missing", State("nozzle", null));
        Assert.Equal("good", State("nozzle", null, Made("nozzle", 5)));
        Assert.Equal("doubtful", State("nozzle", null, Made("nozzle", 120)));
        Assert.Equal("bad", State("grip", null, Made("grip", 20), Made("grip", 5, false)));
        Assert.Equal("good", State("pid", 215, Made("pid", 5, true, 210)));
        Assert.Equal("doubtful", State("pid", 250, Made("pid", 5, true, 210)));
        // A fan fitted since makes the tuning doubtful.
        Assert.Equal("doubtful", State("pid", 215, Made("pid", 30, true, 210)));
    }

    [Theory]
    [InlineData("m900", "M303 E0 S240", "M301 P21.7 I1.52 D77.6")]
    [InlineData("macro", "PID_CALIBRATE HEATER=extruder TARGET=240", "pid_kp: 21.7")]
    public void Tuning_is_written_in_the_printers_dialect(string dialect, string tune, string keep)
    {
        Assert.StartsWith(tune, HeaterTuning.TuneCommand(dialect, 240));
        var (text, note) = HeaterTuning.KeepCommand(dialect, 21.7, 1.52, 77.6);
        Assert.Contains(keep, text);
        Assert.Contains("Note bed mesh", note);
    }
}
