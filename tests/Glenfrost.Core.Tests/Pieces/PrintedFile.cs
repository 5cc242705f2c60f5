using System.Globalization;
using System.Text.RegularExpressions;

namespace Glenfrost.Core.Tests.Pieces;

/// <summary>One step as a printer would take it.</summary>
public sealed record Step(
    int Line, string Feature, int Piece, int Layer, double X0, double Y0, double Z0, double X, double Y, double Z, double Fed, double MmPerMin, double SetC,
    bool Ours)
{
    public double Length => Math.Sqrt(Math.Pow(X - X0, 2) + Math.Pow(Y - Y0, 2));

    public bool Moves => Length > 1e-9;
}

/// <summary>
/// Reads a written file as a printer does, with nothing from the code that wrote it: words by a regular expression, positions,
/// fed filament in either mode, temperatures, fan. Comments are only used to name layers and features.
/// </summary>
public sealed partial class PrintedFile
{
    public List<Step> Steps { get; } = [];

    public List<(int Line, string Command, double? Value, double Z)> Heat { get; } = [];

    public List<string> Unknown { get; } = [];

    public string[] Lines { get; }

    public PrintedFile(string text)
    {
        Lines = text.Split('\n');
        var (x, y, z, f, set, e) = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0);
        var (relative, feature, layer, ours, piece) = (false, "", 0, false, 0);
        for (var n = 0; n < Lines.Length; n++)
        {
            var line = Lines[n];
            if (line.StartsWith(';'))
            {
                var comment = line[1..].Trim();
                if (comment.StartsWith("print begins", StringComparison.Ordinal))
                    ours = true;
                else if (comment.StartsWith("print ends", StringComparison.Ordinal))
                    ours = false;
                else if (Regex.Match(comment, @"^layer (\d+),") is { Success: true } m)
                    layer = int.Parse(m.Groups[1].Value, CultureInfo.InvariantCulture);
                else if (Regex.Match(comment, @"^piece (\d+) of") is { Success: true } p)
                    piece = int.Parse(p.Groups[1].Value, CultureInfo.InvariantCulture) - 1;
                else if (ours)
                    feature = comment;
                continue;
            }

            var words = Word().Matches(line.Split(';')[0])
                .ToDictionary(w => w.Groups[1].Value[0], w => double.Parse(w.Groups[2].Value, CultureInfo.InvariantCulture));
            var code = line.Split(';')[0].Trim().Split(' ')[0];
            switch (code)
            {
                case "G0" or "G1":
                    f = words.GetValueOrDefault('F', f);
                    var (nx, ny, nz) = (words.GetValueOrDefault('X', x), words.GetValueOrDefault('Y', y), words.GetValueOrDefault('Z', z));
                    var fed = words.TryGetValue('E', out var w) ? relative ? w : w - e : 0;
                    e = relative ? e : words.GetValueOrDefault('E', e);
                    Steps.Add(new(n + 1, feature, piece, layer, x, y, z, nx, ny, nz, fed, f, set, ours));
                    (x, y, z) = (nx, ny, nz);
                    break;
                case "G92":
                    e = words.GetValueOrDefault('E', e);
                    break;
                case "M82" or "M83":
                    relative = code == "M83";
                    break;
                case "M104" or "M109" or "M140" or "M190":
                    var value = words.TryGetValue('S', out var v) ? v : words.GetValueOrDefault('R');
                    if (code is "M104" or "M109")
                        set = value;
                    Heat.Add((n + 1, code, value, z));
                    break;
                case "G21"
                or "G90"
                or "G28"
                or "M106"
                or "M107"
                or "M204"
                or "M900"
                or "M572"
                or "M84"
                or "G4"
                or ""
                or "T0"
                or "T1"
                or "SET_PRESSURE_ADVANCE"
                or "SET_VELOCITY_LIMIT"
                or "M141":
                    break;
                default:
                    Unknown.Add(line);
                    break;
            }
        }
    }

    /// <summary>Moves of the print itself, start and end code left out.</summary>
    public IEnumerable<Step> Print => Steps.Where(s => s.Ours);

    /// <summary>Filament laid in a layer of a piece, mm, without skirt and brim.</summary>
    public double Laid(int piece, int layer) =>
        Print.Where(s => s.Piece == piece && s.Layer == layer && s is { Moves: true, Fed: > 0 } && s.Feature is not ("skirt" or "brim" or "prime line"))
            .Sum(s => s.Fed);

    [GeneratedRegex(@"([A-Z])(-?\d*\.?\d+)")]
    private static partial Regex Word();
}
