namespace Glenfrost.Core.Gcode.Inspection;

/// <summary>What a line is for, as far as the order of lines goes.</summary>
public enum LineClass
{
    /// <summary>None of the below: skirt, brim, support, priming.</summary>
    Other,

    /// <summary>Outermost wall.</summary>
    OuterWall,

    /// <summary>Any other wall.</summary>
    InnerWall,

    /// <summary>Fill, solid or not.</summary>
    Fill,

    /// <summary>Fill of a gap between walls.</summary>
    Gap,
}

/// <summary>What the order of lines is in one layer, counted over its islands.</summary>
/// <param name="FillFirst">Islands that lay all fill before any wall.</param>
/// <param name="WallsFirst">Islands that lay no fill before a wall.</param>
/// <param name="OuterFirst">Islands that lay an outer wall before the inner one.</param>
/// <param name="InnerFirst">Islands that lay the inner wall first.</param>
/// <param name="NoWall">Fill without a wall around it.</param>
/// <param name="NoOuter">Islands with inner walls and no outer one.</param>
/// <param name="GapFirst">Islands that fill a gap before its walls.</param>
public readonly record struct LayerOrder(int FillFirst, int WallsFirst, int OuterFirst, int InnerFirst, int NoWall, int NoOuter, int GapFirst)
{
    /// <summary>Lines of one layer that follow each other with one feature, and where they lie, mm.</summary>
    internal struct Block
    {
        public LineClass Class;
        public double MinX, MinY, MaxX, MaxY;

        public readonly double Area => (MaxX - MinX) * (MaxY - MinY);

        public readonly bool Holds(in Block b) =>
            (b.MinX + b.MaxX) / 2 >= MinX && (b.MinX + b.MaxX) / 2 <= MaxX && (b.MinY + b.MaxY) / 2 >= MinY && (b.MinY + b.MaxY) / 2 <= MaxY;

        public readonly bool Meets(in Block b, double by) => b.MinX <= MaxX + by && b.MaxX >= MinX - by && b.MinY <= MaxY + by && b.MaxY >= MinY - by;

        public void Take(in Block b)
        {
            (MinX, MinY) = (Math.Min(MinX, b.MinX), Math.Min(MinY, b.MinY));
            (MaxX, MaxY) = (Math.Max(MaxX, b.MaxX), Math.Max(MaxY, b.MaxY));
        }
    }

    /// <summary>Most blocks that are told apart in a layer; one with more is not judged.</summary>
    internal const int MostBlocks = 400;

    private static readonly string[] Beside = ["skirt", "brim", "support", "prim", "raft", "iron", "travel", "purge", "wipe", "bridge"];

    /// <summary>A class by the name that the file gives a feature.</summary>
    public static LineClass ClassOf(string feature)
    {
        bool Has(string word) => feature.Contains(word, StringComparison.OrdinalIgnoreCase);
        if (Beside.Any(Has))
            return LineClass.Other;
        return Has("gap") ? LineClass.Gap
            : Has("fill") ? LineClass.Fill
            : Has("outer") || Has("external") ? LineClass.OuterWall
            : Has("wall") || Has("perimeter") || Has("inner") || Has("shell") ? LineClass.InnerWall
            : LineClass.Other;
    }

    /// <summary>Judges the blocks of a layer in the order in which they are laid.</summary>
    internal static LayerOrder Of(List<Block> blocks)
    {
        if (blocks.Count >= MostBlocks || !blocks.Exists(b => b.Class is LineClass.OuterWall or LineClass.InnerWall))
            return default;
        var islands = Islands(blocks);
        // First and last place of each class in each island.
        var places = new (int Outer, int Inner, int LastWall, int Fill, int LastFill, int Gap)[islands.Count];
        Array.Fill(places, (-1, -1, -1, -1, -1, -1));
        var noWall = 0;
        for (var i = 0; i < blocks.Count; i++)
        {
            var b = blocks[i];
            if (b.Class == LineClass.Other)
                continue;
            var at = IslandOf(islands, b);
            if (at < 0)
            {
                noWall += b.Class == LineClass.Fill ? 1 : 0;
                continue;
            }

            ref var p = ref places[at];
            switch (b.Class)
            {
                case LineClass.OuterWall:
                    (p.Outer, p.LastWall) = (p.Outer < 0 ? i : p.Outer, i);
                    break;
                case LineClass.InnerWall:
                    (p.Inner, p.LastWall) = (p.Inner < 0 ? i : p.Inner, i);
                    break;
                case LineClass.Fill:
                    (p.Fill, p.LastFill) = (p.Fill < 0 ? i : p.Fill, i);
                    break;
                default:
                    p.Gap = p.Gap < 0 ? i : p.Gap;
                    break;
            }
        }

        var order = default(LayerOrder) with { NoWall = noWall };
        foreach (var p in places)
        {
            var first = p.Outer < 0 ? p.Inner : p.Inner < 0 ? p.Outer : Math.Min(p.Outer, p.Inner);
            if (p.Fill >= 0)
                order = p.LastFill < first ? order with { FillFirst = order.FillFirst + 1 }
                    : p.Fill > first ? order with { WallsFirst = order.WallsFirst + 1 }
                    : order;
            if (p.Outer >= 0 && p.Inner >= 0)
                order = p.Outer < p.Inner ? order with { OuterFirst = order.OuterFirst + 1 } : order with { InnerFirst = order.InnerFirst + 1 };
            if (p.Outer < 0)
                order = order with { NoOuter = order.NoOuter + 1 };
            if (p.Gap >= 0 && p.Gap < first)
                order = order with { GapFirst = order.GapFirst + 1 };
        }

        return order;
    }

    /// <summary>Walls that lie within each other are one island.</summary>
    private static List<Block> Islands(List<Block> blocks)
    {
        var islands = new List<Block>();
        foreach (var wall in blocks.Where(b => b.Class is LineClass.OuterWall or LineClass.InnerWall).OrderByDescending(b => b.Area))
        {
            var at = islands.FindIndex(i => i.Meets(wall, -0.05));
            if (at < 0)
            {
                islands.Add(wall);
                continue;
            }

            var grown = islands[at];
            grown.Take(wall);
            islands[at] = grown;
        }

        // Boxes that met only as they grew.
        for (var i = 0; i < islands.Count; i++)
        {
            for (var j = islands.Count - 1; j > i; j--)
            {
                if (!islands[i].Meets(islands[j], -0.05))
                    continue;
                var grown = islands[i];
                grown.Take(islands[j]);
                islands[i] = grown;
                islands.RemoveAt(j);
            }
        }

        return islands;
    }

    private static int IslandOf(List<Block> islands, in Block b)
    {
        var (best, area) = (-1, double.MaxValue);
        for (var i = 0; i < islands.Count; i++)
        {
            if (islands[i].Holds(b) && islands[i].Area < area)
                (best, area) = (i, islands[i].Area);
        }

        return best;
    }
}
