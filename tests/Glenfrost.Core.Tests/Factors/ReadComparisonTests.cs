using Glenfrost.Core.Factors;
using Glenfrost.Core.Statistics;
using MathNet.Numerics.Distributions;

namespace Glenfrost.Core.Tests.Factors;

/// <summary>Readings side by side: on one axis, and marked only where they beat what they scatter.</summary>
public class ReadComparisonTests
{
    [Theory]
    [InlineData(new[] { "230 °C", "190 °C", "210 °C", "190 °C" }, new[] { "190 °C", "210 °C", "230 °C" })]
    [InlineData(new[] { "+3 %", "−3 %", "0 %" }, new[] { "−3 %", "0 %", "+3 %" })]
    [InlineData(new[] { "4.5 mm", "10 mm", "0.25 mm" }, new[] { "0.25 mm", "4.5 mm", "10 mm" })]
    [InlineData(new[] { "front", "left", "front" }, new[] { "front", "left" })]
    [InlineData(new[] { "off", "on, 4 mm" }, new[] { "off", "on, 4 mm" })]
    public void Parts_stand_in_the_order_of_their_numbers_or_as_they_came(string[] labels, string[] axis) => Assert.Equal(axis, ReadComparison.Axis(labels));

    [Fact]
    public void By_hand_one_and_a_half_scores_beat_a_scatter_of_a_half_and_one_does_not()
    {
        // 1.96 · √(0.5² + 0.5²) = 1.386.
        Assert.True(new ComparedPlace("a", [new(4, 0.5), new(2.5, 0.5)]).Beats);
        Assert.False(new ComparedPlace("a", [new(4, 0.5), new(3, 0.5)]).Beats);
        Assert.False(new ComparedPlace("a", [new(4, null), new(0, 0.5)]).Beats);
        Assert.False(new ComparedPlace("a", [new(4, 0.5), null]).Beats);
        Assert.True(new ComparedPlace("a", [new(3, 0.5), null, new(3.4, 0.5), new(1, 0.5)]).Beats);
    }

    [Fact]
    public void Alike_readings_are_marked_as_often_as_it_is_said_that_chance_would()
    {
        var random = new Random(5);
        const int Of = 20_000;
        var marked = Enumerable.Range(0, Of).Count(_ => new ComparedPlace(
            "a", [new(Normal.Sample(random, 2, ScoreNoise.Default), ScoreNoise.Default), new(Normal.Sample(random, 2, ScoreNoise.Default), ScoreNoise.Default)])
            .Beats);
        Assert.InRange(marked, 0.9 * ReadComparison.ByChance(Of), 1.1 * ReadComparison.ByChance(Of));
    }
}
