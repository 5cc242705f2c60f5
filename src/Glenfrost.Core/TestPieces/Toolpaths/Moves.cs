using Glenfrost.Core.Gcode.Writing;
namespace Glenfrost.Core.TestPieces.Toolpaths;

/// <summary>What a move does.</summary>
public enum MoveKind
{
    /// <summary>Moves without feeding.</summary>
    Travel,

    /// <summary>Lays a line.</summary>
    Extrude,

    /// <summary>Pulls filament back; moves over what was just laid where it wipes.</summary>
    Retract,

    /// <summary>Pushes it forward again.</summary>
    Unretract,

    /// <summary>Sets the part fan to <see cref="Move.E"/> per cent.</summary>
    Fan,

    /// <summary>Waits until the nozzle has its temperature.</summary>
    Wait,
}

/// <summary>
/// One step of the printer. X, y, z are where it ends, mm in the piece's coordinates; E is fed filament, mm; speed is mm/s along the path, or of the filament
/// where nothing else moves.
/// </summary>
public readonly record struct Move(MoveKind Kind, PathRole Role, double X, double Y, double Z, double E, double Speed, double Spacing = 0);

/// <summary>A layer as moves.</summary>
/// <param name="Piece">Which piece of the plate, from 0.</param>
/// <param name="Number">Layer of its piece, from 1.</param>
/// <param name="TopMm">Nozzle height, mm.</param>
/// <param name="HeightMm">Thickness, mm.</param>
/// <param name="Section">Section; null for a base.</param>
/// <param name="Moves">Its moves.</param>
/// <param name="Seconds">How long it takes.</param>
/// <param name="FeedMm">Filament laid in the piece itself, mm; without brim and skirt.</param>
/// <param name="Slowed">Factor by which it was slowed to last long enough; 1 where it was not.</param>
/// <param name="TooShort">True where it stays below the least layer time even at the slowest print speed.</param>
public sealed record MovedLayer(
    int Piece, int Number, double TopMm, double HeightMm, int? Section, IReadOnlyList<Move> Moves, double Seconds, double FeedMm, double Slowed, bool TooShort)
{
    /// <summary>Least time that the piece asked for it, as its factor under test, s; null where the settings' held.</summary>
    public double? LeastTimeS { get; init; }

    /// <summary>Slowest that a line is laid at, bridges left out, mm/s; null for a layer without lines.</summary>
    public double? SlowestMmPerS =>
        Moves.Where(m => m.Kind == MoveKind.Extrude && m.Role != PathRole.Bridge).Select(m => (double?)m.Speed).DefaultIfEmpty().Min();
}
