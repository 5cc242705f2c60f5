using Glenfrost.Core.Trials.TemperatureTower;

namespace Glenfrost.Core.Tests;

public class TowerHeightsTests
{
    private static TowerPlan Plan(decimal hot, decimal cool, decimal step, decimal section = 10, bool separate = false) => TowerPlanning.Plan(new TowerRequest
    {
        HottestC = hot,
        CoolestC = cool,
        StepC = step,
        SectionHeightMm = section,
        BaseHeightMm = 1.2m,
        LayerHeightMm = 0.2m,
        FirstLayerHeightMm = 0.2m,
        Separate = separate,
    }).Plan!;

    [Fact]
    public void The_middle_of_a_section_finds_the_section_at_that_height()
    {
        // Section 3 of ten-millimetre sections: 31.2 to 41.2 mm, middle 36.2. With eight-millimetre ones that is 33.2 to 41.2: section 4.
        var (ten, eight) = (Plan(230, 190, 5), Plan(220, 200, 5, 8));
        Assert.Equal(4, TowerHeights.SameHeight(ten, 3, eight));
        Assert.Null(TowerHeights.SameHeight(ten, 6, eight));
        Assert.All(Enumerable.Range(0, 9), i => Assert.Equal(i, TowerHeights.SameHeight(ten, i, ten)));
    }

    [Fact]
    public void The_same_temperature_may_stand_at_another_height()
    {
        Assert.Equal(0, TowerHeights.SameTemperature(Plan(230, 190, 5), 2, Plan(220, 200, 5)));
        Assert.Null(TowerHeights.SameTemperature(Plan(230, 190, 5), 0, Plan(220, 200, 5)));
    }

    [Fact]
    public void Separate_pieces_compare_by_their_place()
    {
        var row = Plan(230, 210, 10, separate: true);
        Assert.Equal(1, TowerHeights.SameHeight(row, 1, Plan(230, 190, 5)));
        Assert.Null(TowerHeights.SameHeight(Plan(230, 190, 5), 5, row));
    }
}
