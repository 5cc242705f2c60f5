namespace Glenfrost.Core.TestPieces;

/// <summary>How large a piece may get: bounded where it is made, whoever asks for it.</summary>
public static class PieceSize
{
    /// <summary>Most layers of one piece.</summary>
    public const int MostLayers = 20_000;

    /// <summary>Checks a number of layers before they are laid.</summary>
    /// <exception cref="InvalidOperationException">It is none that can be printed.</exception>
    public static int Layers(long layers) =>
        layers is >= 0 and <= MostLayers
            ? (int)layers
            : throw new InvalidOperationException($"A piece of {layers} layers is not made; at most {MostLayers} are.");
}
