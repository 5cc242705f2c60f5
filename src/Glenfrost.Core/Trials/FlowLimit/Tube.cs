using Glenfrost.Core.TestPieces;
using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Equipment;
using Glenfrost.Core.Gcode;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Toolpaths;

namespace Glenfrost.Core.Trials.FlowLimit;

/// <summary>
/// A round wall of one line that rises all the time, so that nothing but the flow changes: for stepped speed and for rising flow. Lengths in mm, speeds in
/// mm/s.
/// </summary>
/// <param name="DiameterMm">Of the line's middle.</param>
/// <param name="LayerHeightMm">Rise of a turn.</param>
/// <param name="LineWidthMm">Width of the line.</param>
/// <param name="Area">Area model.</param>
/// <param name="NozzleC">Nozzle, °C.</param>
/// <param name="Turns">Turns of the spiral above its base.</param>
/// <param name="Speed">Speed at a height above the base, mm.</param>
public sealed record TubeShape(double DiameterMm, double LayerHeightMm, double LineWidthMm, string Area, double NozzleC, int Turns, Func<double, double> Speed)
{
    /// <summary>Layers that carry it, laid flat.</summary>
    public const int BaseLayers = 3;

    /// <summary>Rings around the first layer that hold it down.</summary>
    public const int Brim = 6;

    private const int Corners = 72;

    /// <summary>Height of the rise, mm.</summary>
    public double RiseMm => Turns * LayerHeightMm;

    /// <summary>Height of all of it, mm.</summary>
    public double HeightMm => (BaseLayers + Turns) * LayerHeightMm;

    /// <summary>Fastest that a circle can be run: v² = a·r, less a twentieth; and never above the machine's own limit.</summary>
    public static double Fastest(double diameterMm, Machine m) => Math.Min(m.MaxSpeedMmPerS, 0.95 * Math.Sqrt(m.MaxAccelerationMmPerS2 * diameterMm / 2));

    /// <summary>Checks that it fits the bed, the height and the speeds.</summary>
    /// <param name="errors">Takes what is wrong.</param>
    /// <param name="m">The machine.</param>
    /// <param name="flowField">Field of the fastest flow or speed.</param>
    public void Check(List<FieldError> errors, Machine m, string flowField)
    {
        var around = 2 * (Brim + 2) * LineWidthMm + 6;
        var room = Math.Min(m.BedXMm, m.BedYMm - 16) - around;
        if (DiameterMm > room)
            errors.Add(
                new(
                    "diameterMm",
                    $"A tube of {Say.N(DiameterMm)} mm needs {Say.N(DiameterMm + around, 0)} mm with its rings: {Say.N(Math.Floor(room))} mm would fit on " +
                        $"{m.Name}.",
                    room >= 20 ? [new($"{Say.N(Math.Floor(room))} mm", new Dictionary<string, decimal> { ["diameterMm"] = (decimal)Math.Floor(room) })] : []));
        if (HeightMm > m.HeightMm)
            errors.Add(new("diameterMm", $"It would stand {Say.N(HeightMm, 0)} mm tall; {m.Name} has {Say.N(m.HeightMm)} mm above the bed."));
        var (fastest, most) = (Fastest(DiameterMm, m), Math.Max(Speed(0), Speed(RiseMm)));
        if (most > fastest + 1e-6)
        {
            var width = Math.Min(1.5 * m.NozzleDiameterMm, Math.Ceiling(LineWidthMm * most / fastest * 100) / 100);
            errors.Add(
                new(
                    flowField,
                    $"{Say.N(most, 0)} mm/s are not reached: {(fastest < m.MaxSpeedMmPerS - 0.01 ? $"with {Say.N(m.MaxAccelerationMmPerS2)} mm/s² a circle of {Say.N(DiameterMm)} mm runs at most at {Say.N(Math.Floor(fastest))} mm/s" : $"{m.Name} runs at most {Say.N(m.MaxSpeedMmPerS)} mm/s")}. A wider line or a higher layer carries more flow at less speed.",
                    width > LineWidthMm ? [new($"line of {Say.N(width)} mm", new Dictionary<string, decimal> { ["lineWidthMm"] = (decimal)width })] : []));
        }
    }

