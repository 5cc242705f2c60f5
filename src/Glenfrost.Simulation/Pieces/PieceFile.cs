using System.Text.Json;
using Glenfrost.Simulation.Materials;

namespace Glenfrost.Simulation.Pieces;

/// <summary>A printed piece as a file, so that instruments in other processes can read the same piece.</summary>
/// <param name="Trace">What was printed.</param>
/// <param name="Material">Hidden.</param>
/// <param name="Machine">Hidden.</param>
/// <param name="Seed">Fixes all that is read from it.</param>
/// <param name="RoomC">°C.</param>
/// <param name="FilamentMm">As the maker calls it.</param>
public sealed record PieceFile(PrintTrace Trace, HiddenMaterial Material, HiddenMachine Machine, ulong Seed, double RoomC, double FilamentMm)
{
    private static readonly JsonSerializerOptions Options = new(JsonSerializerDefaults.Web);

    /// <summary>The piece on the bench.</summary>
    public SimulatedPiece Piece() => new(Trace, Material, Machine, Seed, RoomC, FilamentMm);

    /// <summary>Writes it as JSON.</summary>
    public byte[] ToBytes() => JsonSerializer.SerializeToUtf8Bytes(this, Options);

    /// <summary>Reads it.</summary>
    /// <exception cref="InvalidDataException">It is no piece.</exception>
    public static PieceFile Read(Stream from)
    {
        try
        {
            return JsonSerializer.Deserialize<PieceFile>(from, Options) is { Trace: not null, Material.Family: not null, Machine: not null } piece
                ? piece : throw new InvalidDataException("the file is no printed piece.");
        }
        catch (JsonException e)
        {
            throw new InvalidDataException($"the file is no printed piece: {e.Message}", e);
        }
    }
}
