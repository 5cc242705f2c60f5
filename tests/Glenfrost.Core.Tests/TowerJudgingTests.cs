using Glenfrost.Core.Statistics;
using CsCheck;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Core.Tests;

public class TowerJudgingTests
{
    private static SectionReading At(double t, params double[] scores) =>
        new(t, SectionState.Judged, Aspects.All.Zip(scores).Where(p => p.Second >= 0).ToDictionary(p => p.First, p => p.Second));

    private static SectionReading Lost(double t) => new(t, SectionState.Lost, new Dictionary<string, double>());

    private static SectionReading Failed(double t) => new(t, SectionState.Failed, new Dictionary<string, double>());

    private static TowerVerdict Judge(params SectionReading[] sections) => TowerJudging.Judge(new TowerReadings { Sections = sections });

    [Fact]
    public void Desirability_worked_by_hand()
    {
        // (4/4 · 3/4 · 2/4 · 4/4 · 4/4)^(1/5) = 0.375^0.2 = 0.82188…
        var v = Judge(At(220, 4, 3, 2, 4, 4), At(215, 4, 4, 4, 4, 4), At(210, 2, 2, 2, 2, 2));
        Assert.Equal(0.82188, v.Sections[0].Desirability!.Value, 4);
        Assert.Equal(1, v.Sections[1].Desirability!.Value, 9);
        Assert.Equal(0.5, v.Sections[2].Desirability!.Value, 9);
    }

    [Fact]
    public void Weights_are_exponents()
    {
        // ((3/4)^2 · 4/4)^(1/3) = 0.5625^(1/3) = 0.82548…
        var v = TowerJudging.Judge(new TowerReadings
        {
            Sections = [At(220, 3, 4, -1, -1, -1), At(215, 4, 4, -1, -1, -1)],
            Weights = new Dictionary<string, double> { ["bridge"] = 2, ["overhang"] = 1 },
        });
        Assert.Equal(0.82548, v.Sections[0].Desirability!.Value, 4);
    }

    [Fact]
    public void A_winner_that_stands_alone_is_clear()
    {
        var v = Judge(At(225, 1, 2, 1, 2), At(220, 2, 2, 2, 2), At(215, 4, 4, 4, 4), At(210, 2, 2, 2, 2), At(205, 1, 1, 2, 1));
        Assert.Equal("clear", v.Verdict);
        Assert.Equal(215, v.RecommendedTemperatureC);
        Assert.Equal("nozzleTemperatureC", Assert.Single(v.Settings).Key);
        Assert.Equal("confirm", v.Next!.Kind);
    }

    [Theory]
    [InlineData(Preference.Looks, 212)]
    [InlineData(Preference.Balanced, 215)]
    [InlineData(Preference.Strength, 217)]
    public void A_band_is_taken_by_preference_and_halves_round_down(Preference preference, double expected)
    {
        var v = TowerJudging.Judge(new TowerReadings
        {
            Sections = [At(225, 1, 1, 1, 1, 2), At(220, 4, 4, 4, 4, 4), At(215, 4, 4, 4, 4, 4), At(210, 4, 4, 4, 4, 4), At(205, 2, 2, 2, 2, 2)],
            Preference = preference,
        });
        Assert.Equal("band", v.Verdict);
        Assert.Equal(new Band(210, 220), v.Band);
        Assert.Equal(expected, v.RecommendedTemperatureC);
        if (preference == Preference.Strength)
            Assert.Contains(v.Cautions, c => c.Kind == TowerRemarkKind.Strength);
    }

    [Fact]
    public void An_unseparable_pair_is_noise_and_names_its_next_print()
    {
        // Coarse steps, somebody whose scores scatter by more than a whole one: what is between may lie far behind.
        var v = TowerJudging.Judge(new() { Sections = [At(250, 0.5), At(230, 4), At(210, 4), At(190, 0.5)], ScoreNoise = 1 });
        Assert.Equal("noise", v.Verdict);
        Assert.NotNull(v.Numbers!.RivalC);
        Assert.True(v.Next!.Kind is "finer-steps" or "repeat-pair");
        Assert.InRange(v.Next.Chance!.Value, 0, 1);
        Assert.True(v.Loss!.P95 > TowerJudging.OpenScores);
        Assert.True(v.Next.Gain > 0.005);
        // Steadier eyes can't tell the two apart either, and need not: hardly anything is lost by what is advised.
        var steady = Judge(At(255, 2, -1, -1, 2), At(250, 2, -1, -1, 2), At(245, 4, -1, -1, 4), At(240, 4, -1, -1, 3), At(235, 1, -1, -1, 2));
        Assert.Equal("band", steady.Verdict);
        Assert.True(steady.Loss!.P95 <= TowerJudging.OpenScores);
        Assert.True(steady.Advised);
    }

