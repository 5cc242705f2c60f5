using Glenfrost.Core.Statistics;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using CsCheck;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FirstLayer;
using Glenfrost.Core.Trials.SurfaceFlow;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Rows of scored steps: the flow strip and the first-layer patches.</summary>
public class ScoredTrialTests
{
    private static SurfaceVerdict Strip(double step, params double[] scores) => SurfaceJudging.Judge(new SurfaceReadings
    {
        ExtrusionMultiplier = 0.98,
        Patches = [.. scores.Select((s, i) => new SurfacePatch((i - scores.Length / 2) * step, [s]))],
    });

    [Fact]
    public void A_fine_strip_worked_by_hand()
    {
        // Told apart from 1.645 × 0.5 × √2 = 1.163 on: −1 % (4) and the middle (3) are equals, weighing 1.163 and 0.163: −0.877 %. 0.98 × 0.99123 = 0.9714.
        var v = Strip(1, 1, 2, 4, 3, 2, 1, 1);
        Assert.Equal("clear", v.Verdict);
        Assert.Equal(0.971, v.NewExtrusionMultiplier);
        Assert.Equal([-1, 0], v.EqualsPercent);
        Assert.Null(v.NextRange);
    }

    [Fact]
    public void A_coarse_strip_seeds_a_fine_one_and_an_end_is_no_best()
    {
        var coarse = Strip(4, 0, 1, 2, 4, 2, 1, 0);
        Assert.Equal("finer", coarse.Verdict);
        Assert.Equal(1, coarse.NextRange!.StepPercent);
        Assert.Equal((decimal)coarse.NewExtrusionMultiplier!.Value, coarse.Next!.Values!["extrusionMultiplier"]);
        var edge = Strip(1, 1, 1, 1, 2, 2, 3, 4);
        Assert.Equal("edge", edge.Verdict);
        Assert.False(edge.Advised);
    }

    [Fact]
    public void Equal_scores_are_noise_and_all_unusable_is_no_flow()
    {
        Assert.Equal("noise", Strip(1, 2, 3, 3, 3, 3, 3, 2).Verdict);
        Assert.Equal("insufficient", Strip(1, 0, 0, 0, 0, 0, 0, 0).Verdict);
        Assert.Equal("insufficient", SurfaceJudging.Judge(new SurfaceReadings { Patches = [new(-1, []), new(0, [3]), new(1, [])] }).Verdict);
    }

    [Fact]
    public void A_zero_is_a_veto_whatever_the_thumb_says()
    {
        var v = SurfaceJudging.Judge(new SurfaceReadings { Patches = [new(-2, [1, 1]), new(-1, [3, 3]), new(0, [0, 4]), new(1, [1, 1]), new(2, [1, 1])] });
        Assert.Equal(-1, v.ChangePercent);
    }

    [Fact]
    public void Mirrored_scores_mirror_the_change() => Gen.Int[0, 4].Array[7].Where(s => s.Count(x => x == s.Max()) == 1).Sample(s =>
    {
        var (a, b) = (Strip(1, [.. s.Select(x => (double)x)]), Strip(1, [.. s.Reverse().Select(x => (double)x)]));
        Assert.Equal(a.Verdict, b.Verdict);
        if (a.ChangePercent is { } c)
            Assert.Equal(-c, b.ChangePercent!.Value, 1e-6);
    });

    [Theory]
    [InlineData(-50, 3, "patches[0].changePercent")]
    [InlineData(-1, 5, "patches[0].score")]
    [InlineData(0, 3, "patches[1].changePercent")]
    public void Readings_of_a_strip_are_checked_at_the_door(double change, double score, string field) =>
        Assert.Contains(SurfaceJudging.Check(new SurfaceReadings { Patches = [new(change, [score]), new(0, [3]), new(1, [3])] }), e => e.Field == field);

    [Fact]
    public void The_strips_file_changes_its_flow_at_the_notches_and_nowhere_else()
    {
        var trial = new SurfaceFlowTrial();
        var m = Machines.Dunnock;
        var c = new PlanContext
        {
            Memory = TestMemory.Shared, Machine = m, Settings = PrintSettings.From(new Dictionary<string, double>(), m, Family.Find("PLA")), Family = Family.Find("PLA"),
        };
        var (made, job, errors) = trial.Make(trial.Plan(trial.Propose(c), c).Plan!, c);
        Assert.Empty(errors);
        var plan = (SurfacePlan)made;
        var file = new PrintedFile(Machines.Text(job!));
        Assert.Empty(GcodeGuard.Check(new StringReader(Machines.Text(job!)), m));
        var s = job!.Settings;
        var left = job.Layout.Pieces[0].X;
        var step = (double)plan.Request.StepMm;
        var seen = new HashSet<int>();
        foreach (var x in file.Steps.Where(x =>
                x.Ours && x.Layer > StripSize.BaseLayers && x.Fed > 0 && x.Length > 0.5 && x.Feature is "top fill" or "solid fill" or "fill"))
        {
            var at = (int)Math.Floor(((x.X0 + x.X) / 2 - left) / step);
            Assert.InRange(at, 0, 6);
            seen.Add(at);
            var factor = x.Fed / x.Length / (s.SpacingMm(0.2) * 0.2 * s.ExtrusionMultiplier / s.FilamentAreaMm2);
            // Fill lines may be spread a little to end on both walls.
            Assert.InRange(factor / (double)(1 + plan.ChangesPercent[at] / 100), 0.93, 1.07);
        }

        Assert.Equal(7, seen.Count);
        Assert.Equal(0m, plan.ChangesPercent[3]);
    }

