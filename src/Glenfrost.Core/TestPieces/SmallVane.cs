using System.Globalization;
using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces;

/// <summary>A part of the small vane that is looked at by itself.</summary>
/// <param name="Word">Fixed word.</param>
/// <param name="Label">As it is called.</param>
/// <param name="FromMm">Lower edge above the bed.</param>
/// <param name="ToMm">Upper edge.</param>
public sealed record VanePart(string Word, string Label, double FromMm, double ToMm);

/// <summary>
/// Measures of the small vane, mm: a foot with two small numbers cut into its front, a house with a hole in each side and two thin walls standing in its
/// window, a deck that bridges it, three eaves that lean out further and further, and a spire. Sizes scale with the nozzle: 1.0 at 0.4 mm.
/// </summary>
/// <param name="NozzleMm">Nozzle diameter.</param>
/// <param name="LineMm">Width of a line: the thinner wall is one, the other two.</param>
/// <param name="LayerHeightMm">Layer height.</param>
public sealed record VaneSize(double NozzleMm = 0.4, double LineMm = 0.44, double LayerHeightMm = 0.2)
{
    /// <summary>Words of its parts, from the bed up.</summary>
    public const string Foot = "foot", House = "house", Deck = "deck", Spire = "spire";

    /// <summary>Lean of the eaves from the upright, degrees, the lowest first.</summary>
    public static IReadOnlyList<int> LeansDeg { get; } = [45, 55, 65];

    /// <summary>The word of the eave that leans so far.</summary>
    public static string Eave(int degrees) => $"eave-{degrees.ToString(CultureInfo.InvariantCulture)}";

    /// <summary>Scale against a 0.4 mm nozzle.</summary>
    public double Scale => NozzleMm / 0.4;

    /// <summary>Width of the foot, from left to right.</summary>
    public double WidthMm => 27 * Scale;

    /// <summary>Depth of the foot.</summary>
    public double DepthMm => 14 * Scale;

    /// <summary>Left edge of the left post, its right edge, left edge of the right post, its right edge.</summary>
    public (double A, double B, double C, double D) PostsX => (1.5 * Scale, 7.5 * Scale, 19.5 * Scale, 25.5 * Scale);

    /// <summary>Radius of the hole through both posts from side to side.</summary>
    public double HoleMm => 2.5 * Scale;

    /// <summary>Middle of the hole above the foot.</summary>
    public double HoleAtMm => 5 * Scale;

    /// <summary>X of the wall of one line and of the wall of two.</summary>
    public (double One, double Two) FinsX => (11.5 * Scale, 15.5 * Scale);

    /// <summary>Height of the thin walls above the foot.</summary>
    public double FinMm => 8 * Scale;

    /// <summary>Radius of the mast that eaves and spire stand on.</summary>
    public double MastMm => 3 * Scale;

    /// <summary>How far an eave leans out.</summary>
    public double ReachMm => 3.6 * Scale;

    /// <summary>Numbers in the foot's front, the larger left: digits that a swollen line closes first.</summary>
    public static (int Large, int Small) Numbers => (358, 609);

    /// <summary>Height of the two numbers.</summary>
    public (double Large, double Small) TextMm => (3.2 * Scale, 2 * Scale);

    /// <summary>Width of a stroke of the two numbers.</summary>
    public (double Large, double Small) StrokeMm => (0.8 * Scale, 0.5 * Scale);

    private double Layered(double mm) => Math.Max(1, Math.Round(mm / LayerHeightMm)) * LayerHeightMm;

    private double EaveMm(int degrees) => ReachMm / Math.Tan(degrees * Math.PI / 180) + RimMm + GapMm;

    /// <summary>Height of an eave's rim, where it leans no further.</summary>
    public double RimMm => 0.8 * Scale;

    /// <summary>Height of bare mast above an eave.</summary>
    public double GapMm => 1.8 * Scale;

    /// <summary>Radius of the spire's tip: what one nozzle draws.</summary>
    public double TipMm => 0.9 * NozzleMm;

    /// <summary>Its parts from the bed up, each of whole layers.</summary>
    public IReadOnlyList<VanePart> Parts
    {
        get
        {
            var parts = new List<VanePart>();
            void Add(string word, string label, double mm)
            {
                var from = parts.Count == 0 ? 0 : parts[^1].ToMm;
                parts.Add(new(word, label, from, Math.Round(from + Layered(mm), 4)));
            }

            Add(Foot, "foot with its numbers", 5 * Scale);
            Add(House, "house: hole and thin walls", 10.6 * Scale);
            Add(Deck, "deck: bridge", Math.Max(1.6 * Scale, 3 * LayerHeightMm));
            foreach (var lean in LeansDeg)
                Add(Eave(lean), $"eave leaning {lean}°", EaveMm(lean));
            Add(Spire, "spire", 13 * Scale);
            return parts;
        }
    }

    /// <summary>Height of all of it.</summary>
    public double HeightMm => Parts[^1].ToMm;

    /// <summary>Layers of it.</summary>
    public int Layers => (int)Math.Round(HeightMm / LayerHeightMm);

    /// <summary>Half of the hole's width at a height above the foot; 0 where there is none.</summary>
    public double HoleHalf(double z) => Math.Sqrt(Math.Max(0, HoleMm * HoleMm - (z - HoleAtMm) * (z - HoleAtMm)));

