using System.Buffers.Binary;
using System.Globalization;
using System.IO.Compression;
using System.Text;

namespace Glenfrost.Core.TestPieces.Meshes;

/// <summary>A mesh where it stands.</summary>
/// <param name="Name">Name of the object.</param>
/// <param name="Mesh">Its surface.</param>
/// <param name="X">Shift, mm.</param>
/// <param name="Y">Shift, mm.</param>
public sealed record PlacedMesh(string Name, Mesh Mesh, double X, double Y);

/// <summary>Writes meshes as binary STL and as 3MF, both in mm.</summary>
public static class MeshFiles
{
    /// <summary>Binary STL: 80 bytes of text, the number of triangles, then 50 bytes each: normal and corners as 32-bit floats, little-endian.</summary>
    public static void WriteStl(IReadOnlyList<PlacedMesh> meshes, Stream to)
    {
        Span<byte> head = stackalloc byte[84];
        head.Clear();
        Encoding.ASCII.GetBytes("Glenfrost test piece, mm", head);
        BinaryPrimitives.WriteInt32LittleEndian(head[80..], meshes.Sum(m => m.Mesh.Triangles.Count));
        to.Write(head);
        Span<byte> one = stackalloc byte[50];
        foreach (var m in meshes)
        {
            foreach (var t in m.Mesh.Triangles)
            {
                var (a, b, c) = (m.Mesh.Vertices[t.A], m.Mesh.Vertices[t.B], m.Mesh.Vertices[t.C]);
                var (ux, uy, uz, vx, vy, vz) = (b.X - a.X, b.Y - a.Y, b.Z - a.Z, c.X - a.X, c.Y - a.Y, c.Z - a.Z);
                var (nx, ny, nz) = (uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx);
                var length = Math.Max(1e-12, Math.Sqrt(nx * nx + ny * ny + nz * nz));
                one.Clear();
                Put(one, 0, nx / length, ny / length, nz / length);
                Put(one, 12, a.X + m.X, a.Y + m.Y, a.Z);
                Put(one, 24, b.X + m.X, b.Y + m.Y, b.Z);
                Put(one, 36, c.X + m.X, c.Y + m.Y, c.Z);
                to.Write(one);
            }
        }
    }

    /// <summary>3MF, core specification: a package with one model; each mesh is an object of its own, placed by its item.</summary>
    public static void WriteThreeMf(IReadOnlyList<PlacedMesh> meshes, string title, DateTime at, Stream to)
    {
        using var zip = new ZipArchive(to, ZipArchiveMode.Create, true);
        void Part(string name, Action<TextWriter> write)
        {
            var entry = zip.CreateEntry(name, CompressionLevel.Fastest);
            // Zip knows no day before 1980.
            entry.LastWriteTime = new DateTimeOffset(at.Year < 1980 ? new DateTime(1980, 1, 1) : at, TimeSpan.Zero);
            using var writer = new StreamWriter(entry.Open(), new UTF8Encoding(false), 1 << 16);
            write(writer);
        }

        Part("[Content_Types].xml", w =>
            w.Write(
                """<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>"""
            )
        );
        Part("_rels/.rels", w =>
            w.Write(
                """<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>"""
            )
        );
        Part("3D/3dmodel.model", w =>
        {
            w.Write(
                """<?xml version="1.0" encoding="UTF-8"?><model unit="millimeter" xml:lang="en" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">"""
            );
            w.Write($"<metadata name=\"Title\">{Xml(title)}</metadata><metadata name=\"Application\">Glenfrost</metadata><resources>");
            for (var i = 0; i < meshes.Count; i++)
            {
                w.Write($"<object id=\"{i + 1}\" type=\"model\" name=\"{Xml(meshes[i].Name)}\"><mesh><vertices>");
                foreach (var (x, y, z) in meshes[i].Mesh.Vertices)
                    w.Write(string.Create(CultureInfo.InvariantCulture, $"<vertex x=\"{x:0.####}\" y=\"{y:0.####}\" z=\"{z:0.####}\"/>"));
                w.Write("</vertices><triangles>");
                foreach (var (a, b, c) in meshes[i].Mesh.Triangles)
                    w.Write(string.Create(CultureInfo.InvariantCulture, $"<triangle v1=\"{a}\" v2=\"{b}\" v3=\"{c}\"/>"));
                w.Write("</triangles></mesh></object>");
            }

            w.Write("</resources><build>");
            for (var i = 0; i < meshes.Count; i++)
                w.Write(
                    string.Create(
                        CultureInfo.InvariantCulture,
                        $"<item objectid=\"{i + 1}\" transform=\"1 0 0 0 1 0 0 0 1 {meshes[i].X:0.####} {meshes[i].Y:0.####} 0\"/>"));
            w.Write("</build></model>");
        });
    }

    private static string Xml(string text) => System.Security.SecurityElement.Escape(new string([.. text.Where(c => !char.IsControl(c))]));

    private static void Put(Span<byte> at, int from, double x, double y, double z)
    {
        BinaryPrimitives.WriteSingleLittleEndian(at[from..], (float)x);
        BinaryPrimitives.WriteSingleLittleEndian(at[(from + 4)..], (float)y);
        BinaryPrimitives.WriteSingleLittleEndian(at[(from + 8)..], (float)z);
    }
}
