using System.Globalization;
using Glenfrost.Core.TestPieces.Shapes;

namespace Glenfrost.Core.TestPieces;

/// <summary>Measures of a cone, mm.</summary>
/// <param name="BaseMm">Diameter above its pad.</param>
/// <param name="TipMm">Diameter of its last layer.</param>
/// <param name="HeightMm">Height above its pad.</param>
/// <param name="LayerHeightMm">Layer height.</param>
/// <param name="NozzleMm">Nozzle: pad and teeth scale with it.</param>
public sealed record TipConeSize(double BaseMm, double TipMm, double HeightMm, double LayerHeightMm, double NozzleMm)
{
    /// <summary>Layers of the pad.</summary>
    public int PadLayers => Math.Max(2, (int)Math.Round(0.6 * NozzleMm / 0.4 / LayerHeightMm));

    /// <summary>Layers of the cone.</summary>
    public int ConeLayers => Math.Max(1, (int)Math.Round(HeightMm / LayerHeightMm));

    /// <summary>All layers.</summary>
    public int TotalLayers => PadLayers + ConeLayers;

    /// <summary>Rim of the pad around the cone, mm.</summary>
    public double RimMm => 3 * NozzleMm / 0.4;

    /// <summary>Side of the pad, mm.</summary>
    public double PadMm => BaseMm + 2 * RimMm;

    /// <summary>Plastic of it, mm³.</summary>
    public double VolumeMm3 =>
        Math.PI * HeightMm / 12 * (BaseMm * BaseMm + BaseMm * TipMm + TipMm * TipMm) + PadMm * PadMm * PadLayers * LayerHeightMm;

    /// <summary>Most teeth that its pad has room for.</summary>
    public int MostTeeth => (int)Math.Floor((PadMm - 1) / (2.4 * NozzleMm / 0.4));
}

/// <summary>
/// A cone on a square pad: the higher, the less there is in a layer and the sooner the next one comes, until at its tip one lies on another that is soft still.
/// Teeth in the front edge of the pad count the cones of a plate.
/// </summary>
public static class TipCone
{
    /// <summary>Builds it; the same measures and way give the same instance.</summary>
    /// <param name="size">Measures.</param>
    /// <param name="with">How the cone is laid; its pad as the settings say.</param>
    /// <param name="teeth">Teeth in the front edge of its pad.</param>
    /// <param name="memory">Remembers it.</param>
    public static Piece Build(TipConeSize size, LaidWith with, int teeth, PieceMemory memory) =>
        memory.Once(string.Create(CultureInfo.InvariantCulture, $"tip cone/{size}/{with}/{teeth}"), 300, () =>
        {
            var islands = new Islands();
            var corners = new List<(double X, double Y)> { (0, 0) };
            for (var k = 0; k < Math.Min(teeth, size.MostTeeth); k++)
            {
                var x = 0.6 + 2.4 * k * size.NozzleMm / 0.4;
                corners.AddRange([(x, 0), (x, -1.2), (x + 1.2, -1.2), (x + 1.2, 0)]);
            }

            corners.AddRange([(size.PadMm, 0), (size.PadMm, size.PadMm), (0, size.PadMm)]);
            var pad = islands.Of(Plane.Polygon([.. corners]));
            PieceSize.Layers(size.TotalLayers);
            var layers = new List<PieceLayer>(size.TotalLayers);
            PieceLayer Layer(int n, int? section, IReadOnlyList<Island> shape) =>
                new(n, Math.Round(n * size.LayerHeightMm, 4), size.LayerHeightMm, section, shape, []);
            for (var n = 1; n <= size.PadLayers; n++)
                layers.Add(Layer(n, null, pad));
            for (var i = 0; i < size.ConeLayers; i++)
            {
                var r = (size.BaseMm + (size.TipMm - size.BaseMm) * i / Math.Max(1, size.ConeLayers - 1)) / 2;
                layers.Add(with.On(Layer(size.PadLayers + i + 1, 0, islands.Of(Plane.Disc(size.PadMm / 2, size.PadMm / 2, r)))));
            }

            return new Piece
            {
                Name = "Tip cone", Layers = layers, SeamToward = (0, 1),
                Flows = with.Flow == 1 ? [] : [new FlowZone(with.Flow, 0)],
            };
        });
}