    /// <summary>Radius of mast and eave at a height above the eave's lower edge.</summary>
    public double EaveRadius(int degrees, double z)
    {
        var lean = Math.Tan(degrees * Math.PI / 180);
        var cone = ReachMm / lean;
        return z < cone ? MastMm + z * lean : z < cone + RimMm ? MastMm + ReachMm : MastMm;
    }
}

/// <summary>Builds the small vane, the detailed piece of the verification print.</summary>
public static class SmallVane
{
    /// <summary>The vane as closed regions per layer; section i is part i of <see cref="VaneSize.Parts"/>.</summary>
    public static Piece Build(VaneSize size, PieceMemory memory) =>
        memory.Once(string.Create(CultureInfo.InvariantCulture, $"vane/{size.NozzleMm:R}/{size.LineMm:R}/{size.LayerHeightMm:R}"), 100, () => Make(size));

    private static Piece Make(VaneSize s)
    {
        PieceSize.Layers(s.Layers);
        var (islands, layers, parts) = (new Islands(), new List<PieceLayer>(s.Layers), s.Parts);
        var part = 0;
        for (var n = 1; n <= s.Layers; n++)
        {
            // A layer takes its shape at half its height.
            var z = (n - 0.5) * s.LayerHeightMm;
            while (z > parts[part].ToMm)
                part++;
            var above = z - parts[part].FromMm;
            layers.Add(
                new(
                    n, Math.Round(n * s.LayerHeightMm, 4), s.LayerHeightMm, part, islands.Of(Region(s, parts[part], above, n)),
                    parts[part].Word == VaneSize.House && above < s.FinMm ? [Fin(s)] : []));
        }

        var (_, b, c, _) = s.PostsX;
        return new Piece
        {
            Name = "Small vane",
            Layers = layers,
            // Numbers, window and the front of eaves and spire are judged; seams go to the back.
            Judged = [new(-1, s.WidthMm + 1, -1, s.DepthMm * 0.35), new(b - 0.1, c + 0.1, -1, s.DepthMm * 0.8)],
            SeamToward = (0, 1),
        };
    }

    private static SingleWall Fin(VaneSize s) => new(Plane.Factory.CreateLineString([
        Plane.On(s.FinsX.One, 0.2 * s.DepthMm), Plane.On(s.FinsX.One, 0.8 * s.DepthMm),
    ]));

    private static Geometry Region(VaneSize s, VanePart part, double z, int layer)
    {
        var (mx, my) = (s.WidthMm / 2, s.DepthMm / 2);
        switch (part.Word)
        {
            case VaneSize.Foot:
                return FootAt(s, z, layer);
            case VaneSize.House:
                return HouseAt(s, z);
            case VaneSize.Deck:
                return Plane.Rectangle(s.PostsX.A, 0, s.PostsX.D, s.DepthMm);
            case VaneSize.Spire:
                var high = part.ToMm - part.FromMm;
                return Plane.Disc(mx, my, s.MastMm + (s.TipMm - s.MastMm) * z / high);
            default:
                var lean = VaneSize.LeansDeg.First(d => VaneSize.Eave(d) == part.Word);
                return Plane.Disc(mx, my, s.EaveRadius(lean, z));
        }
    }

    private static Geometry HouseAt(VaneSize s, double z)
    {
        var (a, b, c, d) = s.PostsX;
        var half = s.HoleHalf(z);
        List<Polygon> parts = [];
        foreach (var (from, to) in new[] { (a, b), (c, d) })
        {
            if (half < s.LineMm / 4)
            {
                parts.Add(Plane.Rectangle(from, 0, to, s.DepthMm));
            }
            else
            {
                parts.Add(Plane.Rectangle(from, 0, to, s.DepthMm / 2 - half));
                parts.Add(Plane.Rectangle(from, s.DepthMm / 2 + half, to, s.DepthMm));
            }
        }

        if (z < s.FinMm)
            parts.Add(Plane.Rectangle(s.FinsX.Two - s.LineMm, 0.2 * s.DepthMm, s.FinsX.Two + s.LineMm, 0.8 * s.DepthMm));
        return Plane.Factory.CreateMultiPolygon([.. parts]);
    }

    private static Geometry FootAt(VaneSize s, double z, int layer)
    {
        Geometry foot = Plane.Rectangle(0, 0, s.WidthMm, s.DepthMm);
        // The first layers stay plain: they are pressed wide.
        if (layer <= 2)
            return foot;
        foreach (var (number, text, stroke, middle) in new[]
        {
            (VaneSize.Numbers.Large, s.TextMm.Large, s.StrokeMm.Large, s.WidthMm * 0.28),
            (VaneSize.Numbers.Small, s.TextMm.Small, s.StrokeMm.Small, s.WidthMm * 0.75),
        })
        {
            var row = (int)Math.Floor((z - (5 * s.Scale - text) / 2) / (text / 5));
            if (row is < 0 or > 4)
                continue;
            var left = middle - Digits.Columns(number) * stroke / 2;
            foreach (var (from, to) in Digits.Row(number, row))
                foot = foot.Difference(Plane.Rectangle(left + from * stroke, -1, left + to * stroke, 2 * s.LineMm));
        }

        return foot;
    }
}
