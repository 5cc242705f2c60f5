using Glenfrost.Core.TestPieces.Shapes;
using NetTopologySuite.Geometries;
using NetTopologySuite.Operation.Polygonize;
using NetTopologySuite.Operation.Union;

namespace Glenfrost.Core.TestPieces.Meshes;

/// <summary>A closed surface of triangles, mm; corners run counterclockwise seen from outside.</summary>
/// <param name="Vertices">Corners, each once.</param>
/// <param name="Triangles">Indexes of corners.</param>
public sealed record Mesh(IReadOnlyList<(double X, double Y, double Z)> Vertices, IReadOnlyList<(int A, int B, int C)> Triangles)
{
    /// <summary>Volume, mm³, by the divergence theorem: a sixth of the sum of a·(b × c).</summary>
    public double VolumeMm3 => Triangles.Sum(t =>
    {
        var (a, b, c) = (Vertices[t.A], Vertices[t.B], Vertices[t.C]);
        return (a.X * (b.Y * c.Z - b.Z * c.Y) + a.Y * (b.Z * c.X - b.X * c.Z) + a.Z * (b.X * c.Y - b.Y * c.X)) / 6;
    });
}

/// <summary>
/// Turns the layers of a piece into one watertight mesh. All outlines together divide the plane into faces; each face is
/// filled or empty in each layer, and the surface lies between filled and empty cells. Neighbouring cells share their corners, so no edge stays open.
/// Leaning parts are stepped by layer, as they are printed.
/// </summary>
public static class PieceMesh
{
    /// <summary>Builds the mesh.</summary>
    /// <param name="piece">The piece.</param>
    /// <param name="lineWidthMm">Width that single walls are drawn with, mm.</param>
    /// <exception cref="InvalidOperationException">It would be divided more finely than anybody slices.</exception>
    public static Mesh Of(Piece piece, double lineWidthMm)
    {
        var slabs = Slabs(piece, lineWidthMm);
        var regions = slabs.SelectMany(s => s.Regions).Distinct().ToList();
        var faces = Faces(regions);
        PieceSize.Cells(faces.Count, slabs.Count);
        var corners = new Dictionary<Coordinate, int>();
        var rings = faces.Select(f => f.ExteriorRing.Coordinates[..^1].Select(c => Index(corners, c)).ToArray()).ToList();
        var points = corners.OrderBy(c => c.Value).Select(c => c.Key).ToList();
        var inside = regions.ToDictionary(
            r => r,
            r =>
            {
                var locate = new NetTopologySuite.Algorithm.Locate.IndexedPointInAreaLocator(r);
                return faces.Select(f => r.EnvelopeInternal.Contains(f.EnvelopeInternal) && locate.Locate(f.InteriorPoint.Coordinate) == Location.Interior)
                    .ToArray();
            });
        var filled = slabs.Select(s => Enumerable.Range(0, faces.Count).Select(f => s.Regions.Any(r => inside[r][f])).ToArray()).ToList();
        var caps = rings.Select(r => Triangulate(r, points)).ToList();
        var left = new Dictionary<(int, int), int>();
        for (var f = 0; f < rings.Count; f++)
        {
            for (var i = 0; i < rings[f].Length; i++)
                left[(rings[f][i], rings[f][(i + 1) % rings[f].Length])] = f;
        }

        var vertices = new List<(double, double, double)>();
        var known = new Dictionary<(int Corner, int Level), int>();
        int At(int corner, int level)
        {
            if (!known.TryGetValue((corner, level), out var v))
            {
                known[(corner, level)] = v = vertices.Count;
                vertices.Add((points[corner].X, points[corner].Y, level == 0 ? slabs[0].FromMm : slabs[level - 1].ToMm));
            }

            return v;
        }

        var triangles = new List<(int, int, int)>();
        for (var k = 0; k < slabs.Count; k++)
        {
            for (var f = 0; f < faces.Count; f++)
            {
                if (!filled[k][f])
                    continue;
                if (k == 0 || !filled[k - 1][f])
                    triangles.AddRange(caps[f].Select(t => (At(t.A, k), At(t.C, k), At(t.B, k))));
                if (k == slabs.Count - 1 || !filled[k + 1][f])
                    triangles.AddRange(caps[f].Select(t => (At(t.A, k + 1), At(t.B, k + 1), At(t.C, k + 1))));
                for (var i = 0; i < rings[f].Length; i++)
                {
                    var (a, b) = (rings[f][i], rings[f][(i + 1) % rings[f].Length]);
                    if (left.TryGetValue((b, a), out var other) && filled[k][other])
                        continue;
                    triangles.Add((At(a, k), At(b, k), At(b, k + 1)));
                    triangles.Add((At(a, k), At(b, k + 1), At(a, k + 1)));
                }
            }
        }

        return new(vertices, triangles);
    }

