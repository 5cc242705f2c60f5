using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.TestPieces.Toolpaths;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.FlexCompression;
using Glenfrost.Core.Trials.PressureAdvance;
using Glenfrost.Core.Trials.RetractionSweep;

namespace Glenfrost.Core.Tests.Trials;

public class PressureAndFlexTests
{
    private static Machine Of(string name) => new[] { Machines.Dunnock, Machines.Whimbrel, Machines.Ptarmigan }.First(m => m.Name == name);

    private static PlanContext Context(Machine m, string family = "PLA") =>
        new() { Machine = m, Settings = Machines.Settings(m, family), Family = Filaments.Family.Find(family), AdvisedC = new(190, 220) };

    [Theory]
    [InlineData(0, 0.005, 17, 7.5, "finer", 0.0375)]
    [InlineData(0.03, 0.002, 11, 4, "clear", 0.038)]
    [InlineData(0, 0.005, 17, 16, "edge", 0.08)]
    [InlineData(0.02, 0.005, 9, 0, "edge", 0.02)]
    [InlineData(0, 0.05, 20, 12, "clear", 0.6)]
    [InlineData(0, 0.002, 9, 0, "clear", 0)]
    public void The_best_line_is_a_factor(double start, double step, int count, double best, string word, double k)
    {
        var v = PressureJudging.Judge(new() { StartK = start, StepK = step, Count = count, Best = best });
        Assert.Equal(word, v.Verdict);
        Assert.Equal(k, v.K!.Value, 9);
        Assert.Equal(word is "edge" or "finer", v.NextRange is not null);
        Assert.Equal(["m900", "m572", "macro"], v.Commands.Select(c => c.Dialect));
        Assert.Equal(FormattableString.Invariant($"M900 K{k:0.####}"), v.Commands[0].Command);
        Assert.Equal(FormattableString.Invariant($"M572 S{k:0.####}"), v.Commands[1].Command);
        Assert.Equal(FormattableString.Invariant($"SET_PRESSURE_ADVANCE ADVANCE={k:0.####}"), v.Commands[2].Command);
    }

    [Fact]
    public void A_finer_row_lies_around_the_best_and_an_edge_goes_on_beyond_it()
    {
        var finer = PressureJudging.Judge(new() { StartK = 0, StepK = 0.01, Count = 11, Best = 4 });
        Assert.Equal(new KRange(0.03, 0.002, 11), finer.NextRange);
        var edge = PressureJudging.Judge(new() { StartK = 0, StepK = 0.01, Count = 11, Best = 10 });
        Assert.Equal(0.09, edge.NextRange!.StartK, 9);
        Assert.Equal(0.005 / 2, PressureJudging.Judge(new() { StartK = 0, StepK = 0.005, Count = 9, Best = 4 }).UncertaintyK);
        // Two significant digits of it: 0.00125 is shown, sent and kept as 0.0013.
        Assert.Equal(0.0013, PressureJudging.Judge(new() { StartK = 0, StepK = 0.005, Count = 9, Best = 4.5 }).UncertaintyK);
    }

    [Fact]
    public void Scores_tell_as_well_and_nonsense_is_refused()
    {
        var v = PressureJudging.Judge(new() { StartK = 0.02, StepK = 0.002, Count = 7, Scores = [0, 1, 2, 4, 2, 1, 0] });
        Assert.Equal("clear", v.Verdict);
        Assert.Equal(0.026, v.K!.Value, 6);
        // What is lost is said, and hardly anything is: no finer row is asked for. A coarse one says what a finer one would gain.
        Assert.InRange(v.Loss!.P95, v.Loss.Expected, PressureJudging.Open);
        Assert.True(v.UncertaintyK < 0.002);
        var coarse = PressureJudging.Judge(new() { StartK = 0, StepK = 0.01, Count = 9, Scores = [0, 1, 2, 4, 3, 2, 1, 0, 0] });
        Assert.Equal("finer", coarse.Verdict);
        Assert.InRange(coarse.Next!.Gain!.Value, 0, 0.5);
        // A line that was read as unusable is not offered, whatever its neighbours say; where none can be used there is no factor.
        var spoiled = PressureJudging.Judge(new() { StartK = 0, StepK = 0.01, Count = 7, Scores = [0, 2, 3, 0, 3, 2, 0] });
        Assert.True(spoiled.K is null or 0.02 or 0.025 or 0.035 or 0.04, $"{spoiled.K}");
        Assert.Equal("insufficient", PressureJudging.Judge(new() { StepK = 0.01, Count = 5, Scores = [1, 1, 1.5, 1, 0] }).Verdict);
        // The one that is named best says nothing of loss: it can't.
        Assert.Null(PressureJudging.Judge(new() { StartK = 0.02, StepK = 0.002, Count = 7, Best = 3 }).Loss);
        Assert.Equal("insufficient", PressureJudging.Judge(new() { StepK = 0.01, Count = 5, Scores = [null, 3, null, 2, null] }).Verdict);
        Assert.Contains(PressureJudging.Check(new() { Count = 9, Best = 3.3 }), e => e.Field == "best");
        Assert.Contains(PressureJudging.Check(new() { Count = 9, Best = 9 }), e => e.Field == "best");
        Assert.Contains(PressureJudging.Check(new() { Count = 9, Scores = [1, 2] }), e => e.Field == "scores");
        Assert.Contains(PressureJudging.Check(new() { Count = 9 }), e => e.Field == "best");
    }

