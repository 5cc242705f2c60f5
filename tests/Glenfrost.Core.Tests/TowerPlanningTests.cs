using Glenfrost.Core.TestPieces;
using CsCheck;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Core.Tests;

public class TowerPlanningTests
{
    private static TowerRequest Usual =>
        new() { HottestC = 230, CoolestC = 190, StepC = 5, SectionHeightMm = 10, BaseHeightMm = 1.2m, LayerHeightMm = 0.2m, FirstLayerHeightMm = 0.2m };

    private static TowerRequest Own => new() { HottestC = 230, StepC = 5, TotalLayers = 456, BaseLayers = 6, Sections = 9 };

    [Fact]
    public void Worked_by_hand_nine_sections_of_fifty_layers()
    {
        // (230 − 190) ÷ 5 + 1 = 9 sections; base 1 + (1.2 − 0.2) ÷ 0.2 = 6 layers; 10 ÷ 0.2 = 50 layers; top 6 + 9 · 50 = 456.
        var plan = TowerPlanning.Plan(Usual).Plan!;
        Assert.Equal(9, plan.Sections.Count);
        Assert.Equal(50, plan.LayersPerSection);
        Assert.Equal(6, plan.BaseLayers);
        Assert.Equal(456, plan.TotalLayers);
        Assert.Equal(91.2m, plan.HeightMm);
        Assert.Equal(new TowerSection(0, 230, 1.2m, 11.2m, 7, 56), plan.Sections[0]);
        Assert.Equal(new TowerSection(8, 190, 81.2m, 91.2m, 407, 456), plan.Sections[8]);
        Assert.Equal(8, plan.Checkpoints.Count(c => c.IsChange));
        Assert.Equal(new TowerCheckpoint(57, 11.2m, 225, 1, true), plan.Checkpoints[1]);
    }

    [Fact]
    public void A_thick_first_layer_counts_in_the_base()
    {
        // 1 + (1.24 − 0.24) ÷ 0.2 = 6.
        Assert.Equal(6, TowerPlanning.Plan(Usual with { FirstLayerHeightMm = 0.24m, BaseHeightMm = 1.24m }).Plan!.BaseLayers);
    }

    [Fact]
    public void A_section_of_no_whole_layers_is_refused_with_what_is_left_over()
    {
        var error = Assert.Single(TowerPlanning.Plan(Usual with { SectionHeightMm = 10.1m }).Errors);
        Assert.Equal("sectionHeightMm", error.Field);
        Assert.Contains("0.1 mm left over", error.Message);
        Assert.Contains(error.Offers, o => o.Changes.GetValueOrDefault("sectionHeightMm") == 10.2m);
    }

    [Fact]
    public void Layer_heights_on_full_screw_steps_are_offered_first()
    {
        var error = Assert.Single(TowerPlanning.Plan(Usual with { LayerHeightMm = 0.22m, BaseHeightMm = 1.3m }).Errors);
        Assert.Equal(0.2m, error.Offers[0].Changes["layerHeightMm"]);
        Assert.Contains("lead screw", error.Offers[0].Note);
    }

    [Fact]
    public void A_step_that_does_not_end_on_the_range_offers_ranges_and_steps()
    {
        var error = Assert.Single(TowerPlanning.Plan(Usual with { CoolestC = 188 }).Errors);
        Assert.Equal("stepC", error.Field);
        Assert.Contains(error.Offers, o => o.Changes.ContainsKey("coolestC"));
        Assert.Contains(error.Offers, o => o.Changes.ContainsKey("stepC"));
    }

    [Theory]
    [InlineData(235, 190, "hottestC", "limit of 230")]
    [InlineData(230, 160, "coolestC", "cold-extrusion limit of 170")]
    [InlineData(190, 230, "hottestC", "must be hotter")]
    [InlineData(2100, 190, "hottestC", "Did you mean 210?")]
    public void Limits_win_everywhere(int hot, int cool, string field, string part)
    {
        var errors = TowerPlanning.Plan(Usual with { HottestC = hot, CoolestC = cool, Limits = new(null, 230) }).Errors;
        Assert.Contains(errors, e => e.Field == field && e.Message.Contains(part));
    }

    [Fact]
    public void Limits_hold_for_somebodys_own_model_too()
    {
        Assert.Contains(TowerPlanning.Plan(Own with { Limits = new(null, 225) }).Errors, e => e.Field == "hottestC");
        Assert.Contains(TowerPlanning.Plan(Own with { HottestC = 200 }).Errors, e => e.Field == "coolestC");
    }

