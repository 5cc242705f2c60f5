using NetTopologySuite;
using NetTopologySuite.Geometries;
using NetTopologySuite.Geometries.Implementation;
using NetTopologySuite.Operation.Buffer;

namespace Glenfrost.Core.TestPieces.Shapes;

/// <summary>
/// Closed regions in the plane of a layer, mm, on NetTopologySuite. Corners are given on a grid of 0.1 µm; overlays compute
/// freely and snap only where they must. Corners stay sharp when a region grows or shrinks.
/// </summary>
public static class Plane
{
    /// <summary>Points per mm of the grid.</summary>
    public const double Grid = 10_000;

    private static readonly BufferParameters Sharp = new(8, EndCapStyle.Flat, JoinStyle.Mitre, 4);

    private static readonly BufferParameters Round = new(12, EndCapStyle.Round, JoinStyle.Round, 4);

    /// <summary>Makes all geometry here.</summary>
    public static GeometryFactory Factory { get; } = new NtsGeometryServices(
        CoordinateArraySequenceFactory.Instance, new PrecisionModel(), 0, GeometryOverlay.NG, new CoordinateEqualityComparer()).CreateGeometryFactory();

    /// <summary>An empty region.</summary>
    public static Geometry Nothing { get; } = Factory.CreatePolygon();

    /// <summary>A rectangle from its corners, mm.</summary>
    public static Polygon Rectangle(double x0, double y0, double x1, double y1) => Polygon((x0, y0), (x1, y0), (x1, y1), (x0, y1));

    /// <summary>A polygon through its corners, counterclockwise, mm; closed by itself.</summary>
    public static Polygon Polygon(params (double X, double Y)[] corners)
    {
        var points = new Coordinate[corners.Length + 1];
        for (var i = 0; i < corners.Length; i++)
            points[i] = On(corners[i].X, corners[i].Y);
        points[^1] = points[0].Copy();
        return Factory.CreatePolygon(points);
    }

    /// <summary>A disc as a polygon whose chords stay within 5 µm of the circle.</summary>
    public static Polygon Disc(double x, double y, double radius)
    {
        var n = Segments(radius);
        return Polygon([.. Enumerable.Range(0, n).Select(i => (x + radius * Math.Cos(2 * Math.PI * i / n), y + radius * Math.Sin(2 * Math.PI * i / n)))]);
    }

    /// <summary>The half of a disc that lies left of its centre, closed by the diameter.</summary>
    public static Polygon HalfDiscLeft(double x, double y, double radius)
    {
        var n = Segments(radius) / 2;
        return Polygon([
            .. Enumerable.Range(0, n + 1).Select(i => Math.PI / 2 + Math.PI * i / n).Select(a => (x + radius * Math.Cos(a), y + radius * Math.Sin(a))),
        ]);
    }

    /// <summary>The half of a disc that lies right of its centre, closed by the diameter.</summary>
    public static Polygon HalfDiscRight(double x, double y, double radius)
    {
        var n = Segments(radius) / 2;
        return Polygon([
            .. Enumerable.Range(0, n + 1).Select(i => -Math.PI / 2 + Math.PI * i / n).Select(a => (x + radius * Math.Cos(a), y + radius * Math.Sin(a))),
        ]);
    }

    /// <summary>The region shrunk by a distance, mm; what is narrower than twice the distance vanishes.</summary>
    public static Geometry Inset(Geometry region, double distance) => region.IsEmpty ? region : BufferOp.Buffer(region, -distance, Sharp);

    /// <summary>The region grown by a distance, mm.</summary>
    public static Geometry Outset(Geometry region, double distance) => region.IsEmpty ? region : BufferOp.Buffer(region, distance, Sharp);

    /// <summary>A line drawn with a round pen, mm.</summary>
    public static Geometry Drawn(Geometry line, double width) => BufferOp.Buffer(line, width / 2, Round);

    /// <summary>The parts of a region that are at least <paramref name="width"/> wide, mm.</summary>
    public static Geometry AtLeast(Geometry region, double width) => Outset(Inset(region, width / 2), width / 2);

    /// <summary>All polygons of a geometry; lines and points are left out.</summary>
    public static IEnumerable<Polygon> Polygons(Geometry g)
    {
        if (g is Polygon p)
        {
            if (!p.IsEmpty)
                yield return p;
            yield break;
        }

        for (var i = 0; i < g.NumGeometries && g is GeometryCollection; i++)
        {
            foreach (var inner in Polygons(g.GetGeometryN(i)))
                yield return inner;
        }
    }

    /// <summary>One region from polygons that don't overlap.</summary>
    public static Geometry Together(IEnumerable<Polygon> polygons)
    {
        var all = polygons.ToArray();
        return all.Length == 1 ? all[0] : Factory.CreateMultiPolygon(all);
    }

    /// <summary>A coordinate on the grid.</summary>
    public static Coordinate On(double x, double y) => new(Math.Round(x * Grid) / Grid, Math.Round(y * Grid) / Grid);

    /// <summary>The geometry moved, mm.</summary>
    public static T Moved<T>(T g, double dx, double dy)
        where T : Geometry
    {
        var copy = (T)g.Copy();
        copy.Apply(new NetTopologySuite.Geometries.Utilities.AffineTransformation(1, 0, dx, 0, 1, dy));
        copy.GeometryChanged();
        return copy;
    }

    private static int Segments(double radius) => Math.Clamp(4 * (int)Math.Ceiling(Math.PI / Math.Acos(1 - Math.Min(0.5, 0.005 / radius)) / 4), 12, 96);
}