    [Fact]
    public void What_reads_below_two_is_never_offered_neither_of_a_strip_nor_of_patches() =>
        Gen.Int[0, 4].Array[7].Sample(s =>
        {
            double[] scores = [.. s.Select(x => (double)x)];
            var strip = Strip(1, scores);
            if (strip.NewExtrusionMultiplier is not null || strip.Settings.Count > 0)
            {
                // The value lies between steps that read at least that.
                var change = strip.ChangePercent!.Value;
                foreach (var near in new[] { Math.Floor(change - 1e-9), Math.Ceiling(change + 1e-9) }.Where(c => Math.Abs(c - change) < 1 - 1e-9))
                    Assert.True(scores[(int)near + 3] >= 2 || strip.EqualsPercent.Count == 1, $"{change} of {string.Join(" ", s)}");
                Assert.All(strip.EqualsPercent, c => Assert.True(scores[(int)c + 3] >= 2));
            }

            var patches = FirstLayerJudging.Judge(
                new FirstLayerReadings { Patches = [.. scores.Select((x, i) => Patch((i - 3) * 0.02, x, x, x))] });
            if (patches.NewOffsetMm is not null || patches.Settings.Count > 0)
                Assert.All(patches.EqualsMm, c => Assert.True(scores[(int)Math.Round(c / 0.02) + 3] >= 2));
            Assert.Equal(patches.Settings.Count > 0, patches.NewOffsetMm is not null);
            // What the best of all reads below two is said to be no flow and no offset, unless it lies at the end of the row.
            if (scores.Max() == 1 && scores[0] < 1 && scores[^1] < 1)
                Assert.Equal((SurfaceOutcome.NoneGood, FirstLayerOutcome.NoneGood), (strip.Outcome, patches.Outcome));
        });

    private static OffsetPatch Patch(double change, double gaps, double ridges, double grip, params (string, double)[] corners) =>
        new(change, new Dictionary<string, double> { ["gaps"] = gaps, ["ridges"] = ridges, ["grip"] = grip }, corners.ToDictionary(c => c.Item1, c => c.Item2));

    private static readonly OffsetPatch[] Five = [Patch(-0.04, 4, 1, 4), Patch(-0.02, 4, 3, 4), Patch(0, 4, 4, 4), Patch(0.02, 2, 4, 3), Patch(0.04, 1, 4, 1)];

    [Fact]
    public void First_layer_patches_worked_by_hand()
    {
        // Together 2.520, 3.634, 4, 2.884, 1.587; told apart from 1.645 × 0.5 × √(2/3) = 0.6715 on: 0 and −0.02 are equals, weighing 0.6715 and 0.3058:
        // −0.0063.
        var v = FirstLayerJudging.Judge(new FirstLayerReadings { OffsetMm = -0.1, Patches = Five });
        Assert.Equal("clear", v.Verdict);
        Assert.Equal(3.634, v.Means[1]!.Value, 3);
        Assert.Equal(-0.106, v.NewOffsetMm);
        Assert.Equal([-0.02, 0], v.EqualsMm);
    }

    [Fact]
    public void A_corner_that_wants_another_offset_shows_a_bed_that_is_not_parallel()
    {
        OffsetPatch With(OffsetPatch p, double left) => p with { Corners = new Dictionary<string, double> { ["front left"] = left } };
        var v = FirstLayerJudging.Judge(
            new FirstLayerReadings { OffsetMm = 0, Patches = [With(Five[0], 1), With(Five[1], 1), With(Five[2], 1), With(Five[3], 2), With(Five[4], 4)] });
        Assert.Equal("uneven", v.Verdict);
        Assert.False(v.Advised);
        Assert.True(v.Corners.First(c => c.Place == "front left").TiltMm > 0.03);
        Assert.Equal("first-layer", v.Next!.Guide);
        // A corner where nothing reads well says nothing of another offset: its scores lie within what chance makes.
        Assert.Equal(
            "clear",
            FirstLayerJudging.Judge(
                new FirstLayerReadings { OffsetMm = 0, Patches = [With(Five[0], 1), With(Five[1], 1), With(Five[2], 1), With(Five[3], 1), With(Five[4], 1.5)] })
                .Verdict);
        var alike = FirstLayerJudging.Judge(
            new FirstLayerReadings { OffsetMm = 0, Patches = [With(Five[0], 1), With(Five[1], 3), With(Five[2], 4), With(Five[3], 2), With(Five[4], 1)] });
        Assert.Equal("clear", alike.Verdict);
    }