    [Fact]
    public void Beyond_the_label_is_allowed_and_marked()
    {
        var plan = TowerPlanning.Plan(Usual with { Advised = new(195, 220) }).Plan!;
        Assert.Equal([new(PlanWarningKind.AboveAdvised, 230, 220), new(PlanWarningKind.BelowAdvised, 190, 195)], plan.Warnings);
    }

    [Fact]
    public void Minutes_above_the_liners_continuous_limit_are_said()
    {
        var plan = TowerPlanning.Plan(Usual with { Limits = new(170, 237, 220) }).Plan!;
        Assert.Contains(new(PlanWarningKind.SectionsAboveContinuous, 220, plan.Estimate.MinutesAboveContinuousLimit), plan.Warnings);
        Assert.True(plan.Estimate.MinutesAboveContinuousLimit > 0);
    }

    [Fact]
    public void A_slender_tower_is_judged_and_two_towers_are_offered()
    {
        var plan = TowerPlanning.Plan(Usual with { StepC = 2 }).Plan!;
        Assert.Contains(plan.Warnings, w => w.Kind == PlanWarningKind.Slender);
        Assert.Contains(plan.Offers, o => o.Label.StartsWith("two towers"));
        Assert.True(
            TowerPlanning.Plan(Usual with { StepC = 2, PieceDepthMm = plan.Offers.Single(o => o.Changes.ContainsKey("pieceDepthMm")).Changes["pieceDepthMm"] })
                .Plan!.Slenderness <= TowerPlanning.SlenderFrom);
    }

    [Fact]
    public void A_tower_taller_than_the_printer_is_refused_with_what_fits()
    {
        var error = Assert.Single(TowerPlanning.Plan(Usual with { BedHeightMm = 60 }).Errors);
        Assert.All(error.Offers, o => Assert.NotNull(TowerPlanning.Plan(Apply(Usual with { BedHeightMm = 60 }, o.Changes)).Plan));
    }

    [Fact]
    public void Own_model_worked_by_hand()
    {
        // (456 − 6) ÷ 9 = 50; section 2 begins at layer 6 + 50 + 1 = 57.
        var plan = TowerPlanning.Plan(Own).Plan!;
        Assert.Equal(50, plan.LayersPerSection);
        Assert.Equal(57, plan.Sections[1].FirstLayer);
        Assert.Equal(190, plan.Sections[^1].TemperatureC);
        Assert.Null(plan.Sections[0].FromZMm);
    }

    [Fact]
    public void An_odd_remainder_is_refused_with_its_drift_and_rounding_by_height_is_offered_with_its_worst_error()
    {
        var request = Own with { TotalLayers = 460, LayerHeightMm = 0.2m, FirstLayerHeightMm = 0.2m };
        var error = Assert.Single(TowerPlanning.Plan(request).Errors);
        Assert.Equal("totalLayers", error.Field);
        Assert.Contains("4 left over", error.Message);
        Assert.Contains("4 layers (0.8 mm) off", error.Message);
        var rounded = TowerPlanning.Plan(request with { RoundByHeight = true }).Plan!;
        // 454 layers in 9 sections: exact boundaries at i · 454/9; the worst distance to a whole layer is 4/9.
        Assert.Equal(0.444m, Math.Round(rounded.WorstBoundaryErrorLayers, 3));
        Assert.Equal(460, rounded.Sections[^1].LastLayer);
    }

    [Fact]
    public void Missing_and_absurd_fields_are_each_named()
    {
        var fields = TowerPlanning.Plan(new TowerRequest { HottestC = 230 }).Errors.Select(e => e.Field).ToList();
        Assert.Contains("coolestC", fields);
        Assert.Contains("sectionHeightMm", fields);
        Assert.Contains("layerHeightMm", TowerPlanning.Plan(Usual with { LayerHeightMm = 0.6m }).Errors.Select(e => e.Field));
        Assert.Contains("sections", TowerPlanning.Plan(Own with { Sections = 1 }).Errors.Select(e => e.Field));
    }