    [Theory]
    [InlineData("Dunnock 180", "lines", "M900 K")]
    [InlineData("Ptarmigan 350 right", "lines", "M572 S")]
    [InlineData("Whimbrel 300", "lines", "SET_PRESSURE_ADVANCE ADVANCE=")]
    [InlineData("Whimbrel 300", "corners", "SET_PRESSURE_ADVANCE ADVANCE=")]
    public void Each_line_is_laid_with_its_factor_slow_fast_slow(string name, string mode, string command)
    {
        var (m, trial) = (Of(name), new PressureTrial());
        var c = Context(m);
        var planned = trial.Plan(trial.InMode(mode, trial.Propose(c), c), c);
        Assert.Empty(planned.Errors);
        var plan = (PressurePlan)planned.Plan!;
        var lines = trial.Lines(plan, c)!.Value.Lines!;
        Assert.Empty(GcodeGuard.Check(new StringReader(string.Join('\n', lines)), m));
        var set = lines.Where(l => l.StartsWith(command, StringComparison.Ordinal) && l.Contains("number", StringComparison.Ordinal)).ToList();
        Assert.Equal(plan.Ks.Count * (int)plan.Request.Layers, set.Count);
        Assert.Equal(
            plan.Ks.Select(k => command + ((double)k).ToString("0.####", System.Globalization.CultureInfo.InvariantCulture)),
            set.Take(plan.Ks.Count).Select(l => l.Split(" ;")[0]));
        var file = new PrintedFile(string.Join('\n', lines));
        var (slow, fast) = ((double)plan.Request.SlowMmPerS, (double)plan.Request.FastMmPerS);
        var legs = file.Print.Where(s => s is { Fed: > 0, Moves: true } && Math.Abs(s.MmPerMin / 60 - fast) < 0.1).ToList();
        var each = mode == "lines" ? 3 : 4;
        Assert.Equal(plan.Ks.Count * (int)plan.Request.Layers * each, legs.Count);
        if (mode == "lines")
        {
            // A quarter slow, half fast, a quarter slow, then fast into a corner and to a stop; all of one width: the same feed for each mm.
            Assert.All(legs.Where((_, i) => i % 3 == 0), l => Assert.Equal((double)plan.Request.LineMm / 2, l.Length, 0.01));
            Assert.All(legs.Where((_, i) => i % 3 == 1), l => Assert.Equal(KRow.HookMm, l.Length, 0.01));
            Assert.All(legs.Chunk(3), l =>
            {
                Assert.Equal(l[1].X, l[2].X, 1e-6);
                Assert.Equal(l[1].Y + KRow.StopOf(plan.Request), l[2].Y, 1e-6);
            });
            var feeds = file.Print.Where(s => s is { Fed: > 0, Moves: true, Length: > 15 } && s.Y == legs[3].Y).Select(s => s.Fed / s.Length).ToList();
            Assert.Equal(3, feeds.Count);
            Assert.All(feeds, f => Assert.Equal(feeds[0], f, 0.0002));
        }
        else
        {
            // Each leg turns by a right angle from the one before.
            Assert.All(legs.Chunk(4), l => Assert.All(l.Zip(l.Skip(1)), pair => Assert.True(pair.First.X == pair.Second.X != (pair.First.Y == pair.Second.Y))));
        }

        // A bar every fifth, and beyond it so many notches: each number can be counted, and none touches its neighbour.
        var counted = file.Print.Where(s => s is { Fed: > 0, Moves: true } && s.MmPerMin / 60 <= 20.1 && s.Length is > 1.5 and < KRow.CountMm
            && s.Layer == 1).ToList();
        Assert.Equal(Enumerable.Range(0, plan.Ks.Count).Sum(i => i % 5 == 0 ? 1 : i % 5) + (mode == "lines" ? 4 : 0), counted.Count);

        // What it is found at is kept with it.
        Assert.Contains($"{plan.Request.NozzleTemperatureC} °C", trial.Basis(plan));
        Assert.Contains("mm/s²", trial.Basis(plan));
    }

