using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of a square of single walls for the calliper, mm.</summary>
/// <param name="SideMm">Outside.</param>
/// <param name="LayerHeightMm">Layer height.</param>
/// <param name="SectionLayers">Layers of each section, from the bed up; one for a piece of one value.</param>
/// <param name="LineWidthMm">Line width.</param>
/// <param name="NozzleMm">Nozzle; scales corners and marks.</param>
/// <param name="MarkLayers">Layers at which the sides carry their marks.</param>
public sealed record WallSize(
    double SideMm, double LayerHeightMm, IReadOnlyList<int> SectionLayers, double LineWidthMm, double NozzleMm, IReadOnlyList<int> MarkLayers);

/// <summary>
/// A square of walls of one line with measuring marks: at the marked heights each side carries as many small bumps near its left corner as its number, so that
/// a
/// piece in the hand says which side it is and where the jaws go. Open at the top, without fill; the seam stands in the back left corner, where nothing is
/// read.
/// </summary>
public static class MarkedWall
{
    /// <summary>Sides in their order, seen from the front.</summary>
    public static IReadOnlyList<string> Sides { get; } = ["front", "right", "back", "left"];

    /// <summary>Builds it; the same measures give the same instance.</summary>
    public static Piece Build(WallSize size, string name, IReadOnlyList<FlowZone> flows, PieceMemory memory) =>
        memory.Once(
            $"wall/{size with { SectionLayers = [], MarkLayers = [] }}/{string.Join(',', size.SectionLayers)}/{string.Join(',', size.MarkLayers)}/{name}/" +
                $"{string.Join(';', flows.Select(f => $"{f.Factor:R} {f.Section}"))}", 500,
            () =>
            {
                var (w, radius) = (size.LineWidthMm, 3 * size.NozzleMm / 0.4);
                var plain = Wall(size, w, radius, false);
                var marked = Wall(size, w, radius, true);
                PieceSize.Layers(size.SectionLayers.Sum(n => (long)n));
                var layers = new List<PieceLayer>();
                for (var (section, n) = (0, 1); section < size.SectionLayers.Count; section++)
                {
                    for (var i = 0; i < size.SectionLayers[section]; i++, n++)
                        layers.Add(
                            new(n, Math.Round(n * size.LayerHeightMm, 4), size.LayerHeightMm, section, [], [size.MarkLayers.Contains(n) ? marked : plain]));
                }

                return new Piece
                {
                    Name = name,
                    Layers = layers,
                    Flows = flows,
                    Judged = [new(radius + w, size.SideMm + 2, -2, size.SideMm - radius - w), new(radius + 2, size.SideMm - radius, -2, size.SideMm + 2)],
                    SeamToward = (-1, 1),
                };
            });

    private static SingleWall Wall(WallSize size, double w, double radius, bool marked)
    {
        var (near, far) = (w / 2, size.SideMm - w / 2);
        var points = new List<Coordinate>();
        // Corners are rounded, so that the nozzle does not stop; sides run counterclockwise from the front.
        var sides = new[]
        {
            (X: near + radius, Y: near, Dx: 1.0, Dy: 0.0), (X: far, Y: near + radius, Dx: 0.0, Dy: 1.0), (X: far - radius, Y: far, Dx: -1.0, Dy: 0.0),
            (X: near, Y: far - radius, Dx: 0.0, Dy: -1.0),
        };
        var length = far - near - 2 * radius;
        var scale = size.NozzleMm / 0.4;
        foreach (var (s, i) in sides.Select((s, i) => (s, i)))
        {
            var (nx, ny) = (s.Dy, -s.Dx);
            void At(double along, double outward) => points.Add(Plane.On(s.X + s.Dx * along + nx * outward, s.Y + s.Dy * along + ny * outward));
            At(0, 0);
            for (var k = 0; marked && k <= i; k++)
            {
                var from = (0.5 + 1.8 * k) * scale;
                At(from, 0);
                At(from + 0.5 * scale, 0.8 * scale);
                At(from + scale, 0);
            }

            At(length, 0);
            var (cx, cy) = (s.X + s.Dx * length - nx * radius, s.Y + s.Dy * length - ny * radius);
            var angle = Math.Atan2(ny, nx);
            for (var k = 1; k < 8; k++)
            {
                var (sin, cos) = Math.SinCos(angle + k * Math.PI / 16);
                points.Add(Plane.On(cx + radius * cos, cy + radius * sin));
            }
        }

        points.Add(points[0].Copy());
        return new((LineString)Plane.Factory.CreateLineString([.. points]));
    }
}
