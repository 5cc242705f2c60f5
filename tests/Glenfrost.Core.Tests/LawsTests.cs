using Glenfrost.Core.Statistics;
using System.Globalization;
using CsCheck;
using Glenfrost.Core.Evidence;
using Glenfrost.Core.Filaments;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Core.Tests;

/// <summary>Laws that hold for any numbers: round trips, scale, order, monotonicity.</summary>
public class LawsTests
{
    private static readonly Gen<double[]> Scores = Gen.Double[0.5, 4].Array[2, 5];

    [Fact]
    public void A_number_written_with_comma_point_or_unit_reads_back() => Gen.Int[-2000, 6000].Sample(n =>
    {
        var quantity = RecordFields.RoomC;
        var value = n / 100m;
        var text = value.ToString(CultureInfo.InvariantCulture);
        var parsed = quantity.Parse(text);
        Assert.Equal(value, parsed.Value);
        Assert.Equal(value, quantity.Parse(text.Replace('.', ',')).Value);
        Assert.Equal(value, quantity.Parse(text + " °C").Value);
        Assert.Equal(value, quantity.Parse(text.Replace('-', '−')).Value);
    });

    [Fact]
    public void Whatever_is_typed_is_either_a_value_in_range_or_a_message() => Gen.String.Sample(text =>
    {
        foreach (var quantity in TowerFields.All.Values.Append(RecordFields.RoomC))
        {
            var parsed = quantity.Parse(text);
            Assert.True(parsed.Value is null != parsed.Error is null);
            if (parsed.Value is { } value)
                Assert.InRange(value, quantity.Min, quantity.Max);
        }
    });

    [Fact]
    public void Rounding_never_moves_a_value_by_more_than_its_last_digit_and_is_final() =>
        Gen.Select(Gen.Int[0, SettingRegistry.All.Count - 1], Gen.Double[-10, 500])
            .Sample(
                (i, value) =>
                {
                    var d = SettingRegistry.All[i];
                    var rounded = d.Round(value);
                    Assert.True(Math.Abs(rounded - value) <= Math.Pow(10, -d.Digits) + 1e-9);
                    Assert.Equal(rounded, d.Round(rounded), 9);
                    if (d.Rounding == Rounding.Down)
                        Assert.True(rounded <= value + 1e-9);
                });

    [Fact]
    public void Scaling_all_weights_changes_nothing() => Gen.Select(Scores, Gen.Double[0.1, 50]).Sample((scores, factor) =>
    {
        var weights = scores.Select((_, i) => 1.0 + i).ToArray();
        Assert.Equal(ScoreBootstrap.Desirability(scores, weights), ScoreBootstrap.Desirability(scores, [.. weights.Select(w => w * factor)]), 9);
    });

    [Fact]
    public void A_desirability_lies_between_its_worst_and_best_score() => Scores.Sample(scores =>
    {
        var d = 4 * ScoreBootstrap.Desirability(scores, [.. scores.Select(_ => 1.0)]);
        Assert.InRange(d, scores.Min() - 1e-9, scores.Max() + 1e-9);
    });

    [Fact]
    public void Without_noise_every_draw_is_the_reading() => Scores.Sample(scores =>
    {
        var weights = scores.Select(_ => 1.0).ToArray();
        var draws = ScoreBootstrap.Draw([[scores]], weights, 0, 5)[0];
        var d = ScoreBootstrap.Desirability(scores, weights);
        Assert.All(draws.Take(20), x => Assert.Equal(d, x, 9));
    }, iter: 30);

    [Fact]
    public void More_noise_never_makes_a_winner_surer()
    {
        SectionReading At(double t, double score) => new(t, SectionState.Judged, Aspects.All.ToDictionary(a => a, _ => score));
        double Win(double noise) =>
            TowerJudging.Judge(new TowerReadings { Sections = [At(220, 2), At(215, 4), At(210, 3), At(205, 2)], ScoreNoise = noise }).Sections[1]
                .WinProbability!.Value;
        var wins = new[] { 0, 0.25, 0.5, 1, 2 }.Select(Win).ToList();
        Assert.Equal(1, wins[0], 6);
        Assert.All(wins.Zip(wins.Skip(1)), p => Assert.True(p.Second <= p.First + 0.02));
    }

    [Fact]
    public void Moving_all_temperatures_moves_the_verdict_along() =>
        Gen.Int[-20, 20]
            .Sample(
                shift =>
                {
                    SectionReading At(double t, params double[] s) => new(t, SectionState.Judged, Aspects.All.Zip(s).ToDictionary(p => p.First, p => p.Second));
                    TowerVerdict Judge(int by) =>
                        TowerJudging.Judge(
                            new TowerReadings
                            {
                                Sections = [At(225 + by, 2, 2, 1, 2, 4), At(220 + by, 4, 4, 3, 4, 4), At(215 + by, 4, 4, 4, 4, 4), At(210 + by, 2, 3, 4, 2, 2)],
                            });
                    var here = Judge(0);
                    var there = Judge(shift);
                    Assert.Equal(here.Verdict, there.Verdict);
                    Assert.Equal(here.RecommendedTemperatureC + shift, there.RecommendedTemperatureC);
                    Assert.Equal(here.UncertaintyC, there.UncertaintyC);
                },
                iter: 20);

