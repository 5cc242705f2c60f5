using System.Text.Json.Serialization;

namespace Glenfrost.Core.Trials.LayerBond;

/// <summary>Where a peg gave way.</summary>
[JsonConverter(typeof(JsonStringEnumConverter<BondMode>))]
public enum BondMode
{
    /// <summary>A layer parted: its force is the strength.</summary>
    Layer,

    /// <summary>It broke in the clamp: it held at least this.</summary>
    Clamp,

    /// <summary>It slipped out of the clamp: it held at least this.</summary>
    Slip,

    /// <summary>The rig's end was reached: it held at least this.</summary>
    Unbroken,
}

/// <summary>A peg that was pulled or bent.</summary>
/// <param name="Force">Force at which it gave way, in the run's unit; above 0.</param>
/// <param name="Mode">Where it gave way.</param>
/// <param name="Plate">Plate that it was printed on, from 1; null where nobody said.</param>
/// <param name="Order">Which one it was in the order of breaking, from 1; null where nobody said.</param>
public sealed record BondPiece(double Force, BondMode Mode = BondMode.Layer, int? Plate = null, int? Order = null);

/// <summary>Pegs that were printed alike.</summary>
/// <param name="Label">As it is called.</param>
/// <param name="TemperatureC">Nozzle, °C; null where it is not what differs.</param>
/// <param name="FanPercent">Part fan, %; null where it is not what differs.</param>
/// <param name="Pieces">What broke.</param>
public sealed record BondGroup(string Label, double? TemperatureC, double? FanPercent, IReadOnlyList<BondPiece> Pieces)
{
    /// <summary>Of a check of the rig: pulled briskly, not slowly.</summary>
    public bool Brisk { get; init; }

    /// <summary>Of a check of the rig: seated anew by eye, not lined up with care.</summary>
    public bool Anew { get; init; }
}

/// <summary>A peg that was broken by hand.</summary>
/// <param name="Label">Group that it is of.</param>
/// <param name="Rank">1 for the one that broke most easily; equal ones are ties.</param>
public sealed record BondRank(string Label, double Rank);

/// <summary>A bar bent over two supports, mm.</summary>
/// <param name="SpanMm">Between the supports.</param>
/// <param name="WidthMm">Of its section.</param>
/// <param name="ThicknessMm">In the direction of the force.</param>
public sealed record BondBending(double SpanMm, double WidthMm, double ThicknessMm);

/// <summary>What a layer bond is judged from.</summary>
public sealed record BondReadings
{
    /// <summary>Groups in the order in which they are told.</summary>
    public IReadOnlyList<BondGroup> Groups { get; init; } = [];

    /// <summary>Ranks of a blind break by hand; empty where a rig measured.</summary>
    public IReadOnlyList<BondRank> Ranks { get; init; } = [];

    /// <summary>Groups in the order that is expected of a break by hand, the weakest first; empty where none is.</summary>
    public IReadOnlyList<string> Expected { get; init; } = [];

    /// <summary>N or kgf.</summary>
    public string Unit { get; init; } = "N";

    /// <summary>Section that parts, mm²; null where nobody said.</summary>
    public double? AreaMm2 { get; init; }

    /// <summary>How it was bent; null where it was pulled.</summary>
    public BondBending? Bending { get; init; }

    /// <summary>Label of the group that the others are set beside; null for every pair.</summary>
    public string? Reference { get; init; }

    /// <summary>Smallest difference that matters, %.</summary>
    public double SmallestUsefulPercent { get; init; } = 15;

    /// <summary>Scatter of this revision of the rig from its check, %; null where none was made.</summary>
    public double? RigScatterPercent { get; init; }

    /// <summary>Degrees of freedom that it is known with.</summary>
    public double RigFreedom { get; init; } = 24;

    /// <summary>Pegs of which nobody said where they broke: a parted layer is taken for granted.</summary>
    public int BreaksNotSaid { get; init; }

    /// <summary>True for equal pegs that were broken to know the rig.</summary>
    public bool RigCheck { get; init; }
}