    [Fact]
    public void A_row_that_does_not_fit_or_is_no_change_of_speed_is_refused()
    {
        var (trial, c) = (new PressureTrial(), Context(Machines.Dunnock));
        Settings.FieldError One(params (string, decimal)[] changes) =>
            Assert.Single(trial.Plan(trial.Propose(c).With(changes.ToDictionary(x => x.Item1, x => x.Item2)), c).Errors);
        Assert.Equal("count", One(("count", 40), ("stepK", 0.01m)).Field);
        Assert.Equal("lineMm", One(("lineMm", 200)).Field);
        Assert.Equal("fastMmPerS", One(("fastMmPerS", 30)).Field);
        Assert.Equal("fastMmPerS", One(("fastMmPerS", 200)).Field);
        Assert.Equal("accelerationMmPerS2", One(("accelerationMmPerS2", 5000)).Field);
        Assert.Equal("stepK", One(("stepK", 0.5m)).Field);
    }

    [Theory]
    [InlineData("Dunnock 180")]
    [InlineData("Whimbrel 300")]
    [InlineData("Ptarmigan 350 right")]
    public void What_is_offered_for_a_row_that_does_not_fit_is_accepted(string name)
    {
        var (trial, c) = (new PressureTrial(), Context(Of(name)));
        var offered = 0;
        foreach (var mode in trial.Modes)
        {
            foreach (var (count, line, gap) in from n in new[] { 9m, 17, 40, 60 }
                                               from l in new[] { 30m, 80, 250, 300 }
                                               from s in new[] { 3m, 6,
                20 }
                                               select (n, l, s))
            {
                var values = trial.InMode(mode, trial.Propose(c), c)
                    .With(new Dictionary<string, decimal> { ["count"] = count, ["lineMm"] = line, ["spacingMm"] = gap, ["stepK"] = 0.001m });
                foreach (var offer in trial.Plan(values, c).Errors.SelectMany(e => e.Offers))
                {
                    offered++;
                    Assert.DoesNotContain(trial.Plan(values.With(offer.Changes), c).Errors, e => e.Field is "lineMm" or "count");
                }
            }
        }

        Assert.True(offered > 10, $"{offered}");
    }

    [Fact]
    public void Compression_worked_by_hand()
    {
        // Means 40.1 and 41.6333: 1.5333 mm; × 60 ÷ 40 = 2.3 mm. s = 0.1 and 0.15275; u² = 0.01/3 + 0.023333/3 + 0.0025/6 = 0.0115278; ν = u⁴/((0.0033333² +
        // 0.0077778²)/2) = 3.71; t = 2.86: ± 0.307.
        var v = FlexJudging.Judge(new() { HandLengthsMm = [40.1, 40.0, 40.2], DrivenLengthsMm = [41.6, 41.8, 41.5], StubLengthMm = 40, PathLengthMm = 60 });
        Assert.Equal("compression", v.Verdict);
        Assert.Equal(1.5333, v.CompressionMm!.Value, 3);
        Assert.Equal(2.3, v.StartRetractionMm!.Value, 9);
        Assert.InRange(v.UncertaintyMm!.Value, 0.29, 0.325);
        Assert.Equal(2.3m, v.Next!.Values!["to"]);
        // A ceiling is no retraction: nothing is offered to be kept.
        Assert.Empty(v.Settings);
        Assert.False(v.Advised);
        Assert.False(v.Proves);
        // The path is the stub's unless both were measured.
        Assert.Equal(1.53, FlexJudging.Judge(new() { HandLengthsMm = [40.1, 40.0, 40.2], DrivenLengthsMm = [41.6, 41.8, 41.5] }).StartRetractionMm);
    }

