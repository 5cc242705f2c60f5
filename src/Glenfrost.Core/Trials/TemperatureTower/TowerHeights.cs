namespace Glenfrost.Core.Trials.TemperatureTower;

/// <summary>Finds the section of another tower that stands as high as one of this tower.</summary>
public static class TowerHeights
{
    /// <summary>The section of <paramref name="other"/> at the middle height of a section; null where the other tower ends below it.</summary>
    /// <param name="tower">The tower looked at.</param>
    /// <param name="section">Its section, from 0.</param>
    /// <param name="other">The tower compared with.</param>
    public static int? SameHeight(TowerPlan tower, int section, TowerPlan other)
    {
        // Pieces that stand side by side are all equally high: their place in the row is what they share.
        if (tower.Request.Separate || other.Request.Separate)
            return section < other.Sections.Count ? section : null;
        var s = tower.Sections[section];
        if (s is { FromZMm: { } from, ToZMm: { } to } && other.Sections.All(x => x.FromZMm is not null && x.ToZMm is not null))
        {
            var middle = (from + to) / 2;
            return other.Sections.FirstOrDefault(x => x.FromZMm <= middle && middle < x.ToZMm)?.Index;
        }

        var layer = (s.FirstLayer + s.LastLayer) / 2;
        return other.Sections.FirstOrDefault(x => x.FirstLayer <= layer && layer <= x.LastLayer)?.Index;
    }

    /// <summary>The section of <paramref name="other"/> printed at the same planned temperature; null where there is none.</summary>
    public static int? SameTemperature(TowerPlan tower, int section, TowerPlan other) =>
        other.Sections.FirstOrDefault(x => x.TemperatureC == tower.Sections[section].TemperatureC)?.Index;
}
