namespace Glenfrost.Simulation.Pieces;

/// <summary>How high the plastic stands at each place of the bed, on a grid of an eighth of a millimetre, in tiles made when they are first touched.</summary>
public sealed class HeightField
{
    private const double Cells = 8;
    private const int Side = 64;
    private readonly Dictionary<int, ushort[]> tiles = [];
    private int lastKey = int.MinValue;
    private ushort[]? last;

    /// <summary>Height at a place, hundredths of a millimetre.</summary>
    public int At(double x, double y)
    {
        var (cx, cy) = ((int)Math.Floor(x * Cells) + 65536, (int)Math.Floor(y * Cells) + 65536);
        var tile = Tile(cx >> 6, cy >> 6, false);
        return tile is null ? 0 : tile[((cy & (Side - 1)) << 6) | (cx & (Side - 1))];
    }

    /// <summary>Raises a place.</summary>
    public void Raise(double x, double y, int hundredths)
    {
        var (cx, cy) = ((int)Math.Floor(x * Cells) + 65536, (int)Math.Floor(y * Cells) + 65536);
        ref var h = ref Tile(cx >> 6, cy >> 6, true)![((cy & (Side - 1)) << 6) | (cx & (Side - 1))];
        if (h < hundredths)
            h = (ushort)Math.Min(hundredths, ushort.MaxValue);
    }

    private ushort[]? Tile(int tx, int ty, bool make)
    {
        var key = (ty << 15) ^ tx;
        if (key == lastKey)
            return last ?? (make ? Make(key) : null);
        lastKey = key;
        if (!tiles.TryGetValue(key, out last) && make)
            return Make(key);
        return last;
    }

    private ushort[] Make(int key) => last = tiles[key] = new ushort[Side * Side];
}
