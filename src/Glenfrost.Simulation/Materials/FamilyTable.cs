namespace Glenfrost.Simulation.Materials;

/// <summary>What a family of plastics is like on the average. Temperatures are those of the melt, °C.</summary>
/// <param name="Name">Word of the family.</param>
/// <param name="CentreC">Middle of what prints well.</param>
/// <param name="HalfWidthC">Half of what prints well.</param>
/// <param name="DensityGPerCm3">Solid, g/cm³.</param>
/// <param name="ActivationK">How viscosity falls with temperature (Arrhenius), K.</param>
/// <param name="CapacityMm3PerS">What a standard 0.4 nozzle melts at the centre, mm³/s.</param>
/// <param name="FanNeed">0 prints well in still air, 1 needs all of the fan.</param>
/// <param name="FanHarm">0 bonds in any wind, 1 loses nearly all bond in the full wind.</param>
/// <param name="Shrinks">Shrinkage on cooling, per cent.</param>
/// <param name="WaterHours">Open hours at 50 %RH after which it is damp.</param>
/// <param name="Softness">0 stiff, 1 packs in the path.</param>
/// <param name="Expansion">How much it foams at its peak: 1 for none.</param>
public sealed record FamilyTraits(
    string Name, double CentreC, double HalfWidthC, double DensityGPerCm3, double ActivationK, double CapacityMm3PerS, double FanNeed, double FanHarm,
    double Shrinks, double WaterHours, double Softness = 0, double Expansion = 1)
{
    /// <summary>All families that the bench knows.</summary>
    public static IReadOnlyList<FamilyTraits> All { get; } =
    [
        new("PLA", 207, 13, 1.24, 9000, 12.5, 0.9, 0.15, 0.25, 300),
        new("foaming PLA", 222, 15, 1.24, 9000, 10, 0.5, 0.2, 0.2, 150, 0, 2.3),
        new("PETG", 238, 12, 1.27, 8200, 11, 0.45, 0.4, 0.4, 72),
        new("PCTG", 257, 12, 1.23, 8200, 11, 0.4, 0.4, 0.4, 72),
        new("ABS", 243, 12, 1.04, 8600, 12, 0.2, 0.8, 0.75, 150),
        new("ASA", 248, 12, 1.07, 8600, 12, 0.25, 0.75, 0.7, 150),
        new("TPU", 222, 14, 1.21, 7000, 5.5, 0.45, 0.2, 0.3, 24, 0.8),
        new("PA", 260, 14, 1.12, 7800, 10, 0.2, 0.7, 1.1, 8, 0.1),
        new("PC", 280, 17, 1.20, 9500, 9, 0.15, 0.8, 0.7, 24),
        new("PP", 227, 12, 0.90, 7400, 9, 0.3, 0.5, 1.4, 500, 0.2),
    ];

    /// <summary>The family of that word; PLA where it is unknown.</summary>
    public static FamilyTraits Of(string? name) => All.FirstOrDefault(f => string.Equals(f.Name, name, StringComparison.OrdinalIgnoreCase)) ?? All[0];
}
