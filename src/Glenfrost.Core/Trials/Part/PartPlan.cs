using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;

namespace Glenfrost.Core.Trials.Part;

/// <summary>What is asked of a run of somebody's own part. Lengths in mm.</summary>
public sealed record PartRequest
{
    /// <summary>Nozzle that the file prints at, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 210;

    /// <summary>Layer height of the file.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Height of the part.</summary>
    public decimal HeightMm { get; init; } = 40;

    /// <summary>Top of the first zone; null where the whole part is one.</summary>
    public decimal? Zone1Mm { get; init; }

    /// <summary>Top of the second zone.</summary>
    public decimal? Zone2Mm { get; init; }

    /// <summary>Top of the third zone.</summary>
    public decimal? Zone3Mm { get; init; }

    /// <summary>Top of the fourth zone.</summary>
    public decimal? Zone4Mm { get; init; }

    /// <summary>Top of the fifth zone.</summary>
    public decimal? Zone5Mm { get; init; }

    /// <summary>Top of the sixth zone.</summary>
    public decimal? Zone6Mm { get; init; }

    /// <summary>Score that each zone is to reach, 0–4.</summary>
    public decimal TargetScore { get; init; } = 3;

    /// <summary>Layer of the whole part that a cut-down file begins at; null for the whole part.</summary>
    public decimal? BeginsAtLayer { get; init; }

    /// <summary>Number of the run whose part a cut-down file is cut from; null where nobody says.</summary>
    public decimal? OfRun { get; init; }

    /// <summary>Names of the zones from the bed up, with commas; null where they go by their heights.</summary>
    public string? ZoneNames { get; init; }

    /// <summary>How it stands, in words; null where nobody says.</summary>
    public string? Orientation { get; init; }

    /// <summary>Its size against what was drawn, %; null where nobody says.</summary>
    public decimal? ScalePercent { get; init; }

    /// <summary>yes or no for a draught shield around it; empty where nobody says.</summary>
    public string? Shield { get; init; }

    /// <summary>The names as they were given, the lowest first, as far as they reach.</summary>
    public IReadOnlyList<string> Names() => [.. (ZoneNames ?? "").Split(',').Select(n => n.Trim())];

    /// <summary>Tops of the zones as they were given, the lowest first; nulls where none was.</summary>
    public IReadOnlyList<decimal?> Tops() => [Zone1Mm, Zone2Mm, Zone3Mm, Zone4Mm, Zone5Mm, Zone6Mm];
}

/// <summary>A run of somebody's own part. Version 2 of the stored form: fields are only added.</summary>
public sealed record PartPlan : PlanRecord
{
    /// <summary>What was asked.</summary>
    public required PartRequest Request { get; init; }

    /// <summary>Name of the file that is kept with the run; null where it lies elsewhere.</summary>
    public string? FileName { get; init; }

    /// <summary>What the part looks like from the side, as its file lies; null where no file was read.</summary>
    public IReadOnlyList<Gcode.Inspection.OutlineBand>? Outline { get; init; }

    /// <summary>Lower edge, upper edge of each zone, mm.</summary>
    [JsonIgnore]
    public IReadOnlyList<(decimal From, decimal To)> Zones
    {
        get
        {
            decimal[] edges = [0, .. Request.Tops().OfType<decimal>(), Request.HeightMm];
            return [.. edges.Zip(edges.Skip(1))];
        }
    }

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
    [
        .. Zones.Select((z, i) => new PlanPart(
            i, Request.Names() is var names && i < names.Count && names[i].Length > 0 ? names[i]
                : Zones.Count == 1 ? "all of it" : $"{Say.N(z.From, 1)} to {Say.N(z.To, 1)} mm", Layer(z.From) + 1, Math.Max(Layer(z.From) + 1, Layer(z.To)),
            (double)z.From, (double)z.To, (double)Request.NozzleTemperatureC)),
    ];

    private int Layer(decimal mm) => (int)Math.Round(mm / Request.LayerHeightMm);

    /// <inheritdoc/>
    protected override string InWords =>
        $"{FileName ?? "own part"}, {Say.N(Request.HeightMm)} mm high in {Say.Plural(Zones.Count, "zone")}, at {Say.N(Request.NozzleTemperatureC)} °C" +
            (Request.BeginsAtLayer is { } begins
                ? $", from layer {Say.N(begins)} of {(Request.OfRun is { } whole ? $"run {Say.N(whole)}'s part" : "the whole part")}" : "");

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => Math.Max(1, Layer(Request.HeightMm));

    /// <inheritdoc/>
    protected override bool MakesFile => false;

    /// <inheritdoc/>
    protected override string? OwnFileOf => FileName;
}
