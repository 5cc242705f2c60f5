using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of a strip whose flow changes in steps, mm.</summary>
/// <param name="Factors">Flow of each step from left to right, against the settings' own.</param>
/// <param name="Middle">Which step is marked as the middle, from 0.</param>
/// <param name="StepMm">Length of a step.</param>
/// <param name="WidthMm">Across.</param>
/// <param name="Layers">Layers.</param>
/// <param name="LayerHeightMm">Layer height.</param>
public sealed record StripSize(IReadOnlyList<double> Factors, int Middle, double StepMm, double WidthMm, int Layers, double LayerHeightMm)
{
    /// <summary>Layers at the bottom that are laid with the settings' own flow.</summary>
    public const int BaseLayers = 2;
}

/// <summary>
/// One long solid strip, read with a thumb along it: above two base layers its flow changes in steps, each boundary marked by a notch in the front edge and the
/// middle step by a tab, so that nothing has to be printed on the surface that is judged.
/// </summary>
public static class FlowStrip
{
    /// <summary>Builds it; the same measures give the same instance.</summary>
    public static Piece Build(StripSize size, PieceMemory memory) =>
        memory.Once(
            $"strip/{string.Join(',', size.Factors.Select(f => f.ToString("R", System.Globalization.CultureInfo.InvariantCulture)))}/{size.Middle}/{size.StepMm}/" +
                $"{size.WidthMm}/{size.Layers}/{size.LayerHeightMm}", 100,
            () =>
            {
                var n = size.Factors.Count;
                var (length, notch) = (n * size.StepMm, Math.Min(1.6, size.StepMm / 8));
                var points = new List<Coordinate> { Plane.On(0, 0) };
                for (var i = 0; i < n; i++)
                {
                    if (i == size.Middle)
                    {
                        var (from, to) = ((i + 0.35) * size.StepMm, (i + 0.65) * size.StepMm);
                        points.AddRange([Plane.On(from, 0), Plane.On(from, -2.4), Plane.On(to, -2.4), Plane.On(to, 0)]);
                    }

                    if (i + 1 < n)
                    {
                        var at = (i + 1) * size.StepMm;
                        points.AddRange([Plane.On(at - notch, 0), Plane.On(at, 1.2 * notch), Plane.On(at + notch, 0)]);
                    }
                }

                points.AddRange([Plane.On(length, 0), Plane.On(length, size.WidthMm), Plane.On(0, size.WidthMm), Plane.On(0, 0)]);
                var islands = new Islands().Of(Plane.Factory.CreatePolygon([.. points]));
                return new Piece
                {
                    Name = "Flow strip", Layers =
                    [
                        .. Enumerable.Range(1, size.Layers)
                            .Select(k => new PieceLayer(
                                k, Math.Round(k * size.LayerHeightMm, 4), size.LayerHeightMm, k <= StripSize.BaseLayers ? null : 0, islands, [])),
                    ],
                    Flows =
                    [
                        .. size.Factors.Select(
                            (f, i) =>
                                new FlowZone(
                                    f, 0, new Envelope(i == 0 ? -10 : i * size.StepMm, i + 1 == n ? length + 10 : (i + 1) * size.StepMm, -10, size.WidthMm + 10)
                                )),
                    ],
                    SeamToward = (-1, 1),
                };
            });
}
