namespace Glenfrost.Core.TestPieces;

/// <summary>How large a piece may get: bounded where it is made, whoever asks for it.</summary>
public static class PieceSize
{
    /// <summary>Most layers of one piece.</summary>
    public const int MostLayers = 20_000;

    /// <summary>Most cells of a mesh: faces of the plane times heights at which the shape changes.</summary>
    public const long MostCells = 20_000_000;

    /// <summary>Checks how finely a mesh would be divided before it is.</summary>
    /// <exception cref="InvalidOperationException">More than anybody slices.</exception>
    public static void Cells(long faces, long slabs)
    {
        if (faces * slabs > MostCells)
            throw new InvalidOperationException($"A mesh of {faces} faces in {slabs} heights is not made; at most {MostCells:N0} cells are.");
    }

    /// <summary>Checks a number of layers before they are laid.</summary>
    /// <exception cref="InvalidOperationException">It is none that can be printed.</exception>
    public static int Layers(long layers) =>
        layers is >= 0 and <= MostLayers
            ? (int)layers
            : throw new InvalidOperationException($"A piece of {layers} layers is not made; at most {MostLayers} are.");
}