    [Fact]
    public void Nine_equal_sections_say_that_any_will_do_and_that_about_nothing_is_lost()
    {
        var v = Judge([.. Enumerable.Range(0, 9).Select(i => At(230 - 5 * i, 3, 3, 3, 3, 3))]);
        Assert.Equal("band", v.Verdict);
        Assert.Equal((210, new Band(190, 230), true), (v.RecommendedTemperatureC, v.Band, v.Numbers!.AllAlike));
        Assert.True(v.Loss!.Expected < 0.1 && v.Loss.P95 < 0.3, $"{v.Loss}");
        Assert.True(v.Next!.Gain < TrialNext.SmallGain);
    }

    [Fact]
    public void What_stands_alone_is_known_to_a_step_and_the_next_tower_says_what_it_gains_and_costs()
    {
        SectionReading[] read = [At(225, 1, 2, 1, 2), At(220, 2, 2, 2, 2), At(215, 4, 4, 4, 4), At(210, 2, 2, 2, 2), At(205, 1, 1, 2, 1)];
        var v = TowerJudging.Judge(new() { Sections = read, Cost = new(110, 22, 0) });
        Assert.Equal("clear", v.Verdict);
        Assert.True(v.UncertaintyC <= 5);
        Assert.Equal((110, 22.0), (v.Next!.Minutes, v.Next.Grams));
        Assert.InRange(v.Next.Gain!.Value, 0, 0.1);
    }

    [Fact]
    public void Clear_is_never_said_beside_a_wide_interval() => Towers.Sample(tower =>
    {
        var v = Judge(tower);
        Assert.False(v.Verdict == "clear" && v.UncertaintyC > 5, $"{v.RecommendedTemperatureC} ± {v.UncertaintyC}");
        Assert.Equal(v.Verdict != "insufficient", v.Loss is not null);
        Assert.False(v.Verdict == "noise" && v.Loss!.P95 <= TowerJudging.OpenScores);
    }, iter: 40);

    [Fact]
    public void The_best_at_the_edge_is_no_best_unless_a_limit_forbids_more()
    {
        SectionReading[] sections = [At(230, 4, 4, 4, 4), At(225, 3, 3, 2, 2), At(220, 2, 2, 2, 2)];
        var open = TowerJudging.Judge(new TowerReadings { Sections = sections, Limits = new(170, 260) });
        Assert.Equal("edge", open.Verdict);
        Assert.Equal("extend-range", open.Next!.Kind);
        Assert.True(open.Next.HottestC <= 260);
        var closed = TowerJudging.Judge(new TowerReadings { Sections = sections, Limits = new(170, 232, null, "PTFE liner") });
        Assert.True(closed.EdgeAtLimit);
        Assert.Contains(closed.Because, r => r is { Kind: TowerRemarkKind.HotLimit, Word: "PTFE liner" } && r.TemperaturesC[0] == 232);
        Assert.NotEqual("extend-range", closed.Next!.Kind);
    }

    [Fact]
    public void A_failed_end_brackets_the_best_a_lost_one_does_not()
    {
        SectionReading[] seen = [At(215, 2, 2, 2, 2), At(210, 3, 3, 3, 3), At(205, 4, 4, 4, 4)];
        Assert.NotEqual("edge", Judge([.. seen, Failed(200)]).Verdict);
        Assert.Equal("edge", Judge([.. seen, Lost(200)]).Verdict);
    }

    [Fact]
    public void Strings_alone_settle_nothing() => Assert.Equal("insufficient", Judge(At(220, -1, -1, 1), At(215, -1, -1, 3), At(210, -1, -1, 4)).Verdict);

    [Fact]
    public void Nothing_read_one_usable_or_all_failed_is_insufficient()
    {
        Assert.Equal("insufficient", Judge(At(220), At(215)).Verdict);
        Assert.Equal("insufficient", Judge(At(220, 4, 4), Failed(215)).Verdict);
        Assert.Equal("insufficient", Judge(Failed(220), Failed(215)).Verdict);
        Assert.Equal("insufficient", Judge(Lost(220), Lost(215)).Verdict);
        Assert.Empty(Judge(Lost(220)).Settings);
    }

    [Fact]
    public void Aspects_that_one_section_lacks_are_left_out_and_said()
    {
        var v = Judge(At(220, 3, 3, 3, 1), At(215, 4, 4, 4), At(210, 3, 3, 4, 4));
        Assert.DoesNotContain("surface", v.CommonAspects);
        Assert.Contains(v.Cautions, c => c is { Kind: TowerRemarkKind.LeftOut, Word: "surface" } && c.TemperaturesC[0] == 215);
    }