    [Fact]
    public void A_worse_section_more_changes_no_others_number() => Gen.Int[1, 3].Sample(score =>
    {
        SectionReading At(double t, double s) => new(t, SectionState.Judged, Aspects.All.ToDictionary(a => a, _ => s));
        SectionReading[] tower = [At(220, 3), At(215, 4), At(210, 3)];
        var without = TowerJudging.Judge(new TowerReadings { Sections = tower });
        var with = TowerJudging.Judge(new TowerReadings { Sections = [.. tower, At(205, score)] });
        Assert.Equal(without.Sections.Select(s => s.Desirability), with.Sections.Take(3).Select(s => s.Desirability));
    }, iter: 10);

    [Fact]
    public void A_union_holds_every_source() => Gen.Select(Gen.Double[150, 300], Gen.Double[0, 60]).Array[1, 6].Sample(pairs =>
    {
        var spans = pairs.Select(p => new Span(p.Item1, p.Item1 + p.Item2)).ToList();
        var union = Span.Union(spans)!;
        Assert.All(spans, s => Assert.True(union.Min <= s.Min && union.Max >= s.Max));
        Assert.Contains(spans, s => s.Min == union.Min);
        Assert.Contains(spans, s => s.Max == union.Max);
    });

    [Fact]
    public void The_stile_scales_with_the_nozzle_and_its_gap_for_strings_does_not()
    {
        var fine = new Stile(0.4, 10, Stile.StandardDepthMm(0.4));
        var coarse = new Stile(0.8, 20, Stile.StandardDepthMm(0.8));
        Assert.Equal(2 * fine.NumberPostMm, coarse.NumberPostMm, 9);
        Assert.Equal(2 * fine.HalfRoundMm, coarse.HalfRoundMm, 9);
        Assert.Equal(2 * fine.FlareReachMm, coarse.FlareReachMm, 9);
        Assert.Equal(fine.ReedGapMm, coarse.ReedGapMm);
        // 2 reeds of 2 mm, 8 mm between them, 3 mm to either post.
        Assert.Equal(18, fine.BridgeSpanMm, 9);
        Assert.Equal(3, fine.ReedToPostMm, 9);
        Assert.Equal(14, fine.DepthMm);
        Assert.True(fine.LintelMm <= fine.SectionHeightMm / 4);
        // A flare of 45 degrees leans out as far as it rises.
        Assert.Equal(2, fine.FlareAt(fine.FlareFromMm + 2)!.Value.To, 9);
        Assert.Null(fine.FlareAt(fine.FlareFromMm));
    }

    [Fact]
    public void A_taller_tower_takes_longer_and_weighs_more() =>
        Gen.Int[4, 20]
            .Sample(
                sections =>
                {
                    TowerPlan Plan(int n) =>
                        TowerPlanning
                            .Plan(
                                new TowerRequest
                                {
                                    HottestC = 280, CoolestC = 280 - (n - 1) * 5, StepC = 5, SectionHeightMm = 10, BaseHeightMm = 1.2m, LayerHeightMm = 0.2m,
                                    FirstLayerHeightMm = 0.2m,
                                })
                            .Plan!;
                    Assert.True(Plan(sections).Estimate.Minutes < Plan(sections + 1).Estimate.Minutes);
                    Assert.True(Plan(sections).Estimate.MassG < Plan(sections + 1).Estimate.MassG);
                    Assert.True(Plan(sections).Slenderness < Plan(sections + 1).Slenderness);
                },
                iter: 10);

    [Fact]
    public void Uses_set_weights_for_every_aspect_and_a_preference()
    {
        foreach (var use in new[] { null, "balanced", "looks", "fine detail", "strength", "speed", "low mass" })
        {
            var weights = Aspects.WeightsFor(use);
            Assert.Equal(Aspects.All, weights.Keys);
            Assert.All(weights.Values, w => Assert.True(w > 0));
        }

        Assert.Equal(Preference.Looks, Aspects.PreferenceFor("fine detail"));
        Assert.Equal(Preference.Strength, Aspects.PreferenceFor("strength"));
        Assert.Equal(Preference.Balanced, Aspects.PreferenceFor("speed"));
        Assert.True(Aspects.WeightsFor("strength")["bond"] > Aspects.WeightsFor("looks")["bond"]);
    }

    [Fact]
    public void Every_family_holds_together() => Assert.All(Family.All, f =>
    {
        Assert.True(f.NozzleC.Min < f.NozzleC.Max);
        Assert.True(f.BedC.Min < f.BedC.Max);
        Assert.True(f.FanPercent.Min <= f.FanPercent.Max);
        Assert.True(f.DryingC < f.BedC.Max + 10);
        Assert.InRange(f.DensityGPerCm3, 0.8, 1.4);
        Assert.Same(f, Family.Find(" " + f.Name.ToUpperInvariant() + " "));
    });
}
