using CsCheck;
using Glenfrost.Core.Factors;

namespace Glenfrost.Core.Tests.Factors;

/// <summary>What may be concluded: the worked cases, and what no interval may do.</summary>
public class AttributionTests
{
    private static FactorDifference Differs(string key) =>
        new(FactorRegistry.Find(key)!, Sameness.Differs, FactorValue.Of(1, FactorSource.Typed), FactorValue.Of(2, FactorSource.Typed));

    private static FactorDifference Unknown(string key) => new(FactorRegistry.Find(key)!, Sameness.Unknown, null, null);

    [Fact]
    public void One_piece_against_one_is_the_only_thing_that_differs_and_no_effect()
    {
        var a = Attribution.Of([Differs("chamberC")], [0.4], [1.2]);
        Assert.Equal(Conclusion.OnlyDifference, a.Verdict);
        Assert.Null(a.Low);
    }

    [Fact]
    public void Two_against_two_with_an_interval_that_leaves_zero_out_is_an_effect()
    {
        // By hand: means 0.35 and 1.15; pooled sd √0.005 = 0.0707; t(2) = 4.303; half 0.304.
        var a = Attribution.Of([Differs("brimWidthMm")], [0.3, 0.4], [1.2, 1.1]);
        Assert.Equal(Conclusion.Effect, a.Verdict);
        Assert.Equal((-0.80, -1.10, -0.50), (Math.Round(a.Effect!.Value, 2), Math.Round(a.Low!.Value, 2), Math.Round(a.High!.Value, 2)));
    }

    [Fact]
    public void Two_against_two_that_scatter_show_nothing()
    {
        var a = Attribution.Of([Differs("brimWidthMm")], [0.7, 0.5], [1.2, 0.6]);
        Assert.Equal(Conclusion.NotShown, a.Verdict);
        Assert.Equal((-0.30, -1.66, 1.06), (Math.Round(a.Effect!.Value, 2), Math.Round(a.Low!.Value, 2), Math.Round(a.High!.Value, 2)));
    }

    [Fact]
    public void Two_changes_cannot_be_attributed_and_the_run_that_separates_exchanges_the_cheaper_one()
    {
        var a = Attribution.Of([Differs("chamberC"), Differs("brimWidthMm")], [0.3, 0.4], [1.2, 1.1]);
        Assert.Equal(Conclusion.NotAttributed, a.Verdict);
        Assert.Equal(["brimWidthMm", "chamberC"], a.Separate);
    }

    [Fact]
    public void What_is_unknown_is_named_and_pieces_of_two_sizes_have_no_common_number()
    {
        var a = Attribution.Of([Differs("brimWidthMm"), Unknown("roomC")], [0.3, 0.4], [1.2, 1.1]);
        Assert.Equal((Conclusion.UnknownBeside, "roomC"), (a.Verdict, a.Unknown.Single().Factor.Key));
        Assert.Equal(Conclusion.OnlyUnknown, Attribution.Of([Unknown("roomC")], [1, 2], [1, 2]).Verdict);
        Assert.Equal(Conclusion.NothingDiffers, Attribution.Of([], [1], [2]).Verdict);
        var piece = new FactorDifference(
            new("piece.postMm", "reed", "mm", FactorKind.Number, FactorGroup.Piece), Sameness.Differs, FactorValue.Of(3, FactorSource.Plan),
            FactorValue.Of(6, FactorSource.Plan));
        Assert.Equal(
            (Conclusion.OtherPieces, (double?)null), (Attribution.Of([piece], [1, 2], [1, 2]).Verdict, Attribution.Of([piece], [1, 2], [1, 2]).Effect));
    }

    [Fact]
    public void An_effect_turns_with_its_groups_and_scales_with_its_unit() =>
        Gen.Select(Gen.Double[0, 4].Array[2, 6], Gen.Double[0, 4].Array[2, 6], Gen.Double[0.1, 30])
            .Sample(
                (x, y, scale) =>
                {
                    var (a, b) = (Attribution.Of([Differs("brimWidthMm")], x, y), Attribution.Of([Differs("brimWidthMm")], y, x));
                    Assert.Equal(a.Verdict, b.Verdict);
                    Assert.Equal(a.Low!.Value, -b.High!.Value, 9);
                    var c = Attribution.Of([Differs("brimWidthMm")], [.. x.Select(v => v * scale)], [.. y.Select(v => v * scale)]);
                    Assert.Equal(a.High!.Value * scale, c.High!.Value, 6);
                    Assert.True(a.Verdict != Conclusion.Effect || a.Low > 0 || a.High < 0);
                });
}