    [Fact]
    public void The_observed_temperature_is_what_is_judged()
    {
        var v = TowerJudging.Judge(new TowerReadings { Sections = [At(225, 2, 2, 2, 2), At(220, 4, 4, 4, 4) with { ObservedC = 216 }, At(210, 2, 2, 2, 2)] });
        Assert.Equal(216, v.RecommendedTemperatureC);
        Assert.Contains(v.Cautions, c => c.Kind == TowerRemarkKind.Display && c.TemperaturesC[0] == 216);
    }

    private static Gen<SectionReading[]> Towers =>
        Gen.Int[0, 4].Array[5].Array[3, 9].Select(rows => rows.Select((r, i) => At(230 - 5 * i, [.. r.Select(x => (double)x)])).ToArray());

    [Fact]
    public void Desirability_never_rises_when_a_score_falls() => Gen.Select(Towers, Gen.Int[0, 8], Gen.Int[0, 4]).Sample((tower, i, a) =>
    {
        i %= tower.Length;
        var aspect = Aspects.All[a];
        if (tower[i].Scores[aspect] == 0)
            return;
        var lower = tower.ToArray();
        lower[i] = tower[i] with { Scores = tower[i].Scores.ToDictionary(s => s.Key, s => s.Key == aspect ? s.Value - 1 : s.Value) };
        Assert.True(Judge(lower).Sections[i].Desirability <= Judge(tower).Sections[i].Desirability);
    }, iter: 60);

    [Fact]
    public void An_observed_zero_vetoes_and_the_bootstrap_never_invents_or_revives_one() => Towers.Sample(tower =>
    {
        var v = Judge(tower);
        foreach (var (s, r) in v.Sections.Zip(tower))
        {
            var zero = r.Scores.Values.Any(x => x == 0);
            Assert.Equal(zero, s.Desirability == 0);
            if (zero)
                Assert.True(s.WinProbability is 0 && s.High is 0);
            else if (s.Low is { } low)
                Assert.True(low > 0);
        }
    }, iter: 60);

    [Fact]
    public void Lost_sections_change_nothing() => Gen.Select(Towers, Gen.Int[150, 300]).Sample((tower, t) =>
    {
        var with = Judge([.. tower, Lost(t)]);
        var without = Judge(tower);
        Assert.Equal(without.Verdict, with.Verdict);
        Assert.Equal(without.RecommendedTemperatureC, with.RecommendedTemperatureC);
        Assert.Equal(without.UncertaintyC, with.UncertaintyC);
        Assert.Equal(without.Band, with.Band);
        Assert.Equal(without.Sections, with.Sections.Take(tower.Length));
    }, iter: 40);

    [Fact]
    public void The_same_seed_gives_the_same_answer_in_any_order() => Towers.Sample(tower =>
    {
        var v = Judge(tower);
        var turned = Judge([.. tower.Reverse()]);
        Assert.Equal(v.Sections, turned.Sections.Reverse());
        Assert.Equal(v.RecommendedTemperatureC, Judge(tower).RecommendedTemperatureC);
    }, iter: 30);

    [Fact]
    public void Win_probabilities_sum_to_one_and_no_advice_leaves_the_limits() => Towers.Sample(tower =>
    {
        var v = TowerJudging.Judge(new TowerReadings { Sections = tower, Limits = new(170, 222) });
        if (v.RecommendedTemperatureC is { } r)
        {
            Assert.InRange(r, 170, 222);
            Assert.Equal(1, v.Sections.Sum(s => s.WinProbability ?? 0), 6);
        }

        Assert.True(v.Next?.HottestC is null or <= 222);
        Assert.True(v.Next?.CoolestC is null or >= 170);
    }, iter: 60);

    [Fact]
    public void Repeats_narrow_the_interval()
    {
        SectionReading[] once = [At(220, 3, 3, 3, 3), At(215, 4, 4, 4, 3), At(210, 3, 2, 3, 3)];
        var one = Judge(once).Sections[0];
        var two = Judge([.. once, .. once, .. once]).Sections[0];
        Assert.True(two.High - two.Low < one.High - one.Low);
    }

    [Fact]
    public void A_repeat_that_is_not_read_yet_says_nothing()
    {
        SectionReading[] once = [At(220, 3, 3, 3, 3), At(215, 4, 4, 4, 3), At(210, 3, 2, 3, 3)];
        var v = Judge([.. once, At(215)]);
        Assert.Equal("unread", v.Sections[3].Fate);
        Assert.Equal(Judge(once).RecommendedTemperatureC, v.RecommendedTemperatureC);
    }

    [Fact]
    public void Bad_readings_are_named_by_field()
    {
        var errors = TowerJudging.Check(
            new TowerReadings { Sections = [At(220, 5)], ScoreNoise = -1, Weights = new Dictionary<string, double> { ["gloss"] = 1 } });
        Assert.Equal(["sections[0].scores.bridge", "weights.gloss", "scoreNoise"], errors.Select(e => e.Field));
    }
}
