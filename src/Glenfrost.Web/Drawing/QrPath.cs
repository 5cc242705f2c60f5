using System.Text;
using QRCoder;

namespace Glenfrost.Web.Drawing;

/// <summary>A QR code as an SVG path, one unit a module.</summary>
/// <param name="Path">The dark modules.</param>
/// <param name="Side">Modules a side, quiet zone included.</param>
public sealed record QrPath(string Path, int Side)
{
    /// <summary>The code of an address, readable with 15 % of it damaged (level M).</summary>
    public static QrPath Of(string address)
    {
        using var generator = new QRCodeGenerator();
        using var code = generator.CreateQrCode(address, QRCodeGenerator.ECCLevel.M);
        var path = new StringBuilder();
        for (var y = 0; y < code.ModuleMatrix.Count; y++)
        {
            for (var x = 0; x < code.ModuleMatrix[y].Length; x++)
            {
                if (code.ModuleMatrix[y][x])
                    path.Append($"M{x} {y}h1v1h-1z");
            }
        }

        return new(path.ToString(), code.ModuleMatrix.Count);
    }
}