    private sealed record Slab(double FromMm, double ToMm, IReadOnlyList<Polygon> Regions);

    /// <summary>Layers of the same shape, taken together.</summary>
    private static List<Slab> Slabs(Piece piece, double width)
    {
        var drawn = new Dictionary<SingleWall, Polygon[]>(ReferenceEqualityComparer.Instance);
        var slabs = new List<Slab>();
        IEnumerable<object>? before = null;
        foreach (var layer in piece.Layers)
        {
            var what = layer.Islands.Cast<object>().Concat(layer.Walls).ToList();
            if (before is not null && what.SequenceEqual(before, ReferenceEqualityComparer.Instance))
            {
                slabs[^1] = slabs[^1] with { ToMm = layer.TopMm };
                continue;
            }

            foreach (var wall in layer.Walls.Where(w => !drawn.ContainsKey(w)))
                drawn[wall] = [.. Plane.Polygons(Plane.Drawn(wall.Centre, width))];
            slabs.Add(
                new(Math.Round(layer.TopMm - layer.HeightMm, 6), layer.TopMm, [.. layer.Islands.Select(i => i.Shape), .. layer.Walls.SelectMany(w => drawn[w])])
            );
            before = what;
        }

        return slabs;
    }

    /// <summary>The plane divided by all outlines, on the grid; faces with holes are cut through them until none has any.</summary>
    private static List<Polygon> Faces(List<Polygon> regions)
    {
        var snapped = new GeometryFactory(new PrecisionModel(Plane.Grid));
        var lines = regions.SelectMany(r => r.InteriorRings.Append(r.ExteriorRing)).Select(r => (Geometry)snapped.CreateLineString(r.Coordinates)).ToList();
        var extent = new Envelope();
        regions.ForEach(r => extent.ExpandToInclude(r.EnvelopeInternal));
        for (var round = 0; round < 20; round++)
        {
            var noded = NetTopologySuite.Operation.OverlayNG.UnaryUnionNG.Union(snapped.BuildGeometry(lines), snapped.PrecisionModel);
            var polygonizer = new Polygonizer();
            polygonizer.Add(noded);
            var faces = polygonizer.GetPolygons().Cast<Polygon>().ToList();
            var holes = faces.SelectMany(f => f.InteriorRings).Select(h => Math.Round((h.EnvelopeInternal.MinX + h.EnvelopeInternal.MaxX) / 2, 3)).Distinct()
                .ToList();
            if (holes.Count == 0)
            {
                foreach (var f in faces)
                    f.Normalize();
                return [.. faces.Select(f => NetTopologySuite.Algorithm.Orientation.IsCCW(f.ExteriorRing.CoordinateSequence) ? f : (Polygon)f.Reverse())];
            }

            lines.AddRange(holes.Select(x => snapped.CreateLineString([new(x, extent.MinY), new(x, extent.MaxY)])));
        }

        throw new InvalidOperationException("The outlines of this piece can't be divided into faces without holes.");
    }

    private static int Index(Dictionary<Coordinate, int> corners, Coordinate c)
    {
        if (!corners.TryGetValue(c, out var i))
            corners[c] = i = corners.Count;
        return i;
    }

    /// <summary>
    /// Ears are cut off one by one; corners on a straight edge are kept, so that neighbours agree on every point of their border.
    /// </summary>
    private static List<(int A, int B, int C)> Triangulate(int[] ring, List<Coordinate> points)
    {
        var rest = ring.ToList();
        var made = new List<(int, int, int)>(ring.Length);
        double Cross(int a, int b, int c) =>
            (points[b].X - points[a].X) * (points[c].Y - points[a].Y) - (points[b].Y - points[a].Y) * (points[c].X - points[a].X);
        while (rest.Count > 3)
        {
            var best = -1;
            var bestShape = 0.0;
            for (var i = 0; i < rest.Count; i++)
            {
                var (a, b, c) = (rest[(i + rest.Count - 1) % rest.Count], rest[i], rest[(i + 1) % rest.Count]);
                var cross = Cross(a, b, c);
                if (cross <= 1e-9)
                    continue;
                var blocked = rest.Any(p => p != a && p != b && p != c && Cross(a, b, p) >= -1e-12 && Cross(b, c, p) >= -1e-12 && Cross(c, a, p) >= -1e-12);
                // The fattest ear first: thin ones leave a rest on one line.
                var shape = cross / (1e-12 + Math.Max(points[a].Distance(points[c]), Math.Max(points[a].Distance(points[b]), points[b].Distance(points[c]))));
                if (!blocked && shape > bestShape)
                    (best, bestShape) = (i, shape);
            }

            if (best < 0)
                best = 0;
            made.Add((rest[(best + rest.Count - 1) % rest.Count], rest[best], rest[(best + 1) % rest.Count]));
            rest.RemoveAt(best);
        }

        made.Add((rest[0], rest[1], rest[2]));
        return made;
    }
}
