using System.Text.Json.Serialization;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials.WarpPairs;

/// <summary>What a tester asks of a plate of a pair. Lengths in mm.</summary>
public sealed record WarpRequest
{
    /// <summary>Empty for the plate of ours, own for a part of one's own.</summary>
    public string Mode { get; init; } = "";

    /// <summary>The one thing that differs between the arms.</summary>
    public string Difference { get; init; } = "enclosure";

    /// <summary>without or with.</summary>
    public string Arm { get; init; } = WarpJudging.Without;

    /// <summary>Which pair, from 1.</summary>
    public decimal Pair { get; init; } = 1;

    /// <summary>Brim of the arm with one, where that differs.</summary>
    public decimal BrimMm { get; init; } = 8;

    /// <summary>Fan of the arm with another one, %, where that differs.</summary>
    public decimal ArmFanPercent { get; init; }

    /// <summary>Bed at which a plate of the arm is taken off, °C, where that differs.</summary>
    public decimal RemovalC { get; init; } = 70;

    /// <summary>Length of the plate.</summary>
    public decimal LengthMm { get; init; } = 140;

    /// <summary>Width of it.</summary>
    public decimal WidthMm { get; init; } = 24;

    /// <summary>Thickness of it.</summary>
    public decimal ThickMm { get; init; } = 3;

    /// <summary>How far its ends stand up.</summary>
    public decimal EndMm { get; init; } = 8;

    /// <summary>Layer height.</summary>
    public decimal LayerHeightMm { get; init; } = 0.2m;

    /// <summary>Nozzle, °C.</summary>
    public decimal NozzleTemperatureC { get; init; } = 240;

    /// <summary>Smallest difference that matters.</summary>
    public decimal SmallestUsefulMm { get; init; } = 0.3m;

    /// <summary>Lift that a part may have.</summary>
    public decimal TolerableMm { get; init; } = 0.5m;
}

/// <summary>A plate of a pair that can be printed. Version 2 of the stored form: fields are only added.</summary>
public sealed record WarpPlan : PlanRecord, ITrialPlan
{
    /// <summary>What was asked.</summary>
    public required WarpRequest Request { get; init; }

    /// <summary>Nozzle that the ends are scaled to, mm.</summary>
    public double NozzleMm { get; init; } = 0.4;

    /// <summary>Bed while it prints, °C.</summary>
    public double BedC { get; init; } = 60;

    /// <summary>Brim that its file has, mm.</summary>
    public double BrimInForceMm { get; init; }

    /// <summary>Name of somebody's own file that is printed as it is; null where it lies elsewhere, and for the plate of ours.</summary>
    public string? FileName { get; init; }

    /// <summary>Layers of that part; null where no file was read.</summary>
    public int? OwnLayers { get; init; }

    /// <inheritdoc/>
    protected override string? OwnFileOf => FileName;

    /// <inheritdoc/>
    protected override bool MakesFile => !IsOwn;

    /// <summary>True for a part of somebody's own.</summary>
    internal bool IsOwn => Request.Mode == WarpTrial.Own;

    /// <summary>True where what differs stands in the file: the arms of a part of one's own are two slicings of it.</summary>
    internal bool DiffersInFile => Request.Difference is "brim" or "fan" or "ramp" or "draught-shield";

    /// <summary>The arms of a part of one's own may be two files, where what differs stands in them; each arm is one file.</summary>
    bool ITrialPlan.IsOfSamePiece(ITrialPlan other) => other is WarpPlan q && IsOwn == q.IsOwn && (FileName == q.FileName
        || (FileName is not null && q.FileName is not null && DiffersInFile && Request.Arm != q.Request.Arm && Request.LengthMm == q.Request.LengthMm));

    /// <summary>Measures of its piece.</summary>
    [JsonIgnore]
    public FlatPlateSize Size => new(
        (double)Request.LengthMm, (double)Request.WidthMm, (double)Request.ThickMm, (double)Request.EndMm, (double)Request.LayerHeightMm, NozzleMm);

    /// <summary>What the arms are, without and with.</summary>
    public static (string Without, string With) ArmsOf(WarpRequest r) => r.Difference switch
    {
        "brim" => ("no brim", $"brim {Say.N(r.BrimMm)} mm"),
        "draught-shield" => ("no shield", "draught shield"),
        "fan" => ("fan as in the profile", $"fan {Say.N(r.ArmFanPercent)} %"),
        "room" => ("cool room", "warm room"),
        "ramp" => ("left to cool", "cooled in steps"),
        "removal" => ("taken off cold", $"taken off at {Say.N(r.RemovalC)} °C"),
        _ => ("open", "enclosed"),
    };

    /// <summary>What this plate is.</summary>
    [JsonIgnore]
    public string ArmInWords => Request.Arm == WarpJudging.With ? ArmsOf(Request).With : ArmsOf(Request).Without;

    /// <summary>Names of the places as they are read.</summary>
    public static IReadOnlyList<string> Places { get; } = ["front left", "front right", "back right", "back left", "middle, bow"];

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanPart> PartsOf =>
        [.. Places.Select((p, i) => new PlanPart(i, p, 1, LayersOf, 0, LayersOf * Size.LayerHeightMm))];

    /// <inheritdoc/>
    protected override string InWords =>
        $"pair {Say.N(Request.Pair)}, {ArmInWords}: " + (IsOwn ? $"{FileName ?? "own part"}, {Say.N(Request.LengthMm)} mm long"
            : $"a plate {Say.N(Request.LengthMm)} × {Say.N(Request.WidthMm)} mm with upstanding ends");

    /// <inheritdoc/>
    protected override double NozzleC => (double)Request.NozzleTemperatureC;

    /// <inheritdoc/>
    protected override int LayersOf => IsOwn ? Math.Max(1, OwnLayers ?? 1) : Size.Layers;

    /// <inheritdoc/>
    protected override IReadOnlyList<PlanCheckpoint> ChecksOf => IsOwn ? []
        : [new(1, 0, $"{Say.N(Request.NozzleTemperatureC)} °C, bed {Say.N(BedC)} °C", "all of it")];
}