    [Fact]
    public void What_it_was_printed_with_is_kept_with_the_offset()
    {
        var trial = new FirstLayerTrial();
        var c = new PlanContext
        {
            Machine = Machines.Dunnock, Settings = PrintSettings.From(new Dictionary<string, double>(), Machines.Dunnock, Family.Find("PLA")),
            Kept = new Dictionary<string, double> { ["nozzleOffsetMm"] = -0.1 },
        };
        var plan = trial.Plan(trial.Propose(c).With(new Dictionary<string, decimal> { ["count"] = 5, ["bedTemperatureC"] = 58, ["speedMmPerS"] = 18 }), c)
            .Plan!;
        var cells = new Dictionary<(int, string), CellReading>();
        foreach (var (p, i) in Five.Select((p, i) => (p, i)))
        {
            foreach (var (a, s) in p.Scores)
                cells[(i, a)] = new(s, $"{s}");
        }

        var v = trial.Judge(plan, new RunReadings(cells), new());
        Assert.Equal(["nozzleOffsetMm", "firstLayerNozzleTemperatureC", "firstLayerBedTemperatureC", "firstLayerSpeedMmPerS"], v.Settings.Select(s => s.Key));
        Assert.Equal([-0.106, 58, 18], new[] { 0, 2, 3 }.Select(i => v.Settings[i].Value));
    }

    [Fact]
    public void Patches_are_laid_lowest_first_each_at_its_height_with_the_plastic_of_the_first_layer()
    {
        var trial = new FirstLayerTrial();
        var m = Machines.Dunnock;
        var c = new PlanContext { Machine = m, Settings = PrintSettings.From(new Dictionary<string, double>(), m, Family.Find("PLA")) };
        var (made, job, errors) = trial.Make(trial.Plan(trial.Propose(c), c).Plan!, c);
        Assert.Empty(errors);
        var text = Machines.Text(job!);
        Assert.Empty(GcodeGuard.Check(new StringReader(text), m));
        var file = new PrintedFile(text);
        var laid = file.Steps.Where(s => s.Ours && s.Fed > 0 && s.Length > 0.01 && s.Layer > 0).ToList();
        Assert.Equal([0.14, 0.16, 0.18, 0.2, 0.22, 0.24, 0.26], laid.Select(s => Math.Round(s.Z, 3)).Distinct());
        Assert.All(laid.Zip(laid.Skip(1)), p => Assert.True(p.Second.Z >= p.First.Z - 1e-9));
        // Five places each, spread over the bed: steps further from one another than a patch is wide.
        foreach (var layer in laid.GroupBy(s => s.Layer))
        {
            List<(double X, double Y)> places = [];
            foreach (var s in layer.Where(s => !places.Any(p => Math.Abs(p.X - s.X) < 45 && Math.Abs(p.Y - s.Y) < 45)))
                places.Add((s.X, s.Y));
            Assert.Equal(5, places.Count);
        }

        var each = laid.GroupBy(s => s.Layer).Select(g => g.Sum(s => s.Fed)).ToList();
        Assert.All(each, e => Assert.InRange(e / each.Average(), 0.95, 1.05));
        Assert.All(laid, s => Assert.InRange(s.MmPerMin, 100, 20 * 60 + 1));
    }

    [Theory]
    [InlineData("count", 6, "count")]
    [InlineData("stepMm", 0.06, "stepMm")]
    [InlineData("patchMm", 30, "patchMm")]
    [InlineData("bedTemperatureC", 120, "bedTemperatureC")]
    public void Patches_that_scrape_or_do_not_fit_are_refused(string field, double value, string at)
    {
        var trial = new FirstLayerTrial();
        var c = new PlanContext { Machine = Machines.Dunnock, Settings = PrintSettings.From(new Dictionary<string, double>(), Machines.Dunnock, null) };
        Assert.Contains(trial.Plan(trial.Propose(c).With(new Dictionary<string, decimal> { [field] = (decimal)value }), c).Errors, e => e.Field == at);
    }

    [Fact]
    public void More_scores_tell_smaller_differences_apart()
    {
        ScoredStep[] one = [new(0, [2]), new(1, [3]), new(2, [2])];
        ScoredStep[] four = [new(0, [2, 2, 2, 2]), new(1, [3, 3, 3, 3]), new(2, [2, 2, 2, 2])];
        Assert.Equal(2, StepsVerdict.Of(one, 0.5).To);
        Assert.Equal((1, 1), (StepsVerdict.Of(four, 0.5).From, StepsVerdict.Of(four, 0.5).To));
    }
}
