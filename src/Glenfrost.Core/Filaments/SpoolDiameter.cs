using MathNet.Numerics.Statistics;

namespace Glenfrost.Core.Filaments;

/// <summary>One diameter reading of a filament.</summary>
/// <param name="Place">Which place along the filament, from 1.</param>
/// <param name="Direction">Which of two directions at a right angle, 1 or 2.</param>
/// <param name="Mm">Diameter in mm.</param>
public sealed record DiameterReading(int Place, int Direction, double Mm);

/// <summary>What the diameter readings of a spool say.</summary>
/// <param name="MeanMm">Mean of all readings.</param>
/// <param name="SpreadMm">Largest minus smallest reading.</param>
/// <param name="OvalityMm">Largest difference between the two directions at one place; null where no place has both.</param>
public sealed record DiameterSummary(double MeanMm, double SpreadMm, double? OvalityMm)
{
    /// <summary>Summarises readings, in whatever order they come, to the same last digit; null where there are none.</summary>
    public static DiameterSummary? Of(IReadOnlyCollection<DiameterReading> readings)
    {
        if (readings.Count == 0)
            return null;
        // A sum of fractions depends on its order, and the order of rows that were stored in one go is chance.
        readings = [.. readings.OrderBy(r => r.Place).ThenBy(r => r.Direction).ThenBy(r => r.Mm)];
        var all = readings.Select(r => r.Mm).ToList();
        var ovality = readings.GroupBy(r => r.Place)
            .Where(g => g.Any(r => r.Direction == 1) && g.Any(r => r.Direction == 2))
            .Select(g => Math.Abs(g.Where(r => r.Direction == 1).Average(r => r.Mm) - g.Where(r => r.Direction == 2).Average(r => r.Mm)))
            .ToList();
        return new(all.Mean(), all.Max() - all.Min(), ovality.Count == 0 ? null : ovality.Max());
    }
}