    private static Gen<TowerRequest> Requests =>
        from hot in Gen.Int[200, 280]
        from span in Gen.Int[1, 60]
        from step in Gen.Int[1, 20]
        from layer in Gen.Int[4, 32]
        from first in Gen.Int[4, 32]
        from section in Gen.Int[200, 1500]
        from baseH in Gen.Int[4, 300]
        select Usual with
        {
            HottestC = hot,
            CoolestC = hot - span,
            StepC = step,
            LayerHeightMm = layer / 100m,
            FirstLayerHeightMm = first / 100m,
            SectionHeightMm = section / 100m,
            BaseHeightMm = baseH / 100m,
        };

    [Fact]
    public void Sections_tile_the_height_exactly_and_the_hottest_is_below() => Requests.Sample(r =>
    {
        if (TowerPlanning.Plan(r).Plan is not { } plan)
            return;
        Assert.Equal(r.BaseHeightMm, plan.Sections[0].FromZMm);
        Assert.Equal(plan.HeightMm, plan.Sections[^1].ToZMm);
        Assert.Equal(plan.BaseLayers + 1, plan.Sections[0].FirstLayer);
        Assert.Equal(plan.TotalLayers, plan.Sections[^1].LastLayer);
        foreach (var (a, b) in plan.Sections.Zip(plan.Sections.Skip(1)))
        {
            Assert.Equal(a.ToZMm, b.FromZMm);
            Assert.Equal(a.LastLayer + 1, b.FirstLayer);
            Assert.True(a.TemperatureC > b.TemperatureC);
        }

        // The layer count gives the height back: first layer plus the others.
        Assert.Equal(plan.HeightMm, r.FirstLayerHeightMm + (plan.TotalLayers - 1) * r.LayerHeightMm);
    });

    [Fact]
    public void Offers_always_fit() => Requests.Sample(r =>
    {
        foreach (var error in TowerPlanning.Plan(r).Errors)
        {
            foreach (var offer in error.Offers)
            {
                var after = TowerPlanning.Plan(Apply(r, offer.Changes));
                Assert.DoesNotContain(after.Errors, e => e.Field == error.Field);
            }
        }
    });

    [Fact]
    public void Taking_offers_one_after_another_ends_in_a_plan() => Requests.Sample(r =>
    {
        var result = TowerPlanning.Plan(r);
        for (var i = 0; i < 5 && result.Plan is null && result.Errors.Any(e => e.Offers.Count > 0); i++)
        {
            r = Apply(r, result.Errors.First(e => e.Offers.Count > 0).Offers[0].Changes);
            result = TowerPlanning.Plan(r);
        }

        Assert.True(result.Plan is not null || result.Errors.All(e => e.Offers.Count == 0));
    });

    [Fact]
    public void Rounded_boundaries_never_stray_by_more_than_half_a_layer() =>
        Gen.Select(Gen.Int[2, 40], Gen.Int[40, 2000], Gen.Int[0, 20])
            .Sample(
                (sections, body, baseLayers) =>
                {
                    if (body < sections)
                        return;
                    var plan = TowerPlanning
                        .Plan(
                            new TowerRequest
                            {
                                HottestC = 300, StepC = 1, TotalLayers = body + baseLayers, BaseLayers = baseLayers, Sections = sections, RoundByHeight = true,
                                Limits = new(150, 400),
                            })
                        .Plan!;
                    Assert.True(plan.WorstBoundaryErrorLayers <= 0.5m);
                    Assert.All(plan.Sections, s => Assert.True(s.LastLayer >= s.FirstLayer));
                    Assert.Equal(body + baseLayers, plan.Sections[^1].LastLayer);
                });

    internal static TowerRequest Apply(TowerRequest r, IReadOnlyDictionary<string, decimal> changes)
    {
        foreach (var (field, v) in changes)
        {
            r = field switch
            {
                "hottestC" => r with { HottestC = v },
                "coolestC" => r with { CoolestC = v },
                "stepC" => r with { StepC = v },
                "sectionHeightMm" => r with { SectionHeightMm = v },
                "baseHeightMm" => r with { BaseHeightMm = v },
                "layerHeightMm" => r with { LayerHeightMm = v },
                "baseLayers" => r with { BaseLayers = v },
                "totalLayers" => r with { TotalLayers = v },
                "roundByHeight" => r with { RoundByHeight = v != 0 },
                "pieceDepthMm" => r with { PieceDepthMm = v },
                "brim" => r with { Brim = v != 0 },
                _ => throw new ArgumentException(field),
            };
        }

        return r;
    }
}
