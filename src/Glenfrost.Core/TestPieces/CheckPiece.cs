using Glenfrost.Core.Gcode.Writing;
using Glenfrost.Core.Settings;
using Glenfrost.Core.TestPieces.Shapes;
using Glenfrost.Core.TestPieces.Toolpaths;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of the quick check, mm.</summary>
/// <param name="WallMm">Outer side of the square of single walls.</param>
/// <param name="HeightMm">Height of walls and posts above the plate.</param>
/// <param name="PostGapMm">Clear distance between the posts.</param>
/// <param name="LayerHeightMm">Layer height.</param>
public sealed record CheckPieceSize(double WallMm = 30, double HeightMm = 12, double PostGapMm = 18, double LayerHeightMm = 0.2)
{
    /// <summary>Fields of the quick check: unit, range and reason.</summary>
    public static IReadOnlyDictionary<string, Quantity> Fields { get; } = new Dictionary<string, Quantity>
    {
        ["wallMm"] = new("Side of the walls", "mm", 15, 120, "shorter gives the calliper no straight, longer wastes filament"),
        ["heightMm"] = new("Height", "mm", 4, 60, "lower can't be measured between two fingers, higher tells nothing more"),
        ["postGapMm"] = new("Between the posts", "mm", 4, 60, "strings show between 8 and 25 mm"),
        ["layerHeightMm"] = new("Layer height", "mm", 0.04m, 1.2m, "thinner than a screw moves, or thicker than a nozzle lays"),
        ["nozzleTemperatureC"] = new("Nozzle temperature", "°C", 150, 500, "below 150 nothing melts, above 500 no hotend works"),
    };
}

/// <summary>
/// The quick check: a square of single walls for the calliper and two posts for strings, on a thin plate; about a quarter of an hour and a few grams.
/// It tells whether a new spool still agrees with what was kept.
/// </summary>
public static class CheckPiece
{
    /// <summary>What can't be printed, at its field, with what would fit.</summary>
    public static IReadOnlyList<FieldError> Check(CheckPieceSize size, PrintSettings s)
    {
        var errors = new List<FieldError>();
        var scale = s.NozzleDiameterMm / 0.4;
        if (size.LayerHeightMm > s.NozzleDiameterMm * 0.8 + 1e-9)
            errors.Add(
                Offer("layerHeightMm", size.LayerHeightMm, s.NozzleDiameterMm * 0.8, 2, $"is more than a {s.NozzleDiameterMm:0.##} mm nozzle lays: at most"));
        if (size.PostGapMm < 8 * s.LineWidthMm)
            errors.Add(
                Offer(
                    "postGapMm", size.PostGapMm, Math.Ceiling(8 * s.LineWidthMm), 1,
                    $"leaves no room for strings beside lines of {s.LineWidthMm:0.##} mm: at least"));
        if (size.WallMm < 12 * scale)
            errors.Add(Offer("wallMm", size.WallMm, Math.Ceiling(12 * scale), 1, "leaves no straight between the rounded corners: at least"));
        return errors;

        static FieldError Offer(string field, double value, double fit, int digits, string why)
        {
            return new(
                field, $"{Say.N(value, digits)} mm {why} {Say.N(fit, digits)} mm.",
                [new($"{Say.N(fit, digits)} mm", new Dictionary<string, decimal> { [field] = (decimal)Math.Round(fit, digits) })]);
        }
    }

    /// <summary>Layers of the plate under walls and posts.</summary>
    public static int PlateLayers(double layerHeightMm, double nozzleMm) => Math.Max(2, (int)Math.Round(0.6 * nozzleMm / 0.4 / layerHeightMm));

    /// <summary>Builds it for a line width.</summary>
    /// <param name="size">Its measures.</param>
    /// <param name="s">Settings: nozzle and line width scale posts and plate.</param>
    /// <param name="memory">Where it is remembered.</param>
    public static Piece Build(CheckPieceSize size, PrintSettings s, PieceMemory memory) =>
        memory.Once($"check/{size}/{s.NozzleDiameterMm:R}/{s.LineWidthMm:R}", 100, () => Make(size, s));

    private static Piece Make(CheckPieceSize size, PrintSettings s)
    {
        var scale = s.NozzleDiameterMm / 0.4;
        var (post, margin) = (4 * scale, 2 * scale);
        var w = s.LineWidthMm;
        var islands = new Islands();
        var plateWidth = Math.Max(size.WallMm, 2 * post + size.PostGapMm) + 2 * margin;
        var wallX = (plateWidth - size.WallMm) / 2;
        var plateDepth = margin + size.WallMm + 2 * margin + post + margin;
        var plate = islands.Of(Plane.Rectangle(0, 0, plateWidth, plateDepth));
        var postY = plateDepth - margin - post / 2;
        var middle = plateWidth / 2;
        var posts = islands.Of(Plane.Factory.CreateMultiPolygon([
            Plane.Disc(middle - (size.PostGapMm + post) / 2, postY, post / 2),
            Plane.Disc(middle + (size.PostGapMm + post) / 2, postY, post / 2),
        ]));
        var wall = new SingleWall((LineString)Plane.Factory.CreateLineString(RoundedSquare(wallX + w / 2, margin + w / 2, size.WallMm - w, 3 * scale)));
        var plateLayers = PlateLayers(size.LayerHeightMm, s.NozzleDiameterMm);
        var all = plateLayers + (int)Math.Ceiling(size.HeightMm / size.LayerHeightMm - 1e-9);
        return new Piece
        {
            Name = "Quick check",
            Layers = [.. Enumerable.Range(1, all).Select(n => new PieceLayer(
                n, Math.Round(n * size.LayerHeightMm, 4), size.LayerHeightMm, n <= plateLayers ? null : 0,
                n <= plateLayers ? plate : posts, n <= plateLayers ? [] : [wall]))],
            // The faces of the walls are measured: seams go into the corner at the back left. The gap is judged: posts' seams go back too.
            Judged = [new(wallX + 4 * scale, plateWidth + 1, -1, margin + size.WallMm + 0.1)],
            SeamToward = (-0.2, 1),
        };
    }

    /// <summary>A closed square with rounded corners, counterclockwise; the corners keep the nozzle from stopping.</summary>
    private static Coordinate[] RoundedSquare(double x, double y, double side, double radius)
    {
        var points = new List<Coordinate>();
        var corners = new[]
        {
            (X: x + side - radius, Y: y + radius, From: -90.0), (X: x + side - radius, Y: y + side - radius, From: 0.0),
            (X: x + radius, Y: y + side - radius, From: 90.0), (X: x + radius, Y: y + radius, From: 180.0),
        };
        foreach (var c in corners)
        {
            for (var i = 0; i <= 8; i++)
            {
                var (sin, cos) = Math.SinCos((c.From + i * 90.0 / 8) * Math.PI / 180);
                points.Add(Plane.On(c.X + radius * cos, c.Y + radius * sin));
            }
        }

        points.Add(points[0].Copy());
        return [.. points];
    }
}