    /// <summary>What lets the flow be reached.</summary>
    public PlanWarning Reaches(Machine m, PrintSettings s)
    {
        var most = Math.Max(Speed(0), Speed(RiseMm));
        return new(
            PlanWarningKind.TubeReaches, most, DiameterMm, Math.Floor(Fastest(DiameterMm, m)),
            Flows.FeedMmPerS(most * Flows.AreaMm2(Area, LineWidthMm, LayerHeightMm), s.FilamentDiameterMm));
    }

    /// <summary>Writes it.</summary>
    /// <param name="c">Machine and settings.</param>
    /// <param name="head">Words for the head.</param>
    /// <param name="stepOf">Section that begins at a height above the base, in words; null where none does.</param>
    public (IReadOnlyList<string>? Lines, TrialEstimate Estimate, IReadOnlyList<FieldError> Errors) Write(
        PlanContext c, IReadOnlyList<string> head, Func<double, string?> stepOf)
    {
        var (m, kept) = (c.Machine!, c.Settings!);
        var s = kept with { LineWidthMm = LineWidthMm };
        var (f, errors) = PatternFile.Begin(m, s, NozzleC, head, LayerHeightMm, HeightMm);
        if (f is null)
            return (null, new(0, null, 0), errors);
        var area = Flows.AreaMm2(Area, LineWidthMm, LayerHeightMm);
        var (cx, cy, r) = (m.BedXMm / 2, m.BedYMm / 2 + 4, DiameterMm / 2);
        f.Fan(0);
        f.Prime(LayerHeightMm, area);
        f.Comment($"layer 1, z {Say.N(LayerHeightMm, 3)}, base");
        var slow = Math.Min(s.FirstLayerSpeedMmPerS, Speed(0));
        for (var ring = Brim; ring >= 0; ring--)
            Circle(f, cx, cy, r + ring * LineWidthMm, LayerHeightMm, area, slow);
        for (var layer = 2; layer <= BaseLayers; layer++)
        {
            f.Comment($"layer {layer}, z {Say.N(layer * LayerHeightMm, 3)}, base");
            Circle(f, cx, cy, r, layer * LayerHeightMm, area, Math.Min(Speed(0), 40));
        }

        f.Fan(s.FanPercent);
        f.Comment("spiral begins: here the height is 0");
        for (var turn = 0; turn < Turns; turn++)
        {
            f.Comment($"layer {BaseLayers + turn + 1}, z {Say.N((BaseLayers + turn + 1) * LayerHeightMm, 3)}");
            for (var i = 1; i <= Corners; i++)
            {
                var up = (turn + i / (double)Corners) * LayerHeightMm;
                if (i == 1 && stepOf(turn * LayerHeightMm) is { } words)
                    f.Comment(words);
                var (sin, cos) = Math.SinCos(2 * Math.PI * i / Corners);
                // The speed of a turn's part is that of its middle.
                f.To(cx + r * cos, cy + r * sin, Math.Round(BaseLayers * LayerHeightMm + up, 4), area, Speed((turn + (i - 0.5) / Corners) * LayerHeightMm));
            }
        }

        var mass = f.FeedMm * f.FilamentAreaMm2 / 1000 * s.DensityGPerCm3;
        var lines = f.End();
        return (
            lines, new((int)Math.Ceiling(f.Seconds / 60), Math.Round(mass, 1), 0, true, s.PriceMinorPerKg is { } p ? Math.Round(p * mass / 1000) : null), []);
    }

    private static void Circle(PatternFile f, double cx, double cy, double r, double z, double area, double speed)
    {
        f.Go(cx + r, cy, z);
        for (var i = 1; i <= Corners; i++)
        {
            var (sin, cos) = Math.SinCos(2 * Math.PI * i / Corners);
            f.To(cx + r * cos, cy + r * sin, z, area, speed);
        }
    }
}