    [Theory]
    [InlineData(2.3, false)]
    [InlineData(6.4, false)]
    [InlineData(9.5, true)]
    public void The_sweep_that_a_compression_asks_for_is_accepted_with_a_word_on_its_length(double ceiling, bool tube)
    {
        // 40 mm of stub: what the driven pieces are longer by is the ceiling.
        var v = FlexJudging.Judge(new()
        {
            HandLengthsMm = [40, 40.05, 39.95], DrivenLengthsMm = [40 + ceiling, 40.05 + ceiling, 39.95 + ceiling], StubLengthMm = 40, PathLengthMm = 40,
        });
        var c = Context(tube ? Machines.Dunnock : Machines.Whimbrel, "TPU");
        var trial = new RetractionTrial();
        var values = trial.InMode(v.Next!.Words!["mode"], trial.Propose(c), c).With(v.Next.Values);
        var planned = trial.Plan(values, c);
        Assert.Empty(planned.Errors);
        Assert.Equal(ceiling > (tube ? 7 : 2), planned.Plan!.Warnings.Any(w => w is { Kind: PlanWarningKind.LongRetraction, Names: [_, "soft"] }));
        // Stiff filament is refused beyond what its drive bears; measured soft, it is not.
        if (ceiling > 5 && !tube)
        {
            var stiff = Context(Machines.Whimbrel, "PLA");
            Assert.Equal("to", Assert.Single(trial.Plan(values, stiff).Errors).Field);
            Assert.Empty(trial.Plan(values, stiff with { MeasuredSoft = true }).Errors);
        }
    }

    [Fact]
    public void What_is_no_compression_or_no_measurement_is_said()
    {
        Assert.Equal("no-compression", FlexJudging.Judge(new() { HandLengthsMm = [40.1, 40.0, 40.2], DrivenLengthsMm = [40.1, 40.2, 40.1] }).Verdict);
        Assert.Equal(FlexOutcome.NoCompression, FlexJudging.Judge(new() { HandLengthsMm = [40.1, 40.0, 40.2], DrivenLengthsMm = [39.5, 39.6, 39.5] }).Outcome);
        Assert.Equal("repeat", FlexJudging.Judge(new() { HandLengthsMm = [40.0, 40.31, 40.1], DrivenLengthsMm = [41, 41, 41] }).Verdict);
        Assert.NotEqual("repeat", FlexJudging.Judge(new() { HandLengthsMm = [40.0, 40.3, 40.1], DrivenLengthsMm = [41, 41, 41] }).Verdict);
        Assert.Equal("insufficient", FlexJudging.Judge(new() { HandLengthsMm = [40, 40], DrivenLengthsMm = [41, 41, 41] }).Verdict);
        Assert.NotEmpty(FlexJudging.Check(new() { HandLengthsMm = [-1], DrivenLengthsMm = [] }));
    }

    [Theory]
    [InlineData("Dunnock 180")]
    [InlineData("Whimbrel 300")]
    [InlineData("Ptarmigan 350 right")]
    public void The_rig_file_heats_nothing_and_is_the_guards_one_exception(string name)
    {
        var (m, trial) = (Of(name), new FlexTrial());
        var c = Context(m, "TPU");
        var plan = trial.Plan(trial.Propose(c), c).Plan!;
        var lines = trial.Lines(plan, c)!.Value.Lines!;
        Assert.Contains(Glenfrost.Core.Gcode.GcodeGuard.RigComment, lines);
        Assert.DoesNotContain(lines, l =>
            l.StartsWith("M104", StringComparison.Ordinal) || l.StartsWith("M109", StringComparison.Ordinal) || l.StartsWith("M140", StringComparison.Ordinal));
        Assert.Empty(GcodeGuard.Check(new StringReader(string.Join('\n', lines)), m));
        Assert.True(new PrintedFile(string.Join('\n', lines)).Steps.Sum(s => s.Fed) >= 1.5 * 40);
        // The same file may not heat, and no other file may let cold filament be fed.
        Assert.Contains(GcodeGuard.Check(new StringReader(string.Join('\n', lines) + "\nM104 S210"), m), w => w.Contains("rig test"));
        Assert.Contains(GcodeGuard.Check(new StringReader("M302 P1\nG1 E5 F60"), m), w => w.Contains("cold"));
        if (m.Dialect != "macro")
            Assert.True(
                lines.ToList().FindIndex(l => l.StartsWith("M302 P0", StringComparison.Ordinal))
                    > lines.ToList().FindLastIndex(l => l.StartsWith("G1 E", StringComparison.Ordinal)));
    }
}
