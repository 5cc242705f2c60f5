using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces;

namespace Glenfrost.Core.Trials;

/// <summary>Cost of a run: rough before there is a file, from its moves once there is one.</summary>
/// <param name="Minutes">Minutes of printing.</param>
/// <param name="MassG">Filament, g.</param>
/// <param name="MinutesAboveContinuousLimit">Minutes above the liner's continuous limit.</param>
/// <param name="FromFile">True where these are the file's own figures.</param>
/// <param name="CostMinor">Filament cost in minor units of the filament's currency; null where it is not known.</param>
/// <param name="LagSeconds">Seconds that the nozzle needs to follow a step, by which the first layers of a section are not scored; null where there is no
/// file.</param>
public sealed record TrialEstimate(
    int Minutes, double? MassG, int MinutesAboveContinuousLimit, bool FromFile = false, double? CostMinor = null, double? LagSeconds = null);

/// <summary>A part of a piece that is read on its own.</summary>
/// <param name="Index">From 0.</param>
/// <param name="Label">As it is called everywhere, for example "220 °C" or "+4 %".</param>
/// <param name="FirstLayer">First layer, from 1; 0 where it is not a matter of layers.</param>
/// <param name="LastLayer">Last layer.</param>
/// <param name="FromZMm">Lower edge, mm; null where it is not known.</param>
/// <param name="ToZMm">Upper edge, mm.</param>
/// <param name="NozzleC">Temperature that it is printed at, °C; null where it is the piece's own.</param>
public sealed record PlanPart(
    int Index, string Label, int FirstLayer = 0, int LastLayer = 0, double? FromZMm = null, double? ToZMm = null, double? NozzleC = null);

/// <summary>What the printer should show, or do, from a layer on.</summary>
/// <param name="Layer">From 1.</param>
/// <param name="ZMm">Height at which it begins, mm.</param>
/// <param name="Shows">The value with its unit.</param>
/// <param name="Part">Which part begins.</param>
/// <param name="AtSeconds">After the first move; null where there is no file.</param>
/// <param name="Piece">Piece of the plate, from 0; null for one piece.</param>
public sealed record PlanCheckpoint(int Layer, double? ZMm, string Shows, string Part, double? AtSeconds = null, int? Piece = null);

/// <summary>A plan as the house needs it; each trial stores its own record.</summary>
public interface ITrialPlan
{
    /// <summary>Version of the stored form.</summary>
    int Version { get; }

    /// <summary>Parts that are read.</summary>
    IReadOnlyList<PlanPart> Parts { get; }

    /// <summary>The plan in one line.</summary>
    string Summary { get; }

    /// <summary>Time, mass, cost.</summary>
    TrialEstimate Estimate { get; }

    /// <summary>Layers in the order of printing; 0 where nothing is printed.</summary>
    int TotalLayers { get; }

    /// <summary>Layers after which a new piece of the plate begins; null for one piece.</summary>
    int? LayersPerPiece { get; }

    /// <summary>
    /// What each piece of the plate differs by from the others, in the order of printing; empty where there is one piece, and for a piece that is read more
    /// than once (before and after something), since on its plate it differs by nothing.
    /// </summary>
    IReadOnlyList<string> PieceLabels => LayersPerPiece is not { } each ? []
        : [.. Parts.GroupBy(p => (p.FirstLayer - 1) / each).OrderBy(g => g.Key).Select(g => g.Count() == 1 ? g.First().Label : "")];

    /// <summary>
    /// How much of what differs a part has: 0 the least, 1 the most; in the order of the parts where no number says it. Two parts of one value have the same.
    /// </summary>
    /// <param name="part">Index of a part.</param>
    double MuchOf(int part) => Parts.Count < 2 ? 0.5 : part / (Parts.Count - 1.0);

    /// <summary>What to check on the display.</summary>
    IReadOnlyList<PlanCheckpoint> Checkpoints { get; }

    /// <summary>Head of the column of what is shown, for example "Display, °C".</summary>
    string CheckpointHead { get; }

    /// <summary>Marked, but allowed.</summary>
    IReadOnlyList<PlanWarning> Warnings { get; }

    /// <summary>Changes that would make it better.</summary>
    IReadOnlyList<Offer> Offers { get; }

    /// <summary>True where Glenfrost writes its file.</summary>
    bool WritesFile { get; }

    /// <summary>Name of the file of somebody's own that is kept with the run and printed; null for none.</summary>
    string? OwnFile => null;

    /// <summary>True where a file of somebody's own is kept with the run and printed.</summary>
    bool HasOwnFile => OwnFile is not null;

    /// <summary>True where another plan is of the same piece: ours, or one file of somebody's own. What is read off two shapes gets no common number.</summary>
    bool IsOfSamePiece(ITrialPlan other) => WritesFile == other.WritesFile && OwnFile == other.OwnFile;

    /// <summary>Hottest nozzle that it asks for, °C.</summary>
    double HottestC { get; }

    /// <summary>Coolest nozzle that it extrudes at, °C.</summary>
    double CoolestC { get; }
}
