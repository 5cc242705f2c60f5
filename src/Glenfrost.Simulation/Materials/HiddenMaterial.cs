namespace Glenfrost.Simulation.Materials;

/// <summary>
/// What nobody at the bench knows of a filament. Temperatures are those of the melt, °C. Every property can be overridden with <c>with</c>.
/// </summary>
public sealed record HiddenMaterial
{
    /// <summary>What its family brings.</summary>
    public required FamilyTraits Family { get; init; }

    /// <summary>Middle of what prints well.</summary>
    public required double CentreC { get; init; }

    /// <summary>mm, mean over the spool.</summary>
    public double DiameterMm { get; init; } = 1.75;

    /// <summary>Standard deviation of the diameter along the filament, mm.</summary>
    public double DiameterScatterMm { get; init; } = 0.008;

    /// <summary>Of the solid, g/cm³.</summary>
    public double DensityGPerCm3 { get; init; } = 1.24;

    /// <summary>Arrhenius temperature of the viscosity, K.</summary>
    public double ActivationK { get; init; } = 9000;

    /// <summary>What a standard 0.4 nozzle melts at the centre, mm³/s.</summary>
    public double CapacityMm3PerS { get; init; } = 12.5;

    /// <summary>Temperature at which a 20 mm bridge sags by <see cref="Laws.SagScaleMm"/>, and over how many °C that grows by e.</summary>
    public double SagC { get; init; }
    /// <summary>Width of the step in sagging, °C.</summary>
    public double SagWidthC { get; init; } = 9;

    /// <summary>The same for the curl of an overhang.</summary>
    public double CurlC { get; init; }
    /// <summary>Width of the step in curling, °C.</summary>
    public double CurlWidthC { get; init; } = 9;

    /// <summary>The same for ooze.</summary>
    public double OozeC { get; init; }
    /// <summary>Width of the step in oozing, °C.</summary>
    public double OozeWidthC { get; init; } = 10;

    /// <summary>Above it surfaces run and bulge, below the other they turn rough.</summary>
    public double RunnyC { get; init; }
    /// <summary>Temperature below which walls are rough, °C.</summary>
    public double RoughC { get; init; }
    /// <summary>Width of the step in roughness, °C.</summary>
    public double SurfaceWidthC { get; init; } = 8;

    /// <summary>Temperature of half the plateau of the layer bond.</summary>
    public double BondC { get; init; }
    /// <summary>Width of the step in bond, °C.</summary>
    public double BondWidthC { get; init; } = 6;

    /// <summary>Strength of a well bonded layer, MPa.</summary>
    public double BondMPa { get; init; } = 38;

    /// <summary>Greatest expansion by foaming and where it is reached; 1 for none.</summary>
    public double Expansion { get; init; } = 1;
    /// <summary>Where foam expands most, °C.</summary>
    public double FoamC { get; init; } = 240;

    /// <summary>How much harder than an average filament it wants to be pressed on the bed, mm; below 0 less.</summary>
    public double PressMm { get; init; }

    /// <summary>Share of a full line below which foam tears into blobs.</summary>
    public double BlobShare { get; init; } = 0.33;

    /// <summary>0 dry to 1 wet through.</summary>
    public double Moisture { get; init; }

    /// <summary>Share of travel and retraction that packs away in the path: 0 stiff, 1 very soft.</summary>
    public double Softness { get; init; }

    /// <summary>Shrinkage on cooling, per cent.</summary>
    public double ShrinksPercent { get; init; } = 0.3;

    /// <summary>Draws a material of a family.</summary>
    /// <param name="family">Word of the family.</param>
    /// <param name="seed">Fixes everything.</param>
    public static HiddenMaterial Draw(string family, ulong seed)
    {
        var (f, c) = (FamilyTraits.Of(family), new Chance(seed).Of("material"));
        var centre = c.Of("centre").Normal(f.CentreC, 4);
        var half = f.HalfWidthC * c.Of("half").Factor(0.12);
        double At(string name, double share, double sd) => centre + share * half + c.Of(name).Normal(0, sd);
        return new HiddenMaterial
        {
            Family = f,
            CentreC = centre,
            DiameterMm = c.Of("diameter").Normal(1.745, 0.012),
            DiameterScatterMm = 0.008 * c.Of("scatter").Factor(0.3),
            DensityGPerCm3 = f.DensityGPerCm3 * c.Of("density").Factor(0.006),
            ActivationK = f.ActivationK * c.Of("activation").Factor(0.08),
            CapacityMm3PerS = f.CapacityMm3PerS * c.Of("capacity").Factor(0.12),
            SagC = At("sag", 1.7, 3),
            SagWidthC = 9 * c.Of("sag width").Factor(0.15),
            CurlC = At("curl", 1.8, 3),
            CurlWidthC = 10 * c.Of("curl width").Factor(0.15),
            OozeC = At("ooze", 1.35, 3),
            OozeWidthC = 10 * c.Of("ooze width").Factor(0.15),
            RunnyC = At("runny", 1.8, 3),
            RoughC = At("rough", -1.6, 3),
            SurfaceWidthC = 8 * c.Of("surface width").Factor(0.15),
            BondC = At("bond", -1.3, 3),
            BondWidthC = 6 * c.Of("bond width").Factor(0.15),
            BondMPa = 38 * c.Of("strength").Factor(0.15),
            Expansion = f.Expansion > 1 ? 1 + (f.Expansion - 1) * c.Of("expansion").Factor(0.12) : 1,
            FoamC = c.Of("foam").Normal(f.CentreC + 22, 4),
            PressMm = c.Of("press").Normal(f.Name is "PETG" or "PCTG" or "TPU" ? -0.03 : 0.005, 0.01),
            BlobShare = 0.33 * c.Of("blobs").Factor(0.12),
            Softness = Math.Clamp(f.Softness * c.Of("soft").Factor(0.15), 0, 1),
            ShrinksPercent = f.Shrinks * c.Of("shrinks").Factor(0.15),
        };
    }

    /// <summary>The same filament after some hours in the open.</summary>
    /// <param name="openHours">Since it was dry.</param>
    /// <param name="humidityPercent">Of the room; 50 is what the family's hours count at.</param>
    public HiddenMaterial After(double openHours, double humidityPercent) =>
        this with { Moisture = 1 - (1 - Moisture) * Math.Exp(-Math.Max(0, openHours) / Family.WaterHours * Math.Max(0, humidityPercent) / 50 * 0.7) };

    /// <summary>The same filament after some hours in a dryer: water leaves twice as fast every 10 °C.</summary>
    public HiddenMaterial Dried(double hours, double temperatureC) =>
        this with { Moisture = Moisture * Math.Exp(-Math.Max(0, hours) / 3 * Math.Pow(2, (temperatureC - 55) / 10)) };
}
