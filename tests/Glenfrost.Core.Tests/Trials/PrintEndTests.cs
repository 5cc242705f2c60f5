using Glenfrost.Core.Tests.Pieces;
using Glenfrost.Core.Trials;
using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Core.Tests.Trials;

/// <summary>Where a print ended, as its plan allows.</summary>
public class PrintEndTests
{
    private static ITrialPlan Tower(bool separate) =>
        TowerPlanning.Plan(Machines.Tower(Machines.Dunnock, 230, 210, 5) with { Separate = separate }).Plan!;

    [Fact]
    public void A_whole_piece_ended_nowhere_and_an_early_end_lies_below_the_last_layer()
    {
        var plan = Tower(false);
        Assert.Equal((null, null), PrintEnd.Of(plan, "tower", false, null));
        Assert.Equal((12, null), PrintEnd.Of(plan, "tower", true, 12));
        Assert.Equal((plan.TotalLayers - 1, null), PrintEnd.Of(plan, "tower", true, plan.TotalLayers - 1));
        Assert.Equal(
            (null, $"The plan has {plan.TotalLayers} layers; an early end lies below that."), PrintEnd.Of(plan, "tower", true, plan.TotalLayers));
        Assert.Equal(
            (null, "A whole tower ended nowhere early. Empty this, or choose that it ended early."), PrintEnd.Of(plan, "tower", false, 12));
    }

    [Fact]
    public void Pieces_one_after_another_count_those_that_stand_whole()
    {
        var plan = Tower(true);
        var each = plan.LayersPerPiece!.Value;
        Assert.Equal(5, plan.TotalLayers / each);
        Assert.Equal((3 * each, null), PrintEnd.Of(plan, "tower", true, 3));
        // None is whole: something of the first one stands.
        Assert.Equal((1, null), PrintEnd.Of(plan, "tower", true, 0));
        Assert.Equal((null, "The plan has 5 pieces; where it ended early, fewer stand whole."), PrintEnd.Of(plan, "tower", true, 5));
    }

    [Fact]
    public void What_is_not_printed_in_layers_ends_nowhere()
    {
        var trial = TrialCatalogue.Get("extruder-feed");
        var c = new PlanContext { Machine = Machines.Dunnock, StepsPerMm = 96.4 };
        Assert.Equal((null, null), PrintEnd.Of(trial.Plan(trial.Propose(c), c).Plan!, trial.Noun, true, 7));
    }
}
